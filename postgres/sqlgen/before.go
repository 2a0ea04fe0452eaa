package sqlgen

import (
	"fmt"

	"plainpath/core/query"
)

// before is the records of an object as they were before they were changed or removed.
func (w *writer) before(c query.Changes, object string) string {
	return fmt.Sprintf("(SELECT (jsonb_populate_record(NULL::%s, h.before)).* FROM %s.history h WHERE h.object = plainpath.history_name(%s) AND h.before IS NOT NULL AND h.id BETWEEN %s AND %s)",
		w.space.Table(object), Quote(w.space.Schema), w.arg(w.space.Table(object), "regclass"),
		w.arg(c.First, "bigint"), w.arg(c.Last, "bigint"))
}

// changed is the condition that a record was among changes.
func (s *source) changed(c query.Changes) string {
	return fmt.Sprintf("%s.id IN (SELECT h.record FROM %s.history h WHERE h.object = plainpath.history_name(%s) AND h.id BETWEEN %s AND %s)", s.alias, Quote(s.w.space.Schema),
		s.w.arg(s.w.space.Table(s.object), "regclass"), s.w.arg(c.First, "bigint"), s.w.arg(c.Last, "bigint"))
}
