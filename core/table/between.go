package table

import (
	"fmt"
	"time"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Between are the records that begin or last in a stretch of days.
type Between struct {
	// Starts is the path of the field that says when a record begins, Ends of that which says until when it lasts;
	// without one, or where it is empty, a record is at the one point.
	Starts string `json:"starts"`
	Ends   string `json:"ends,omitempty"`
	// From is the first day, Until the one after the last, such as 2026-03-05, as the person's clocks have them.
	From  string `json:"from"`
	Until string `json:"until"`
}

// mostDays bounds how many days are looked at together.
const mostDays = 400

func (b *Between) predicate(r records.Reader, l *Listing) (predicate.Predicate, error) {
	from, err := value.ParseDate(b.From)
	if err != nil {
		return nil, wrongLook("%q is no day such as 2026-03-05.", b.From)
	}
	until, err := value.ParseDate(b.Until)
	if err != nil {
		return nil, wrongLook("%q is no day such as 2026-03-05.", b.Until)
	}
	if days := until.DaysSince(from); days < 1 || days > mostDays {
		return nil, wrongLook("From 1 to %d days can be looked at together.", mostDays)
	}
	starts, err := b.path(r, l, b.Starts)
	if err != nil {
		return nil, err
	}
	out := predicate.All{
		predicate.Test{Path: starts, Op: predicate.Less, Value: beginning(starts, until, r.Zone())},
	}
	begins := predicate.Test{Path: starts, Op: predicate.MoreOrEqual, Value: beginning(starts, from, r.Zone())}
	if b.Ends == "" {
		return append(out, begins), nil
	}
	ends, err := b.path(r, l, b.Ends)
	if err != nil {
		return nil, err
	}
	lasts := predicate.Test{Path: ends, Op: predicate.MoreOrEqual, Value: beginning(ends, from, r.Zone())}
	if ends.Last().Kind() == value.KindInstant { // what ends as a day begins is not there on it
		lasts.Op = predicate.More
	}
	return append(out, predicate.Any{begins, lasts}), nil
}

// path is that of a field that says when something is.
func (b *Between) path(r records.Reader, l *Listing, text string) (model.Path, error) {
	path, err := l.path(r.Model(), text)
	if err != nil {
		return path, err
	}
	if err := Timed(path); err != nil {
		return path, wrongLook("The table cannot be looked at by days: %s.", err)
	}
	return path, nil
}

// Timed refuses a field that is neither a day nor a point in time.
func Timed(path model.Path) error {
	switch path.Last().Kind() {
	case value.KindDate, value.KindInstant:
		return nil
	}
	return fmt.Errorf("%s is neither a day nor a point in time", path.Last().Label)
}

// beginning is a day as a field holds it, or the point in time at which it begins.
func beginning(path model.Path, day value.Date, zone *time.Location) value.Value {
	if path.Last().Kind() == value.KindInstant {
		return value.NewInstant(day.In(zone))
	}
	return day
}
