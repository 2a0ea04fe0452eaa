package expr

import (
	"plainpath/core/value"
)

var calendarFunctions = []function{
	dayPart(tell("year(x)", "The year of a day, as a number."), func(d value.Date) int64 { return int64(d.Year) }),
	dayPart(tell("month(x)", "The month of a day, as a number from 1 to 12."), func(d value.Date) int64 {
		return int64(d.Month)
	}),
	dayPart(tell("day(x)", "The day of the month, as a number."), func(d value.Date) int64 { return int64(d.Day) }),
	dayPart(tell("quarter(x)", "The quarter of the year of a day, from 1 to 4."), func(d value.Date) int64 {
		return (int64(d.Month) + 2) / 3
	}),
	dayPart(tell("week(x)", "The number of the week of a day, as ISO 8601 counts."), value.Date.Week),
	dayPart(tell("weekday(x)", "The day of the week, from 1 for Monday to 7 for Sunday."), value.Date.Weekday),

	otherDay(tell("firstOfWeek(x)", "The Monday of the week of a day."), func(d value.Date) (value.Date, error) {
		return d.AddDays(1 - d.Weekday())
	}),
	lastOfWeek,
	otherDay(tell("firstOfMonth(x)", "The first day of the month of a day."), func(d value.Date) (value.Date, error) {
		return d.FirstOfMonth(), nil
	}),
	otherDay(tell("lastOfMonth(x)", "The last day of the month of a day."), func(d value.Date) (value.Date, error) {
		return d.LastOfMonth(), nil
	}),
	otherDay(tell("firstOfYear(x)", "The first day of the year of a day."), func(d value.Date) (value.Date, error) {
		return value.Date{Year: d.Year, Month: 1, Day: 1}, nil
	}),
	otherDay(tell("lastOfYear(x)", "The last day of the year of a day."), func(d value.Date) (value.Date, error) {
		return value.Date{Year: d.Year, Month: 12, Day: 31}, nil
	}),

	moved(tell("addDays(x, 14)", "A day so many days later, or earlier with a minus, as x + 14 is."),
		value.Date.AddDays),
	moved(tell("addMonths(x, 3)", "A day so many months later; the last of the month where it has not so many days."),
		value.Date.AddMonths),
	moved(tell("addYears(x, 1)", "A day so many years later."), func(d value.Date, n int64) (value.Date, error) {
		if n > 10_000 || n < -10_000 {
			return d, value.Failure{Why: value.BeyondCalendar}
		}
		return d.AddMonths(n * 12)
	}),
	moved(tell("addWorkingDays(x, 10)", "A day so many working days later, from Monday to Friday."),
		value.Date.AddWorkingDays),

	between(tell("daysBetween(x, y)", "How many days there are from x to y, as y - x is."),
		func(a, b value.Date) int64 { return b.DaysSince(a) }),
	between(tell("monthsBetween(x, y)", "How many whole months go by from x to y."), func(a, b value.Date) int64 {
		return b.MonthsSince(a)
	}),
	between(tell("yearsBetween(x, y)", "How many whole years go by from x to y, as for an age."),
		func(a, b value.Date) int64 { return b.MonthsSince(a) / 12 }),
	between(tell("workingDaysBetween(x, y)",
		"How many working days, from Monday to Friday, there are after x up to y."), func(a, b value.Date) int64 {
		return b.WorkingDaysSince(a)
	}),

	dayWords(tell("weekdayName(x)", "The day of the week by name, such as Monday."), func(d value.Date) string {
		return value.Weekdays[d.Weekday()-1]
	}),
	dayWords(tell("monthName(x)", "The month by name, such as March."), func(d value.Date) string {
		return value.Months[d.Month-1]
	}),
	dayWords(tell("longDate(x)", "A day in words, such as Monday 2 March 2026."), value.Date.Long),
}

// dayPart is a number that a day has.
func dayPart(t told, of func(value.Date) int64) function {
	return function{told: t, signatures: []signature{gives(whole, dateType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Whole(of(a[0].(value.Date))), nil }}
}

// otherDay is a day that another leads to.
func otherDay(t told, of func(value.Date) (value.Date, error)) function {
	return function{told: t, repeats: 2, signatures: []signature{gives(dateType, dateType)},
		compute: func(a []value.Value) (value.Value, error) { return dayOrFailure(of(a[0].(value.Date))) }}
}

// lastOfWeek is a Sunday, which the last days of the calendar have none of.
var lastOfWeek = function{told: tell("lastOfWeek(x)", "The Sunday of the week of a day."), repeats: 2,
	signatures: []signature{gives(dateType, dateType)},
	compute: func(a []value.Value) (value.Value, error) {
		d := a[0].(value.Date)
		return dayOrFailure(d.AddDays(7 - d.Weekday()))
	}}

// moved is a day so far from another.
func moved(t told, by func(value.Date, int64) (value.Date, error)) function {
	return function{told: t, signatures: []signature{gives(dateType, dateType, whole)},
		compute: func(a []value.Value) (value.Value, error) {
			return dayOrFailure(by(a[0].(value.Date), int64(a[1].(value.Whole))))
		}}
}

// between is how far two days are apart.
func between(t told, count func(a, b value.Date) int64) function {
	return function{told: t, signatures: []signature{gives(whole, dateType, dateType)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Whole(count(a[0].(value.Date), a[1].(value.Date))), nil
		}}
}

// dayWords is a day in words.
func dayWords(t told, words func(value.Date) string) function {
	return function{told: t, repeats: 4, signatures: []signature{gives(str, dateType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Text(words(a[0].(value.Date))), nil }}
}

func dayOrFailure(d value.Date, err error) (value.Value, error) {
	if err != nil {
		return nil, err
	}
	return d, nil
}
