package table

import (
	"context"
	"slices"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// ChartedView is a list in groups, as it is drawn.
type ChartedView struct {
	GroupsView
	// Keys are those that the groups stand at, in order; at some there may be none: a month without records, or, where
	// that is asked for, a choice that no record has.
	Keys []any `json:"keys"`
}

// mostFilled is how many keys a chart has at most when those without records are put in.
const mostFilled = 400

// Charted makes the groups of the list as a look has them, and says where they stand.
func (l *Listing) Charted(ctx context.Context, r records.Reader, look Look) (ChartedView, error) {
	var out ChartedView
	v, found, err := l.grouped(ctx, r, look, &out.GroupsView)
	if err != nil || len(v.by) == 0 {
		return out, err
	}
	keys := []value.Value{}
	for _, g := range found {
		if last := len(keys) - 1; last < 0 || !value.Same(keys[last], g.Keys[0]) {
			keys = append(keys, g.Keys[0])
		}
	}
	out.Keys = []any{}
	for _, key := range filled(keys, v.by[0], look.Group.Empty) {
		out.Keys = append(out.Keys, value.Wire(key))
	}
	return out, nil
}

// filled are keys in their order, with those between them that no record has.
func filled(keys []value.Value, by query.Grouping, empty bool) []value.Value {
	var all []value.Value
	f := by.Path.Last()
	switch {
	case f.Type == model.Choice && !empty:
		return keys
	case f.Type == model.Choice:
		for _, c := range f.Choices {
			if key := value.Text(c.Key); !c.Retired || slices.Contains(keys, value.Value(key)) {
				all = append(all, key)
			}
		}
	default:
		all = days(keys, by.Span, f.Kind() == value.KindDate)
	}
	if len(all) < len(keys)-1 || len(all) > mostFilled {
		return keys
	}
	if by.Desc {
		slices.Reverse(all)
	}
	for _, key := range keys { // those without a value, or whose value failed
		if !slices.ContainsFunc(all, func(v value.Value) bool { return value.Same(v, key) }) {
			all = append(all, key)
		}
	}
	return all
}

// days are the periods from the first among keys to the last, none where there would be too many.
func days(keys []value.Value, span query.Span, dated bool) []value.Value {
	var first, last value.Date
	for _, key := range keys {
		if day, ok := key.(value.Date); ok {
			if first == (value.Date{}) || day.Compare(first) < 0 {
				first = day
			}
			if day.Compare(last) > 0 {
				last = day
			}
		}
	}
	if first == (value.Date{}) || span == query.EachValue && !dated {
		return nil
	}
	var out []value.Value
	for day := first; day.Compare(last) <= 0 && len(out) <= mostFilled; day = span.Next(day) {
		out = append(out, day)
	}
	return out
}
