// Package predicate turns the conditions of a builder into one tree of predicates, which the
// database is asked.
package predicate

import (
	"slices"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Conditions are part of the model's definition; here they get their meaning.
type (
	Condition  = model.Condition
	Related    = model.Related
	Operand    = model.Operand
	EmptyMeans = model.EmptyMeans
	Operator   = model.Operator
)

// What an empty value does to a condition.
const (
	EmptyNothing = model.EmptyNothing
	EmptySkip    = model.EmptySkip
)

// The operators.
const (
	Is             = model.Is
	IsNot          = model.IsNot
	Contains       = model.Contains
	Includes       = model.Includes
	IncludesNot    = model.IncludesNot
	StartsWith     = model.StartsWith
	More           = model.More
	MoreOrEqual    = model.MoreOrEqual
	Less           = model.Less
	LessOrEqual    = model.LessOrEqual
	Between        = model.Between
	OneOf          = model.OneOf
	IsEmpty        = model.IsEmpty
	IsNotEmpty     = model.IsNotEmpty
	WithinLastDays = model.WithinLastDays
	WithinNextDays = model.WithinNextDays
)

var (
	ordered = []Operator{Is, IsNot, More, MoreOrEqual, Less, LessOrEqual, Between, OneOf, IsEmpty, IsNotEmpty}
	texts   = []Operator{Contains, StartsWith, Is, IsNot, OneOf, IsEmpty, IsNotEmpty}
	chosen  = []Operator{Is, IsNot, OneOf, IsEmpty, IsNotEmpty}
	dated   = append(slices.Clone(ordered), WithinLastDays, WithinNextDays)
	yesNos  = []Operator{Is, IsNot, IsEmpty, IsNotEmpty}
	several = []Operator{Includes, IncludesNot, OneOf, IsEmpty, IsNotEmpty}
	given   = []Operator{IsNotEmpty, IsEmpty}
)

// compared is the type of value a field is compared with: one of several choices.
func compared(f *model.Field) expr.Type {
	if f.Kind() == value.KindSeveral {
		return expr.Type{Kind: value.KindText}
	}
	return expr.OfField(f)
}

// Operators are those that make sense for a field, the likeliest first.
func Operators(f *model.Field) []Operator {
	if value.Parts(f.Kind()) != nil {
		return given
	}
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
	case value.KindSeveral:
		return several
	case value.KindRecord:
		if f.HoldsFile() {
			return given
		}
		return chosen
	}
	return ordered
}
