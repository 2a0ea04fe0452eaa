// Package documents keeps the documents of an app, each with every edit that was made of it, and the
// releases that were made of them all. Editions compiles them and keeps what it made.
package documents

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/postgres"
)

// OnlyApp is the app that the database holds, "" when it holds none. Of several one must be named.
func OnlyApp(ctx context.Context, db *postgres.DB) (string, error) {
	var apps []string
	if err := db.SelectContext(ctx, &apps, `SELECT DISTINCT app FROM plainpath.space ORDER BY app`); err != nil {
		return "", fmt.Errorf("looking for the app: %w", err)
	}
	switch len(apps) {
	case 0:
		return "", nil
	case 1:
		return apps[0], nil
	}
	return "", fmt.Errorf("the database has the apps %s: say with PLAINPATH_APP which of them is served",
		strings.Join(apps, ", "))
}

// Written is a definition as JSON.
func Written(v any) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		panic(err) // they are our own types, which have nothing that cannot be written
	}
	return raw
}

// FindingsError says what of an edit could not be carried out as meant, and where.
type FindingsError struct{ Findings []definition.Finding }

func (e *FindingsError) Error() string { return e.Findings[0].Text }

// Documents reads the draft of an app.
func Documents(ctx context.Context, db *postgres.DB, app string) ([]definition.Document, error) {
	return All(ctx, db, app)
}

