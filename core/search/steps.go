package search

import (
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
)

// Step is one condition of a list. What a person asks is seen: it reaches only what they
// may see.
type Step struct {
	Where predicate.Predicate
	Seen  bool
}

// CompileSteps writes SQL that counts, in one go through the records of an object, all of
// them and those that are left after each condition in turn. It gives one row of numbers,
// one more than there are conditions.
func CompileSteps(space Space, object string, steps []Step) (string, []any, error) {
	w := &writer{space: space}
	s := w.source(object)
	terms, err := s.steps(steps)
	if err != nil {
		return "", nil, err
	}
	counts := []string{"count(*)"}
	for i := range terms {
		counts = append(counts, "count(*) FILTER (WHERE "+strings.Join(terms[:i+1], " AND ")+")")
	}
	sql, args := w.finish("SELECT " + strings.Join(counts, ", ") + " FROM " + s.from())
	return sql, args, nil
}

func (s *source) steps(steps []Step) ([]string, error) {
	terms := make([]string, len(steps))
	for i, step := range steps {
		sql, err := s.where(step.Where, step.Seen)
		if err != nil {
			return nil, err
		}
		terms[i] = "(" + sql + ")"
	}
	return terms, nil
}

// CompileHolds writes SQL that says of one record which conditions hold, and gives the
// values of paths as text, as the person may see them: one row of yes and no, then texts. The
// conditions may look at a record being edited.
func CompileHolds(space Space, object string, key int64, steps []Step, saw []model.Path, edited *Edited) (string, []any, error) {
	w := &writer{space: space}
	s := w.source(object)
	if edited != nil {
		w.edit(*edited)
	}
	terms, err := s.steps(steps)
	if err != nil {
		return "", nil, err
	}
	for i := range terms {
		terms[i] += " IS TRUE"
	}
	for _, p := range saw {
		text, err := s.text(p)
		if err != nil {
			return "", nil, err
		}
		terms = append(terms, text)
	}
	if len(terms) == 0 {
		terms = []string{"1"}
	}
	at := w.arg(key, "bigint")
	s.of(at)
	sql, args := w.finish("SELECT " + strings.Join(terms, ", ") + " FROM " + w.from(s) + " WHERE " + s.alias + ".id = " + at)
	return sql, args, nil
}

// Paths are the paths from the record that a predicate looks at.
func Paths(space Space, object string, p predicate.Predicate) []model.Path {
	switch x := p.(type) {
	case predicate.All:
		return pathsOf(space, object, x)
	case predicate.Any:
		return pathsOf(space, object, x)
	case predicate.Not:
		return Paths(space, object, x.Of)
	case predicate.Test:
		return []model.Path{x.Path}
	case predicate.Same:
		return []model.Path{x.Path}
	case predicate.InCurrency:
		return []model.Path{x.Path}
	case predicate.Formula:
		return formulaPaths(space.Model, object, x.Program)
	}
	return nil
}

func pathsOf(space Space, object string, members []predicate.Predicate) []model.Path {
	var out []model.Path
	for _, m := range members {
		out = append(out, Paths(space, object, m)...)
	}
	return out
}

func formulaPaths(m *model.Model, object string, p *expr.Program) []model.Path {
	var out []model.Path
	for _, u := range p.Uses {
		if u[0] == "record" {
			u = u[1:]
		}
		if path, err := m.Path(object, strings.Join(u, ".")); len(u) > 0 && err == nil {
			out = append(out, path)
		}
	}
	return out
}

// isNothing says whether a condition asks nothing.
func isNothing(p predicate.Predicate) bool { return p == nil || isTrue(p) }

// Split takes a condition apart into those that all must hold.
func Split(p predicate.Predicate) []predicate.Predicate {
	if isNothing(p) {
		return nil
	}
	all, ok := p.(predicate.All)
	if !ok {
		return []predicate.Predicate{p}
	}
	var out []predicate.Predicate
	for _, m := range all {
		out = append(out, Split(m)...)
	}
	return out
}
