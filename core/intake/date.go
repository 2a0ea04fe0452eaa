package intake

import (
	"fmt"
	"strings"
	"time"

	"plainpath/core/value"
)

var months = map[string]int{"jan": 1, "feb": 2, "mar": 3, "apr": 4, "may": 5, "jun": 6, "jul": 7, "aug": 8, "sep": 9,
	"sept": 9, "oct": 10, "nov": 11, "dec": 12,
	"january": 1, "february": 2, "march": 3, "april": 4, "june": 6, "july": 7, "august": 8, "september": 9,
	"october": 10, "november": 11, "december": 12}

// parseDate reads a date from the start of a text and gives what follows it. The order
// matters only for dates written in numbers: with the name of the month they read the
// same in any. Two digits of a year mean 1950 to 2049.
func parseDate(s, order string) (d value.Date, rest string, ok bool) {
	var parts [3]string
	n, i := 0, 0
	for n < 3 {
		from := i
		for i < len(s) && (s[i] >= '0' && s[i] <= '9' || s[i]|0x20 >= 'a' && s[i]|0x20 <= 'z') {
			if i > from && digit(s[i]) != digit(s[from]) {
				break
			}
			i++
		}
		if i == from {
			return d, "", false
		}
		parts[n] = s[from:i]
		n++
		if n < 3 {
			from = i
			for i < len(s) && strings.IndexByte("-/. ,", s[i]) >= 0 {
				i++
			}
			if i == from || i-from > 2 {
				return d, "", false
			}
		}
	}
	rest = s[i:]
	if rest != "" && rest[0] != ' ' && rest[0] != 'T' {
		return d, "", false
	}
	rest = strings.TrimSpace(strings.TrimPrefix(rest, "T"))
	year, month, day, ok := arrange(parts, order)
	if !ok {
		return d, "", false
	}
	d = value.Date{Year: year, Month: time.Month(month), Day: day}
	return d, rest, value.DateOf(d.In(time.UTC)) == d
}

func digit(c byte) bool { return c >= '0' && c <= '9' }

func arrange(parts [3]string, order string) (year, month, day int, ok bool) {
	if name := months[strings.ToLower(parts[1])]; name != 0 { // 3 Mar 2026
		year, ok = yearOf(parts[2])
		day, okDay := small(parts[0], 31)
		return year, name, day, ok && okDay
	}
	if name := months[strings.ToLower(parts[0])]; name != 0 { // March 3, 2026
		year, ok = yearOf(parts[2])
		day, okDay := small(parts[1], 31)
		return year, name, day, ok && okDay
	}
	y, m, d := parts[0], parts[1], parts[2]
	switch order {
	case YMD:
		if len(y) != 4 {
			return 0, 0, 0, false
		}
	case DMY:
		y, m, d = parts[2], parts[1], parts[0]
	case MDY:
		y, m, d = parts[2], parts[0], parts[1]
	}
	year, okYear := yearOf(y)
	month, okMonth := small(m, 12)
	day, okDay := small(d, 31)
	return year, month, day, okYear && okMonth && okDay
}

func yearOf(s string) (int, bool) {
	n, ok := small(s, 9999)
	switch {
	case !ok:
	case len(s) == 4:
		return n, true
	case len(s) == 2 && n < 50:
		return 2000 + n, true
	case len(s) == 2:
		return 1900 + n, true
	}
	return 0, false
}

// small reads a number from one to most.
func small(s string, most int) (int, bool) {
	n := 0
	for i := 0; i < len(s); i++ {
		if !digit(s[i]) || n > most {
			return 0, false
		}
		n = n*10 + int(s[i]-'0')
	}
	return n, n >= 1 && n <= most || len(s) == 2 && n == 0 && most == 9999
}

// instant reads a date with a time of day and, if it is there, a zone.
func (r Reading) instant(s string, zone *time.Location) (value.Value, error) {
	d, rest, ok := parseDate(s, r.Form)
	if !ok || rest == "" {
		return nil, fmt.Errorf("%q is not a date and time with %s", s, formWords[r.Form])
	}
	for _, layout := range []string{"15:04", "15:04:05.999999", "3:04 PM", "3:04:05 PM", "15:04Z07:00",
		"15:04:05.999999Z07:00", "15:04 -0700", "15:04:05 -0700"} {
		clock, err := time.ParseInLocation(layout, rest, zone)
		if err != nil {
			continue
		}
		if strings.ContainsAny(layout, "Z-") {
			zone = clock.Location()
		}
		at := time.Date(d.Year, d.Month, d.Day, clock.Hour(), clock.Minute(), clock.Second(), clock.Nanosecond(), zone)
		if at.Hour() != clock.Hour() || at.Minute() != clock.Minute() {
			return nil, fmt.Errorf("%q is not there in %s: clocks are put forward over it", s, zone)
		}
		return value.NewInstant(at), nil
	}
	return nil, fmt.Errorf("%q has no time of day such as 09:30", s)
}
