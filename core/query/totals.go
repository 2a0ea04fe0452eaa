package query

import (
	"fmt"

	"plainpath/core/model"
	"plainpath/core/value"
)

// Aggregate says what is made of the values of a field.
type Aggregate string

// The aggregates. Empty values take no part in them.
const (
	Sum      Aggregate = "sum"
	Average  Aggregate = "average"
	Least    Aggregate = "least"
	Greatest Aggregate = "greatest"
	// Count is how many values there are.
	Count Aggregate = "count"
)

// Total is an aggregate of a field.
type Total struct {
	Path model.Path
	Of   Aggregate
	// Converted says that amounts of all currencies are put together by their rates.
	Converted bool
}

// Figure is what a total comes to: one value, none when all were empty, a value.Failure where
// one of the values failed, or one for each currency, which are never put together without a rate.
// A converted total comes first,
// and after it what could not be converted, by currency.
type Figure []value.Value

// Converter gives amounts in the currency of the house, false when there is no rate.
type Converter interface {
	Convert(m value.Money) (value.Money, bool, error)
}

// CheckTotal says why a total cannot be made.
func CheckTotal(t Total) error {
	f := t.Path.Last()
	if t.Converted && f.Kind() != value.KindMoney {
		return &LookError{fmt.Sprintf("%s is no amount of money that could be converted.", f.Label)}
	}
	ordered, added := false, false
	switch f.Kind() {
	case value.KindWhole:
		ordered, added = true, f.Type != model.Number
	case value.KindDecimal, value.KindMoney:
		ordered, added = true, true
	case value.KindDate, value.KindInstant:
		ordered = true
	}
	switch t.Of {
	case Count:
		return nil
	case Sum, Average:
		if added {
			return nil
		}
	case Least, Greatest:
		if ordered {
			return nil
		}
	}
	return &LookError{fmt.Sprintf("There is no %s of %s.", t.Of, f.Label)}
}
