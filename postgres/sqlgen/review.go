package sqlgen

import (
	"strings"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// edit makes a record being edited a row that conditions can look at like any other.
func (w *writer) edit(e query.Edited) {
	o := w.space.Model.Object(e.Object)
	columns := []string{"NULL::bigint AS id"}
	for i := range o.Fields {
		f := &o.Fields[i]
		if f.Type == model.WorkedOut {
			continue
		}
		v := e.Values[f.Key]
		if m, ok := v.(value.Money); ok {
			columns = append(columns, w.arg(m.Amount.String(), "numeric")+" AS "+Column(f),
				w.arg(m.Currency, "text")+" AS "+CurrencyColumn(f))
			continue
		}
		if f.Kind() == value.KindMoney {
			columns = append(columns, "NULL::text AS "+CurrencyColumn(f))
		}
		columns = append(columns, w.arg(Argument(v), sent(f.Kind()))+" AS "+Column(f))
	}
	w.edited = w.source(e.Object)
	w.edited.table = "(SELECT " + strings.Join(columns, ", ") + ")"
}

// from is what a statement reads from: its source, beside the record being edited.
func (w *writer) from(s *source) string {
	if w.edited == nil || w.edited == s {
		return s.from()
	}
	return s.from() + " CROSS JOIN " + w.edited.from()
}

// Review gives, for each record that breaks something, its key and whether each of Holds and then
// of Candidates holds.
func Review(space Space, r query.Review) (Statement, error) {
	w := &writer{space: space}
	s := w.source(r.Object)
	w.edited = s
	var terms []string
	for _, h := range r.Holds {
		sql, err := s.where(h, false)
		if err != nil {
			return Statement{}, err
		}
		terms = append(terms, sql)
	}
	for _, c := range r.Candidates {
		sql, err := s.candidate(c)
		if err != nil {
			return Statement{}, err
		}
		terms = append(terms, sql)
	}
	where := "NOT (" + strings.Join(terms, " AND ") + ")"
	if r.Keys != nil {
		keys := w.arg(r.Keys, "bigint[]")
		s.among(keys)
		where = s.alias + ".id = ANY(" + keys + ") AND " + where
	}
	sql := "SELECT " + s.alias + ".id, ARRAY[" + strings.Join(terms, ", ") + "] FROM " + s.from() + " WHERE " + where +
		" ORDER BY 1"
	if r.Limit > 0 {
		sql += " LIMIT " + w.arg(r.Limit, "bigint")
	}
	return w.finish(sql), nil
}

func (s *source) candidate(c query.Candidates) (string, error) {
	target := s.w.source(c.Field.Target())
	where, err := target.where(c.Where, false)
	if err != nil {
		return "", err
	}
	column := s.alias + "." + Column(c.Field)
	target.of(column)
	return "(" + column + " IS NULL OR EXISTS (SELECT 1 FROM " + target.from() + " WHERE " + target.alias + ".id = " +
		column + " AND " + where + "))", nil
}

// Proof gives an array of answers, in order, as JSON.
func Proof(space Space, p query.Proof) (Statement, error) {
	w := &writer{space: space}
	s := w.source(p.Object)
	if p.Edited != nil {
		w.edit(*p.Edited)
	}
	terms := make([]string, len(p.Tests))
	for i, t := range p.Tests {
		var err error
		if terms[i], err = s.where(t, false); err != nil {
			return Statement{}, err
		}
	}
	key := w.arg(p.Key, "bigint")
	s.of(key)
	return w.finish("SELECT to_jsonb(ARRAY[" + strings.Join(terms, ", ") + "]::boolean[]) FROM " + w.from(s) +
		" WHERE " + s.alias + ".id = " + key), nil
}

// Related counts the records a condition on related records matches, and how many different records
// those point at.
func Related(space Space, p predicate.HasRelated, edited *query.Edited) (Statement, error) {
	w := &writer{space: space}
	s := w.source(p.Object)
	if edited != nil {
		w.edit(*edited)
	}
	where, err := s.where(p.Where, false)
	if err != nil {
		return Statement{}, err
	}
	return w.finish("SELECT count(*) AS matched, count(DISTINCT " + s.alias + "." + Column(p.Via) +
		") AS distinct FROM " + w.from(s) + " WHERE " + where), nil
}
