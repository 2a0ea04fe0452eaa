package query

import (
	"strings"

	"plainpath/core/model"
	"plainpath/core/predicate"
)

// Step is one condition of a list. What a person asks is seen: it reaches only what they
// may see.
type Step struct {
	Where   predicate.Predicate
	Visible bool
}

// Holding asks of one record which conditions hold, and for the values of paths, as the person may
// see them. The conditions may look at a record being edited.
type Holding struct {
	Object string
	Key    int64
	Steps  []Step
	Saw    []model.Path
	Edited *Edited
}

// Held is what is so of a record: whether each condition holds, and each value as text, "" where it
// is empty.
type Held struct {
	Holds []bool
	Saw   []string
}

// Paths are the paths from the record that a predicate looks at.
func Paths(m *model.Model, object string, p predicate.Predicate) []model.Path {
	switch x := p.(type) {
	case predicate.All:
		return pathsOf(m, object, x)
	case predicate.Any:
		return pathsOf(m, object, x)
	case predicate.Not:
		return Paths(m, object, x.Of)
	case predicate.Test:
		return []model.Path{x.Path}
	case predicate.Same:
		return []model.Path{x.Path}
	case predicate.InCurrency:
		return []model.Path{x.Path}
	case predicate.Formula:
		return formulaPaths(m, object, x)
	}
	return nil
}

func pathsOf(m *model.Model, object string, members []predicate.Predicate) []model.Path {
	var out []model.Path
	for _, p := range members {
		out = append(out, Paths(m, object, p)...)
	}
	return out
}

func formulaPaths(m *model.Model, object string, f predicate.Formula) []model.Path {
	var out []model.Path
	for _, u := range f.Program.Uses {
		if u[0] == "record" {
			u = u[1:]
		}
		if path, err := m.Path(object, strings.Join(u, ".")); len(u) > 0 && err == nil {
			out = append(out, path)
		}
	}
	return out
}

// Split takes a condition apart into those that all must hold.
func Split(p predicate.Predicate) []predicate.Predicate {
	if p == nil || predicate.Always(p) {
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
