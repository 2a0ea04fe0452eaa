package query

import (
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Change sets fields of all records of a query at once.
type Change struct {
	Query Query
	Sets  []Assignment
	// Values are what is known; Record is what expressions call the record.
	Values expr.Values
	Record string
}

// Assignment is a field and its new value: one value, or what an expression gives for each record.
type Assignment struct {
	Field   *model.Field
	Value   value.Value
	Program *expr.Program
}

// Insertion adds a record for each record of a query at once, in its order.
type Insertion struct {
	Object *model.Object
	Query  Query
	Sets   []Assignment
	// Values are what is known; Item is what expressions call the record at hand.
	Values expr.Values
	Item   string
}
