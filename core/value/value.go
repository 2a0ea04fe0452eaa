// Package value holds the values Plain Path computes with: exact decimals,
// money, dates, records, and the empty value.
//
// A Value is one of the concrete types below or nil. Nil is the empty value;
// there is no other way to be empty.
package value

import (
	"fmt"
	"strings"
	"time"

	"github.com/shopspring/decimal"
)

// Kind names what sort of value something is, independent of any one value.
type Kind string

// The kinds of values. Record is a single record, List a list of records,
// Screen the answers given on a screen, Rows a list that was put together, Failure what cannot be computed.
const (
	KindText    Kind = "text"
	KindWhole   Kind = "whole"
	KindDecimal Kind = "decimal"
	KindMoney   Kind = "money"
	KindYesNo   Kind = "yesno"
	KindDate    Kind = "date"
	KindInstant Kind = "instant"
	KindSeveral Kind = "several"
	KindRecord  Kind = "record"
	KindList    Kind = "list"
	KindScreen  Kind = "screen"
	KindRows    Kind = "rows"
	KindFailure Kind = "failure"
)

// Value is a value that is not empty, or nil for the empty one.
type Value interface {
	Kind() Kind
}

type (
	// Text is any string of characters: text, choices, addresses of mail and web.
	Text string
	// Whole is a whole number of 64 bits.
	Whole int64
	// YesNo is a truth value.
	YesNo bool
	// Decimal is an exact decimal number.
	Decimal struct{ decimal.Decimal }
	// Money is an exact amount in one currency, an ISO 4217 code.
	Money struct {
		Amount   decimal.Decimal
		Currency string
	}
	// Instant is a point in time, to the microsecond, which is what is stored.
	Instant struct{ time.Time }
)

// Record is a record as far as it was read: the fields and reference paths that
// somebody uses, not all there are. A reference field holds a *Record again.
type Record struct {
	Object string
	ID     int64
	Label  string
	Fields map[string]Value
	// Extent tells which fields were read, so that one that was not is not taken for an
	// empty one. Nil means that the record is whole as it stands, or, where there are no
	// Fields either, that only its key is known.
	Extent Extent
}

// Extent is the keys of the fields of a record that were read.
type Extent map[string]bool

// NotReadError says that a field is needed which nobody had read.
type NotReadError struct{ Object, Field string }

func (e *NotReadError) Error() string {
	return fmt.Sprintf("the field %q of %q was not read", e.Field, e.Object)
}

// Field is the value of a field. It is a *NotReadError where the field was not read.
func (r *Record) Field(key string) (Value, error) {
	v := r.Fields[key]
	if v == nil && !r.Extent[key] && (r.Extent != nil || r.Fields == nil && r.ID != 0) {
		return nil, &NotReadError{r.Object, key}
	}
	return v, nil
}

// List is a list of records that may be too long to hold: it is counted and its
// first record fetched only when asked for.
type List struct {
	Object string
	Source ListSource
}

// ListSource reads from a list of records.
type ListSource interface {
	// Count is the exact number of records.
	Count() (int64, error)
	// First is the first record in the list's order, nil when there is none.
	First() (*Record, error)
	// All reads every record; it fails rather than hand out part of a list.
	All() ([]*Record, error)
}

func (Text) Kind() Kind    { return KindText }
func (Whole) Kind() Kind   { return KindWhole }
func (YesNo) Kind() Kind   { return KindYesNo }
func (Decimal) Kind() Kind { return KindDecimal }
func (Money) Kind() Kind   { return KindMoney }
func (Date) Kind() Kind    { return KindDate }
func (Instant) Kind() Kind { return KindInstant }
func (*Record) Kind() Kind { return KindRecord }
func (*List) Kind() Kind   { return KindList }

// Get is the value of a field, empty when it is empty or was not read. A part of a
// Composite is named behind a dot: "address.town".
func (r *Record) Get(field string) Value {
	if r == nil {
		return nil
	}
	name, part, whole := strings.Cut(field, ".")
	v := r.Fields[name]
	if !whole {
		return v
	}
	if c, ok := v.(Composite); ok {
		return c.Part(part)
	}
	return nil
}

// Records is a ListSource over records already held.
type Records []*Record

// Count is the number of records.
func (r Records) Count() (int64, error) { return int64(len(r)), nil }

// First is the first record, nil when there is none.
func (r Records) First() (*Record, error) {
	if len(r) == 0 {
		return nil, nil
	}
	return r[0], nil
}

// Refs are the records as they are referred to.
func (r Records) Refs() []Ref {
	out := make([]Ref, len(r))
	for i, record := range r {
		out[i] = Ref{ID: record.ID, Label: record.Label}
	}
	return out
}

// All is the records themselves.
func (r Records) All() ([]*Record, error) { return r, nil }

// NewDecimal reads an exact decimal such as "12.50".
func NewDecimal(s string) (Decimal, error) {
	d, err := decimal.NewFromString(s)
	return Decimal{d}, err
}

// NewInstant cuts a time to the microsecond, so that what is computed with is
// what is stored.
func NewInstant(t time.Time) Instant { return Instant{t.UTC().Truncate(time.Microsecond)} }

// The first and the last moment that can be told: a day within the calendar, so that they
// have a date in every zone.
var (
	firstMoment = time.Date(1, time.January, 2, 0, 0, 0, 0, time.UTC)
	lastMoment  = time.Date(9999, time.December, 31, 0, 0, 0, 0, time.UTC)
)

func writable(t time.Time) bool { return !t.Before(firstMoment) && t.Before(lastMoment) }
