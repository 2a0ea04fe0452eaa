package tables

import (
	"context"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/act"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/walk"
	"plainpath/postgres"
	"plainpath/postgres/repository"
	"plainpath/postgres/runs"
)

// Pressed says what came of a button: how many records were changed, and what is left for
// the browser to do.
type Pressed struct {
	Changed int64 `json:"changed"`
	// PutBack says that it was tried in a rehearsal.
	PutBack bool         `json:"put_back,omitempty"`
	Effects []act.Effect `json:"effects"`
	// Trace is what each line did, where it was tried.
	Trace []act.Entry `json:"trace,omitempty"`
}

// Press carries out a button of a table, in one transaction. Confirmed are the lines whose questions the
// person answered with yes. What is tried is put back, and it is told what each line did.
func (t *Tables) Press(ctx context.Context, p postgres.Caller, at TableAt, button string,
	chosen table.Chosen, confirmed []int, tried bool) (Pressed, error) {
	var out Pressed
	var traced []act.Entry
	var trace func(act.Entry)
	if tried {
		trace = func(e act.Entry) { traced = append(traced, e) }
	}
	err := t.At(ctx, p, at, func(found ShownTable) error {
		return found.Atomically(ctx, func(d *repository.Repository) error {
			d.Cause["table"], d.Cause["button"] = found.names[0], button
			var err error
			out, err = postgres.Once(ctx, d.Db, func() (Pressed, error) {
				press, err := found.List.Press(ctx, d, button, chosen)
				if err != nil {
					return Pressed{}, err
				}
				out, err := press.Do(ctx, d, confirmed, trace)
				return Pressed{Changed: out.Changed, Effects: out.Effects}, err
			})
			if err == nil && tried {
				return postgres.ErrDryRun
			}
			return err
		})
	})
	if tried && errors.Is(err, postgres.ErrDryRun) {
		err = nil
	}
	out.PutBack, out.Trace = tried || at.Rehearsal != nil, traced
	return out, err
}

// Off says for rows of a table which of its buttons are off there.
func (t *Tables) Off(ctx context.Context, p postgres.Caller, at TableAt, keys []int64) (map[string][]int64, error) {
	var out map[string][]int64
	err := t.At(ctx, p, at, func(found ShownTable) error {
		var err error
		out, err = found.List.Off(ctx, found, keys)
		return err
	})
	return out, err
}

// Reaction says which reaction is set going, and by what.
type Reaction struct {
	Key string
	// Row is the row that was pressed, where one was.
	Row int64
	// Confirmed are the lines whose questions were answered with yes.
	Confirmed []int
	// Tried puts what is written back, and tells what each line did.
	Tried bool
}

// React carries out a reaction of a page or a screen, in one transaction. The part of where it is at is not looked at.
func (t *Tables) React(ctx context.Context, p postgres.Caller, at TableAt, to Reaction) (Pressed, error) {
	var out Pressed
	reacting := screen.Reacting{Key: to.Key, Row: to.Row, Confirmed: to.Confirmed}
	if to.Tried {
		reacting.Trace = func(e act.Entry) { out.Trace = append(out.Trace, e) }
	}
	err := t.surface(ctx, p, at, func(d *repository.Repository, s standing) error {
		return d.Atomically(ctx, func(d *repository.Repository) error {
			d.Cause["reaction"] = to.Key
			done, err := postgres.Once(ctx, d.Db, func() (Pressed, error) {
				came, err := s.React(ctx, d, reacting)
				return Pressed{Changed: came.Changed, Effects: came.Effects}, err
			})
			out.Changed, out.Effects = done.Changed, done.Effects
			if err == nil && to.Tried {
				return postgres.ErrDryRun
			}
			return err
		})
	})
	if to.Tried && errors.Is(err, postgres.ErrDryRun) {
		err = nil
	}
	out.PutBack = to.Tried || at.Rehearsal != nil
	return out, err
}

// surface finds a page or a screen and does something with it.
func (t *Tables) surface(ctx context.Context, p postgres.Caller, at TableAt,
	work func(d *repository.Repository, s standing) error) error {
	switch {
	case at.Page != nil:
		d, page, err := t.page(ctx, p, at.Page.Page)
		if err != nil {
			return err
		}
		d.Cause["page"] = at.Page.Page
		return work(d, pageStanding{page, at.Page.Given})
	case at.Run != nil:
		return t.Runs.With(ctx, at.Run.Run, p.Person, "", func(tx *sqlx.Tx, place runs.Loaded, run *walk.Run) error {
			run.Typing(at.Run.Given)
			return work(place.Repository(tx), run)
		})
	case at.Rehearsal != nil:
		return t.rehearsed(ctx, p, *at.Rehearsal, func(d *repository.Repository, run *walk.Run) error {
			return work(d, run)
		})
	case at.Record != nil:
		d, o, err := t.Repositories.Of(ctx, p, at.Record.Object)
		if err != nil {
			return err
		}
		form, err := screen.FormOf(d.Edition.Model, o, at.Record.Record)
		if err != nil {
			return err
		}
		return work(d, recordStanding{form})
	}
	return fmt.Errorf("neither a page nor a screen: %w", postgres.ErrNotFound)
}
