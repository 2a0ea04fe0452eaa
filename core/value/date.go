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

// ParseDate reads a date written as in RFC 3339, for example "2026-03-01".
func ParseDate(s string) (Date, error) {
	t, err := time.Parse(time.DateOnly, s)
	if err != nil {
		return Date{}, fmt.Errorf("%q is not a date such as 2026-03-01", s)
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

// In is the first moment of the day in a zone.
func (d Date) In(zone *time.Location) time.Time {
	return time.Date(d.Year, d.Month, d.Day, 0, 0, 0, 0, zone)
}

// AddDays is the date n days later, or earlier when n is negative.
func (d Date) AddDays(n int) Date { return DateOf(d.In(time.UTC).AddDate(0, 0, n)) }

// DaysSince is the number of days from o to d.
func (d Date) DaysSince(o Date) int {
	return int(d.In(time.UTC).Sub(o.In(time.UTC)) / (24 * time.Hour))
}

// Compare orders dates by the calendar.
func (d Date) Compare(o Date) int { return d.In(time.UTC).Compare(o.In(time.UTC)) }
