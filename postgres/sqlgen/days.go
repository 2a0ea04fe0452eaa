package sqlgen

import (
	"fmt"
	"strings"

	"plainpath/core/value"
)

var dayFunctions = map[string]function{
	"year":    dayPart("year"),
	"month":   dayPart("month"),
	"day":     dayPart("day"),
	"quarter": dayPart("quarter"),
	"week":    dayPart("week"),
	"weekday": dayPart("isodow"),

	"firstOfWeek":  otherDay("(%[1]s - (extract(isodow FROM %[1]s)::int - 1))"),
	"firstOfMonth": otherDay("date_trunc('month', %s::timestamp)::date"),
	"lastOfMonth":  otherDay("(date_trunc('month', %s::timestamp) + interval '1 month' - interval '1 day')::date"),
	"firstOfYear":  otherDay("date_trunc('year', %s::timestamp)::date"),
	"lastOfYear":   otherDay("make_date(extract(year FROM %s)::int, 12, 31)"),
	"lastOfWeek": func(a []scalar, _ house) (scalar, error) {
		return day("plainpath.day("+a[0].SQL+", 7 - extract(isodow FROM "+a[0].SQL+"))", a[0]), nil
	},

	"addDays":        moved("plainpath.day(%s, %s::numeric)"),
	"addMonths":      moved("plainpath.months(%s, %s::numeric)"),
	"addYears":       moved("plainpath.months(%s, %s::numeric * 12)"),
	"addWorkingDays": moved("plainpath.working_day(%s, %s::numeric)"),

	"daysBetween":        between("(%[2]s - %[1]s)::bigint"),
	"monthsBetween":      between("plainpath.months_between(%s, %s)"),
	"yearsBetween":       between("(plainpath.months_between(%s, %s) / 12)"),
	"workingDaysBetween": between("(plainpath.working_days(%[2]s) - plainpath.working_days(%[1]s))"),

	"weekdayName": dayWords(func(day string) string { return nameOf(value.Weekdays, "isodow", day) }),
	"monthName":   dayWords(func(day string) string { return nameOf(value.Months, "month", day) }),
	"longDate": dayWords(func(day string) string {
		return fmt.Sprintf("(%s || ' ' || extract(day FROM %s)::int::text || ' ' || %s || ' ' || extract(year FROM %[2]s)::int::text)",
			nameOf(value.Weekdays, "isodow", day), day, nameOf(value.Months, "month", day))
	}),

	"dateOf": func(a []scalar, h house) (scalar, error) {
		return day("plainpath.day(("+a[0].SQL+" AT TIME ZONE "+h.zone+")::date, 0)", a[0]), nil
	},
	"hour": func(a []scalar, h house) (scalar, error) {
		return of(value.KindWhole, "extract(hour FROM "+a[0].SQL+" AT TIME ZONE "+h.zone+")::bigint")
	},
	"minutesBetween": func(a []scalar, _ house) (scalar, error) {
		return of(value.KindWhole, "trunc(extract(epoch FROM ("+a[1].SQL+" - "+a[0].SQL+")) / 60)::bigint")
	},
	"add_minutes": func(a []scalar, _ house) (scalar, error) {
		moved := "plainpath.moment(" + a[0].SQL + ", " + a[1].SQL + ")"
		return scalar{Kind: value.KindInstant, SQL: moved, Why: fails(moved, value.BeyondCalendar, a...)}, nil
	},
}

// dayPart is a number that a day has.
func dayPart(part string) function {
	return func(a []scalar, _ house) (scalar, error) {
		return of(value.KindWhole, "extract("+part+" FROM "+a[0].SQL+")::bigint")
	}
}

// otherDay is a day that another leads to.
func otherDay(sql string) function {
	return func(a []scalar, _ house) (scalar, error) { return of(value.KindDate, fmt.Sprintf(sql, a[0].SQL)) }
}

// moved is a day so far from another.
func moved(sql string) function {
	return func(a []scalar, _ house) (scalar, error) { return day(fmt.Sprintf(sql, a[0].SQL, a[1].SQL), a...), nil }
}

// between is how far two days are apart.
func between(sql string) function {
	return func(a []scalar, _ house) (scalar, error) {
		return of(value.KindWhole, fmt.Sprintf(sql, a[0].SQL, a[1].SQL))
	}
}

// dayWords is a day in words.
func dayWords(sql func(day string) string) function {
	return func(a []scalar, _ house) (scalar, error) { return of(value.KindText, sql(a[0].SQL)) }
}

// day is a day that may lie outside the calendar, where it is NULL.
func day(sql string, of ...scalar) scalar {
	return scalar{Kind: value.KindDate, SQL: sql, Why: fails(sql, value.BeyondCalendar, of...)}
}

// nameOf is one of several names by a part of a day.
func nameOf(names []string, part, day string) string {
	return "(ARRAY['" + strings.Join(names, "', '") + "'])[extract(" + part + " FROM " + day + ")::int]"
}
