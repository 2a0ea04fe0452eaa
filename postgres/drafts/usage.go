package drafts

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/usage"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/schema"
)

// UsesOfField lists what would break if a field were taken away.
func UsesOfField(ctx context.Context, db *postgres.DB, app, object, field string) ([]definition.Finding, error) {
	docs, err := documents.Documents(ctx, db, app)
	if err != nil {
		return nil, err
	}
	return usage.OfField(docs, object, field)
}

// UsesOfChoice lists what would break if a value of a choice were taken away.
func UsesOfChoice(ctx context.Context, db *postgres.DB, app, object, field,
	choice string) ([]definition.Finding, error) {
	docs, err := documents.Documents(ctx, db, app)
	if err != nil {
		return nil, err
	}
	return usage.OfChoice(docs, object, field, choice)
}

// UsesOfDocument lists what would break if a document were taken away.
func UsesOfDocument(ctx context.Context, db *postgres.DB, app string, kind definition.Kind,
	key string) ([]definition.Finding, error) {
	docs, err := documents.Documents(ctx, db, app)
	if err != nil {
		return nil, err
	}
	return usage.OfDocument(docs, kind, key)
}

// UsesOfPart lists what would break if what is at a pointer into a document were taken away.
func UsesOfPart(ctx context.Context, db *postgres.DB, app string, kind definition.Kind, key,
	pointer string) ([]definition.Finding, error) {
	docs, err := documents.Documents(ctx, db, app)
	if err != nil {
		return nil, err
	}
	return usage.OfPart(docs, kind, key, pointer)
}

// RenameField gives a field another key; everything that names it follows, in one
// transaction and as one act: undoing it in any of the documents takes back all of it. It
// gives the names of the documents that changed.
func RenameField(ctx context.Context, db *postgres.DB, app, object, field, to string, person int64) ([]string, error) {
	return rename(ctx, db, app, person, func(docs []definition.Document) ([]usage.Change, error) {
		return usage.RenameField(docs, object, field, to)
	})
}

// RenameChoice is RenameField for a value of a choice.
func RenameChoice(ctx context.Context, db *postgres.DB, app, object, field, choice, to string,
	person int64) ([]string, error) {
	return rename(ctx, db, app, person, func(docs []definition.Document) ([]usage.Change, error) {
		return usage.RenameChoice(docs, object, field, choice, to)
	})
}

// RenameObject is RenameField for an object.
func RenameObject(ctx context.Context, db *postgres.DB, app, object, to string, person int64) ([]string, error) {
	return rename(ctx, db, app, person, func(docs []definition.Document) ([]usage.Change, error) {
		return usage.RenameObject(docs, object, to)
	})
}

// RenameIn is RenameField for what is at a pointer into a document and has a key: a step, a
// part, a button, a value handed over.
func RenameIn(ctx context.Context, db *postgres.DB, app string, kind definition.Kind, key, pointer, from, to string,
	person int64) ([]string, error) {
	return rename(ctx, db, app, person, func(docs []definition.Document) ([]usage.Change, error) {
		return usage.RenameIn(docs, kind, key, pointer, from, to)
	})
}

func rename(ctx context.Context, db *postgres.DB, app string, person int64,
	plan func([]definition.Document) ([]usage.Change, error)) ([]string, error) {
	var out []string
	err := schema.Evolve(ctx, db, func(tx *sqlx.Tx) error {
		docs, err := documents.All(ctx, tx, app)
		if err != nil {
			return err
		}
		changes, err := plan(docs)
		var stuck *usage.StuckError
		if errors.As(err, &stuck) {
			return &documents.FindingsError{Findings: stuck.Findings}
		}
		if err != nil {
			return &postgres.RejectedError{Text: err.Error()}
		}
		from, err := together(ctx, tx)
		if err != nil {
			return err
		}
		for _, c := range changes {
			if c.Key != c.Document.Key {
				if err := refile(ctx, tx, app, c.Document, c.Key); err != nil {
					return err
				}
			}
			if _, err := Change(ctx, db, tx, app, c.Document.Kind, c.Key, person, c.Patch, from); err != nil {
				return err
			}
			out = append(out, string(c.Document.Kind)+"/"+c.Key)
		}
		if slices.ContainsFunc(changes, func(c usage.Change) bool { return c.Document.Kind == definition.Object }) {
			return Follow(ctx, db, tx, app, definition.Object)
		}
		return nil
	})
	return out, err
}

// together is the origin of edits of several documents that are one act.
func together(ctx context.Context, tx *sqlx.Tx) (documents.Origin, error) {
	from := documents.Origin{Forward: true}
	if err := tx.GetContext(ctx, &from.Together, `SELECT nextval('plainpath.together')`); err != nil {
		return from, fmt.Errorf("numbering what is done together: %w", err)
	}
	return from, nil
}

// refile gives a document its new key; its body has to follow.
func refile(ctx context.Context, tx *sqlx.Tx, app string, d definition.Document, key string) error {
	res, err := tx.ExecContext(ctx, `UPDATE plainpath.document d SET key = $4 WHERE app = $1 AND kind = $2 AND key = $3
		AND NOT EXISTS (SELECT 1 FROM plainpath.document o WHERE o.app = $1 AND o.kind = $2 AND o.key = $4)`, app, d.Kind, d.Key, key)
	if err != nil {
		return fmt.Errorf("giving %s another key: %w", d.Name(), err)
	}
	if n, err := res.RowsAffected(); err == nil && n == 0 {
		return &postgres.RejectedError{Text: fmt.Sprintf("There was %s with the key %q once, which was taken away. Choose another key.", model.WithArticle(string(d.Kind)), key)}
	}
	if _, err = tx.ExecContext(ctx,
		`UPDATE plainpath.profile SET object = $3 WHERE app = $1 AND object = $2 AND space = 'trial'`, app, d.Key,
		key); err != nil {
		return fmt.Errorf("taking what is stored along: %w", err)
	}
	return nil
}
