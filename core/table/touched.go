package table

import (
	"context"

	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Touched are records of an object that changed.
type Touched struct {
	Object string  `json:"object"`
	Keys   []int64 `json:"keys"`
	// Shown are the rows that somebody has before them.
	Shown []int64 `json:"shown"`
}

// Concerns says whether a change has to do with what somebody shows of the list: a row that is
// shown, one that belongs there now, or one that a row is looked at through. Of objects whose
// records are counted, added up or asked about another way it is always so.
func (l *Listing) Concerns(ctx context.Context, r records.Reader, look Look, t Touched) (bool, error) {
	look.After, look.Within = "", nil
	v, err := l.look(r, look)
	if err != nil {
		return false, err
	}
	q := v.query
	q.Order, q.Columns, q.Limit = nil, nil, 1
	matches := orTrue(q.Where)
	if t.Object == q.Object {
		q.Where = predicate.All{matches, predicate.Keys(t.Keys)}
		if found, err := records.Select(ctx, r, q); err != nil || len(found) > 0 {
			return err == nil, err
		}
	}
	sees := v.sees(r, l.marks)
	if sees.all || sees.others[t.Object] {
		return true, nil
	}
	through := sees.through(t.Object)
	if len(through) == 0 {
		return false, nil
	}
	keys := make([]value.Value, len(t.Keys))
	for i, k := range t.Keys {
		keys[i] = &value.Record{Object: t.Object, ID: k}
	}
	var reaches predicate.Any
	for _, path := range through {
		reaches = append(reaches, predicate.Test{Path: path, Op: predicate.OneOf, Values: keys})
	}
	q = query.Query{Object: q.Object, Where: predicate.All{reaches, predicate.Any{predicate.Keys(t.Shown), matches}},
		Limit: 1}
	found, err := records.Select(ctx, r, q)
	return len(found) > 0, err
}
