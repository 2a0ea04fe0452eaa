package expr

import (
	"slices"
	"strings"
	"unicode/utf8"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/traits"

	"plainpath/core/value"
)

// placeInList is list[n], counted from nought, empty where there is none.
const loopIndex = "@at"

var listFunctions = []function{
	{told: told{name: loopIndex}, here: everyKind, signatures: []signature{gives(anything, list, whole)},
		compute: func(a []value.Value) (value.Value, error) {
			n := int64(a[1].(value.Whole))
			switch l := a[0].(type) {
			case *value.List:
				records, err := l.Source.All()
				if n < 0 || n >= int64(len(records)) {
					return nil, reading(err)
				}
				return records[n], nil
			case value.Several:
				if keys := l.Keys(); n >= 0 && n < int64(len(keys)) {
					return value.Text(keys[n]), nil
				}
			}
			return nil, nil
		}},
	{told: tell("size(x)", "How many records or choices there are, or letters in a text."), member: true,
		overRecords: true, signatures: []signature{gives(whole, str), gives(whole, list)},
		compute: func(a []value.Value) (value.Value, error) {
			if set, ok := a[0].(value.Several); ok {
				return value.Whole(len(set.Keys())), nil
			}
			return value.Whole(utf8.RuneCountInString(string(a[0].(value.Text)))), nil
		},
		ofList: func(l traits.Lister) (value.Value, error) { return fromCEL(l.Size()) }},
	{told: tell("first(records)", "The first record of a list.", "For use "+onScreens), member: true,
		here: everyKind, signatures: []signature{gives(anything, list)},
		ofList: func(l traits.Lister) (value.Value, error) {
			if records, ok := l.(recordList); ok { // no other record is read
				r, err := records.Source.First()
				if r == nil || err != nil {
					return nil, reading(err)
				}
				return r, nil
			}
			it := l.Iterator()
			if it.HasNext() != types.True {
				return nil, nil
			}
			return fromCEL(it.Next())
		}},
	total(tell("sum(records.map(x, x.price))", "The sum of what is taken from each record."), totalSignatures(whole,
		decimalType, moneyType)),
	extreme(tell("least(records.map(x, x.day))",
		"The least of what is taken from each record, or of two or three values: least(x, y)."),
		func(order int) bool { return order < 0 }),
	extreme(tell("greatest(records.map(x, x.day))",
		"The greatest of what is taken from each record, or of two or three values: greatest(x, y)."),
		func(order int) bool { return order > 0 }),
	{told: tell("take(records, 3)", "The first records or choices of a list, so many.", "For use "+onScreens),
		member: true, here: everyKind, signatures: []signature{gives(list, list, whole)},
		compute: func(a []value.Value) (value.Value, error) {
			n := clamped(a[1], 0, mostElements)
			switch l := a[0].(type) {
			case *value.List:
				all, err := l.Source.All()
				return &value.List{Object: l.Object, Source: value.Records(all[:min(n, len(all))])}, reading(err)
			case value.Several:
				keys := l.Keys()
				return value.NewSeveral(keys[:min(n, len(keys))]...), nil
			}
			return nil, nil
		}},
	{told: tell("sorted(records)", "Records by what they are called, or texts, in order.", "For use "+onScreens),
		member: true, here: everyKind, signatures: []signature{gives(list, list)},
		compute: ofRecordsOrKeys(func(all []*value.Record) []*value.Record {
			return slices.SortedStableFunc(slices.Values(all), func(a, b *value.Record) int {
				return inOrder(a.Label, b.Label)
			})
		}, func(keys []string) []string { return slices.SortedFunc(slices.Values(keys), inOrder) })},
	{told: tell("distinct(records)", "The records of a list, each once.", "For use "+onScreens), member: true,
		here: everyKind, signatures: []signature{gives(list, list)},
		compute: ofRecordsOrKeys(func(all []*value.Record) []*value.Record {
			seen := map[int64]bool{}
			return slices.DeleteFunc(slices.Clone(all), func(r *value.Record) bool {
				again := seen[r.ID]
				seen[r.ID] = true
				return again
			})
		}, func(keys []string) []string { return keys })}, // choices are there once
	{told: tell("join(records.map(x, x.name))", "Texts one after another, each once, with commas between them.",
		"For use "+onScreens), member: true, here: everyKind, signatures: []signature{gives(str, several)},
		compute: func(a []value.Value) (value.Value, error) {
			return orEmpty(strings.Join(a[0].(value.Several).Keys(), ", "))
		},
		ofList: func(l traits.Lister) (value.Value, error) {
			var texts []string
			for it := l.Iterator(); it.HasNext() == types.True; {
				v, err := fromCEL(it.Next())
				if err != nil {
					return nil, err
				}
				if why, failed := v.(value.Failure); failed {
					return why, nil
				}
				if v != nil {
					texts = append(texts, value.Display(v))
				}
			}
			return orEmpty(strings.Join(texts, ", "))
		}},
	total(tell("average(records.map(x, x.price))", "The mean of what is taken from each record."),
		slices.Concat(totalSignatures(decimalType, moneyType),
			[]signature{gives(decimalType, types.NewListType(whole))})),
}

// ofRecordsOrKeys is a list with the same records, or choices, put otherwise.
func ofRecordsOrKeys(records func([]*value.Record) []*value.Record,
	keys func([]string) []string) func([]value.Value) (value.Value, error) {
	return func(a []value.Value) (value.Value, error) {
		switch l := a[0].(type) {
		case *value.List:
			all, err := l.Source.All()
			if err != nil {
				return nil, reading(err)
			}
			return &value.List{Object: l.Object, Source: value.Records(records(all))}, nil
		case value.Several:
			return value.NewSeveral(keys(l.Keys())...), nil
		}
		return nil, nil
	}
}

// inOrder compares texts as lists put them.
func inOrder(a, b string) int {
	by, _ := value.Compare(value.Text(a), value.Text(b))
	return by
}
