package expr

import (
	"time"

	"plainpath/core/value"
)

var dayFunctions = []function{
	{name: "date", here: everyKind, signatures: []signature{gives(dateType, str)},
		compute: func(a []value.Value) (value.Value, error) {
			d, err := value.ParseDate(string(a[0].(value.Text)))
			if err != nil {
				return nil, value.Failure{Why: err.Error()}
			}
			return d, nil
		}},
	{name: "dateOf", signatures: []signature{gives(dateType, instant)},
		inHouse: func(a []value.Value, h house) (value.Value, error) {
			d := value.DateOf(a[0].(value.Instant).In(h.zone))
			if d.Year < 1 || d.Year > 9999 {
				return nil, value.Failure{Why: value.BeyondCalendar}
			}
			return d, nil
		}},
	{name: "hour", signatures: []signature{gives(whole, instant)},
		inHouse: func(a []value.Value, h house) (value.Value, error) {
			return value.Whole(a[0].(value.Instant).In(h.zone).Hour()), nil
		}},
	{name: "minutesBetween", signatures: []signature{gives(whole, instant, instant)},
		compute: func(a []value.Value) (value.Value, error) {
			from, to := a[0].(value.Instant), a[1].(value.Instant) // too far apart for a time.Duration, perhaps
			return value.Whole((to.UnixMicro() - from.UnixMicro()) / time.Minute.Microseconds()), nil
		}},
	{name: "add_minutes", signatures: []signature{gives(instant, instant, whole)},
		compute: func(a []value.Value) (value.Value, error) {
			moved, err := a[0].(value.Instant).Minutes(int64(a[1].(value.Whole)))
			if err != nil {
				return nil, err
			}
			return moved, nil
		}},
}
