package records

import (
	"time"

	"plainpath/core/expr"
)

// Notice is something that people are told.
type Notice struct {
	// Roles are those whose people are told, People others by their keys. Nobody is told twice.
	Roles  []string
	People []int64
	Text   expr.Sentence
	At     time.Time
	// Object and Record are what it leads to, nothing when Object is empty.
	Object string
	Record int64
}
