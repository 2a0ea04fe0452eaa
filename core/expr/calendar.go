package expr

import (
	"plainpath/core/value"
)

var calendarFunctions = []function{
	dayPart("year", func(d value.Date) int64 { return int64(d.Year) }),
	dayPart("month", func(d value.Date) int64 { return int64(d.Month) }),
	dayPart("day", func(d value.Date) int64 { return int64(d.Day) }),
	dayPart("quarter", func(d value.Date) int64 { return (int64(d.Month) + 2) / 3 }),
	dayPart("week", value.Date.Week),
	dayPart("weekday", value.Date.Weekday),

	otherDay("firstOfWeek", func(d value.Date) (value.Date, error) { return d.AddDays(1 - d.Weekday()) }),
	lastOfWeek,
	otherDay("firstOfMonth", func(d value.Date) (value.Date, error) { return d.FirstOfMonth(), nil }),
	otherDay("lastOfMonth", func(d value.Date) (value.Date, error) { return d.LastOfMonth(), nil }),
	otherDay("firstOfYear", func(d value.Date) (value.Date, error) {
		return value.Date{Year: d.Year, Month: 1, Day: 1},
			nil
	}),
	otherDay("lastOfYear", func(d value.Date) (value.Date, error) {
		return value.Date{Year: d.Year, Month: 12, Day: 31},
			nil
	}),

	moved("addDays", value.Date.AddDays),
	moved("addMonths", value.Date.AddMonths),
	moved("addYears", func(d value.Date, n int64) (value.Date, error) {
		if n > 10_000 || n < -10_000 {
			return d, value.Failure{Why: value.BeyondCalendar}
		}
		return d.AddMonths(n * 12)
	}),
	moved("addWorkingDays", value.Date.AddWorkingDays),

	between("daysBetween", func(a, b value.Date) int64 { return b.DaysSince(a) }),
	between("monthsBetween", func(a, b value.Date) int64 { return b.MonthsSince(a) }),
	between("yearsBetween", func(a, b value.Date) int64 { return b.MonthsSince(a) / 12 }),
	between("workingDaysBetween", func(a, b value.Date) int64 { return b.WorkingDaysSince(a) }),

	dayWords("weekdayName", func(d value.Date) string { return value.Weekdays[d.Weekday()-1] }),
	dayWords("monthName", func(d value.Date) string { return value.Months[d.Month-1] }),
	dayWords("longDate", value.Date.Long),
}

// dayPart is a number that a day has.
func dayPart(name string, of func(value.Date) int64) function {
	return function{name: name, signatures: []signature{gives(whole, dateType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Whole(of(a[0].(value.Date))), nil }}
}

// otherDay is a day that another leads to.
func otherDay(name string, of func(value.Date) (value.Date, error)) function {
	return function{name: name, repeats: 2, signatures: []signature{gives(dateType, dateType)},
		compute: func(a []value.Value) (value.Value, error) { return dayOrFailure(of(a[0].(value.Date))) }}
}

// lastOfWeek is a Sunday, which the last days of the calendar have none of.
var lastOfWeek = function{name: "lastOfWeek", repeats: 2, signatures: []signature{gives(dateType, dateType)},
	compute: func(a []value.Value) (value.Value, error) {
		d := a[0].(value.Date)
		return dayOrFailure(d.AddDays(7 - d.Weekday()))
	}}

// moved is a day so far from another.
func moved(name string, by func(value.Date, int64) (value.Date, error)) function {
	return function{name: name, signatures: []signature{gives(dateType, dateType, whole)},
		compute: func(a []value.Value) (value.Value, error) {
			return dayOrFailure(by(a[0].(value.Date), int64(a[1].(value.Whole))))
		}}
}

// between is how far two days are apart.
func between(name string, count func(a, b value.Date) int64) function {
	return function{name: name, signatures: []signature{gives(whole, dateType, dateType)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Whole(count(a[0].(value.Date), a[1].(value.Date))), nil
		}}
}

// dayWords is a day in words.
func dayWords(name string, words func(value.Date) string) function {
	return function{name: name, repeats: 4, signatures: []signature{gives(str, dateType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Text(words(a[0].(value.Date))), nil }}
}

func dayOrFailure(d value.Date, err error) (value.Value, error) {
	if err != nil {
		return nil, err
	}
	return d, nil
}
