// Package records is how records are read and written for a person: in sets, under their rights,
// within one unit that its owner commits or takes back.
package records

import (
	"context"
	"fmt"
	"slices"
	"time"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Sight is what a person may see and do.
type Sight interface {
	Model() *model.Model
	// Grant is what the person may do with an object.
	Grant(object string) (access.Grant, error)
	// WorkedOut is how a field is worked out, false for one that is not.
	WorkedOut(object, field string) (query.WorkedOut, bool)
}

// Reader reads records for a person, under their rights.
type Reader interface {
	Sight
	// Select reads the records of a query. One that waits for something is not sent: it has none.
	Select(ctx context.Context, q query.Query) (Page, error)
	// Count counts the records of a query, order and limit aside. One that waits has none.
	Count(ctx context.Context, q query.Query) (int64, error)
	// Groups counts the records of a query and makes totals, by groups in groups, or over all without one.
	Groups(ctx context.Context, q query.Query, by []query.Grouping, totals []query.Total) ([]query.Piece, error)
	// Steps counts all records of an object, and how many are left after each condition in turn.
	Steps(ctx context.Context, object string, steps []query.Step) ([]int64, error)
	// Holding is what is so of a record, false where there is no such record.
	Holding(ctx context.Context, h query.Holding) (query.Held, bool, error)
	// Written is a query in the language of the database, for those who build.
	Written(q query.Query) (string, error)
	Person() access.Person
	// Base is what conditions may know besides records: the person, today and now.
	Base() expr.Values
	// Zone is the time zone of the house.
	Zone() *time.Location
}

// Page is the records that were read of a list.
type Page struct {
	Records []*value.Record
	// After is the place behind a record of the page, by its number.
	After func(i int) (query.Cursor, error)
	// Reads are the objects whose records were looked at.
	Reads []string
}

// mostRead is how many records of a list an expression or a repeat may read at once.
const mostRead = 10_000

// Listed is the list a search gives: not the records but how to get at them.
type Listed struct {
	Context context.Context
	Reader  Reader
	Query   query.Query
}

// Count counts the records.
func (l *Listed) Count() (int64, error) { return Count(l.Context, l.Reader, l.Query) }

// First reads the first record.
func (l *Listed) First() (*value.Record, error) {
	q := l.Query
	q.Limit = 1
	records, err := Select(l.Context, l.Reader, q)
	if err != nil || len(records) == 0 {
		return nil, err
	}
	return records[0], nil
}

// All reads every record.
func (l *Listed) All() ([]*value.Record, error) {
	q := l.Query
	if q.Limit == 0 || q.Limit > mostRead {
		q.Limit = mostRead + 1
	}
	records, err := Select(l.Context, l.Reader, q)
	if err == nil && len(records) > mostRead {
		err = fmt.Errorf("the list has more than %d records; narrow the search", mostRead)
	}
	return records, err
}

// Select reads the records of a query.
func Select(ctx context.Context, r Reader, q query.Query) ([]*value.Record, error) {
	page, err := r.Select(ctx, q)
	return page.Records, err
}

// Count counts the records of a query, its limit included.
func Count(ctx context.Context, r Reader, q query.Query) (int64, error) {
	n, err := r.Count(ctx, q)
	if q.Limit > 0 && n > int64(q.Limit) {
		n = int64(q.Limit)
	}
	return n, err
}

// ByKey reads records by key, as far as the person may see them.
func ByKey(ctx context.Context, r Reader, object string, keys []int64, columns []model.Path) ([]*value.Record, error) {
	if len(keys) == 0 {
		return nil, nil
	}
	records, err := Select(ctx, r, query.Query{Object: object, Where: predicate.Keys(keys), Columns: columns})
	return InOrder(records, keys), err
}

// InOrder puts records in the order of their keys, which is the one they were chosen
// or added in.
func InOrder(records []*value.Record, keys []int64) []*value.Record {
	place := make(map[int64]int, len(keys))
	for i, k := range keys {
		place[k] = i
	}
	slices.SortFunc(records, func(a, b *value.Record) int { return place[a.ID] - place[b.ID] })
	return records
}

// QueryOf is the query behind a list.
func QueryOf(l *value.List) (query.Query, error) {
	switch from := l.Source.(type) {
	case *Listed:
		return from.Query, nil
	case *fresh:
		return query.Query{Object: l.Object, Where: predicate.Keys(from.keys)}, nil
	}
	records, err := l.Source.All()
	if err != nil {
		return query.Query{}, err
	}
	keys := make(predicate.Keys, len(records))
	for i, r := range records {
		keys[i] = r.ID
	}
	return query.Query{Object: l.Object, Where: keys}, nil
}

// Keys gives the keys of the records of a query.
func Keys(ctx context.Context, r Reader, q query.Query) ([]int64, error) {
	q.Columns, q.Bare = nil, true
	found, err := Select(ctx, r, q)
	out := make([]int64, len(found))
	for i, rec := range found {
		out[i] = rec.ID
	}
	return out, err
}
