package repository

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	pgschema "plainpath/postgres/schema"
	"plainpath/postgres/sqlgen"
)

// Mending gives all records that stand in the way of a change of an object one value, so
// that the change can be made.
type Mending struct {
	Object string `json:"object"`
	// The edit of the object that was refused; without a patch it is the draft as it is, which
	// production is to follow.
	edit.Change
	// Field and Rule name the obstacle, Value is for the field as it is stored now.
	Field string          `json:"field"`
	Rule  string          `json:"rule"`
	Value json.RawMessage `json:"value"`
}

// Mend changes the records in the way under the person's rights and the rules that hold
// now. It gives their number.
func (s *Repositories) Mend(ctx context.Context, p postgres.Caller, m Mending) (int64, error) {
	var mended int64
	err := s.write(ctx, p, m.Object, func(d *Repository, o *model.Object) error {
		f := o.Field(m.Field)
		if f == nil {
			return &postgres.RejectedError{Text: "The field is not there yet. Give it a default, which the records there are get, or add it first without its being needed."}
		}
		if !f.Stored() || f.Unique {
			return &postgres.RejectedError{Text: "These records cannot be given one value for all. Open them one by one."}
		}
		tx := d.Db.(*sqlx.Tx)
		keys, err := s.inTheWay(ctx, tx, p, d.Schema, m)
		if err != nil {
			return err
		}
		fields, row, err := d.Parse(ctx, o, map[string]json.RawMessage{m.Field: m.Value})
		if err != nil {
			return err
		}
		mended = int64(len(keys))
		d.Cause["mending"] = m.Rule
		return d.Change(ctx, "", records.Changing{Object: o, Keys: keys, Fields: fields,
			Rows: slices.Repeat([][]value.Value{row}, len(keys))})
	})
	return mended, err
}

// inTheWay finds the records that an obstacle is made of. Nothing of the change itself
// stays.
func (s *Repositories) inTheWay(ctx context.Context, tx *sqlx.Tx, p postgres.Caller, schema string,
	m Mending) ([]int64, error) {
	docs, err := documents.All(ctx, tx, p.App)
	if err != nil {
		return nil, err
	}
	for i, d := range docs {
		if d.Kind != definition.Object || d.Key != m.Object || len(m.Patch) == 0 {
			continue
		}
		patch, err := documents.Carry(ctx, tx, p.App, d, m.Change)
		if err == nil {
			docs[i].Body, _, err = patch.Apply(d.Body)
		}
		if err != nil {
			return nil, err
		}
	}
	e, err := s.DB.Made.Compile(ctx, docs)
	if err != nil {
		return nil, &postgres.RejectedError{Text: err.Error()}
	}
	c, err := pgschema.Look(ctx, s.DB, tx, schema, e)
	if err != nil {
		return nil, err
	}
	keys := []int64{}
	err = c.Viewed(func() error {
		found, err := c.Obstacles()
		if err != nil {
			return err
		}
		n := slices.IndexFunc(found, func(o pgschema.Obstacle) bool {
			return o.Object == m.Object &&
				o.Field == m.Field && o.Rule == m.Rule
		})
		if n < 0 {
			return &postgres.RejectedError{Text: "No records are in the way any more. Make the change again."}
		}
		if err := tx.SelectContext(ctx, &keys, fmt.Sprintf("SELECT t.id FROM %s t WHERE %s ORDER BY t.id",
			sqlgen.Space{Schema: c.Schema}.Table(m.Object), found[n].Where)); err != nil {
			return fmt.Errorf("looking for records in the way: %w", err)
		}
		return nil
	})
	if err != nil {
		return nil, err
	}
	return keys, nil
}
