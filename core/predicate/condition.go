// Package predicate turns the conditions of a builder into one tree of predicates,
// which package search writes as SQL and which Eval answers for a record in Go,
// with the same result.
package predicate

import (
	"encoding/json"
	"slices"

	"plainpath/core/model"
	"plainpath/core/value"
)

// Condition is a condition on a record as a builder sets it. Exactly one of All,
// Any, Field, Related and Expression is used; the zero Condition always holds.
type Condition struct {
	All []Condition `json:"all,omitempty"`
	Any []Condition `json:"any,omitempty"`

	// Field is a path from the record, across references if need be.
	Field  string    `json:"field,omitempty"`
	Op     Operator  `json:"op,omitempty"`
	Value  *Operand  `json:"value,omitempty"`
	To     *Operand  `json:"to,omitempty"`
	Values []Operand `json:"values,omitempty"`
	// Empty says what becomes of the condition when a value it compares with is empty.
	Empty EmptyMeans `json:"empty,omitempty"`

	Related *Related `json:"related,omitempty"`

	// Expression is CEL over the known values and the record, which it calls "record".
	Expression string `json:"expression,omitempty"`
}

// Related is a condition on the records that point at this one.
type Related struct {
	// Object and Field name the reference that points here.
	Object string `json:"object"`
	Field  string `json:"field"`
	// None asks that there be no such record; otherwise there must be one at least.
	None  bool      `json:"none,omitempty"`
	Where Condition `json:"where"`
}

// Operand is what a field is compared with: a value typed in, or an expression over
// what is known.
type Operand struct {
	Literal    json.RawMessage `json:"literal,omitempty"`
	Expression string          `json:"expression,omitempty"`
}

// EmptyMeans says what an empty value does to a condition.
type EmptyMeans string

// An empty value matches nothing unless the builder chose to skip the condition.
const (
	EmptyNothing EmptyMeans = "nothing"
	EmptySkip    EmptyMeans = "skip"
)

// Operator compares a field with values.
type Operator string

// The operators.
const (
	Is             Operator = "is"
	IsNot          Operator = "is_not"
	Contains       Operator = "contains"
	StartsWith     Operator = "starts_with"
	More           Operator = "more"
	MoreOrEqual    Operator = "more_or_equal"
	Less           Operator = "less"
	LessOrEqual    Operator = "less_or_equal"
	Between        Operator = "between"
	OneOf          Operator = "one_of"
	IsEmpty        Operator = "is_empty"
	IsNotEmpty     Operator = "is_not_empty"
	WithinLastDays Operator = "within_last_days"
	WithinNextDays Operator = "within_next_days"
)

var (
	ordered = []Operator{Is, IsNot, More, MoreOrEqual, Less, LessOrEqual, Between, OneOf, IsEmpty, IsNotEmpty}
	texts   = []Operator{Contains, StartsWith, Is, IsNot, OneOf, IsEmpty, IsNotEmpty}
	chosen  = []Operator{Is, IsNot, OneOf, IsEmpty, IsNotEmpty}
	dated   = append(slices.Clone(ordered), WithinLastDays, WithinNextDays)
	yesNos  = []Operator{Is, IsNot, IsEmpty, IsNotEmpty}
)

// Operators are those that make sense for a field, the likeliest first.
func Operators(f *model.Field) []Operator {
	switch f.Kind() {
	case value.KindText:
		if f.Type == model.Choice {
			return chosen
		}
		return texts
	case value.KindDate, value.KindInstant:
		return dated
	case value.KindYesNo:
		return yesNos
	case value.KindRecord:
		return chosen
	}
	return ordered
}
