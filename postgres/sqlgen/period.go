package sqlgen

import (
	"fmt"
	"time"

	"plainpath/core/query"
	"plainpath/core/value"
)

// period writes the first day of the period that a point in time is in. Where clocks change
// around midnight the day that a clock shows is not always the one that the bounds say, so it
// is held against them.
func period(g query.Grouping, sql, zone string) string {
	shown := fmt.Sprintf("date_trunc('%s', %s AT TIME ZONE %s)", g.Span, sql, zone)
	if !changesAtMidnight(g.Zone) {
		return shown + "::date"
	}
	step := fmt.Sprintf("interval '1 %s'", g.Span)
	if g.Span == query.Quarter { // the database has no such unit
		step = "interval '3 months'"
	}
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
