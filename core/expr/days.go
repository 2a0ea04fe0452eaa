package expr

import (
	"time"

	"plainpath/core/value"
)

var dayFunctions = []function{
	{told: tell(`date("2026-12-24")`, "A day.", "Of fields "+onScreens),
		here: everyKind, signatures: []signature{gives(dateType, str)},
		compute: func(a []value.Value) (value.Value, error) {
			d, err := value.ParseDate(string(a[0].(value.Text)))
			if err != nil {
				return nil, value.Failure{Why: err.Error()}
			}
			return d, nil
		}},
	{told: tell("dateOf(x)", "The day of a point in time, where the house is: year(dateOf(x)) is its year."),
		signatures: []signature{gives(dateType, instant)},
		inHouse: func(a []value.Value, h house) (value.Value, error) {
			d := value.DateOf(a[0].(value.Instant).In(h.zone))
			if d.Year < 1 || d.Year > 9999 {
				return nil, value.Failure{Why: value.BeyondCalendar}
			}
			return d, nil
		}},
	{told: tell("hour(x)", "The hour of a point in time, from 0 to 23, where the house is."),
		signatures: []signature{gives(whole, instant)},
		inHouse: func(a []value.Value, h house) (value.Value, error) {
			return value.Whole(a[0].(value.Instant).In(h.zone).Hour()), nil
		}},
	{told: tell("minutesBetween(x, y)", "How many whole minutes go by from one point in time to another."),
		signatures: []signature{gives(whole, instant, instant)},
		compute: func(a []value.Value) (value.Value, error) {
			from, to := a[0].(value.Instant), a[1].(value.Instant) // too far apart for a time.Duration, perhaps
			return value.Whole((to.UnixMicro() - from.UnixMicro()) / time.Minute.Microseconds()), nil
		}},
	{told: tell("add_minutes(x, n)", "A time n minutes later."), signatures: []signature{gives(instant, instant,
		whole)},
		compute: func(a []value.Value) (value.Value, error) {
			moved, err := a[0].(value.Instant).Minutes(int64(a[1].(value.Whole)))
			if err != nil {
				return nil, err
			}
			return moved, nil
		}},
}
