package expr

import (
	"fmt"
	"maps"
	"slices"

	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/traits"

	"plainpath/core/model"
	"plainpath/core/value"
)

// totalSignatures are those of a function that makes one value of many.
func totalSignatures(of ...*types.Type) []signature {
	var out []signature
	for _, t := range of {
		out = append(out, gives(t, types.NewListType(t)))
	}
	return out
}

// total is a function that makes one value of many. It skips empty values, and is empty when
// there is none; where one has failed, so has the total.
func total(t told, signatures []signature) function {
	return function{told: t, overRecords: true, signatures: signatures,
		ofList: func(l traits.Lister) (value.Value, error) { return totalOf(t.name, l) }}
}

// extreme is the least or the greatest of a list, or of two or three values, whichever of them there are.
func extreme(t told, better func(order int) bool) function {
	out := total(t, totalSignatures(whole, decimalType, moneyType, dateType, instant))
	for _, t := range []*types.Type{whole, decimalType, dateType, instant} {
		out.signatures = append(out.signatures, gives(t, t, t), gives(t, t, t, t))
	}
	out.signatures = append(out.signatures, numeric(decimalType)...)
	out.lenient = true
	out.compute = func(a []value.Value) (value.Value, error) {
		var best value.Value
		decimals := false
		for _, v := range a {
			_, is := v.(value.Decimal)
			decimals = decimals || is
			if why, failed := v.(value.Failure); failed {
				return why, nil
			}
			if order, ok := value.Compare(v, best); v != nil && (best == nil || ok && better(order)) {
				best = v
			}
		}
		if n, whole := best.(value.Whole); whole && decimals {
			return value.FromWhole(int64(n)), nil
		}
		return best, nil
	}
	return out
}

func totalOf(function string, l traits.Lister) (value.Value, error) {
	var out value.Value
	n := int64(0)
	currencies := map[string]bool{}
	for it := l.Iterator(); it.HasNext() == types.True; {
		v, err := fromCEL(it.Next())
		if err != nil {
			return nil, err
		}
		if v == nil {
			continue
		}
		n++
		if why, failed := v.(value.Failure); failed {
			return why, nil
		}
		if m, ok := v.(value.Money); ok {
			if currencies[m.Currency] = true; len(currencies) > 1 {
				continue // all are looked at, so that it is said in the same words whatever the order
			}
		}
		switch {
		case out == nil:
			out = v
		case function == "sum" || function == "average":
			if out, err = value.Arith("+", out, v); err != nil {
				return nil, err
			}
		default:
			order, ok := value.Compare(v, out)
			if !ok {
				return nil, fmt.Errorf("%s and %s cannot be put in order", value.Display(v), value.Display(out))
			}
			if function == "least" && order < 0 || function == "greatest" && order > 0 {
				out = v
			}
		}
	}
	if len(currencies) > 1 {
		return value.CannotAdd(slices.Sorted(maps.Keys(currencies))), nil
	}
	if function != "average" || out == nil {
		return out, nil
	}
	return value.Arith("/", out, value.Whole(n))
}

// RelatedList is a list of the records that point at a record.
type RelatedList struct {
	Name  Name
	Refer model.Referrer
}

// RelatedLists are the lists of records that point at those of an object: "all_visit", or
// "all_visit_by_engineer" where an object points here by several fields.
func RelatedLists(m *model.Model, object string) []RelatedList {
	referrers := m.ReferrersTo(object)
	times := map[string]int{}
	for _, r := range referrers {
		times[r.Object.Key]++
	}
	var out []RelatedList
	for _, r := range referrers {
		n := Name{Key: "all_" + r.Object.Key, Label: r.Object.Plural, Type: Type{Kind: value.KindList,
			Object: r.Object.Key}}
		n.parts = []model.Mention{{Start: len("all_"), End: len(n.Key), Of: model.Referent{Object: r.Object.Key}}}
		if times[r.Object.Key] > 1 {
			by := len(n.Key) + len("_by_")
			n.Key += "_by_" + r.Field.Key
			n.parts = append(n.parts, model.Mention{Start: by, End: len(n.Key),
				Of: model.Referent{Object: r.Object.Key, Field: r.Field.Key}})
		}
		out = append(out, RelatedList{n, r})
	}
	return out
}
