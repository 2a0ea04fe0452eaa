package memory

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

type refusal string

func (r refusal) Error() string   { return "refused: " + string(r) }
func (r refusal) Refused() string { return string(r) }

// Now is what the clock says.
func (s *Store) Now() time.Time { return s.Clock }

// Add keeps records, and notes what was written.
func (s *Store) Add(_ context.Context, step string, a records.Addition) ([]int64, error) {
	if s.Refuses != "" {
		return nil, refusal(s.Refuses)
	}
	var keys []int64
	for _, row := range a.Rows {
		fields := map[string]value.Value{}
		text := []string{step}
		for i, f := range a.Fields {
			fields[f.Key] = row[i]
			text = append(text, f.Key+"="+value.Display(row[i]))
		}
		slices.Sort(text[1:])
		s.Wrote = append(s.Wrote, strings.Join(text, " "))
		key := int64(100 + len(s.Wrote))
		s.Put(a.Object.Key, key, "visit", fields)
		keys = append(keys, key)
	}
	return keys, nil
}

// Tell notes what was told.
func (s *Store) Tell(_ context.Context, n records.Notice) ([]string, error) {
	s.Told = append(s.Told, n)
	return []string{"Dana"}, nil
}

// Try takes back the records that were added, and what is noted of them.
func (s *Store) Try(_ context.Context, do func() error) error {
	before, wrote := maps.Clone(s.Records), slices.Clone(s.Wrote)
	err := do()
	if err != nil {
		s.Records, s.Wrote = before, wrote
	}
	return err
}

// AddEach adds one for each record there is of the object that is gone through.
func (s *Store) AddEach(ctx context.Context, step string, i query.Insertion) ([]int64, error) {
	a := records.Addition{Object: i.Object}
	for _, set := range i.Sets {
		a.Fields = append(a.Fields, set.Field)
	}
	for _, rec := range s.Records[i.Query.Object] {
		values := maps.Clone(i.Values)
		values[i.Item] = rec
		var row []value.Value
		for _, set := range i.Sets {
			v := set.Value
			if set.Program != nil {
				v, _ = set.Program.Eval(values)
			}
			row = append(row, v)
		}
		a.Rows = append(a.Rows, row)
	}
	return s.Add(ctx, step, a)
}

// ChangeAll sets the values that are the same for all, of all records there are.
func (s *Store) ChangeAll(_ context.Context, step string, c query.Change) ([]int64, error) {
	if s.Refuses != "" {
		return nil, refusal(s.Refuses)
	}
	var keys []int64
	for _, rec := range s.Records[c.Query.Object] {
		for _, set := range c.Sets {
			rec.Fields[set.Field.Key] = set.Value
		}
		keys = append(keys, rec.ID)
	}
	s.Wrote = append(s.Wrote, fmt.Sprintf("%s changed %d", step, len(keys)))
	return keys, nil
}

// RemoveAll removes all records there are.
func (s *Store) RemoveAll(_ context.Context, step string, q query.Query) (int64, error) {
	n := len(s.Records[q.Object])
	delete(s.Records, q.Object)
	s.Wrote = append(s.Wrote, fmt.Sprintf("%s removed %d", step, n))
	return int64(n), nil
}
