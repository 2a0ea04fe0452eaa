package expr

import (
	"fmt"
	"strings"

	"plainpath/core/value"
)

var calendarFunctions = []function{
	dayPart("year", "extract(year FROM %s)", func(d value.Date) int64 { return int64(d.Year) }),
	dayPart("month", "extract(month FROM %s)", func(d value.Date) int64 { return int64(d.Month) }),
	dayPart("day", "extract(day FROM %s)", func(d value.Date) int64 { return int64(d.Day) }),
	dayPart("quarter", "extract(quarter FROM %s)", func(d value.Date) int64 { return (int64(d.Month) + 2) / 3 }),
	dayPart("week", "extract(week FROM %s)", value.Date.Week),
	dayPart("weekday", "extract(isodow FROM %s)", value.Date.Weekday),

	otherDay("firstOfWeek", "(%[1]s - (extract(isodow FROM %[1]s)::int - 1))", func(d value.Date) (value.Date, error) { return d.AddDays(1 - d.Weekday()) }),
	lastOfWeek,
	otherDay("firstOfMonth", "date_trunc('month', %s::timestamp)::date", func(d value.Date) (value.Date, error) { return d.FirstOfMonth(), nil }),
	otherDay("lastOfMonth", "(date_trunc('month', %s::timestamp) + interval '1 month' - interval '1 day')::date", func(d value.Date) (value.Date, error) { return d.LastOfMonth(), nil }),
	otherDay("firstOfYear", "date_trunc('year', %s::timestamp)::date", func(d value.Date) (value.Date, error) { return value.Date{Year: d.Year, Month: 1, Day: 1}, nil }),
	otherDay("lastOfYear", "make_date(extract(year FROM %s)::int, 12, 31)", func(d value.Date) (value.Date, error) { return value.Date{Year: d.Year, Month: 12, Day: 31}, nil }),

	moved("addDays", "plainpath.day(%s, %s::numeric)", value.Date.AddDays),
	moved("addMonths", "plainpath.months(%s, %s::numeric)", value.Date.AddMonths),
	moved("addYears", "plainpath.months(%s, %s::numeric * 12)", func(d value.Date, n int64) (value.Date, error) {
		if n > 10_000 || n < -10_000 {
			return d, value.Failure{Why: value.BeyondCalendar}
		}
		return d.AddMonths(n * 12)
	}),
	moved("addWorkingDays", "plainpath.working_day(%s, %s::numeric)", value.Date.AddWorkingDays),

	between("daysBetween", "(%[2]s - %[1]s)::bigint", func(a, b value.Date) int64 { return b.DaysSince(a) }),
	between("monthsBetween", "plainpath.months_between(%s, %s)", func(a, b value.Date) int64 { return b.MonthsSince(a) }),
	between("yearsBetween", "(plainpath.months_between(%s, %s) / 12)", func(a, b value.Date) int64 { return b.MonthsSince(a) / 12 }),
	between("workingDaysBetween", "(plainpath.working_days(%[2]s) - plainpath.working_days(%[1]s))", func(a, b value.Date) int64 { return b.WorkingDaysSince(a) }),

	dayWords("weekdayName", func(d string) string { return nameOf(value.Weekdays, "isodow", d) }, func(d value.Date) string { return value.Weekdays[d.Weekday()-1] }),
	dayWords("monthName", func(d string) string { return nameOf(value.Months, "month", d) }, func(d value.Date) string { return value.Months[d.Month-1] }),
	dayWords("longDate", func(d string) string {
		return fmt.Sprintf("(%s || ' ' || extract(day FROM %s)::int::text || ' ' || %s || ' ' || extract(year FROM %[2]s)::int::text)", nameOf(value.Weekdays, "isodow", d), d, nameOf(value.Months, "month", d))
	}, value.Date.Long),
}

// dayPart is a number that a day has.
func dayPart(name, sql string, of func(value.Date) int64) function {
	return function{name: name, signatures: []signature{gives(whole, dateType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Whole(of(a[0].(value.Date))), nil },
		sql: func(a []Column) (Column, error) {
			return Column{Kind: value.KindWhole, SQL: fmt.Sprintf(sql, a[0].SQL) + "::bigint"}, nil
		}}
}

// otherDay is a day that another leads to.
func otherDay(name, sql string, of func(value.Date) (value.Date, error)) function {
	return function{name: name, signatures: []signature{gives(dateType, dateType)},
		compute: func(a []value.Value) (value.Value, error) { return dayOrFailure(of(a[0].(value.Date))) },
		sql: func(a []Column) (Column, error) {
			return Column{Kind: value.KindDate, SQL: fmt.Sprintf(sql, a[0].SQL)}, nil
		}}
}

// lastOfWeek is a Sunday, which the last days of the calendar have none of.
var lastOfWeek = function{name: "lastOfWeek", signatures: []signature{gives(dateType, dateType)},
	compute: func(a []value.Value) (value.Value, error) {
		d := a[0].(value.Date)
		return dayOrFailure(d.AddDays(7 - d.Weekday()))
	},
	sql: func(a []Column) (Column, error) {
		return daySQL("plainpath.day("+a[0].SQL+", 7 - extract(isodow FROM "+a[0].SQL+"))", a[0]), nil
	}}

// moved is a day so far from another.
func moved(name, sql string, by func(value.Date, int64) (value.Date, error)) function {
	return function{name: name, signatures: []signature{gives(dateType, dateType, whole)},
		compute: func(a []value.Value) (value.Value, error) {
			return dayOrFailure(by(a[0].(value.Date), int64(a[1].(value.Whole))))
		},
		sql: func(a []Column) (Column, error) { return daySQL(fmt.Sprintf(sql, a[0].SQL, a[1].SQL), a...), nil }}
}

// between is how far two days are apart.
func between(name, sql string, count func(a, b value.Date) int64) function {
	return function{name: name, signatures: []signature{gives(whole, dateType, dateType)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Whole(count(a[0].(value.Date), a[1].(value.Date))), nil
		},
		sql: func(a []Column) (Column, error) {
			return Column{Kind: value.KindWhole, SQL: fmt.Sprintf(sql, a[0].SQL, a[1].SQL)}, nil
		}}
}

// dayWords is a day in words.
func dayWords(name string, sql func(string) string, words func(value.Date) string) function {
	return function{name: name, signatures: []signature{gives(str, dateType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Text(words(a[0].(value.Date))), nil },
		sql:     func(a []Column) (Column, error) { return Column{Kind: value.KindText, SQL: sql(a[0].SQL)}, nil }}
}

func dayOrFailure(d value.Date, err error) (value.Value, error) {
	if err != nil {
		return nil, err
	}
	return d, nil
}

// daySQL is a day that may lie outside the calendar, where it is NULL though nothing it is made of is.
func daySQL(day string, of ...Column) Column {
	there := make([]string, len(of))
	for i, c := range of {
		there[i] = c.SQL + " IS NOT NULL"
	}
	return Column{Kind: value.KindDate, SQL: day, Why: "CASE WHEN " + day + " IS NULL AND " + strings.Join(there, " AND ") + " THEN " + said(value.BeyondCalendar) + " END"}
}

// nameOf is one of several names by a part of a day.
func nameOf(names []string, part, day string) string {
	return "(ARRAY['" + strings.Join(names, "', '") + "'])[extract(" + part + " FROM " + day + ")::int]"
}
