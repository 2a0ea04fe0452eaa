package imports

import (
	"context"
	"encoding/json"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/postgres/repository"
	"plainpath/postgres/sqlgen"
)

// analyse looks at every cell of the files and proposes a plan.
func (s *Intakes) analyse(ctx context.Context, r intakeRow) error {
	in, err := r.read()
	if err != nil {
		return err
	}
	var found []intake.FoundSheet
	known := make([]bool, len(in.Files)) // read before, in the same way
	for i := range in.Files {
		known[i] = in.Files[i].Recognised != nil
		sheets, err := s.look(ctx, r.ID, i, &in.Files[i])
		if err != nil {
			return err
		}
		found = append(found, sheets...)
	}
	w, err := (&repository.Repositories{DB: s.DB, Editions: s.Editions}).Where(ctx, r.place())
	if err != nil {
		return err
	}
	d := repository.New(s.DB, w)
	err = intake.MatchColumns(found, w.Edition.Model,
		func(o *model.Object, f *model.Field) intake.Holder { return holds(ctx, d, o, f) })
	if err != nil {
		return err
	}
	plan := intake.Propose(found, w.Edition.Model)
	if err := s.asBefore(ctx, r, in.Files, found, &plan, w.Edition.Model); err != nil {
		return err
	}
	for i := range found {
		if known[found[i].File] && in.Plan != nil {
			for _, was := range in.Plan.Sheets {
				if was.File == found[i].File && was.Sheet == found[i].Sheet {
					plan.Sheets[i] = was
				}
			}
		}
	}
	var raw [3][]byte
	for i, x := range []any{in.Files, found, plan} {
		if raw[i], err = json.Marshal(x); err != nil {
			return fmt.Errorf("keeping what was found: %w", err)
		}
	}
	_, err = s.DB.ExecContext(ctx,
		`UPDATE plainpath.intake SET files = $2, found = $3, plan = $4, state = $5, doing = '', changed_at = now() WHERE id = $1`, r.ID, raw[0], raw[1], raw[2], Ready)
	if err != nil {
		return fmt.Errorf("keeping what was found: %w", err)
	}
	return nil
}

// look looks at the sheets of one file. What is wrong with the file or a sheet is kept
// with it.
func (s *Intakes) look(ctx context.Context, id int64, n int, f *UploadFile) ([]intake.FoundSheet, error) {
	file, err := intake.Open(f.Name, s.source(ctx, id, n, f.Size), f.Settings)
	if err != nil {
		f.Problem = err.Error()
		return nil, ctx.Err()
	}
	defer func() { _ = file.Close() }()
	f.Recognised = file
	var out []intake.FoundSheet
	for i, sheet := range file.Sheets {
		found := intake.FoundSheet{File: n, Sheet: i, Name: sheet.Name, Hidden: sheet.Hidden}
		var told error
		found.Analysis, err = intake.Analyse(file, i, func(rows int64) error {
			told = s.progress(ctx, id, "Looking at "+sheet.Name, rows, 0)
			return told
		})
		if told != nil {
			return nil, told
		}
		if err != nil {
			found.Problem = err.Error()
		}
		out = append(out, found)
	}
	return out, nil
}

// holds asks which values a field of stored records has.
func holds(ctx context.Context, d *repository.Repository, o *model.Object, f *model.Field) intake.Holder {
	return func(values []string) ([]bool, error) {
		names, err := sqlgen.Names(d.Space(), o, f, 2)
		if err != nil {
			return nil, err
		}
		out := []bool{}
		err = sqlx.SelectContext(ctx, d.Db, &out,
			`WITH names AS (`+names.SQL+`) SELECT EXISTS (SELECT 1 FROM names WHERE names.name = v.v) FROM unnest($1::text[]) WITH ORDINALITY v (v, n) ORDER BY v.n`, append([]any{values}, names.Args...)...)
		if err != nil {
			return nil, fmt.Errorf("comparing with %s: %w", f.Label, err)
		}
		return out, nil
	}
}
