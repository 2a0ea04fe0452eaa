// Package judge answers predicates in Go, for tests to hold the database against.
package judge

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// Related reads the records of an object whose reference field points at id.
type Related interface {
	Related(object, field string, id int64) ([]*value.Record, error)
}

// Holds says whether a predicate is true of a record, which must hold the fields asked about. Related
// may be nil where nothing is asked about other records.
func Holds(p predicate.Predicate, r Related, record *value.Record) (bool, error) {
	switch p := p.(type) {
	case predicate.All:
		for _, member := range p {
			if ok, err := Holds(member, r, record); !ok || err != nil {
				return false, err
			}
		}
		return true, nil
	case predicate.Any:
		for _, member := range p {
			if ok, err := Holds(member, r, record); ok || err != nil {
				return ok, err
			}
		}
		return false, nil
	case predicate.Not:
		ok, err := Holds(p.Of, r, record)
		return !ok && err == nil, err
	case predicate.Test:
		return test(p, record)
	case predicate.HasRelated:
		return related(p, r, record)
	case predicate.Refers:
		return refers(p, r, record)
	case predicate.Formula:
		return formula(p, record)
	case predicate.Keys:
		return slices.Contains(p, record.ID), nil
	case predicate.Same:
		return value.Same(predicate.Follow(record, p.Path), p.Value), nil
	case predicate.InCurrency:
		m, ok := predicate.Follow(record, p.Path).(value.Money)
		return ok && m.Currency == p.Currency, nil
	}
	return false, fmt.Errorf("%T is no predicate", p)
}

func test(t predicate.Test, record *value.Record) (bool, error) {
	v := predicate.Follow(record, t.Path)
	switch t.Op {
	case predicate.Is:
		return value.Equal(v, t.Value), nil
	case predicate.IsNot:
		return !value.Equal(v, t.Value), nil
	case predicate.IsEmpty:
		return v == nil, nil
	case predicate.IsNotEmpty:
		return v != nil, nil
	case predicate.Includes:
		return has(v, t.Value), nil
	case predicate.IncludesNot:
		return !has(v, t.Value), nil
	case predicate.OneOf:
		return slices.ContainsFunc(t.Values, func(x value.Value) bool { return value.Equal(v, x) || has(v, x) }), nil
	case predicate.Contains, predicate.StartsWith:
		text, ok := v.(value.Text)
		part, _ := t.Value.(value.Text)
		in, found := t.Path.Last().Found(string(text)), t.Path.Last().Found(string(part))
		return ok && (t.Op == predicate.Contains && strings.Contains(in, found) || t.Op == predicate.StartsWith &&
			strings.HasPrefix(in, found)), nil
	case predicate.Between:
		from, ok := value.Compare(v, t.Value)
		to, okTo := value.Compare(v, t.To)
		return ok && okTo && from >= 0 && to <= 0, nil
	}
	order, ok := value.Compare(v, t.Value)
	if !ok {
		return false, nil
	}
	switch t.Op {
	case predicate.More:
		return order > 0, nil
	case predicate.MoreOrEqual:
		return order >= 0, nil
	case predicate.Less:
		return order < 0, nil
	case predicate.LessOrEqual:
		return order <= 0, nil
	}
	return false, fmt.Errorf("%q is not an operator", t.Op)
}

// has says whether a choice is one of several.
func has(v, choice value.Value) bool {
	several, ok := v.(value.Several)
	return ok && several.Has(value.Display(choice))
}

func related(p predicate.HasRelated, r Related, record *value.Record) (bool, error) {
	found, err := r.Related(p.Object, p.Via.Key, record.ID)
	if err != nil {
		return false, fmt.Errorf("reading %s of record %d: %w", p.Object, record.ID, err)
	}
	for _, x := range found {
		if ok, err := Holds(p.Where, r, x); ok || err != nil {
			return ok && !p.None, err
		}
	}
	return p.None, nil
}

func refers(p predicate.Refers, r Related, record *value.Record) (bool, error) {
	to, ok := record.Get(p.Via.Key).(*value.Record)
	if !ok || to == nil {
		return false, nil
	}
	for _, asked := range []predicate.Predicate{p.Where, p.Filter} {
		if asked == nil {
			continue
		}
		if ok, err := Holds(asked, r, to); !ok || err != nil {
			return false, err
		}
	}
	return true, nil
}

func formula(f predicate.Formula, record *value.Record) (bool, error) {
	values := maps.Clone(f.Values)
	if values == nil {
		values = expr.Values{}
	}
	values["record"] = record
	if f.Bare {
		maps.Copy(values, record.Fields)
	}
	return f.Program.True(values)
}
