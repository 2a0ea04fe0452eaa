package store

import (
	"context"
	"errors"

	"github.com/jmoiron/sqlx"

	"plainpath/core/checkup"
	"plainpath/core/edition"
	"plainpath/core/usage"
)

// UsesOfField lists what would break if a field were taken away.
func (db *DB) UsesOfField(ctx context.Context, app, object, field string) ([]checkup.Finding, error) {
	docs, err := db.Documents(ctx, app)
	if err != nil {
		return nil, err
	}
	return usage.OfField(docs, object, field)
}

// RenameField gives a field another key; everything that names it follows, in one
// transaction. Each document's part of it is an edit that can be undone. It gives the
// names of the documents that changed.
func (db *DB) RenameField(ctx context.Context, app, object, field, to string, person int64) ([]string, error) {
	var out []string
	err := db.in(ctx, func(tx *sqlx.Tx) error {
		docs, err := documents(ctx, tx, app)
		if err != nil {
			return err
		}
		changes, err := usage.RenameField(docs, object, field, to)
		var stuck *usage.StuckError
		if errors.As(err, &stuck) {
			return &FindingsError{stuck.Findings}
		}
		if err != nil {
			return &RejectedError{err.Error()}
		}
		for _, c := range changes {
			if _, err := db.change(ctx, tx, app, c.Document.Kind, c.Document.Key, person, c.Patch); err != nil {
				return err
			}
			out = append(out, c.Document.Name())
		}
		return db.follow(ctx, tx, app, edition.ObjectDocument)
	})
	return out, err
}
