package postgres_test

import (
	"maps"
	"slices"
	"testing"
	"time"

	"github.com/shopspring/decimal"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/table"
	"plainpath/core/value"
)

// key is what a record is grouped under, as it travels.
func (w *world) key(t *testing.T, object string, g table.LookGroup, rec *value.Record) string {
	t.Helper()
	p := w.path(t, object, g.Path)
	v := predicate.Follow(rec, p)
	if r, ok := v.(*value.Record); ok && r != nil {
		label := "(no f0)"
		if text, ok := r.Get("f0").(value.Text); ok {
			label = string(text)
		}
		v = &value.Record{Object: r.Object, ID: r.ID, Label: label}
	}
	switch x := v.(type) {
	case value.Failure:
		return wire(value.Wire(v))
	case value.Several: // in whatever order they were given
		v = value.NewSeveral(slices.Sorted(slices.Values(x.Keys()))...)
	}
	if day, ok := v.(value.Instant); ok && g.Span != query.EachValue {
		v = value.DateOf(day.UTC())
	}
	if day, ok := v.(value.Date); ok && g.Span != query.EachValue {
		t := time.Date(day.Year, day.Month, day.Day, 0, 0, 0, 0, time.UTC)
		switch g.Span {
		case query.Week:
			for t.Weekday() != time.Monday {
				t = t.AddDate(0, 0, -1)
			}
		case query.Month, query.Quarter, query.Year:
			t = t.AddDate(0, 0, 1-t.Day())
			for g.Span == query.Year && t.Month() != time.January ||
				g.Span == query.Quarter && !slices.Contains([]time.Month{1, 4, 7, 10}, t.Month()) {
				t = t.AddDate(0, -1, 0)
			}
		}
		v = value.DateOf(t)
	}
	return wire(value.Wire(v))
}

// totals makes the totals of records, amounts by currency, as they travel.
func (w *world) totals(t *testing.T, look table.Look, object string, records []*value.Record) string {
	t.Helper()
	out := []table.FigureView{}
	for _, total := range look.Totals {
		p := w.path(t, object, total.Path)
		by, failed := map[string][]value.Value{}, ""
		for _, rec := range records {
			v := predicate.Follow(rec, p)
			if v == nil {
				continue
			}
			if why, ok := v.(value.Failure); ok {
				if failed == "" || why.Why < failed {
					failed = why.Why
				}
				continue
			}
			currency := ""
			if m, ok := v.(value.Money); ok {
				currency = m.Currency
			}
			by[currency] = append(by[currency], v)
		}
		kind := p.Last().Type
		if kind == model.WorkedOut {
			kind = p.Last().Result
		}
		if kind == model.Whole && (total.Of == query.Sum || total.Of == query.Average) {
			kind = model.Decimal
		}
		f := table.FigureView{Path: total.Path, Of: total.Of, Type: kind, Values: []any{}}
		if failed != "" && total.Of != query.Count {
			f.Values, by = []any{value.Failed{Failure: failed}}, nil
		}
		for _, currency := range slices.Sorted(maps.Keys(by)) {
			f.Values = append(f.Values, value.Wire(aggregated(total.Of, by[currency])))
		}
		out = append(out, f)
	}
	return wire(out)
}

func aggregated(of query.Aggregate, values []value.Value) value.Value {
	switch of {
	case query.Least:
		return slices.MinFunc(values, compareValues)
	case query.Greatest:
		return slices.MaxFunc(values, compareValues)
	}
	sum := decimal.Zero
	for _, v := range values {
		switch x := v.(type) {
		case value.Whole:
			sum = sum.Add(decimal.NewFromInt(int64(x)))
		case value.Decimal:
			sum = sum.Add(x.Decimal)
		case value.Money:
			sum = sum.Add(x.Amount)
		}
	}
	if of == query.Average {
		sum = sum.DivRound(decimal.NewFromInt(int64(len(values))), value.DivisionPlaces)
	}
	if m, ok := values[0].(value.Money); ok {
		return value.Money{Amount: sum, Currency: m.Currency}
	}
	return value.Decimal{Decimal: sum}
}

func compareValues(a, b value.Value) int {
	c, _ := value.Compare(a, b)
	return c
}
