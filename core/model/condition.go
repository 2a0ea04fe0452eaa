package model

import (
	"encoding/json"
	"fmt"
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
	Includes       Operator = "includes"
	IncludesNot    Operator = "includes_not"
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

// Leaf is one condition of a group, with its JSON Pointer below the whole.
type Leaf struct {
	Pointer   string
	Condition Condition
}

// Leaves are the conditions a condition is made of, groups taken apart. A condition on
// related records is one leaf.
func (c Condition) Leaves() []Leaf { return c.leaves("") }

func (c Condition) leaves(at string) []Leaf {
	var out []Leaf
	for i, m := range c.All {
		out = append(out, m.leaves(fmt.Sprintf("%s/all/%d", at, i))...)
	}
	for i, m := range c.Any {
		out = append(out, m.leaves(fmt.Sprintf("%s/any/%d", at, i))...)
	}
	if c.Field != "" || c.Related != nil || c.Expression != "" {
		out = append(out, Leaf{at, c})
	}
	return out
}
