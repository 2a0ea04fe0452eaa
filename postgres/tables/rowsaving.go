package tables

import (
	"context"
	"errors"
	"fmt"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// mostSaved bounds how many rows are saved at once.
const mostSaved = 2000

// SaveRows changes rows of a table in one transaction: all of them or none.
func (t *Tables) SaveRows(ctx context.Context, p postgres.Caller, at TableAt,
	rows []records.RowSaving) (records.RowsSaved, error) {
	var out records.RowsSaved
	if len(rows) > mostSaved {
		return out, &postgres.RejectedError{Text: fmt.Sprintf("%d rows are changed; save at most %d at once.",
			len(rows), mostSaved)}
	}
	err := t.At(ctx, p, at, func(found ShownTable) error {
		if !found.List.Editable() {
			return &postgres.RejectedError{Text: "The rows of this table cannot be changed here."}
		}
		err := found.Atomically(ctx, func(d *repository.Repository) error {
			d.Cause["table"] = found.names[0]
			var err error
			out, err = postgres.Once(ctx, d.Db, func() (records.RowsSaved, error) {
				return d.SaveRows(ctx, d.Model().Object(found.List.Object()), rows,
					func(keys []int64, paths []model.Path) ([]*value.Record, error) {
						return found.List.Among(ctx, d, keys, paths)
					})
			})
			if err == nil && !out.Saved {
				return postgres.ErrDryRun
			}
			return err
		})
		if errors.Is(err, postgres.ErrDryRun) {
			return nil
		}
		return err
	})
	out.PutBack = out.Saved && at.Rehearsal != nil
	return out, err
}
