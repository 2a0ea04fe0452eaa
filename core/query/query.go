// Package query holds what is asked of the records of a space, and what is to become of them, as
// data: package postgres/sqlgen writes it for the database.
package query

import (
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// Query is a search with its values.
type Query struct {
	Object string
	// Where is the builder's: it may look at anything.
	Where predicate.Predicate
	// Filter is the person's: it sees only what the person may see.
	Filter predicate.Predicate
	// Columns are the paths to read besides the key and label, which always are. Bare leaves the label out.
	Columns []model.Path
	Bare    bool
	Order   []Order
	// Latest puts the one added later first among records that are alike in the order.
	Latest bool
	// Limit bounds the number of records; nought means all.
	Limit int
	// After continues behind the record a cursor was made from.
	After Cursor
	// Before looks at records as they were before changes instead of as they are.
	Before *Changes
	// Changed asks for records that were among changes.
	Changed *Changes
	// Edited is the record that a candidate rule among the conditions is about.
	Edited *Edited
}

// ByKeys is the query for some records of an object.
func ByKeys(o *model.Object, keys []int64) Query {
	return Query{Object: o.Key, Where: predicate.Keys(keys)}
}

// Waits says whether the query waits for something that is not known yet: it has no records.
func (q Query) Waits() bool { return predicate.Never(q.Where) || predicate.Never(q.Filter) }

// Order is one of the fields a list is ordered by.
type Order struct {
	Path model.Path
	Desc bool
}

// Changes are those between two places in the history of a space, both included.
type Changes struct{ First, Last int64 }

// Edited is a record being edited: its values as they are to be, stored or not.
type Edited struct {
	Object string
	Values map[string]value.Value
}

// WorkedOut is how a field is worked out.
type WorkedOut struct {
	Program *expr.Program
	// Own says that the field is made of others of its own record alone, so that an index can
	// have it.
	Own bool
}

// LookError says that a list cannot be looked at in the way that was asked for.
type LookError struct{ Text string }

func (e *LookError) Error() string { return e.Text }
