package sqlgen

import (
	"strings"

	"plainpath/core/query"
)

// Steps counts, in one go through the records of an object, all of them and those that are left
// after each condition in turn. It gives one array of numbers, one more than there are conditions.
func Steps(space Space, object string, steps []query.Step) (Statement, error) {
	w := &writer{space: space}
	s := w.source(object)
	terms, err := s.steps(steps)
	if err != nil {
		return Statement{}, err
	}
	counts := []string{"count(*)"}
	for i := range terms {
		counts = append(counts, "count(*) FILTER (WHERE "+strings.Join(terms[:i+1], " AND ")+")")
	}
	return w.finish("SELECT to_jsonb(ARRAY[" + strings.Join(counts, ", ") + "]) FROM " + s.from()), nil
}

func (s *source) steps(steps []query.Step) ([]string, error) {
	terms := make([]string, len(steps))
	for i, step := range steps {
		sql, err := s.where(step.Where, step.Visible)
		if err != nil {
			return nil, err
		}
		terms[i] = "(" + sql + ")"
	}
	return terms, nil
}

// Holding gives one row of two arrays, as JSON: whether each condition holds, and the values as texts.
func Holding(space Space, h query.Holding) (Statement, error) {
	w := &writer{space: space}
	s := w.source(h.Object)
	if h.Edited != nil {
		w.edit(*h.Edited)
	}
	holds, err := s.steps(h.Steps)
	if err != nil {
		return Statement{}, err
	}
	for i := range holds {
		holds[i] += " IS TRUE"
	}
	saw := make([]string, len(h.Saw))
	for i, p := range h.Saw {
		if saw[i], err = s.text(p); err != nil {
			return Statement{}, err
		}
		saw[i] = "coalesce(" + saw[i] + ", '')"
	}
	at := w.arg(h.Key, "bigint")
	s.of(at)
	return w.finish("SELECT to_jsonb(ARRAY[" + strings.Join(holds, ", ") + "]::boolean[]) AS holds, to_jsonb(ARRAY[" +
		strings.Join(saw, ", ") +
		"]::text[]) AS saw FROM " + w.from(s) + " WHERE " + s.alias + ".id = " + at), nil
}
