package store

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"
	"github.com/jmoiron/sqlx/types"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/rules"
	"plainpath/core/value"
	"plainpath/postgres/sqlgen"
)

// RecordError says what is wrong with records that somebody wants to write. Pointers
// name fields; the empty one is for a record as a whole.
type RecordError struct{ Problems []model.Problem }

func (e *RecordError) Error() string { return e.Refused() }

// Refused is the reasons in one sentence.
func (e *RecordError) Refused() string {
	texts := make([]string, len(e.Problems))
	for i, p := range e.Problems {
		texts[i] = p.Text
	}
	return strings.Join(texts, "; ")
}

func wrong(field, format string, args ...any) *RecordError {
	pointer := ""
	if field != "" {
		pointer = "/" + field
	}
	return &RecordError{[]model.Problem{{Pointer: pointer, Text: fmt.Sprintf(format, args...)}}}
}

// Changing is records to be changed: a row of values for each key, in the order of Fields.
type Changing struct {
	Object *model.Object
	Keys   []int64
	Fields []*model.Field
	Rows   [][]value.Value
}

// Add writes records with one statement, however many there are.
func (d *desk) Add(ctx context.Context, step string, a records.Addition) ([]int64, error) {
	if err := d.mayWrite(a.Object, access.Adding, a.Fields); err != nil {
		return nil, err
	}
	keys, err := d.insertAll(ctx, step, a)
	if err != nil {
		return nil, err
	}
	if err := d.mayDo(ctx, access.Adding, byKeys(a.Object, keys), a.Fields); err != nil {
		return nil, err
	}
	return keys, d.review(ctx, a.Object, keys, nil)
}

// insertAll writes records without asking for rights or rules.
func (d *desk) insertAll(ctx context.Context, step string, a records.Addition) ([]int64, error) {
	a, err := d.withDefaults(a)
	if err == nil {
		a.Rows, err = storable(a.Fields, a.Rows)
	}
	if err != nil {
		return nil, err
	}
	if err := d.sign(ctx, step); err != nil {
		return nil, err
	}
	sql, args := d.insert(a)
	keys := []int64{}
	if err := sqlx.SelectContext(ctx, d.db, &keys, sql, args...); err != nil {
		return nil, refused(a.Object, "adding", err)
	}
	return keys, d.keep(ctx, a.Fields, a.Rows)
}

// storable is rows as they are stored. A value that could not be computed is refused.
func storable(fields []*model.Field, rows [][]value.Value) ([][]value.Value, error) {
	out := make([][]value.Value, len(rows))
	for i, row := range rows {
		out[i] = make([]value.Value, len(row))
		for n, v := range row {
			if why, failed := v.(value.Failure); failed {
				return nil, uncomputed(fields[n], why.Why)
			}
			out[i][n] = value.Tidy(v)
		}
	}
	return out, nil
}

func uncomputed(f *model.Field, why string) *RecordError {
	return wrong(f.Key, "%s cannot be stored: it is %s", f.Label, why)
}

// Change writes fields of records with one statement, however many there are. They must
// be among those the person may see, before and after.
func (d *desk) Change(ctx context.Context, step string, c Changing) error {
	if err := d.mayChange(ctx, c.Object, c.Keys, c.Fields); err != nil {
		return err
	}
	rows, err := storable(c.Fields, c.Rows)
	if err != nil {
		return err
	}
	c.Rows = rows
	if err := d.sign(ctx, step); err != nil {
		return err
	}
	changed := make([]string, len(c.Fields))
	for i, f := range c.Fields {
		changed[i] = f.Key
	}
	sql, args := d.update(c)
	if _, err := d.db.ExecContext(ctx, sql, args...); err != nil {
		return refused(c.Object, "changing", err)
	}
	if err := d.keep(ctx, c.Fields, c.Rows); err != nil {
		return err
	}
	return d.review(ctx, c.Object, c.Keys, changed)
}

// mayChange makes sure that the person may change these fields of these records.
func (d *desk) mayChange(ctx context.Context, o *model.Object, keys []int64, fields []*model.Field) error {
	if err := d.mayWrite(o, access.Changing, fields); err != nil {
		return err
	}
	if err := d.visible(ctx, o, keys); err != nil {
		return err
	}
	return d.mayDo(ctx, access.Changing, byKeys(o, keys), fields)
}

