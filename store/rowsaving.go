package store

import (
	"context"
	"errors"
	"fmt"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// mostSaved bounds how many rows are saved at once.
const mostSaved = 2000

// SaveRows changes rows of a table in one transaction: all of them or none.
func (t *Tables) SaveRows(ctx context.Context, p Place, at TableAt, rows []records.RowSaving) (records.RowsSaved, error) {
	var out records.RowsSaved
	if len(rows) > mostSaved {
		return out, &RejectedError{fmt.Sprintf("%d rows are changed; save at most %d at once.", len(rows), mostSaved)}
	}
	err := t.at(ctx, p, at, func(found shownTable) error {
		if !found.list.Editable() {
			return &RejectedError{"The rows of this table cannot be changed here."}
		}
		err := found.atomically(ctx, func(d *desk) error {
			d.Cause["table"] = found.names[0]
			var err error
			out, err = once(ctx, d.db, func() (records.RowsSaved, error) {
				return d.SaveRows(ctx, d.Model().Object(found.list.Object()), rows, func(keys []int64, paths []model.Path) ([]*value.Record, error) {
					return found.list.Among(ctx, d, keys, paths)
				})
			})
			if err == nil && !out.Saved {
				return errDryRun
			}
			return err
		})
		if errors.Is(err, errDryRun) {
			return nil
		}
		return err
	})
	out.PutBack = out.Saved && at.Rehearsal != nil
	return out, err
}
