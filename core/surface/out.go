package surface

import (
	"context"

	"plainpath/core/predicate"
	"plainpath/core/search"
)

// Out is the whole list as somebody looks at it, or those of its records with the keys
// given, to be written into a file: the headings, and the query that gives the cells.
func (l *Listing) Out(r Reader, look Look, keys []int64) ([]string, *search.Out, error) {
	look.After = ""
	v, err := l.look(r, look)
	if err != nil {
		return nil, nil, err
	}
	if len(keys) > 0 {
		v.query.Where = predicate.All{predicate.Keys(keys), orTrue(v.query.Where)}
	}
	if v.grouping != nil { // groups stay together
		v.query.Order = append([]search.Order{{Path: v.grouping.Path, Desc: v.grouping.Desc}}, v.query.Order...)
	}
	var headings []string
	for _, c := range v.columns {
		headings = append(headings, c.label)
	}
	out, err := v.query.CompileOut(r.Space())
	return headings, out, err
}

// Count counts the records that Out gives.
func (l *Listing) Count(ctx context.Context, r Reader, look Look, keys []int64) (int64, error) {
	look.After = ""
	v, err := l.look(r, look)
	if err != nil {
		return 0, err
	}
	if len(keys) > 0 {
		v.query.Where = predicate.All{predicate.Keys(keys), orTrue(v.query.Where)}
	}
	return CountOf(ctx, r, v.query)
}
