package value

import (
	"fmt"
	"time"
)

// Date is a day of the calendar without a time or a zone. The zero Date is not a
// day; use nil for an empty date.
type Date struct {
	Year  int
	Month time.Month
	Day   int
}

// The first and the last day there are, as day numbers.
var (
	FirstDay = Date{1, time.January, 1}.number()
	LastDay  = Date{9999, time.December, 31}.number()
)

// ParseDate reads a date written as in RFC 3339, for example "2026-03-01".
func ParseDate(s string) (Date, error) {
	t, err := time.Parse(time.DateOnly, s)
	switch {
	case err != nil:
		return Date{}, fmt.Errorf("%q is not a date such as 2026-03-01", s)
	case t.Year() < 1:
		return Date{}, fmt.Errorf("%q is not a date: there is no year 0", s)
	}
	return DateOf(t), nil
}

// DateOf is the day of a time in the time's own zone.
func DateOf(t time.Time) Date {
	y, m, d := t.Date()
	return Date{y, m, d}
}

// String writes the date as in RFC 3339.
func (d Date) String() string { return fmt.Sprintf("%04d-%02d-%02d", d.Year, d.Month, d.Day) }

// In is where the day begins in a zone: midnight. Where the clock skips midnight, the offset
// from before holds; where it comes twice, the second one counts. PostgreSQL's AT TIME ZONE
// says the same.
func (d Date) In(zone *time.Location) time.Time {
	const day = 24 * 60 * 60
	midnight := d.number() * day
	offset := func(at int64) int64 {
		_, seconds := time.Unix(at, 0).In(zone).Zone()
		return int64(seconds)
	}
	before, after := offset(midnight-day), offset(midnight+day)
	at := midnight - before
	if later := midnight - after; offset(later) == after {
		at = later
	}
	return time.Unix(at, 0).In(zone)
}

// number counts days from 1 January 1970.
func (d Date) number() int64 {
	const seconds = 24 * 60 * 60
	return time.Date(d.Year, d.Month, d.Day, 0, 0, 0, 0, time.UTC).Unix() / seconds
}

// AddDays is the date n days later, or earlier when n is negative. It is a Failure outside
// the calendar.
func (d Date) AddDays(n int64) (Date, error) {
	at := d.number()
	if n < FirstDay-at || n > LastDay-at {
		return Date{}, Failure{BeyondCalendar}
	}
	return DateOf(time.Unix((at+n)*24*60*60, 0).UTC()), nil
}

// DaysSince is the number of days from o to d.
func (d Date) DaysSince(o Date) int64 { return d.number() - o.number() }

// Compare orders dates by the calendar.
func (d Date) Compare(o Date) int {
	return time.Date(d.Year, d.Month, d.Day, 0, 0, 0, 0, time.UTC).Compare(time.Date(o.Year, o.Month, o.Day, 0, 0, 0, 0,
		time.UTC))
}
