package store

import (
	"context"
	"errors"
	"fmt"

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

// UsesOfChoice lists what would break if a value of a choice were taken away.
func (db *DB) UsesOfChoice(ctx context.Context, app, object, field, choice string) ([]checkup.Finding, error) {
	docs, err := db.Documents(ctx, app)
	if err != nil {
		return nil, err
	}
	return usage.OfChoice(docs, object, field, choice)
}

// UsesOfDocument lists what would break if a document were taken away.
func (db *DB) UsesOfDocument(ctx context.Context, app string, kind edition.DocumentKind, key string) ([]checkup.Finding, error) {
	docs, err := db.Documents(ctx, app)
	if err != nil {
		return nil, err
	}
	return usage.OfDocument(docs, kind, key)
}

// RenameField gives a field another key; everything that names it follows, in one
// transaction. Each document's part of it is an edit that can be undone. It gives the
// names of the documents that changed.
func (db *DB) RenameField(ctx context.Context, app, object, field, to string, person int64) ([]string, error) {
	return db.rename(ctx, app, person, func(docs []edition.Document) ([]usage.Change, error) {
		return usage.RenameField(docs, object, field, to)
	})
}

// RenameChoice is RenameField for a value of a choice.
func (db *DB) RenameChoice(ctx context.Context, app, object, field, choice, to string, person int64) ([]string, error) {
	return db.rename(ctx, app, person, func(docs []edition.Document) ([]usage.Change, error) {
		return usage.RenameChoice(docs, object, field, choice, to)
	})
}

// RenameObject is RenameField for an object. Its own part cannot be undone by itself, but
// renaming it back brings everything back.
func (db *DB) RenameObject(ctx context.Context, app, object, to string, person int64) ([]string, error) {
	return db.rename(ctx, app, person, func(docs []edition.Document) ([]usage.Change, error) {
		return usage.RenameObject(docs, object, to)
	})
}

func (db *DB) rename(ctx context.Context, app string, person int64, plan func([]edition.Document) ([]usage.Change, error)) ([]string, error) {
	var out []string
	err := db.in(ctx, func(tx *sqlx.Tx) error {
		docs, err := documents(ctx, tx, app)
		if err != nil {
			return err
		}
		changes, err := plan(docs)
		var stuck *usage.StuckError
		if errors.As(err, &stuck) {
			return &FindingsError{stuck.Findings}
		}
		if err != nil {
			return &RejectedError{err.Error()}
		}
		for _, c := range changes {
			if c.Key != c.Document.Key {
				if err := db.rekey(ctx, tx, app, c, person); err != nil {
					return err
				}
			} else if _, err := db.change(ctx, tx, app, c.Document.Kind, c.Document.Key, person, c.Patch); err != nil {
				return err
			}
			out = append(out, string(c.Document.Kind)+"/"+c.Key)
		}
		return db.follow(ctx, tx, app, edition.ObjectDocument)
	})
	return out, err
}

// rekey gives a document its new key. The edit counts as undone, for by itself it cannot
// be: undoing goes on with the edit before it.
func (db *DB) rekey(ctx context.Context, tx *sqlx.Tx, app string, c usage.Change, person int64) error {
	res, err := tx.ExecContext(ctx, `UPDATE plainpath.document d SET key = $4 WHERE app = $1 AND kind = $2 AND key = $3
		AND NOT EXISTS (SELECT 1 FROM plainpath.document o WHERE o.app = $1 AND o.kind = $2 AND o.key = $4)`, app, c.Document.Kind, c.Document.Key, c.Key)
	if err != nil {
		return fmt.Errorf("giving %s another key: %w", c.Document.Name(), err)
	}
	if n, err := res.RowsAffected(); err == nil && n == 0 {
		return &RejectedError{fmt.Sprintf("There was a %s with the key %q once, which was taken away. Choose another key.", c.Document.Kind, c.Key)}
	}
	d := c.Document
	d.Key = c.Key
	if d, err = db.record(ctx, tx, Edit{App: app, Kind: d.Kind, Key: d.Key, Person: person}, d, c.Patch, origin{forward: true}); err != nil {
		return err
	}
	if _, err = tx.ExecContext(ctx, `UPDATE plainpath.edit SET undone = true WHERE app = $1 AND kind = $2 AND key = $3 AND revision = $4`, app, d.Kind, d.Key, d.Revision); err != nil {
		return fmt.Errorf("noting the new key: %w", err)
	}
	if _, err = tx.ExecContext(ctx, `UPDATE plainpath.profile SET object = $3 WHERE app = $1 AND object = $2 AND space = 'trial'`, app, c.Document.Key, c.Key); err != nil {
		return fmt.Errorf("taking what is stored along: %w", err)
	}
	return nil
}
