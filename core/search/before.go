package search

import (
	"fmt"
	"strings"
)

// Changes are those between two places in the history of a space, both included.
type Changes struct{ First, Last int64 }

// table is the records of an object as they were before they were changed or removed.
func (c Changes) table(w *writer, object string) string {
	return fmt.Sprintf("(SELECT (jsonb_populate_record(NULL::%s, h.before)).* FROM %s.history h WHERE h.object = plainpath.history_name(%s) AND h.before IS NOT NULL AND h.id BETWEEN %s AND %s)",
		w.space.Table(object), Quote(w.space.Schema), w.arg(w.space.Table(object), "regclass"), w.arg(c.First, "bigint"), w.arg(c.Last, "bigint"))
}

// changed is the condition that a record was among them.
func (c Changes) changed(s *source) string {
	return fmt.Sprintf("%s.id IN (SELECT h.record FROM %s.history h WHERE h.object = plainpath.history_name(%s) AND h.id BETWEEN %s AND %s)", s.alias, Quote(s.w.space.Schema),
		s.w.arg(s.w.space.Table(s.object), "regclass"), s.w.arg(c.First, "bigint"), s.w.arg(c.Last, "bigint"))
}

// Reads are the objects whose records a statement looks at.
func (s *Select) Reads(space Space) []string {
	var out []string
	for _, key := range space.Model.Keys() {
		if strings.Contains(s.SQL, space.Table(key)+" ") {
			out = append(out, key)
		}
	}
	return out
}
