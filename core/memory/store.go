// Package memory has records in memory for tests: what a reader is asked for is remembered,
// and answered with the same records whatever the conditions are.
package memory

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Role is the role that may see and change everything on a memory.
const Role = "all"

// Store reads records of every object from memory.
type Store struct {
	// Records are those of each object.
	Records map[string][]*value.Record
	// Pieces, Left and Held are what is answered where groups, steps and a record are asked about.
	Pieces []query.Piece
	Left   []int64
	Held   query.Held
	// Clock is the time it is.
	Clock time.Time
	// Refuses is why nothing may be written, "" when all may.
	Refuses string
	// Wrote says what was written, one text for each record added or set changed.
	Wrote []string
	// Told is what people were told.
	Told []records.Notice
	// Asked is what was asked for, in words that begin with the object, the latest last.
	Asked  []string
	model  *model.Model
	policy *access.Policy
}

// New is an empty store for a model, for a person who may see and change everything.
func New(t testing.TB, m *model.Model) *Store {
	t.Helper()
	rights := map[string]access.Right{}
	for _, key := range m.Keys() {
		rights[key] = access.Right{See: true, Add: true, Change: true}
	}
	policy, check := access.Compile(m, "", []access.Role{{Key: Role, Label: "All", Objects: rights}})
	if len(check.Findings()) > 0 {
		t.Fatal(check.Findings())
	}
	return &Store{Records: map[string][]*value.Record{}, model: m, policy: policy}
}

// Put puts a record on the memory.
func (s *Store) Put(object string, id int64, label string, fields map[string]value.Value) *value.Record {
	r := &value.Record{Object: object, ID: id, Label: label, Fields: fields}
	s.Records[object] = append(s.Records[object], r)
	return r
}

// Read gives the objects that were read since it was called last, each once, by name.
func (s *Store) Read() string {
	var out []string
	for _, asked := range s.Asked {
		if object, _, _ := strings.Cut(asked, " "); !slices.Contains(out, object) {
			out = append(out, object)
		}
	}
	s.Asked = nil
	slices.Sort(out)
	return strings.Join(out, " ")
}

func (s *Store) asked(q query.Query) []*value.Record {
	written, _ := s.Written(q)
	s.Asked = append(s.Asked, written)
	found := s.Records[q.Object]
	for _, p := range query.Split(q.Where) { // of the conditions keys alone are held
		if keys, ok := p.(predicate.Keys); ok {
			found = slices.DeleteFunc(slices.Clone(found),
				func(r *value.Record) bool { return !slices.Contains(keys, r.ID) })
		}
	}
	return found
}

// Written is a query in words: its object, conditions, order and columns.
func (s *Store) Written(q query.Query) (string, error) {
	out := []string{q.Object}
	for _, p := range slices.Concat(query.Split(q.Where), query.Split(q.Filter)) {
		out = append(out, "where "+predicate.Words(p))
	}
	for _, o := range q.Order {
		out = append(out, fmt.Sprintf("by %s desc %t", o.Path, o.Desc))
	}
	for _, c := range q.Columns {
		out = append(out, "read "+c.String())
	}
	return strings.Join(out, " "), nil
}

// Model is what the records are.
func (s *Store) Model() *model.Model { return s.model }

// Grant is the right to everything.
func (s *Store) Grant(object string) (access.Grant, error) {
	return s.policy.Grant(s.model, s.Person(), object, expr.Values{})
}

// WorkedOut knows of no field that is worked out.
func (s *Store) WorkedOut(string, string) (query.WorkedOut, bool) { return query.WorkedOut{}, false }

// Select gives all records of the object that is asked for.
func (s *Store) Select(_ context.Context, q query.Query) (records.Page, error) {
	if q.Waits() {
		return records.Page{}, nil
	}
	found := slices.Clone(s.asked(q))
	return records.Page{Records: found, Reads: []string{q.Object}, After: func(i int) (query.Cursor, error) {
		return query.Cursor{[]byte(strconv.FormatInt(found[i].ID, 10))}, nil
	}}, nil
}

// Count counts them.
func (s *Store) Count(_ context.Context, q query.Query) (int64, error) {
	if q.Waits() {
		return 0, nil
	}
	return int64(len(s.asked(q))), nil
}

// Groups are the pieces that were put down.
func (s *Store) Groups(_ context.Context, q query.Query, _ []query.Grouping, _ []query.Total) ([]query.Piece, error) {
	s.asked(q)
	return s.Pieces, nil
}

// Steps are the numbers that were put down.
func (s *Store) Steps(_ context.Context, object string, _ []query.Step) ([]int64, error) {
	s.asked(query.Query{Object: object})
	return s.Left, nil
}

// Holding is what was put down.
func (s *Store) Holding(_ context.Context, h query.Holding) (query.Held, bool, error) {
	s.asked(query.Query{Object: h.Object})
	return s.Held, len(s.Held.Holds) > 0, nil
}

// Person is Dana.
func (s *Store) Person() access.Person { return access.Person{Name: "Dana", Roles: []string{Role}} }

// Base knows nothing.
func (s *Store) Base() expr.Values { return expr.Values{} }

// Zone is that of UTC.
func (s *Store) Zone() *time.Location { return time.UTC }
