package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/core/records"
)

// ErrNotFound says that what was asked for is not there.
var ErrNotFound = records.ErrNotFound

// RejectedError says why an edit was not taken.
type RejectedError struct{ Text string }

func (e *RejectedError) Error() string { return e.Text }

// FindingsError says what of an edit could not be carried out as meant, and where.
type FindingsError struct{ Findings []definition.Finding }

func (e *FindingsError) Error() string { return e.Findings[0].Text }

// Documents reads the draft of an app.
func (db *DB) Documents(ctx context.Context, app string) ([]definition.Document, error) {
	return documents(ctx, db, app)
}

// RemovedDocuments are those that were taken out of the draft.
func (db *DB) RemovedDocuments(ctx context.Context, app string) ([]definition.Document, error) {
	return documentsWhere(ctx, db, app, "removed")
}

type documentRow struct {
	Kind     string `db:"kind"`
	Key      string `db:"key"`
	Revision int    `db:"revision"`
	Body     []byte `db:"body"`
}

func (r documentRow) document() definition.Document {
	return definition.Document{Kind: definition.Kind(r.Kind), Key: r.Key, Revision: r.Revision, Body: r.Body}
}

func documents(ctx context.Context, q sqlx.QueryerContext, app string) ([]definition.Document, error) {
	return documentsWhere(ctx, q, app, "NOT removed")
}

func documentsWhere(ctx context.Context, q sqlx.QueryerContext, app, condition string) ([]definition.Document, error) {
	var rows []documentRow
	err := sqlx.SelectContext(ctx, q, &rows, `SELECT kind, key, revision, body FROM plainpath.document WHERE app = $1 AND `+condition+` ORDER BY kind, key`, app)
	if err != nil {
		return nil, fmt.Errorf("reading the draft: %w", err)
	}
	out := make([]definition.Document, len(rows))
	for i, r := range rows {
		out[i] = r.document()
	}
	return out, nil
}

// DraftVersion changes whenever the draft does.
func (db *DB) DraftVersion(ctx context.Context, app string) (string, error) {
	var v string
	err := db.GetContext(ctx, &v, `SELECT count(*) || '.' || coalesce(sum(revision), 0) || '.' || coalesce(sum(revision) FILTER (WHERE removed), 0) FROM plainpath.document WHERE app = $1`, app)
	if err != nil {
		return "", fmt.Errorf("reading the draft: %w", err)
	}
	return v, nil
}

// Document reads one document of the draft.
func (db *DB) Document(ctx context.Context, app string, kind definition.Kind, key string) (definition.Document, error) {
	return document(ctx, db, app, kind, key, "")
}

func document(ctx context.Context, q sqlx.QueryerContext, app string, kind definition.Kind, key, lock string) (definition.Document, error) {
	var r documentRow
	err := sqlx.GetContext(ctx, q, &r, `SELECT kind, key, revision, body FROM plainpath.document WHERE app = $1 AND kind = $2 AND key = $3 AND NOT removed `+lock, app, kind, key)
	if errors.Is(err, sql.ErrNoRows) && edition.HasTables(kind) { // an address may have the key from before
		err = sqlx.GetContext(ctx, q, &r, `SELECT kind, key, revision, body FROM plainpath.document WHERE app = $1 AND kind = $2 AND body->'was' ? $3 AND NOT removed ORDER BY key LIMIT 1 `+lock, app, kind, key)
	}
	if errors.Is(err, sql.ErrNoRows) {
		return definition.Document{}, fmt.Errorf("%s %q: %w", kind, key, ErrNotFound)
	}
	if err != nil {
		return definition.Document{}, fmt.Errorf("reading %s %q: %w", kind, key, err)
	}
	return r.document(), nil
}

// AddDocument adds a document to the draft. It is a *RejectedError when the key is
// taken or the document cannot be read. Who adds an object has all rights on it by their
// roles.
func (db *DB) AddDocument(ctx context.Context, app string, person int64, d definition.Document) error {
	return db.evolve(ctx, func(tx *sqlx.Tx) error {
		if err := addDocument(ctx, tx, app, d); err != nil {
			return err
		}
		if d.Kind == definition.Object {
			if err := db.grantOwnRoles(ctx, tx, app, person, d.Key); err != nil {
				return err
			}
		}
		return db.follow(ctx, tx, app, d.Kind)
	})
}

func addDocument(ctx context.Context, tx *sqlx.Tx, app string, d definition.Document) error {
	if err := edition.Readable(d); err != nil {
		return &RejectedError{err.Error()}
	}
	res, err := tx.ExecContext(ctx, `INSERT INTO plainpath.document (app, kind, key, body) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`, app, d.Kind, d.Key, d.Body)
	if err != nil {
		return fmt.Errorf("adding %s: %w", d.Name(), err)
	}
	if n, err := res.RowsAffected(); err == nil && n == 0 {
		if _, err := document(ctx, tx, app, d.Kind, d.Key, ""); errors.Is(err, ErrNotFound) {
			return &RejectedError{fmt.Sprintf("there was %s with the key %q, which was taken away; bring it back, or choose another name", model.WithArticle(string(d.Kind)), d.Key)}
		}
		return &RejectedError{fmt.Sprintf("there is %s with the key %q already", model.WithArticle(string(d.Kind)), d.Key)}
	}
	return nil
}

// Edit is a change of one document.
type Edit struct {
	App  string
	Kind definition.Kind
	Key  string
	edit.Change
	Person int64
	// Request makes the same edit sent twice count once.
	Request string
}

