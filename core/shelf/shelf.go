// Package shelf has records in memory for tests: what a reader is asked for is remembered,
// and answered with the same records whatever the conditions are.
package shelf

import (
	"context"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/search"
	"plainpath/core/value"
)

// Role is the role that may see and change everything on a shelf.
const Role = "all"

// Shelf reads records of every object from memory.
type Shelf struct {
	// Records are those of each object.
	Records map[string][]*value.Record
	// Answers are the rows of figures that are given in turn.
	Answers [][]any
	// Clock is the time it is.
	Clock time.Time
	// Refuses is why nothing may be written, "" when all may.
	Refuses string
	// Written says what was written, one text for each record added or set changed.
	Written []string
	// Asked are the statements that were to be sent, the latest last.
	Asked []string
	space search.Space
}

// New is an empty shelf for a model, for a person who may see and change everything.
func New(t testing.TB, m *model.Model) *Shelf {
	t.Helper()
	rights := map[string]access.Right{}
	for _, key := range m.Keys() {
		rights[key] = access.Right{See: true, Add: true, Change: true}
	}
	policy, problems := access.Compile(m, "", []access.Role{{Key: Role, Label: "All", Objects: rights}})
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	s := &Shelf{Records: map[string][]*value.Record{}}
	s.space = search.Space{Model: m, Schema: "sp", Grant: func(object string) (access.Grant, error) {
		return policy.Grant(m, s.Person(), object, expr.Values{})
	}}
	return s
}

// Put puts a record on the shelf.
func (s *Shelf) Put(object string, id int64, label string, fields map[string]value.Value) *value.Record {
	r := &value.Record{Object: object, ID: id, Label: label, Fields: fields}
	s.Records[object] = append(s.Records[object], r)
	return r
}

// Read gives the objects that were read since it was called last, each once, by name.
func (s *Shelf) Read() string {
	var out []string
	for _, sql := range s.Asked {
		if object := from.FindStringSubmatch(sql)[1]; !slices.Contains(out, object) {
			out = append(out, object)
		}
	}
	s.Asked = nil
	slices.Sort(out)
	return strings.Join(out, " ")
}

var from = regexp.MustCompile(`FROM "sp"\."([a-z_]+)"`)

func (s *Shelf) of(sql string) []*value.Record {
	s.Asked = append(s.Asked, sql)
	return s.Records[from.FindStringSubmatch(sql)[1]]
}

// Space is the model and what may be done with it.
func (s *Shelf) Space() search.Space { return s.space }

// Select gives all records of the object that is asked for.
func (s *Shelf) Select(_ context.Context, q *search.Select) ([]*value.Record, []search.Place, error) {
	found := s.of(q.SQL)
	return slices.Clone(found), make([]search.Place, len(found)), nil
}

// Count counts them.
func (s *Shelf) Count(_ context.Context, sql string, _ []any) (int64, error) {
	return int64(len(s.of(sql))), nil
}

// Rows gives the next of the answers, each the only row, or none when there are none left.
func (s *Shelf) Rows(_ context.Context, sql string, _ []any) ([][]any, error) {
	s.of(sql)
	if len(s.Answers) == 0 {
		return nil, nil
	}
	next := s.Answers[0]
	s.Answers = s.Answers[1:]
	return [][]any{next}, nil
}

// Person is Dana.
func (s *Shelf) Person() access.Person { return access.Person{Name: "Dana", Roles: []string{Role}} }

// Base knows nothing.
func (s *Shelf) Base() expr.Values { return expr.Values{} }

// Zone is that of UTC.
func (s *Shelf) Zone() *time.Location { return time.UTC }
