package value

import (
	"fmt"
	"time"
)

// months counts months from January of the year 1.
func (d Date) months() int64 { return int64(d.Year-1)*12 + int64(d.Month) - 1 }

// lastMonth is December 9999, as months count.
const lastMonth = 9999*12 - 1

// AddMonths is the date n months later, or earlier when n is negative: the same day of the month, or
// its last where it has not so many. It is a Failure outside the calendar.
func (d Date) AddMonths(n int64) (Date, error) {
	at := d.months()
	if n < -at || n > lastMonth-at {
		return Date{}, Failure{BeyondCalendar}
	}
	at += n
	out := Date{int(at/12) + 1, time.Month(at%12) + 1, d.Day}
	out.Day = min(out.Day, out.LastOfMonth().Day)
	return out, nil
}

// FirstOfMonth is the first day of the date's month.
func (d Date) FirstOfMonth() Date { return Date{d.Year, d.Month, 1} }

// LastOfMonth is the last day of the date's month.
func (d Date) LastOfMonth() Date {
	return Date{d.Year, d.Month, time.Date(d.Year, d.Month+1, 0, 0, 0, 0, 0, time.UTC).Day()}
}

// Weekday counts from Monday, 1, to Sunday, 7, as ISO 8601 does.
func (d Date) Weekday() int64 {
	n := int64(time.Date(d.Year, d.Month, d.Day, 0, 0, 0, 0, time.UTC).Weekday())
	if n == 0 {
		n = 7
	}
	return n
}

// Week is the number of the week, as ISO 8601 counts.
func (d Date) Week() int64 {
	_, week := time.Date(d.Year, d.Month, d.Day, 0, 0, 0, 0, time.UTC).ISOWeek()
	return int64(week)
}

// MonthsSince is how many whole months have gone by from o to d, negative when o is later.
func (d Date) MonthsSince(o Date) int64 {
	if d.Compare(o) < 0 {
		return -o.MonthsSince(d)
	}
	n := d.months() - o.months()
	if d.Day < o.Day {
		n--
	}
	return n
}

// workingDays counts the days from Monday to Friday up to a date, itself included, from the first day
// there is, which is a Monday.
func (d Date) workingDays() int64 {
	n := d.number() - FirstDay + 1
	return n/7*5 + min(n%7, 5)
}

// WorkingDaysSince is how many days from Monday to Friday there are after o, up to d.
func (d Date) WorkingDaysSince(o Date) int64 { return d.workingDays() - o.workingDays() }

// AddWorkingDays is the date n days from Monday to Friday later, or earlier when n is negative. From a
// Saturday or Sunday it is counted as from the Friday before, backwards as from the Monday after.
func (d Date) AddWorkingDays(n int64) (Date, error) {
	const far = 4_000_000
	w := d.Weekday()
	switch {
	case n > far || n < -far:
		return Date{}, Failure{BeyondCalendar}
	case n > 0:
		back := max(w-5, 0)
		w -= back
		days := n/5*7 + n%5 - back
		if w+n%5 > 5 {
			days += 2
		}
		return d.AddDays(days)
	case n < 0:
		n = -n
		ahead := int64(0)
		if w > 5 {
			ahead, w = 8-w, 1
		}
		days := n/5*7 + n%5 - ahead
		if w-n%5 < 1 {
			days += 2
		}
		return d.AddDays(-days)
	}
	return d, nil
}

// Weekdays and Months are what the days of the week and the months are called, Monday and January first.
var (
	Weekdays = []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}
	Months   = []string{"January", "February", "March", "April", "May", "June", "July", "August", "September",
		"October", "November", "December"}
)

// Long is the date in words, such as "Monday 2 March 2026".
func (d Date) Long() string {
	return fmt.Sprintf("%s %d %s %d", Weekdays[d.Weekday()-1], d.Day, Months[d.Month-1], d.Year)
}
