package imports

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/schema"
	"plainpath/postgres/sqlgen"
)

// intakeMade is what an import has made for its rows, by object: its new fields, or none where
// the object is new itself. The objects and fields come in a transaction of their own before
// the rows, for whoever changes records would wait for the locks that come with them until the
// last row is in.
type intakeMade map[string][]string

// planned is the draft with what a plan makes, of which nothing is kept.
func (m *importing) planned(ctx context.Context) ([]definition.Document, error) {
	tx, err := m.intakes.DB.BeginTxx(ctx, nil)
	if err != nil {
		return nil, fmt.Errorf("beginning a dry run: %w", err)
	}
	defer func() { _ = tx.Rollback() }()
	if _, err := m.makeModel(ctx, tx); err != nil {
		return nil, err
	}
	return documents.All(ctx, tx, m.row.App)
}

// make makes what a plan asks for, tables and all, and notes it with the intake.
func (m *importing) make(ctx context.Context) error {
	return schema.Evolve(ctx, m.intakes.DB, func(tx *sqlx.Tx) error {
		made, err := m.makeModel(ctx, tx)
		if err != nil {
			return err
		}
		if len(made) > 0 {
			if err := drafts.Follow(ctx, m.intakes.DB, tx, m.row.App, definition.Object); err != nil {
				return err
			}
		}
		raw, err := json.Marshal(made)
		if err != nil {
			return fmt.Errorf("noting what was made: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.intake SET made = $2 WHERE id = $1`, m.row.ID,
			raw); err != nil {
			return fmt.Errorf("noting what was made: %w", err)
		}
		return nil
	})
}

func (m *importing) makeModel(ctx context.Context, tx *sqlx.Tx) (intakeMade, error) {
	made := intakeMade{}
	for i := range m.in.Plan.Sheets {
		p := &m.in.Plan.Sheets[i]
		if p.Skip {
			continue
		}
		var err error
		var fields []string
		if p.New {
			err = m.makeObject(ctx, tx, p)
		} else if fields, err = m.makeFields(ctx, tx, p); len(fields) == 0 && err == nil {
			continue
		}
		if err != nil {
			return nil, err
		}
		made[p.Object] = fields
	}
	return made, nil
}

// makeObject adds the new object of a sheet. Who brings it in gets all rights on it by their
// roles.
func (m *importing) makeObject(ctx context.Context, tx *sqlx.Tx, p *intake.SheetPlan) error {
	body, err := json.Marshal(p.NewObject())
	if err != nil {
		return fmt.Errorf("making %s: %w", p.Label, err)
	}
	if err := documents.AddDocument(ctx, tx, m.row.App, definition.Document{Kind: definition.Object, Key: p.Object,
		Body: body}); err != nil {
		return err
	}
	return drafts.GrantOwnRoles(ctx, m.intakes.DB, tx, m.row.App, m.row.Person, p.Object)
}

// makeFields adds the new fields of a sheet to the object there is.
func (m *importing) makeFields(ctx context.Context, tx *sqlx.Tx, p *intake.SheetPlan) ([]string, error) {
	var patch edit.Patch
	var made []string
	for _, c := range p.Columns {
		if c.Skip || !c.New {
			continue
		}
		f := c.NewField()
		raw, err := json.Marshal(f)
		if err != nil {
			return nil, fmt.Errorf("making the field %s: %w", c.Label, err)
		}
		patch = append(patch, definition.Op{Op: "add", Path: "/fields/-", Value: raw})
		made = append(made, f.Key)
	}
	if len(patch) == 0 {
		return nil, nil
	}
	_, err := drafts.Change(ctx, m.intakes.DB, tx, m.row.App, definition.Object, p.Object, m.row.Person, patch,
		documents.Origin{Forward: true})
	return made, err
}

// unmake takes back what an import made, when its rows did not come. An object in which there
// are records by now stays.
func (s *Intakes) unmake(ctx context.Context, r intakeRow) error {
	return schema.Evolve(ctx, s.DB, func(tx *sqlx.Tx) error {
		made := intakeMade{}
		if err := tx.GetContext(ctx, &r.Made, `SELECT coalesce(made, '{}') FROM plainpath.intake WHERE id = $1`,
			r.ID); err != nil {
			return fmt.Errorf("reading what was made: %w", err)
		}
		if err := json.Unmarshal(r.Made, &made); err != nil {
			return fmt.Errorf("reading what was made: %w", err)
		}
		for object, fields := range made {
			var err error
			if fields == nil {
				err = s.unmakeObject(ctx, tx, r, object)
			} else {
				err = s.unmakeFields(ctx, tx, r, object, fields)
			}
			if err != nil {
				return err
			}
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.intake SET made = NULL WHERE id = $1`, r.ID); err != nil {
			return fmt.Errorf("noting what was made: %w", err)
		}
		return drafts.Follow(ctx, s.DB, tx, r.App, definition.Object)
	})
}

func (s *Intakes) unmakeObject(ctx context.Context, tx *sqlx.Tx, r intakeRow, object string) error {
	var schema string
	if err := tx.GetContext(ctx, &schema, `SELECT schema FROM plainpath.space WHERE app = $1 AND key = $2`, r.App,
		r.Space); err != nil {
		return fmt.Errorf("finding the space: %w", err)
	}
	table := sqlgen.Space{Schema: schema}.Table(object)
	var used bool
	if err := tx.GetContext(ctx, &used, "SELECT EXISTS (SELECT FROM "+table+")"); err != nil {
		return fmt.Errorf("looking for records: %w", err)
	}
	if used {
		return nil
	}
	if err := drafts.TakeRights(ctx, s.DB, tx, r.App, object, r.Person); err != nil {
		return err
	}
	for _, what := range []string{"edit", "document"} {
		if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.`+what+` WHERE app = $1 AND kind = $2 AND key = $3`,
			r.App, definition.Object, object); err != nil {
			return fmt.Errorf("taking %s back: %w", object, err)
		}
	}
	// what refers to it was brought in with it
	if _, err := tx.ExecContext(ctx, "DROP TABLE "+table+" CASCADE"); err != nil {
		return fmt.Errorf("taking %s back: %w", object, err)
	}
	return nil
}

func (s *Intakes) unmakeFields(ctx context.Context, tx *sqlx.Tx, r intakeRow, object string, fields []string) error {
	d, err := documents.Get(ctx, tx, r.App, definition.Object, object, "FOR UPDATE")
	if err != nil {
		return err
	}
	var o model.Object
	if err := definition.Decode(d.Body, &o); err != nil {
		return fmt.Errorf("reading %s: %w", d.Name(), err)
	}
	var patch edit.Patch
	for i := len(o.Fields) - 1; i >= 0; i-- {
		if slices.Contains(fields, o.Fields[i].Key) {
			patch = append(patch, definition.Op{Op: "remove", Path: fmt.Sprintf("/fields/%d", i)})
		}
	}
	_, err = drafts.Change(ctx, s.DB, tx, r.App, definition.Object, object, r.Person, patch,
		documents.Origin{Forward: true})
	return err
}

// asMade is a plan whose objects and fields are there.
func asMade(p intake.Plan) *intake.Plan {
	p.Sheets = slices.Clone(p.Sheets)
	for i := range p.Sheets {
		s := &p.Sheets[i]
		s.New = false
		s.Columns = slices.Clone(s.Columns)
		for n := range s.Columns {
			s.Columns[n].New = false
		}
	}
	return &p
}
