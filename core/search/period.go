package search

import (
	"fmt"
	"time"

	"plainpath/core/predicate"
	"plainpath/core/value"
)

// A period is the days from its first one up to the first one of the next. Where a day begins
// in a zone is said by value.Date.In, and by PostgreSQL's AT TIME ZONE in the same way.

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

// periodSQL writes the first day of the period that a point in time is in. Where clocks change
// around midnight the day that a clock shows is not always the one that the bounds say, so it
// is held against them.
func (g Grouping) periodSQL(sql, zone string) string {
	shown := fmt.Sprintf("date_trunc('%s', %s AT TIME ZONE %s)", g.Span, sql, zone)
	if !changesAtMidnight(g.Zone) {
		return shown + "::date"
	}
	step := fmt.Sprintf("interval '1 %s'", g.Span)
	return fmt.Sprintf("(CASE WHEN %[1]s < (%[2]s AT TIME ZONE %[3]s) THEN %[2]s - %[4]s WHEN %[1]s >= ((%[2]s + %[4]s) AT TIME ZONE %[3]s) THEN %[2]s + %[4]s ELSE %[2]s END)::date",
		sql, shown, zone, step)
}

// changesAtMidnight says whether a clock of a zone ever skips or repeats a midnight.
func changesAtMidnight(zone *time.Location) bool {
	if zone == nil {
		return false
	}
	at := time.Date(1900, 1, 1, 0, 0, 0, 0, zone)
	for at.Year() < 2100 {
		_, change := at.ZoneBounds()
		if change.IsZero() {
			return false
		}
		if !change.After(at) { // at some ends of years the bounds end where they are asked for
			at = at.AddDate(0, 0, 1)
			continue
		}
		_, before := change.Add(-time.Second).Zone()
		_, after := change.Zone()
		was := change.UTC().Add(time.Duration(before) * time.Second)
		is := change.UTC().Add(time.Duration(after) * time.Second)
		if value.DateOf(was) != value.DateOf(is) || was.Hour() == 0 || is.Hour() == 0 {
			return true
		}
		at = change
	}
	return false
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
