package table

import (
	"slices"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/records"
)

// sight is what a list looks at besides the fields of its records: along references, and
// records that it finds another way, such as those that point at its own.
type sight struct {
	of     records.Sight
	object string
	// paths lead from a record of the list.
	paths []model.Path
	// others are the objects of records that are found another way.
	others map[string]bool
	// all says that there is something it cannot be told of.
	all  bool
	seen map[string]bool
}

// sees is what a list looks at as somebody looks at it: what is shown, ordered, grouped, marked
// and asked of it, by the person's own rights too.
func (v looked) sees(of records.Sight, marks []mark) *sight {
	s := &sight{of: of, object: v.query.Object, others: map[string]bool{}, seen: map[string]bool{}}
	s.use(nil, s.object, []string{of.Model().Object(s.object).LabelField})
	for _, p := range v.query.Columns {
		s.path(p)
	}
	for _, o := range v.query.Order {
		s.path(o.Path)
	}
	for _, g := range v.by {
		s.path(g.Path)
	}
	for _, t := range v.totals {
		s.path(t.Path)
	}
	for _, mark := range marks {
		for _, p := range mark.paths {
			s.path(p)
		}
	}
	s.asked(s.object, v.query.Where, s.own)
	s.asked(s.object, v.query.Filter, s.own)
	if g, err := of.Grant(s.object); err == nil {
		s.asked(s.object, g.Rows(), s.own)
	}
	return s
}

// own is a value of the list's records that something is made of.
func (s *sight) own(_ string, keys []string) { s.use(nil, s.object, keys) }

// path is one from a record of the list.
func (s *sight) path(p model.Path) {
	if s.again(p.String()) {
		return
	}
	s.paths = append(s.paths, p)
	holder := s.object
	for _, f := range p.Fields[:len(p.Fields)-1] {
		holder = f.Target()
		s.rows(holder)
	}
	for _, u := range s.uses(holder, p.Last()) {
		s.use(p.Fields[:len(p.Fields)-1], holder, u)
	}
	if to := s.of.Model().Object(p.Last().Target()); to != nil {
		s.rows(to.Key)
		s.use(p.Fields, to.Key, []string{to.LabelField})
	}
}

// use is a value that something is made of, by the keys that lead to it from a record which
// stands at the end of some references.
func (s *sight) use(through []*model.Field, object string, keys []string) {
	if list := s.list(object, keys[0]); list != "" {
		s.reach(list, keys[1:])
		return
	}
	var all []string
	for _, f := range through {
		all = append(all, f.Key)
	}
	if p, err := s.of.Model().Path(s.object, strings.Join(append(all, keys...), ".")); err == nil {
		s.path(p)
	}
}

// reach is a value of records that are found another way.
func (s *sight) reach(object string, keys []string) {
	s.others[object] = true
	s.rows(object)
	if len(keys) == 0 || s.again(object+" "+strings.Join(keys, ".")) {
		return
	}
	if list := s.list(object, keys[0]); list != "" {
		s.reach(list, keys[1:])
		return
	}
	p, err := s.of.Model().Path(object, strings.Join(keys, "."))
	if err != nil {
		return
	}
	holder := object
	for i, f := range p.Fields {
		if to := s.of.Model().Object(f.Target()); to != nil {
			s.reach(to.Key, []string{to.LabelField})
			if i < len(p.Fields)-1 {
				holder = to.Key
			}
		}
	}
	for _, u := range s.uses(holder, p.Last()) {
		s.reach(holder, u)
	}
}

// rows is what rights look at to say whether a record of an object may be seen.
func (s *sight) rows(object string) {
	if s.again("rows of " + object) {
		return
	}
	if g, err := s.of.Grant(object); err == nil {
		s.asked(object, g.Rows(), s.reach)
	}
}

// asked goes through a predicate on records of an object; value is told what it asks of them.
func (s *sight) asked(object string, p predicate.Predicate, value func(object string, keys []string)) {
	path := func(p model.Path) { value(object, strings.Split(p.String(), ".")) }
	switch p := p.(type) {
	case nil, predicate.Keys:
	case predicate.All:
		for _, m := range p {
			s.asked(object, m, value)
		}
	case predicate.Any:
		for _, m := range p {
			s.asked(object, m, value)
		}
	case predicate.Not:
		s.asked(object, p.Of, value)
	case predicate.Test:
		path(p.Path)
	case predicate.Same:
		path(p.Path)
	case predicate.InCurrency:
		path(p.Path)
	case predicate.HasRelated:
		s.reach(p.Object, []string{p.Via.Key})
		s.asked(p.Object, p.Where, s.reach)
	case predicate.Refers:
		value(object, []string{p.Via.Key})
		s.asked(p.Via.Target(), p.Where, s.reach)
		s.asked(p.Via.Target(), p.Filter, s.reach)
	case predicate.Formula:
		for _, u := range p.Program.Uses {
			if keys, ok := p.Asks(u); ok {
				value(object, keys)
			}
		}
	default:
		s.all = true
	}
}

// uses are what a field is worked out of, none where it is not.
func (s *sight) uses(object string, f *model.Field) [][]string {
	if f.Type != model.WorkedOut {
		return nil
	}
	w, ok := s.of.WorkedOut(object, f.Key)
	if !ok {
		return nil
	}
	return w.Program.Uses
}

// list is the object of a list of records that point at one, by what expressions call it.
func (s *sight) list(object, key string) string {
	for _, l := range expr.RelatedLists(s.of.Model(), object) {
		if l.Name.Key == key {
			return l.Refer.Object.Key
		}
	}
	return ""
}

func (s *sight) again(what string) bool {
	before := s.seen[what]
	s.seen[what] = true
	return before
}

// through are the paths of references over which records of an object are looked at.
func (s *sight) through(object string) []model.Path {
	var out []model.Path
	var known []string
	for _, path := range s.paths {
		keys := []string{}
		for _, f := range path.Fields {
			keys = append(keys, f.Key)
			text := strings.Join(keys, ".")
			if f.Target() != object || slices.Contains(known, text) {
				continue
			}
			if p, err := s.of.Model().Path(s.object, text); err == nil {
				known, out = append(known, text), append(out, p)
			}
		}
	}
	return out
}
