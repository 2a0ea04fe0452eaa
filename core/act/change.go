package act

import (
	"context"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Change sets fields of a record or of all records of a list, with one statement.
type Change struct {
	// Of is an expression that gives the record or the list; without it, the rows a button is about.
	Of string `json:"of,omitempty"`
	// Their changes the records that refer to those instead.
	Their *Their `json:"their,omitempty"`
	// Item is what values may call each record of a list.
	Item   string       `json:"item,omitempty"`
	Values []Assignment `json:"values"`
}

type changePlan struct {
	basis
	*target
	*assignments
}

func checkChange(c *check, a *Act, at string) Plan {
	if !given(c, a, a.Change, at) {
		return nil
	}
	def := a.Change
	at += "/change"
	t := c.target(def.Of, def.Their, at, "Nothing would be changed.")
	if t == nil {
		return nil
	}
	scope, item := c.Scope, def.Item
	switch {
	case t.of == nil && t.their == nil:
		item = RowName
	case item != "":
		scope = c.item(item, t.object.Key, at)
	}
	p := &changePlan{target: t, assignments: c.settings(t.object, def.Values, item, scope, nil, at, definition.Care)}
	if len(def.Values) == 0 {
		c.Find(definition.Stop, at+"/values", "no field is set", "Nothing would be changed.", nil)
	}
	if p.turns != nil {
		c.Find(definition.Stop, at+"/values", p.turns.Error(), "The records could not be changed together.", nil)
	}
	p.basis = basis{uses: c.uses, gives: &expr.Type{Kind: value.KindList, Object: t.object.Key}, writes: t.object.Key}
	if t.one() {
		p.gives = &expr.Type{Kind: value.KindRecord, Object: t.object.Key, Empty: t.of.Type.Empty}
	}
	return p
}

// Do changes the records.
func (p *changePlan) Do(ctx context.Context, u records.Writer, in In) (Done, error) {
	out := Done{Report: Report{Object: p.object.Key}}
	keys, note, err := p.change(ctx, u, in)
	if err != nil {
		return out, refused(in, p.not("changed"), err)
	}
	out.Kept.Changed = keys
	out.Report.Written, out.Report.Note = int64(len(keys)), oneSet(len(keys))
	if note != "" {
		out.Report.Note += ": " + note
	}
	out.Value, err = p.Restore(ctx, u, in, out.Kept)
	return out, err
}

func (p *changePlan) change(ctx context.Context, u records.Writer, in In) (keys []int64, note string, err error) {
	m, any, err := p.query(ctx, u, in)
	if err != nil || !any {
		return nil, "", err
	}
	sets, err := p.known(in.Values)
	if err != nil {
		return nil, "", err
	}
	keys, err = u.ChangeAll(ctx, in.Through, query.Change{Query: m.Query, Sets: sets, Values: in.Values,
		Record: p.item})
	if err == nil && p.one() && len(keys) == 0 {
		err = goneError{p.object}
	}
	return keys, p.note(m, int64(len(keys))), err
}

// Restore makes known what was changed.
func (p *changePlan) Restore(ctx context.Context, u records.Writer, in In, kept Kept) (value.Value, error) {
	if !p.one() {
		return records.List(ctx, u, p.object.Key, kept.Changed, in.Columns)
	}
	if len(kept.Changed) == 0 {
		return nil, nil
	}
	return records.One(ctx, u, p.object.Key, kept.Changed[0], in.Columns)
}
