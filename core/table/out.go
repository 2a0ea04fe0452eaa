package table

import (
	"context"
	"slices"

	"plainpath/core/query"
	"plainpath/core/records"
)

// Out is the whole list as somebody looks at it, or the rows chosen in it, to be written
// into a file: the headings, and the query that gives the cells.
func (l *Listing) Out(r records.Reader, look Look, chosen *Chosen) ([]string, query.Query, error) {
	look.After = ""
	v, err := l.look(r, look)
	if err != nil {
		return nil, query.Query{}, err
	}
	if err := l.only(r, &v.query, chosen); err != nil {
		return nil, query.Query{}, err
	}
	for _, g := range slices.Backward(v.by) { // groups stay together
		v.query.Order = append([]query.Order{{Path: g.Path, Desc: g.Desc}}, v.query.Order...)
	}
	var headings []string
	for _, c := range v.headings {
		headings = append(headings, c.label)
	}
	return headings, v.query, nil
}

// Count counts the records that Out gives.
func (l *Listing) Count(ctx context.Context, r records.Reader, look Look, chosen *Chosen) (int64, error) {
	look.After = ""
	v, err := l.look(r, look)
	if err != nil {
		return 0, err
	}
	if err := l.only(r, &v.query, chosen); err != nil {
		return 0, err
	}
	return records.Count(ctx, r, v.query)
}

// only narrows a query to the rows chosen, which may be out of sight by now.
func (l *Listing) only(r records.Reader, q *query.Query, chosen *Chosen) error {
	if chosen == nil {
		return nil
	}
	c, err := l.Of(r, *chosen)
	q.Where, q.Filter = c.Where, c.Filter
	return err
}
