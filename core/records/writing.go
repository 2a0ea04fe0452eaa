package records

import (
	"context"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Add writes records with one statement, however many there are.
func (d *Repository) Add(ctx context.Context, through string, a Addition) ([]int64, error) {
	if err := d.MayWrite(a.Object, access.Adding, a.Fields); err != nil {
		return nil, err
	}
	keys, err := d.Insert(ctx, through, a)
	if err != nil {
		return nil, err
	}
	if err := d.MayDo(ctx, access.Adding, query.ByKeys(a.Object, keys), a.Fields); err != nil {
		return nil, err
	}
	return keys, d.review(ctx, a.Object, keys, nil)
}

// Insert writes records without asking for rights or rules, as for a demo.
func (d *Repository) Insert(ctx context.Context, through string, a Addition) ([]int64, error) {
	a, err := d.withDefaults(a)
	if err == nil {
		a.Rows, err = storable(a.Fields, a.Rows)
	}
	if err != nil {
		return nil, err
	}
	a.Cause = d.cause(through)
	keys, err := d.unit.Insert(ctx, a)
	if err != nil {
		return nil, err
	}
	return keys, d.keepFiles(ctx, a.Fields, a.Rows)
}

// storable is rows as they are stored. A value that could not be computed is refused.
func storable(fields []*model.Field, rows [][]value.Value) ([][]value.Value, error) {
	out := make([][]value.Value, len(rows))
	for i, row := range rows {
		out[i] = make([]value.Value, len(row))
		for n, v := range row {
			if why, failed := v.(value.Failure); failed {
				return nil, NotComputed(fields[n], why.Why)
			}
			out[i][n] = value.Tidy(v)
		}
	}
	return out, nil
}

// Change writes fields of records with one statement, however many there are. They must
// be among those the person may see, before and after.
func (d *Repository) Change(ctx context.Context, through string, c Changing) error {
	if err := d.MayChange(ctx, c.Object, c.Keys, c.Fields); err != nil {
		return err
	}
	rows, err := storable(c.Fields, c.Rows)
	if err != nil {
		return err
	}
	c.Rows = rows
	if err := d.Sign(ctx, through); err != nil {
		return err
	}
	changed := make([]string, len(c.Fields))
	for i, f := range c.Fields {
		changed[i] = f.Key
	}
	if err := d.unit.Update(ctx, c); err != nil {
		return err
	}
	if err := d.keepFiles(ctx, c.Fields, c.Rows); err != nil {
		return err
	}
	return d.review(ctx, c.Object, c.Keys, changed)
}

// Remove takes records away. Those that others refer to stay, and are named.
func (d *Repository) Remove(ctx context.Context, through string, o *model.Object, keys []int64) error {
	if err := d.MayWrite(o, access.Removing, nil); err != nil {
		return err
	}
	if err := d.Visible(ctx, o, keys); err != nil {
		return err
	}
	if err := d.MayDo(ctx, access.Removing, query.ByKeys(o, keys), nil); err != nil {
		return err
	}
	if err := d.Sign(ctx, through); err != nil {
		return err
	}
	return d.unit.Delete(ctx, o, keys)
}

// ChangeAll changes fields of all records of a query with one statement. Rights and rules
// hold as for every change: if one of the records may not be as it would, none is changed.
func (d *Repository) ChangeAll(ctx context.Context, through string, c query.Change) ([]int64, error) {
	o := d.Model().Object(c.Query.Object)
	fields, changed := setFields(c.Sets)
	if err := d.MayWrite(o, access.Changing, fields); err != nil {
		return nil, err
	}
	if err := d.MayDo(ctx, access.Changing, c.Query, fields); err != nil {
		return nil, err
	}
	if err := d.Sign(ctx, through); err != nil {
		return nil, err
	}
	keys, err := d.unit.UpdateAll(ctx, d, c)
	if err != nil {
		return nil, err
	}
	if err := d.keepFiles(ctx, fields, setValues(c.Sets)); err != nil {
		return nil, err
	}
	return keys, d.review(ctx, o, keys, changed)
}

// AddEach adds a record for each record of a query with one statement.
func (d *Repository) AddEach(ctx context.Context, through string, i query.Insertion) ([]int64, error) {
	fields, _ := setFields(i.Sets)
	if err := d.MayWrite(i.Object, access.Adding, fields); err != nil {
		return nil, err
	}
	defaults, err := d.defaults(i.Object, fields)
	if err != nil {
		return nil, err
	}
	asked := fields
	i.Sets = append(i.Sets[:len(i.Sets):len(i.Sets)], defaults...)
	fields, _ = setFields(i.Sets)
	if err := d.Sign(ctx, through); err != nil {
		return nil, err
	}
	keys, err := d.unit.InsertEach(ctx, d, i)
	if err != nil || len(keys) == 0 {
		return nil, err
	}
	if err := d.keepFiles(ctx, fields, setValues(i.Sets)); err != nil {
		return nil, err
	}
	if err := d.MayDo(ctx, access.Adding, query.ByKeys(i.Object, keys), asked); err != nil {
		return nil, err
	}
	return keys, d.review(ctx, i.Object, keys, nil)
}

// RemoveAll removes the records of a query.
func (d *Repository) RemoveAll(ctx context.Context, through string, q query.Query) (int64, error) {
	keys, err := Keys(ctx, d, q)
	if err != nil || len(keys) == 0 {
		return 0, err
	}
	return int64(len(keys)), d.Remove(ctx, through, d.Model().Object(q.Object), keys)
}

// Sign says to the history who writes what follows and through what.
func (d *Repository) Sign(ctx context.Context, through string) error {
	return d.unit.Sign(ctx, d.cause(through))
}

func (d *Repository) cause(through string) map[string]string {
	d.Cause["step"] = through
	return d.Cause
}

// keepFiles notes that records took up the files among some values.
func (d *Repository) keepFiles(ctx context.Context, fields []*model.Field, rows [][]value.Value) error {
	var ids []int64
	for n, f := range fields {
		if f == nil || !f.HoldsFile() {
			continue
		}
		for _, row := range rows {
			if r, ok := row[n].(*value.Record); ok {
				ids = append(ids, r.ID)
			}
		}
	}
	if len(ids) == 0 {
		return nil
	}
	return d.unit.KeepFiles(ctx, ids)
}