// Apply carries out an edit on the newest revision. The errors a person can do
// something about are *edit.ClashError, *RejectedError and *FindingsError.
func (db *DB) Apply(ctx context.Context, e Edit) (definition.Document, error) {
	var out definition.Document
	err := db.evolve(ctx, func(tx *sqlx.Tx) error {
		var err error
		out, err = db.apply(ctx, tx, e)
		return err
	})
	return out, err
}

func (db *DB) apply(ctx context.Context, tx *sqlx.Tx, e Edit) (definition.Document, error) {
	d, err := document(ctx, tx, e.App, e.Kind, e.Key, "FOR UPDATE")
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
	patch, err := carry(ctx, tx, e.App, d, e.Change)
	if err != nil {
		return d, err
	}
	return db.write(ctx, tx, e, d, patch, origin{forward: true})
}

// carry brings a patch from the revision it was made against to the newest.
func carry(ctx context.Context, tx *sqlx.Tx, app string, d definition.Document, change edit.Change) (edit.Patch, error) {
	var rows []struct {
		ID      int64
		Undoes  int64
		Request string
		Patch   []byte
		Inverse []byte
	}
	err := tx.SelectContext(ctx, &rows, `SELECT id, coalesce(undoes, 0) AS undoes, coalesce(request, '') AS request, patch, inverse FROM plainpath.edit
		WHERE app = $1 AND kind = $2 AND key = $3 AND revision > $4 ORDER BY revision`, app, d.Kind, d.Key, change.Base)
	if err != nil {
		return nil, fmt.Errorf("reading the edits since: %w", err)
	}
	since := make([]edit.Made, len(rows))
	for i, row := range rows {
		since[i] = edit.Made{ID: row.ID, Undoes: row.Undoes, Request: row.Request}
		if err := errors.Join(json.Unmarshal(row.Patch, &since[i].Patch), json.Unmarshal(row.Inverse, &since[i].Inverse)); err != nil {
			return nil, fmt.Errorf("reading an edit: %w", err)
		}
	}
	patch, err := change.Over(since)
	if errors.Is(err, edit.ErrNotMade) {
		return nil, &RejectedError{err.Error()}
	}
	return patch, err
}

// origin says where an edit comes from: a person's own hand or a redo (forward), or an
// undo; the latter two name the edit they take back.
type origin struct {
	undoes  int64
	first   int64
	forward bool
	// together is shared by edits of several documents that are one act.
	together int64
}

func (db *DB) write(ctx context.Context, tx *sqlx.Tx, e Edit, d definition.Document, patch edit.Patch, from origin) (definition.Document, error) {
	d, err := db.record(ctx, tx, e, d, patch, from)
	if err != nil {
		return d, err
	}
	return d, db.follow(ctx, tx, e.App, d.Kind)
}

// record stores a document as an edit leaves it, and the edit.
func (db *DB) record(ctx context.Context, tx *sqlx.Tx, e Edit, d definition.Document, patch edit.Patch, from origin) (definition.Document, error) {
	patch, err := patch.Settle(d.Body)
	if err != nil {
		return d, &RejectedError{err.Error()}
	}
	after, inverse, err := patch.Apply(d.Body)
	if err != nil {
		return d, &RejectedError{err.Error()}
	}
	d.Body = after
	d.Revision++
	if err := edition.Readable(d); err != nil {
		return d, &RejectedError{err.Error()}
	}
	patchJSON, err := json.Marshal(patch)
	if err != nil {
		return d, fmt.Errorf("writing the edit: %w", err)
	}
	inverseJSON, err := json.Marshal(inverse)
	if err != nil {
		return d, fmt.Errorf("writing the edit: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE plainpath.document SET body = $4, revision = $5 WHERE app = $1 AND kind = $2 AND key = $3`, e.App, d.Kind, d.Key, after, d.Revision); err != nil {
		return d, fmt.Errorf("storing %s: %w", d.Name(), err)
	}
	_, err = tx.ExecContext(ctx, `INSERT INTO plainpath.edit (app, kind, key, revision, person, patch, inverse, undoes, origin, forward, together, request) VALUES ($1, $2, $3, $4, $5, $6, $7, nullif($8, 0), nullif($9, 0), $10, nullif($11, 0), nullif($12, ''))`,
		e.App, d.Kind, d.Key, d.Revision, e.Person, patchJSON, inverseJSON, from.undoes, from.first, from.forward, from.together, e.Request)
	if err != nil {
		return d, fmt.Errorf("storing the edit: %w", err)
	}
	return d, nil
}

// follow makes the spaces without a release fit the draft, when objects changed.
func (db *DB) follow(ctx context.Context, tx *sqlx.Tx, app string, kind definition.Kind) error {
	if !edition.HasTables(kind) {
		return nil
	}
	docs, err := documents(ctx, tx, app)
	if err != nil {
		return err
	}
	e, err := db.made.compile(ctx, docs)
	if err != nil {
		return &RejectedError{err.Error()}
	}
	for _, d := range docs {
		if edition.HasTables(d.Kind) {
			for _, f := range e.Of(d.Name()) {
				if f.Severity == definition.Stop {
					return &FindingsError{[]definition.Finding{f}}
				}
			}
		}
	}
	var schemas []string
	if err := tx.SelectContext(ctx, &schemas, `SELECT schema FROM plainpath.space WHERE app = $1 AND key = 'trial'`, app); err != nil {
		return fmt.Errorf("finding the spaces: %w", err)
	}
	for _, s := range schemas {
		if err := db.converge(ctx, tx, s, e); err != nil {
			return err
		}
	}
	return nil
}
