package store

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/search"
	"plainpath/core/surface"
)

// ChangeAll changes fields of all records of a query with one statement. Rights and rules
// hold as for every change: if one of the records may not be as it would, none is changed.
func (d *desk) ChangeAll(ctx context.Context, c search.Change) (int64, error) {
	o := d.Edition.Model.Object(c.Query.Object)
	fields := make([]*model.Field, len(c.Sets))
	changed := make([]string, len(c.Sets))
	for i, s := range c.Sets {
		fields[i], changed[i] = s.Field, s.Field.Key
	}
	if err := d.mayWrite(o, access.Changing, fields); err != nil {
		return 0, err
	}
	if err := d.mayDo(ctx, access.Changing, c.Query, fields); err != nil {
		return 0, err
	}
	if err := d.sign(ctx, ""); err != nil {
		return 0, err
	}
	sql, args, err := c.Compile(d.Space(), []string{"revision = t.revision + 1", "changed_at = now()", fmt.Sprintf("changed_by = %d", d.Where.Person.ID)})
	if err != nil {
		return 0, err
	}
	var done search.Changed
	if err := sqlx.GetContext(ctx, d.db, &done, sql, planned(sql, args)...); err != nil {
		return 0, refused(o, "changing", err)
	}
	if done.Failed != nil {
		return 0, uncomputed(fields[*done.Failed], *done.Why)
	}
	var keys []int64
	if err := json.Unmarshal(done.Keys, &keys); err != nil {
		return 0, fmt.Errorf("changing %s: %w", o.Plural, err)
	}
	return int64(len(keys)), d.review(ctx, o, keys, changed)
}

// Pressed says what came of a button: how many records were changed, and what is left for
// the browser to do.
type Pressed struct {
	Changed int64            `json:"changed"`
	Effects []surface.Effect `json:"effects"`
}

// Press carries out a button of a table, in one transaction.
func (t *Tables) Press(ctx context.Context, p Place, at TableAt, button string, chosen surface.Chosen) (Pressed, error) {
	var out Pressed
	if at.Rehearsal != nil {
		return out, &RejectedError{"In a rehearsal the buttons of tables are not pressed: what they would write could not be put back."}
	}
	err := t.at(ctx, p, at, func(found shownTable) error {
		return found.atomically(ctx, func(d *desk) error {
			d.cause["table"], d.cause["button"] = found.names[0], button
			var err error
			out, err = once(ctx, d.db, func() (Pressed, error) {
				press, err := found.list.Press(ctx, d, button, chosen)
				if err != nil {
					return Pressed{}, err
				}
				var out Pressed
				out.Changed, out.Effects, err = press.Do(ctx, d, d)
				return out, err
			})
			return err
		})
	})
	return out, err
}

// Off says for rows of a table which of its buttons are off there.
func (t *Tables) Off(ctx context.Context, p Place, at TableAt, keys []int64) (map[string][]int64, error) {
	var out map[string][]int64
	err := t.at(ctx, p, at, func(found shownTable) error {
		var err error
		out, err = found.list.Off(ctx, found, keys)
		return err
	})
	return out, err
}
