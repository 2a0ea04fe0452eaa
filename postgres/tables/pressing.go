package tables

import (
	"context"

	"plainpath/core/act"
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
}

// Press carries out a button of a table, in one transaction. Confirmed are the lines whose questions the
// person answered with yes.
func (t *Tables) Press(ctx context.Context, p postgres.Caller, at TableAt, button string,
	chosen table.Chosen, confirmed []int) (Pressed, error) {
	var out Pressed
	err := t.At(ctx, p, at, func(found ShownTable) error {
		return found.Atomically(ctx, func(d *repository.Repository) error {
			d.Cause["table"], d.Cause["button"] = found.names[0], button
			var err error
			out, err = postgres.Once(ctx, d.Db, func() (Pressed, error) {
				press, err := found.List.Press(ctx, d, button, chosen)
				if err != nil {
					return Pressed{}, err
				}
				out, err := press.Do(ctx, d, confirmed, nil)
				return Pressed{Changed: out.Changed, Effects: out.Effects}, err
			})
			return err
		})
	})
	out.PutBack = at.Rehearsal != nil
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
