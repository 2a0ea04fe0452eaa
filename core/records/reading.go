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
	"plainpath/core/search"
	"plainpath/core/value"
)

// Reader reads records for a person.
type Reader interface {
	Space() search.Space
	// Select reads the records of a query, with the place behind each.
	Select(ctx context.Context, s *search.Select) ([]*value.Record, []search.Place, error)
	// Count runs SQL that gives one number.
	Count(ctx context.Context, sql string, args []any) (int64, error)
	// Rows runs SQL and gives its rows as they come.
	Rows(ctx context.Context, sql string, args []any) ([][]any, error)
	Person() access.Person
	// Base is what conditions may know besides records: the person, today and now.
	Base() expr.Values
	// Zone is the time zone of the house.
	Zone() *time.Location
}

// mostRead is how many records of a list an expression or a repeat may read at once.
const mostRead = 10_000

// Listed is the list a search gives: not the records but how to get at them.
type Listed struct {
	Context context.Context
	Reader  Reader
	Query   search.Query
}

// Count counts the records.
func (l *Listed) Count() (int64, error) { return Count(l.Context, l.Reader, l.Query) }

// First reads the first record.
func (l *Listed) First() (*value.Record, error) {
	q := l.Query
	q.Limit = 1
	records, _, err := Select(l.Context, l.Reader, q)
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
	records, _, err := Select(l.Context, l.Reader, q)
	if err == nil && len(records) > mostRead {
		err = fmt.Errorf("the list has more than %d records; narrow the search", mostRead)
	}
	return records, err
}

// Select compiles and runs a query. One that waits for something is not sent: it has no
// records.
func Select(ctx context.Context, r Reader, q search.Query) ([]*value.Record, []search.Place, error) {
	s, err := q.Compile(r.Space())
	if err != nil || Waits(q) {
		return nil, nil, err
	}
	return r.Select(ctx, s)
}

// Waits says whether a query waits for something that is not known yet: it has no records.
func Waits(q search.Query) bool { return predicate.Never(q.Where) || predicate.Never(q.Filter) }

// Count counts the records of a query, its limit included.
func Count(ctx context.Context, r Reader, q search.Query) (int64, error) {
	sql, args, err := q.CompileCount(r.Space())
	if err != nil || Waits(q) {
		return 0, err
	}
	n, err := r.Count(ctx, sql, args)
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
	records, _, err := Select(ctx, r, search.Query{Object: object, Where: predicate.Keys(keys), Columns: columns})
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
func QueryOf(l *value.List) (search.Query, error) {
	if listed, ok := l.Source.(*Listed); ok {
		return listed.Query, nil
	}
	records, err := l.Source.All()
	if err != nil {
		return search.Query{}, err
	}
	keys := make(predicate.Keys, len(records))
	for i, r := range records {
		keys[i] = r.ID
	}
	return search.Query{Object: l.Object, Where: keys}, nil
}

// Keys gives the keys of the records of a query.
func Keys(ctx context.Context, r Reader, q search.Query) ([]int64, error) {
	found, _, err := Select(ctx, r, q)
	out := make([]int64, len(found))
	for i, rec := range found {
		out[i] = rec.ID
	}
	return out, err
}
