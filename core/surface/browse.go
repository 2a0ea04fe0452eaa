package surface

import (
	"context"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/search"
	"plainpath/core/value"
)

// Browse reads a page of the records of an object for which a condition holds, all for
// nil, with the columns given. The keyword search looks into those that hold text.
func Browse(ctx context.Context, r Reader, o *model.Object, where predicate.Predicate, paths []model.Path, look Look) (RowsView, []HeadingView, error) {
	p := &part{}
	for _, path := range paths {
		f := path.Last()
		p.columns = append(p.columns, column{path: path, label: f.Label})
		if f.Kind() == value.KindText && f.Type != model.Choice {
			p.keyword = append(p.keyword, path)
		}
	}
	q := search.Query{Object: o.Key, Where: where, Columns: paths}
	if err := p.apply(look, &q); err != nil {
		return RowsView{}, nil, err
	}
	rows, err := Page(ctx, r, q)
	return rows, p.headings(), err
}
