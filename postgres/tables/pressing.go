package tables

import (
	"context"
	"errors"

	"plainpath/core/act"
	pages "plainpath/core/page"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/postgres"
	"plainpath/postgres/repository"
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

// Reaction says which reaction of a page is set going, with what was given on the page.
type Reaction struct {
	Page, Key string
	Given     screen.Given
	// Row is the row that was pressed, where one was.
	Row int64
	// Confirmed are the lines whose questions were answered with yes.
	Confirmed []int
	// Tried puts what is written back, and tells what each line did.
	Tried bool
}

// React carries out a reaction of a page, in one transaction.
func (t *Tables) React(ctx context.Context, p postgres.Caller, to Reaction) (Pressed, error) {
	d, page, err := t.page(ctx, p, to.Page)
	if err != nil {
		return Pressed{}, err
	}
	var out Pressed
	reacting := pages.Reacting{Key: to.Key, Row: to.Row, Confirmed: to.Confirmed}
	if to.Tried {
		out.PutBack = true
		reacting.Trace = func(e act.Entry) { out.Trace = append(out.Trace, e) }
	}
	err = d.Atomically(ctx, func(d *repository.Repository) error {
		d.Cause["page"], d.Cause["reaction"] = to.Page, to.Key
		done, err := postgres.Once(ctx, d.Db, func() (Pressed, error) {
			came, err := page.React(ctx, d, to.Given, reacting)
			return Pressed{Changed: came.Changed, Effects: came.Effects}, err
		})
		out.Changed, out.Effects = done.Changed, done.Effects
		if err == nil && to.Tried {
			return postgres.ErrDryRun
		}
		return err
	})
	if errors.Is(err, postgres.ErrDryRun) {
		err = nil
	}
	return out, err
}
