package records

import (
	"context"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Asked is what the records of a space are asked, as far as somebody's sight reaches.
type Asked interface {
	Select(ctx context.Context, s Sight, q query.Query) (Page, error)
	Count(ctx context.Context, s Sight, q query.Query) (int64, error)
	Groups(ctx context.Context, s Sight, q query.Query, by []query.Grouping,
		totals []query.Total) ([]query.Piece, error)
	Steps(ctx context.Context, s Sight, object string, steps []query.Step) ([]int64, error)
	Holding(ctx context.Context, s Sight, h query.Holding) (query.Held, bool, error)
	Written(s Sight, q query.Query) (string, error)
	// Prove answers which predicates hold of a record; nothing when there is no such record.
	Prove(ctx context.Context, s Sight, p query.Proof) ([]bool, error)
	// Review gives the records that break something.
	Review(ctx context.Context, s Sight, r query.Review) ([]Broken, error)
	// Matched counts the records a condition on related records matches, and how many different
	// records those point at.
	Matched(ctx context.Context, s Sight, p predicate.HasRelated, edited *query.Edited) (matched, distinct int64,
		err error)
}

// Unit is one unit of work in a space: what is asked and written in it happened together or not at all,
// which its owner decides. It asks nobody for rights and keeps to no rule of the builder's but those
// that the tables have: that is for a Repository. What the tables refuse is a *ProblemsError.
type Unit interface {
	Asked
	// Sign says to the history through what the records that follow are written.
	Sign(ctx context.Context, cause map[string]string) error
	// Lock keeps records from being changed by others until the unit ends.
	Lock(ctx context.Context, object string, keys []int64) error
	// Insert signs and writes records with one statement and gives their keys in order.
	Insert(ctx context.Context, a Addition) ([]int64, error)
	// InsertEach writes a record for each of a query with one statement and gives their keys in order.
	InsertEach(ctx context.Context, s Sight, i query.Insertion) ([]int64, error)
	// Update writes fields of records with one statement.
	Update(ctx context.Context, c Changing) error
	// UpdateAll writes fields of the records of a query with one statement and gives their keys.
	UpdateAll(ctx context.Context, s Sight, c query.Change) ([]int64, error)
	// Delete takes records away. Those that others refer to stay.
	Delete(ctx context.Context, o *model.Object, keys []int64) error
	// KeepFiles notes that records took up files.
	KeepFiles(ctx context.Context, files []int64) error
	// Tell tells people something and gives the names of those who are told.
	Tell(ctx context.Context, n Notice) ([]string, error)
	// Try does something and takes back what it wrote when it fails.
	Try(ctx context.Context, do func() error) error
}

// Broken is a record that breaks something, and which of what was asked holds of it.
type Broken struct {
	ID    int64
	Holds []bool
}

// Addition is records to be added: a row of values for each, in the order of Fields.
type Addition struct {
	Object *model.Object
	// Cause is told to the history.
	Cause  map[string]string
	Fields []*model.Field
	Rows   [][]value.Value
}

// Changing is records to be changed: a row of values for each key, in the order of Fields.
type Changing struct {
	Object *model.Object
	Keys   []int64
	Fields []*model.Field
	Rows   [][]value.Value
}
