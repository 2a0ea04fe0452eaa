package records

import (
	"context"
	"time"

	"plainpath/core/query"
)

// Writer reads and writes records for a person, in one unit that its owner commits or takes back.
// Where records may not be as somebody wants them, the error is a Refusal and the unit must be thrown
// away. Through names the step, button or part through which something is written, for the history.
type Writer interface {
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
	// Tell tells people something, with all else or not at all, and gives the names of those who are told.
	Tell(ctx context.Context, n Notice) ([]string, error)
	// Try does something and takes back what it wrote when it fails; the unit goes on.
	Try(ctx context.Context, do func() error) error
}