// RemovedDocuments are those that were taken out of the draft.
func RemovedDocuments(ctx context.Context, db *postgres.DB, app string) ([]definition.Document, error) {
	return DocumentsWhere(ctx, db, app, "removed")
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

// All reads the documents of a draft, by kind and key.
func All(ctx context.Context, q sqlx.QueryerContext, app string) ([]definition.Document, error) {
	return DocumentsWhere(ctx, q, app, "NOT removed")
}

// DocumentsWhere reads those for which a condition holds.
func DocumentsWhere(ctx context.Context, q sqlx.QueryerContext, app, condition string) ([]definition.Document, error) {
	var rows []documentRow
	err := sqlx.SelectContext(ctx, q, &rows,
		`SELECT kind, key, revision, body FROM plainpath.document WHERE app = $1 AND `+condition+` ORDER BY kind, key`,
		app)
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
func DraftVersion(ctx context.Context, db *postgres.DB, app string) (string, error) {
	var v string
	err := db.GetContext(ctx, &v,
		`SELECT count(*) || '.' || coalesce(sum(revision), 0) || '.' || coalesce(sum(revision) FILTER (WHERE removed), 0) FROM plainpath.document WHERE app = $1`, app)
	if err != nil {
		return "", fmt.Errorf("reading the draft: %w", err)
	}
	return v, nil
}

// Document reads one document of the draft.
func Document(ctx context.Context, db *postgres.DB, app string, kind definition.Kind,
	key string) (definition.Document, error) {
	return Get(ctx, db, app, kind, key, "")
}

// Get reads one document, which may have had the key earlier. Lock is how it is locked, "" for not at all.
func Get(ctx context.Context, q sqlx.QueryerContext, app string, kind definition.Kind, key,
	lock string) (definition.Document, error) {
	var r documentRow
	err := sqlx.GetContext(ctx, q, &r,
		`SELECT kind, key, revision, body FROM plainpath.document WHERE app = $1 AND kind = $2 AND key = $3 AND NOT removed `+lock, app, kind, key)
	if errors.Is(err, sql.ErrNoRows) && edition.HasTables(kind) { // an address may have the key from before
		err = sqlx.GetContext(ctx, q, &r,
			`SELECT kind, key, revision, body FROM plainpath.document WHERE app = $1 AND kind = $2 AND body->'was' ? $3 AND NOT removed ORDER BY key LIMIT 1 `+lock, app, kind, key)
	}
	if errors.Is(err, sql.ErrNoRows) {
		return definition.Document{}, fmt.Errorf("%s %q: %w", kind, key, postgres.ErrNotFound)
	}
	if err != nil {
		return definition.Document{}, fmt.Errorf("reading %s %q: %w", kind, key, err)
	}
	return r.document(), nil
}

// AddDocument stores a new document. It is a *postgres.RejectedError where it cannot be read or is there.
func AddDocument(ctx context.Context, tx *sqlx.Tx, app string, d definition.Document) error {
	if err := edition.Readable(d); err != nil {
		return &postgres.RejectedError{Text: err.Error()}
	}
	res, err := tx.ExecContext(ctx,
		`INSERT INTO plainpath.document (app, kind, key, body) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING`, app,
		d.Kind, d.Key, d.Body)
	if err != nil {
		return fmt.Errorf("adding %s: %w", d.Name(), err)
	}
	if n, err := res.RowsAffected(); err == nil && n == 0 {
		if _, err := Get(ctx, tx, app, d.Kind, d.Key, ""); errors.Is(err, postgres.ErrNotFound) {
			return &postgres.RejectedError{Text: fmt.Sprintf("there was %s with the key %q, which was taken away; bring it back, or choose another name", model.WithArticle(string(d.Kind)), d.Key)}
		}
		return &postgres.RejectedError{Text: fmt.Sprintf("there is %s with the key %q already",
			model.WithArticle(string(d.Kind)), d.Key)}
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

// Carry brings a patch from the revision it was made against to the newest.
func Carry(ctx context.Context, tx *sqlx.Tx, app string, d definition.Document,
	change edit.Change) (edit.Patch, error) {
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
		if err := errors.Join(json.Unmarshal(row.Patch, &since[i].Patch),
			json.Unmarshal(row.Inverse, &since[i].Inverse)); err != nil {
			return nil, fmt.Errorf("reading an edit: %w", err)
		}
	}
	patch, err := change.Over(since)
	if errors.Is(err, edit.ErrNotMade) {
		return nil, &postgres.RejectedError{Text: err.Error()}
	}
	return patch, err
}

// Origin says where an edit comes from: a person's own hand or a redo (forward), or an
// undo; the latter two name the edit they take back.
type Origin struct {
	Undoes  int64
	First   int64
	Forward bool
	// together is shared by edits of several documents that are one act.
	Together int64
}

// Record stores a document as an edit leaves it, and the edit.
func Record(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, e Edit, d definition.Document, patch edit.Patch,
	from Origin) (definition.Document, error) {
	patch, err := patch.Settle(d.Body)
	if err != nil {
		return d, &postgres.RejectedError{Text: err.Error()}
	}
	after, inverse, err := patch.Apply(d.Body)
	if err != nil {
		return d, &postgres.RejectedError{Text: err.Error()}
	}
	d.Body = after
	d.Revision++
	if err := edition.Readable(d); err != nil {
		return d, &postgres.RejectedError{Text: err.Error()}
	}
	patchJSON, err := json.Marshal(patch)
	if err != nil {
		return d, fmt.Errorf("writing the edit: %w", err)
	}
	inverseJSON, err := json.Marshal(inverse)
	if err != nil {
		return d, fmt.Errorf("writing the edit: %w", err)
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE plainpath.document SET body = $4, revision = $5 WHERE app = $1 AND kind = $2 AND key = $3`, e.App,
		d.Kind, d.Key, after, d.Revision); err != nil {
		return d, fmt.Errorf("storing %s: %w", d.Name(), err)
	}
	_, err = tx.ExecContext(ctx,
		`INSERT INTO plainpath.edit (app, kind, key, revision, person, patch, inverse, undoes, origin, forward, together, request) VALUES ($1, $2, $3, $4, $5, $6, $7, nullif($8, 0), nullif($9, 0), $10, nullif($11, 0), nullif($12, ''))`,
		e.App, d.Kind, d.Key, d.Revision, e.Person, patchJSON, inverseJSON, from.Undoes, from.First, from.Forward,
		from.Together, e.Request)
	if err != nil {
		return d, fmt.Errorf("storing the edit: %w", err)
	}
	return d, nil
}
