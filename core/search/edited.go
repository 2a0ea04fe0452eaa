package search

import (
	"strings"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// Edited is a record being edited: its values as they are to be, stored or not.
type Edited struct {
	Object string
	Values map[string]value.Value
}

// edit makes a record being edited a row that conditions can look at like any other.
func (w *writer) edit(e Edited) {
	o := w.space.Model.Object(e.Object)
	columns := []string{"NULL::bigint AS id"}
	for i := range o.Fields {
		f := &o.Fields[i]
		if f.Type == model.WorkedOut {
			continue
		}
		v := e.Values[f.Key]
		if m, ok := v.(value.Money); ok {
			columns = append(columns, w.arg(m.Amount.String(), "numeric")+" AS "+Column(f), w.arg(m.Currency, "text")+" AS "+CurrencyColumn(f))
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

// Review asks which records break what must hold of them. It looks at stored records
// whoever asks, so what it answers is for whoever wrote them.
type Review struct {
	Object string
	// Keys are the records to look at; nil means all.
	Keys []int64
	// Holds are predicates about the record.
	Holds []predicate.Predicate
	// Candidates are rules of references, bound with predicate.Edited.
	Candidates []Candidates
	Limit      int
}

// Candidates are the records a reference field may point at.
type Candidates struct {
	Field *model.Field
	Where predicate.Predicate
}

// Compile writes the review as SQL that gives, for each record that breaks something,
// its key and whether each of Holds and then of Candidates holds.
func (r Review) Compile(space Space) (string, []any, error) {
	w := &writer{space: space}
	s := w.source(r.Object)
	w.edited = s
	var terms []string
	for _, h := range r.Holds {
		sql, err := s.where(h, false)
		if err != nil {
			return "", nil, err
		}
		terms = append(terms, sql)
	}
	for _, c := range r.Candidates {
		sql, err := s.candidate(c)
		if err != nil {
			return "", nil, err
		}
		terms = append(terms, sql)
	}
	where := "NOT (" + strings.Join(terms, " AND ") + ")"
	if r.Keys != nil {
		keys := w.arg(r.Keys, "bigint[]")
		s.among(keys)
		where = s.alias + ".id = ANY(" + keys + ") AND " + where
	}
	sql := "SELECT " + s.alias + ".id, ARRAY[" + strings.Join(terms, ", ") + "] FROM " + s.from() + " WHERE " + where + " ORDER BY 1"
	if r.Limit > 0 {
		sql += " LIMIT " + w.arg(r.Limit, "bigint")
	}
	sql, args := w.finish(sql)
	return sql, args, nil
}

func (s *source) candidate(c Candidates) (string, error) {
	target := s.w.source(c.Field.Target())
	where, err := target.where(c.Where, false)
	if err != nil {
		return "", err
	}
	column := s.alias + "." + Column(c.Field)
	target.of(column)
	return "(" + column + " IS NULL OR EXISTS (SELECT 1 FROM " + target.from() + " WHERE " + target.alias + ".id = " + column + " AND " + where + "))", nil
}

// Proof asks which of several predicates hold of one record.
type Proof struct {
	Object string
	Key    int64
	Tests  []predicate.Predicate
	Edited *Edited
}

// Compile writes the proof as SQL that gives an array of answers, in order.
func (p Proof) Compile(space Space) (string, []any, error) {
	w := &writer{space: space}
	s := w.source(p.Object)
	if p.Edited != nil {
		w.edit(*p.Edited)
	}
	terms := make([]string, len(p.Tests))
	for i, t := range p.Tests {
		var err error
		if terms[i], err = s.where(t, false); err != nil {
			return "", nil, err
		}
	}
	key := w.arg(p.Key, "bigint")
	s.of(key)
	sql, args := w.finish("SELECT to_jsonb(ARRAY[" + strings.Join(terms, ", ") + "]::boolean[]) FROM " + w.from(s) + " WHERE " + s.alias + ".id = " + key)
	return sql, args, nil
}

// CompileRelated writes SQL that counts the records a condition on related records
// matches, and how many different records those point at.
func CompileRelated(space Space, p predicate.HasRelated, edited *Edited) (string, []any, error) {
	w := &writer{space: space}
	s := w.source(p.Object)
	if edited != nil {
		w.edit(*edited)
	}
	where, err := s.where(p.Where, false)
	if err != nil {
		return "", nil, err
	}
	sql, args := w.finish("SELECT count(*) AS matched, count(DISTINCT " + s.alias + "." + Column(p.Via) + ") AS distinct FROM " + w.from(s) + " WHERE " + where)
	return sql, args, nil
}
