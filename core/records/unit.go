package records

import (
	"context"
	"time"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Unit is one unit of work: what is read and written in it happened together or not at all, which its
// owner decides. Records are written under the person's rights and the rules; where one may not be as
// somebody wants it, the error is a Refusal and the unit must be thrown away. Through names the step,
// button or part through which something is written, for the history.
type Unit interface {
	Reader
	Now() time.Time
	// Add writes records in one go and gives their keys in order.
	Add(ctx context.Context, through string, a Addition) ([]int64, error)
	// AddEach writes a record for each of a query with one statement and gives their keys in its order.
	AddEach(ctx context.Context, through string, i query.Insertion) ([]int64, error)
	// ChangeAll changes fields of the records of a query with one statement and gives their keys.
	ChangeAll(ctx context.Context, through string, c query.Change) ([]int64, error)
	// RemoveAll removes the records of a query and gives how many there were.
	RemoveAll(ctx context.Context, through string, q query.Query) (int64, error)
}

// Refusal is an error that says why records may not be as somebody wants them.
type Refusal interface {
	error
	// Refused is the reason, without what was being done.
	Refused() string
}

// Addition is records to be added: a row of values for each, in the order of Fields.
type Addition struct {
	Object *model.Object
	Fields []*model.Field
	Rows   [][]value.Value
}
