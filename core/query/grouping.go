package query

import (
	"fmt"
	"time"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// Span says how much of a date a group takes in.
type Span string

// The groups of a date: every day its own, or a month or a year.
const (
	EachValue Span = ""
	Month     Span = "month"
	Year      Span = "year"
)

// Grouping puts records together that have the same value in a field.
type Grouping struct {
	Path model.Path
	Span Span
	Desc bool
	// Zone is where months and years of points in time begin.
	Zone *time.Location
}

// MostGroups is how many groups are read at once.
const MostGroups = 1000

// CheckGrouping says why records cannot be grouped as asked.
func CheckGrouping(g Grouping) error {
	f := g.Path.Last()
	dated := f.Kind() == value.KindDate || f.Kind() == value.KindInstant
	switch {
	case f.HoldsFile() || f.Type == model.LongText:
		return &LookError{fmt.Sprintf("Records cannot be grouped by %s.", f.Label)}
	case g.Span != EachValue && g.Span != Month && g.Span != Year, g.Span != EachValue && !dated:
		return &LookError{fmt.Sprintf("%s cannot be grouped by %q.", f.Label, g.Span)}
	}
	return nil
}

// A period is the days from its first one up to the first one of the next. Where a day begins
// in a zone is said by value.Date.In, and by the database in the same way.

// begins is the first day of the period that a day is in.
func (s Span) begins(day value.Date) value.Date {
	if s == Year {
		return value.Date{Year: day.Year, Month: time.January, Day: 1}
	}
	return value.Date{Year: day.Year, Month: day.Month, Day: 1}
}

// next is the first day of the next period.
func (s Span) next(first value.Date) value.Date {
	t := time.Date(first.Year, first.Month, 1, 0, 0, 0, 0, time.UTC)
	if s == Year {
		return value.DateOf(t.AddDate(1, 0, 0))
	}
	return value.DateOf(t.AddDate(0, 1, 0))
}

// Within is the condition that a record is in the group with a key.
func (g Grouping) Within(key value.Value) predicate.Predicate {
	first, ok := key.(value.Date)
	if g.Span == EachValue || !ok {
		return predicate.Same{Path: g.Path, Value: key}
	}
	bound := func(day value.Date) value.Value {
		if g.Path.Last().Kind() == value.KindDate {
			return day
		}
		zone := g.Zone
		if zone == nil {
			zone = time.UTC
		}
		return value.NewInstant(day.In(zone))
	}
	first = g.Span.begins(first)
	from := predicate.Test{Path: g.Path, Op: predicate.MoreOrEqual, Value: bound(first)}
	if first.Year == 9999 && g.Span.next(first).Year > 9999 { // the last period there is
		return predicate.All{from}
	}
	return predicate.All{from, predicate.Test{Path: g.Path, Op: predicate.Less, Value: bound(g.Span.next(first))}}
}
