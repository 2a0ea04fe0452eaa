package records

import (
	"context"
	"errors"
	"strings"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
)

// MayChange makes sure that the person may change these fields of these records.
func (d *Repository) MayChange(ctx context.Context, o *model.Object, keys []int64, fields []*model.Field) error {
	if err := d.MayWrite(o, access.Changing, fields); err != nil {
		return err
	}
	if err := d.Visible(ctx, o, keys); err != nil {
		return err
	}
	return d.MayDo(ctx, access.Changing, query.ByKeys(o, keys), fields)
}

// MayWrite says when a person may not do something with an object, or set a field of it.
// Fields that are nil count for nothing.
func (d *Repository) MayWrite(o *model.Object, doing access.Doing, fields []*model.Field) error {
	grant, err := d.Grant(o.Key)
	if err != nil {
		return err
	}
	if !grant.May(doing) {
		return Wrong("", "%s may not %s %s", d.Person().Name, doing, strings.ToLower(o.Plural))
	}
	for _, f := range fields {
		if f != nil && !grant.Sets(doing, f.Key) {
			return Wrong(f.Key, "%s may not set %s", d.Person().Name, f.Label)
		}
	}
	return nil
}

// RowsTo is what records must be like for the person to do something to them that sets fields.
func (d *Repository) RowsTo(o *model.Object, doing access.Doing, fields []*model.Field) (predicate.Predicate, error) {
	grant, err := d.Grant(o.Key)
	if err != nil {
		return nil, err
	}
	var set []string
	for _, f := range fields {
		if f != nil {
			set = append(set, f.Key)
		}
	}
	return grant.RowsTo(doing, set...), nil
}

// MayDo makes sure that all records of a query are among those the person may do something to
// that sets fields.
func (d *Repository) MayDo(ctx context.Context, doing access.Doing, q query.Query, fields []*model.Field) error {
	o := d.Model().Object(q.Object)
	rows, err := d.RowsTo(o, doing, fields)
	if err != nil || predicate.Always(rows) {
		return err
	}
	q.Where = predicate.All{q.Where, predicate.Not{Of: rows}}
	n, err := Count(ctx, d, q)
	if err != nil {
		return err
	}
	if n > 0 {
		return Wrong("", "%d of the %s are not among those %s may %s so", n, strings.ToLower(o.Plural), d.Person().Name,
			doing)
	}
	return nil
}

// Visible makes sure that records are among those the person may see.
func (d *Repository) Visible(ctx context.Context, o *model.Object, keys []int64) error {
	n, err := Count(ctx, d, query.ByKeys(o, keys))
	if err != nil {
		return err
	}
	if n != int64(len(keys)) {
		return Wrong("", "%d of the %s would not be among those %s may see", int64(len(keys))-n,
			strings.ToLower(o.Plural), d.Person().Name)
	}
	return nil
}

// within makes sure that records just written are among those the person may see. New ones are there, so that only a
// row rule is asked; one that was changed may have been removed by others just before.
func (d *Repository) within(ctx context.Context, o *model.Object, keys []int64, added bool) error {
	grant, err := d.Grant(o.Key)
	if err != nil || added && grant.Unlimited() {
		return err
	}
	return d.Visible(ctx, o, keys)
}

// can says whether something may be done to a record.
func (d *Repository) can(ctx context.Context, doing access.Doing, o *model.Object, id int64) (bool, error) {
	if d.MayWrite(o, doing, nil) != nil {
		return false, nil
	}
	var not *ProblemsError
	err := d.MayDo(ctx, doing, query.ByKeys(o, []int64{id}), nil)
	if errors.As(err, &not) {
		return false, nil
	}
	return err == nil, err
}