// Remove takes records away. Those that others refer to stay, and are named.
func (d *desk) Remove(ctx context.Context, step string, o *model.Object, keys []int64) error {
	if err := d.mayWrite(o, access.Removing, nil); err != nil {
		return err
	}
	if err := d.visible(ctx, o, keys); err != nil {
		return err
	}
	if err := d.mayDo(ctx, access.Removing, byKeys(o, keys), nil); err != nil {
		return err
	}
	if err := d.sign(ctx, step); err != nil {
		return err
	}
	_, err := d.db.ExecContext(ctx, fmt.Sprintf("DELETE FROM %s WHERE id = ANY($1)", d.Space().Table(o.Key)), keys)
	code, constraint, _ := violated(err)
	if code == "23503" {
		for _, r := range d.Edition.Model.ReferrersTo(o.Key) {
			if constraint == nameOf(r.Object.Table(), r.Field.Column(), "reference") {
				return wrong("", "%s still refer to it as their %s; change or remove those first", strings.ToLower(r.Object.Plural), strings.ToLower(r.Field.Label))
			}
		}
	}
	if err != nil {
		return refused(o, "removing", err)
	}
	return nil
}

// mayWrite says when a person may not do something with an object, or set a field of it.
// Fields that are nil count for nothing.
func (d *desk) mayWrite(o *model.Object, doing access.Doing, fields []*model.Field) error {
	grant, err := d.Grant(o.Key)
	if err != nil {
		return err
	}
	if !grant.May(doing) {
		return wrong("", "%s may not %s %s", d.Person().Name, doing, strings.ToLower(o.Plural))
	}
	for _, f := range fields {
		if f != nil && !grant.Sets(doing, f.Key) {
			return wrong(f.Key, "%s may not set %s", d.Person().Name, f.Label)
		}
	}
	return nil
}

