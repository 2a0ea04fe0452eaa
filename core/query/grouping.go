package query

import (
	"fmt"
	"slices"
	"time"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// Span says how much of a date a group takes in.
type Span string

// The groups of a date: every value its own, or a day, a week from Monday, a month, a quarter or a year.
const (
	EachValue Span = ""
	Day       Span = "day"
	Week      Span = "week"
	Month     Span = "month"
	Quarter   Span = "quarter"
	Year      Span = "year"
)

// Spans are all there are.
var Spans = []Span{EachValue, Day, Week, Month, Quarter, Year}

// Grouping puts records together that have the same value in a field.
type Grouping struct {
	Path model.Path
	Span Span
	Desc bool
	// Zone is where days, months and years of points in time begin.
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
	case !slices.Contains(Spans, g.Span), g.Span != EachValue && !dated:
		return &LookError{fmt.Sprintf("%s cannot be grouped by %q.", f.Label, g.Span)}
	}
	return nil
}

// A period is the days from its first one up to the first one of the next. Where a day begins
// in a zone is said by value.Date.In, and by the database in the same way.

// Begins is the first day of the period that a day is in.
func (s Span) Begins(day value.Date) value.Date {
	switch s {
	case Week:
		t := time.Date(day.Year, day.Month, day.Day, 0, 0, 0, 0, time.UTC)
		return value.DateOf(t.AddDate(0, 0, -(int(t.Weekday())+6)%7))
	case Month:
		return value.Date{Year: day.Year, Month: day.Month, Day: 1}
	case Quarter:
		return value.Date{Year: day.Year, Month: day.Month - (day.Month-1)%3, Day: 1}
	case Year:
		return value.Date{Year: day.Year, Month: time.January, Day: 1}
	}
	return day
}

// Next is the first day of the next period.
func (s Span) Next(first value.Date) value.Date {
	t := time.Date(first.Year, first.Month, first.Day, 0, 0, 0, 0, time.UTC)
	switch s {
	case Week:
		return value.DateOf(t.AddDate(0, 0, 7))
	case Month:
		return value.DateOf(t.AddDate(0, 1, 0))
	case Quarter:
		return value.DateOf(t.AddDate(0, 3, 0))
	case Year:
		return value.DateOf(t.AddDate(1, 0, 0))
	}
	return value.DateOf(t.AddDate(0, 0, 1))
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
	first = g.Span.Begins(first)
	from := predicate.Test{Path: g.Path, Op: predicate.MoreOrEqual, Value: bound(first)}
	if first.Year == 9999 && g.Span.Next(first).Year > 9999 { // the last period there is
		return predicate.All{from}
	}
	return predicate.All{from, predicate.Test{Path: g.Path, Op: predicate.Less, Value: bound(g.Span.Next(first))}}
}
