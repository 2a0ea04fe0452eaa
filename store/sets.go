package store

import (
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres/sqlgen"
)

// ChangeAll changes fields of all records of a query with one statement. Rights and rules
// hold as for every change: if one of the records may not be as it would, none is changed.
func (d *desk) ChangeAll(ctx context.Context, through string, c query.Change) ([]int64, error) {
	o := d.Edition.Model.Object(c.Query.Object)
	fields, changed := setFields(c.Sets)
	if err := d.mayWrite(o, access.Changing, fields); err != nil {
		return nil, err
	}
	if err := d.mayDo(ctx, access.Changing, c.Query, fields); err != nil {
		return nil, err
	}
	if err := d.sign(ctx, through); err != nil {
		return nil, err
	}
	s, err := sqlgen.Change(d.Space(), c, []string{"revision = t.revision + 1", "changed_at = now()", fmt.Sprintf("changed_by = %d", d.Where.Person.ID)})
	if err != nil {
		return nil, err
	}
	keys, err := d.written(ctx, o, "changing", s, fields)
	if err != nil {
		return nil, err
	}
	if err := d.keep(ctx, fields, setValues(c.Sets)); err != nil {
		return nil, err
	}
	return keys, d.review(ctx, o, keys, changed)
}

// AddEach adds a record for each record of a query with one statement.
func (d *desk) AddEach(ctx context.Context, through string, i query.Insertion) ([]int64, error) {
	fields, _ := setFields(i.Sets)
	if err := d.mayWrite(i.Object, access.Adding, fields); err != nil {
		return nil, err
	}
	defaults, err := d.defaults(i.Object, fields)
	if err != nil {
		return nil, err
	}
	asked := fields
	i.Sets = append(i.Sets[:len(i.Sets):len(i.Sets)], defaults...)
	fields, _ = setFields(i.Sets)
	if err := d.sign(ctx, through); err != nil {
		return nil, err
	}
	person := fmt.Sprint(d.Where.Person.ID)
	stamp := [][2]string{{"created_by", person}, {"changed_by", person}}
	if d.rehearsed != nil {
		d.numbers(i.Object, func(column, sql string) { stamp = append(stamp, [2]string{column, sql}) })
	}
	s, err := sqlgen.Insertion(d.Space(), i, stamp)
	if err != nil {
		return nil, err
	}
	keys, err := d.written(ctx, i.Object, "adding", s, fields)
	if err != nil || len(keys) == 0 {
		return nil, err
	}
	if d.rehearsed != nil {
		*d.rehearsed += int64(len(keys))
	}
	if err := d.keep(ctx, fields, setValues(i.Sets)); err != nil {
		return nil, err
	}
	if err := d.mayDo(ctx, access.Adding, byKeys(i.Object, keys), asked); err != nil {
		return nil, err
	}
	return keys, d.review(ctx, i.Object, keys, nil)
}

// RemoveAll removes the records of a query.
func (d *desk) RemoveAll(ctx context.Context, through string, q query.Query) (int64, error) {
	keys, err := records.Keys(ctx, d, q)
	if err != nil || len(keys) == 0 {
		return 0, err
	}
	return int64(len(keys)), d.Remove(ctx, through, d.Edition.Model.Object(q.Object), keys)
}

// written sends a statement that writes a set, and gives the keys of the records written.
func (d *desk) written(ctx context.Context, o *model.Object, doing string, s sqlgen.Statement, fields []*model.Field) ([]int64, error) {
	var done sqlgen.Changed
	if err := get(ctx, d.db, &done, s); err != nil {
		return nil, refused(o, doing, err)
	}
	if done.Failed != nil {
		return nil, uncomputed(fields[*done.Failed], *done.Why)
	}
	var keys []int64
	if err := json.Unmarshal(done.Keys, &keys); err != nil {
		return nil, fmt.Errorf("%s %s: %w", doing, o.Plural, err)
	}
	return keys, nil
}

// setValues are the values that are the same for all records, as one row.
func setValues(sets []query.Set) [][]value.Value {
	row := make([]value.Value, len(sets))
	for i, s := range sets {
		row[i] = s.Value
	}
	return [][]value.Value{row}
}

// setFields are the fields that are set, and their keys.
func setFields(sets []query.Set) (fields []*model.Field, keys []string) {
	for _, s := range sets {
		fields, keys = append(fields, s.Field), append(keys, s.Field.Key)
	}
	return fields, keys
}