// rowsTo is what records must be like for the person to do something to them that sets fields.
func (d *desk) rowsTo(o *model.Object, doing access.Doing, fields []*model.Field) (predicate.Predicate, error) {
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

// mayDo makes sure that all records of a query are among those the person may do something to
// that sets fields.
func (d *desk) mayDo(ctx context.Context, doing access.Doing, q query.Query, fields []*model.Field) error {
	o := d.Edition.Model.Object(q.Object)
	rows, err := d.rowsTo(o, doing, fields)
	if err != nil || predicate.Always(rows) {
		return err
	}
	q.Where = predicate.All{q.Where, predicate.Not{Of: rows}}
	n, err := records.Count(ctx, d, q)
	if err != nil {
		return err
	}
	if n > 0 {
		return wrong("", "%d of the %s are not among those %s may %s so", n, strings.ToLower(o.Plural), d.Person().Name, doing)
	}
	return nil
}

func byKeys(o *model.Object, keys []int64) query.Query {
	return query.Query{Object: o.Key, Where: predicate.Keys(keys)}
}

// Base is what conditions may know besides records.
func (d *desk) Base() expr.Values {
	return expr.Values{"person": d.Where.Person.Value(), "today": value.DateOf(d.Where.Now), "now": value.NewInstant(d.Where.Now)}
}

// defaults are the fields that have a default and are not set.
func (d *desk) defaults(o *model.Object, fields []*model.Field) ([]query.Set, error) {
	set := map[string]bool{}
	for _, f := range fields {
		set[f.Key] = true
	}
	var out []query.Set
	for i := range o.Fields {
		f := &o.Fields[i]
		if set[f.Key] || !f.Stored() || len(f.Default) == 0 {
			continue
		}
		v, err := value.Parse(f.Kind(), f.Default)
		if err != nil {
			return nil, fmt.Errorf("the default of %s: %w", f.Label, err)
		}
		out = append(out, query.Set{Field: f, Value: v})
	}
	for _, c := range d.Edition.Rules.Of(o.Key).Defaults {
		if set[c.Field.Key] {
			continue
		}
		v, err := c.Value(d.Base())
		if err != nil {
			return nil, fmt.Errorf("the default of %s: %w", c.Field.Label, err)
		}
		out = append(out, query.Set{Field: c.Field, Value: v})
	}
	return out, nil
}

// withDefaults adds the fields that have a default and are not set.
func (d *desk) withDefaults(a records.Addition) (records.Addition, error) {
	defaults, err := d.defaults(a.Object, a.Fields)
	if err != nil || len(defaults) == 0 {
		return a, err
	}
	fields, _ := setFields(defaults)
	out := records.Addition{Object: a.Object, Fields: slices.Concat(a.Fields, fields), Rows: make([][]value.Value, len(a.Rows))}
	for i, row := range a.Rows {
		out.Rows[i] = slices.Clone(row)
		for _, s := range defaults {
			out.Rows[i] = append(out.Rows[i], s.Value)
		}
	}
	return out, nil
}

// visible makes sure that records are among those the person may see.
func (d *desk) visible(ctx context.Context, o *model.Object, keys []int64) error {
	n, err := records.Count(ctx, d, byKeys(o, keys))
	if err != nil {
		return err
	}
	if n != int64(len(keys)) {
		return wrong("", "%d of the %s would not be among those %s may see", int64(len(keys))-n, strings.ToLower(o.Plural), d.Person().Name)
	}
	return nil
}

// review makes sure that records just written are the person's and keep the rules.
// Changed are the fields written, nil for new records.
func (d *desk) review(ctx context.Context, o *model.Object, keys []int64, changed []string) error {
	if err := d.visible(ctx, o, keys); err != nil {
		return err
	}
	found, err := d.breaches(ctx, o, keys, changed, 1)
	if err != nil || len(found) == 0 {
		return err
	}
	return &RecordError{found[0].problems}
}

// mostExplained is of how many records it is said what a candidate rule saw.
const mostExplained = 50

// breach is a record that breaks rules.
type breach struct {
	id       int64
	problems []model.Problem
}

// breaches finds the records among those written that break a rule, at most as many as
// the limit says, or all for nought.
func (d *desk) breaches(ctx context.Context, o *model.Object, keys []int64, changed []string, limit int) ([]breach, error) {
	ask, texts, any, err := d.Edition.Rules.Of(o.Key).Review(o.Key, changed, d.Base())
	if err != nil || !any {
		return nil, err
	}
	ask.Keys, ask.Limit = keys, limit
	s, err := sqlgen.Review(d.Space(), ask)
	if err != nil {
		return nil, err
	}
	var broken []struct {
		ID    int64          `db:"id"`
		Holds types.JSONText `db:"holds"`
	}
	if err := sqlx.SelectContext(ctx, d.db, &broken, "SELECT id, to_jsonb(holds) AS holds FROM ("+s.SQL+") broken (id, holds)", arguments(s)...); err != nil {
		return nil, fmt.Errorf("looking at the rules of %s: %w", o.Plural, err)
	}
	out := make([]breach, len(broken))
	for i, b := range broken {
		var holds []bool
		if err := b.Holds.Unmarshal(&holds); err != nil {
			return nil, fmt.Errorf("looking at the rules of %s: %w", o.Plural, err)
		}
		out[i].id = b.ID
		for n, ok := range holds {
			if ok {
				continue
			}
			p := model.Problem{Text: texts[n].Text}
			if texts[n].Field != "" {
				p.Pointer = "/" + texts[n].Field
			}
			if texts[n].Field != "" && i < mostExplained {
				if p.Text, err = d.refusedCandidate(ctx, o, b.ID, texts[n]); err != nil {
					return nil, err
				}
			}
			out[i].problems = append(out[i].problems, p)
		}
	}
	return out, nil
}

// refusedCandidate says why a written record may not refer to what it does.
func (d *desk) refusedCandidate(ctx context.Context, o *model.Object, id int64, b rules.Breach) (string, error) {
	edited, err := d.edited(ctx, o, id, nil)
	if err != nil {
		return "", err
	}
	chosen, ok := edited.Values[b.Field].(*value.Record)
	if !ok {
		return b.Text, nil
	}
	return d.misfit(ctx, d.Edition.Rules.Of(o.Key).Candidate(b.Field), chosen.ID, edited)
}

// blank is a new record with its defaults.
func (d *desk) blank(o *model.Object) (records.Addition, error) {
	return d.withDefaults(records.Addition{Object: o, Rows: [][]value.Value{nil}})
}

// sign says to the history who writes and through what.
func (d *desk) sign(ctx context.Context, step string) error {
	d.cause["step"] = step
	cause, err := json.Marshal(d.cause)
	if err != nil {
		return fmt.Errorf("signing the history: %w", err)
	}
	_, err = d.db.ExecContext(ctx, `SELECT set_config('plainpath.person', $1, true), set_config('plainpath.cause', $2, true), set_config('plainpath.tab', $3, true)`,
		fmt.Sprint(d.Where.Person.ID), string(cause), tabOf(ctx))
	if err != nil {
		return fmt.Errorf("signing the history: %w", err)
	}
	return nil
}

// refused says in words why the database would not take records.
func refused(o *model.Object, doing string, err error) error {
	code, constraint, column := violated(err)
	field, label := "", column
	f, _ := constrained(o, constraint)
	for i := range o.Fields {
		if f == nil && o.Fields[i].Column() == column {
			f = &o.Fields[i]
		}
	}
	if f != nil {
		field, label = f.Key, f.Label
	}
	switch code {
	case "23505":
		return wrong(field, "there is %s with the same %s already", model.WithArticle(o.Label), label)
	case "23502":
		return wrong(field, "%s is required", label)
	case "23503":
		return wrong(field, "%s points at a record that is gone", label)
	case "23514":
		return wrong(field, "%s is outside what is allowed", label)
	}
	return fmt.Errorf("%s %s: %w", doing, o.Plural, err)
}
