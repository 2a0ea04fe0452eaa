package surface

import (
	"context"
	"slices"
	"strings"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/search"
	"plainpath/core/value"
)

// Touched are records of an object that changed.
type Touched struct {
	Object string  `json:"object"`
	Keys   []int64 `json:"keys"`
	// Shown are the rows that somebody has before them.
	Shown []int64 `json:"shown"`
}

// Concerns says whether a change has to do with what somebody shows of the list: a row that is
// shown, one that belongs there now, or one that a row is looked at through. Of what is counted
// or added up over related records it is always so.
func (l *Listing) Concerns(ctx context.Context, r Reader, look Look, t Touched) (bool, error) {
	look.After, look.Within = "", nil
	v, err := l.look(r, look)
	if err != nil {
		return false, err
	}
	q := v.query
	q.Order, q.Columns, q.Limit = nil, nil, 1
	matches := orTrue(q.Where)
	if t.Object == q.Object {
		q.Where = predicate.All{matches, predicate.Keys(t.Keys)}
		if found, _, err := SelectOf(ctx, r, q); err != nil || len(found) > 0 {
			return err == nil, err
		}
	}
	through := v.through(r.Space().Model, t.Object, l.marks)
	if len(through) == 0 {
		return t.Object != q.Object, nil
	}
	keys := make([]value.Value, len(t.Keys))
	for i, k := range t.Keys {
		keys[i] = &value.Record{Object: t.Object, ID: k}
	}
	var reaches predicate.Any
	for _, path := range through {
		reaches = append(reaches, predicate.Test{Path: path, Op: predicate.OneOf, Values: keys})
	}
	q = search.Query{Object: q.Object, Where: predicate.All{reaches, predicate.Any{predicate.Keys(t.Shown), matches}}, Limit: 1}
	found, _, err := SelectOf(ctx, r, q)
	return len(found) > 0, err
}

// through are the paths of references over which the list looks at records of an object. It
// is none where it also looks at them another way.
func (v looked) through(m *model.Model, object string, marks []mark) []model.Path {
	paths := slices.Clone(v.query.Columns)
	for _, o := range v.query.Order {
		paths = append(paths, o.Path)
	}
	if v.grouping != nil {
		paths = append(paths, v.grouping.Path)
	}
	for _, t := range v.totals {
		paths = append(paths, t.Path)
	}
	for _, mark := range marks {
		paths = append(paths, mark.paths...)
	}
	for _, p := range []predicate.Predicate{v.query.Where, v.query.Filter} {
		asked, all := predicate.Paths(p)
		if !all {
			return nil
		}
		paths = append(paths, asked...)
	}
	var out []model.Path
	for _, path := range paths {
		if path.Last().Type == model.WorkedOut {
			return nil
		}
		for i, f := range path.Fields {
			if f.Target() != object {
				continue
			}
			keys := make([]string, i+1)
			for n := range keys {
				keys[n] = path.Fields[n].Key
			}
			text := strings.Join(keys, ".")
			if slices.ContainsFunc(out, func(o model.Path) bool { return o.String() == text }) {
				continue
			}
			if p, err := m.Path(v.query.Object, text); err == nil {
				out = append(out, p)
			}
		}
	}
	return out
}
