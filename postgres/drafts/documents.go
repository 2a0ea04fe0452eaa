// Package drafts is what becomes of the draft of an app: it is edited, edits are taken back, keys get
// other names with everything that uses them, documents are taken away and brought back, and it is
// released.
package drafts

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/edition"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/schema"
)

// AddDocument adds a document to the draft. It is a *RejectedError when the key is
// taken or the document cannot be read. Who adds an object has all rights on it by their
// roles.
func AddDocument(ctx context.Context, db *postgres.DB, app string, person int64, d definition.Document) error {
	return schema.Evolve(ctx, db, func(tx *sqlx.Tx) error {
		if err := documents.AddDocument(ctx, tx, app, d); err != nil {
			return err
		}
		if d.Kind == definition.Object {
			if err := GrantOwnRoles(ctx, db, tx, app, person, d.Key); err != nil {
				return err
			}
		}
		return Follow(ctx, db, tx, app, d.Kind)
	})
}

// Apply carries out an edit on the newest revision. The errors a person can do
// something about are *edit.ClashError, *RejectedError and *FindingsError.
func Apply(ctx context.Context, db *postgres.DB, e documents.Edit) (definition.Document, error) {
	var out definition.Document
	err := schema.Evolve(ctx, db, func(tx *sqlx.Tx) error {
		var err error
		out, err = apply(ctx, db, tx, e)
		return err
	})
	return out, err
}

func apply(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, e documents.Edit) (definition.Document, error) {
	d, err := documents.Get(ctx, tx, e.App, e.Kind, e.Key, "FOR UPDATE")
	if err != nil {
		return d, err
	}
	if e.Request != "" {
		var done int
		err := tx.GetContext(ctx, &done, `SELECT count(*) FROM plainpath.edit WHERE request = $1`, e.Request)
		if err != nil {
			return d, fmt.Errorf("looking for the edit: %w", err)
		}
		if done > 0 {
			return d, nil
		}
	}
	patch, err := documents.Carry(ctx, tx, e.App, d, e.Change)
	if err != nil {
		return d, err
	}
	return write(ctx, db, tx, e, d, patch, documents.Origin{Forward: true})
}

func write(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, e documents.Edit, d definition.Document, patch edit.Patch,
	from documents.Origin) (definition.Document, error) {
	d, err := documents.Record(ctx, db, tx, e, d, patch, from)
	if err != nil {
		return d, err
	}
	return d, Follow(ctx, db, tx, e.App, d.Kind)
}

// Follow makes the spaces without a release fit the draft, when objects changed.
func Follow(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app string, kind definition.Kind) error {
	if !edition.HasTables(kind) {
		return nil
	}
	docs, err := documents.All(ctx, tx, app)
	if err != nil {
		return err
	}
	e, err := db.Made.Compile(ctx, docs)
	if err != nil {
		return &postgres.RejectedError{Text: err.Error()}
	}
	for _, d := range docs {
		if edition.HasTables(d.Kind) {
			for _, f := range e.Of(d.Name()) {
				if f.Severity == definition.Stop {
					return &documents.FindingsError{Findings: []definition.Finding{f}}
				}
			}
		}
	}
	var schemas []string
	if err := tx.SelectContext(ctx, &schemas, `SELECT schema FROM plainpath.space WHERE app = $1 AND key = 'trial'`,
		app); err != nil {
		return fmt.Errorf("finding the spaces: %w", err)
	}
	for _, s := range schemas {
		if err := schema.Converge(ctx, db, tx, s, e); err != nil {
			return err
		}
	}
	return nil
}
