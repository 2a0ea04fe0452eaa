package edition

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// WorkedOut is how a field is worked out.
type WorkedOut = query.WorkedOut

type fieldOf struct{ object, field string }

// WorkedOut is how a field is worked out, false for one that is not or whose expression has a
// mistake.
func (e *Edition) WorkedOut(object, field string) (WorkedOut, bool) {
	w, ok := e.worked[fieldOf{object, field}]
	return w, ok
}

// worker checks the expressions of worked-out fields: over the record's fields, those of
// records it refers to and of those that refer to it, in a form the database can compute.
// They may use each other as long as none is made of itself.
type worker struct {
	m    *model.Model
	done map[fieldOf]WorkedOut
	// chain are the fields being looked at, each used by the one before.
	chain []fieldOf
}

func (w *worker) field(o *model.Object, f *model.Field) (WorkedOut, error) {
	at := fieldOf{o.Key, f.Key}
	if done, ok := w.done[at]; ok {
		return done, nil
	}
	if slices.Contains(w.chain, at) {
		return WorkedOut{}, fmt.Errorf("%s is made of itself: %s", f.Label, w.circle(at))
	}
	p, err := expr.CompileAs(workedScope(w.m, o), f.Expression, expr.Type{Kind: f.Kind()})
	if err != nil {
		return WorkedOut{}, err
	}
	w.chain = append(w.chain, at)
	defer func() { w.chain = w.chain[:len(w.chain)-1] }()
	out := WorkedOut{Program: p, Own: !beyond(o, p)}
	for _, use := range p.Uses {
		used, owner := ends(w.m, o, use)
		if used == nil || used.Type != model.WorkedOut {
			continue
		}
		inner, err := w.field(owner, used)
		switch {
		case err != nil && slices.Contains(w.chain, fieldOf{owner.Key, used.Key}):
			return WorkedOut{}, err
		case err != nil:
			return WorkedOut{}, fmt.Errorf("%s cannot be used: it is worked out and has a mistake itself", used.Label)
		}
		out.Own = out.Own && inner.Own
	}
	w.done[at] = out
	return out, nil
}

// circle names the fields of the chain from one on and back to it.
func (w *worker) circle(from fieldOf) string {
	var labels []string
	for _, at := range append(w.chain[slices.Index(w.chain, from):], from) {
		o := w.m.Object(at.object)
		labels = append(labels, o.Label+" › "+o.Field(at.field).Label)
	}
	return strings.Join(labels, ", which uses ")
}

// beyond says whether an expression looks at other records than its own.
func beyond(o *model.Object, p *expr.Program) bool {
	return slices.ContainsFunc(p.Uses, func(u []string) bool {
		f := o.Field(u[0])
		return f == nil || len(u) > 1 && value.Parts(f.Kind()) == nil
	})
}

func workedScope(m *model.Model, o *model.Object) expr.Scope {
	s := expr.OfRecord(m, o.Key)
	for _, l := range expr.RelatedLists(m, o.Key) {
		if _, taken := s.Find(l.Name.Key); !taken {
			s.Names = append(s.Names, l.Name)
		}
	}
	return s
}

// ends is the field that a use of names ends at, and the object it belongs to.
func ends(m *model.Model, o *model.Object, use []string) (*model.Field, *model.Object) {
	if o.Field(use[0]) == nil {
		for _, l := range expr.RelatedLists(m, o.Key) {
			if l.Name.Key == use[0] {
				o, use = l.Refer.Object, use[1:]
				break
			}
		}
		if len(use) == 0 {
			return nil, nil
		}
	}
	p, err := m.Path(o.Key, strings.Join(use, "."))
	if err != nil {
		return nil, nil
	}
	if n := len(p.Fields); n > 1 {
		o = m.Object(p.Fields[n-2].Target())
	}
	return p.Last(), o
}
