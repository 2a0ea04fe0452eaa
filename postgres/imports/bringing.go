package imports

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/release"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/schema"
)

// Brought is what bringing an app in changes, or would change, in the draft.
type Brought struct {
	Changes  []definition.Difference `json:"changes"`
	Findings []definition.Finding    `json:"findings"`
}

// BringIn makes the draft of an app what the documents say: what is not among them is taken away,
// and can be brought back. Trying it changes nothing.
func BringIn(ctx context.Context, db *postgres.DB, app string, person int64, docs []definition.Document,
	try bool) (Brought, error) {
	out := Brought{Changes: []definition.Difference{}, Findings: []definition.Finding{}}
	docs, err := forApp(app, docs)
	if err != nil {
		return out, err
	}
	work := func(tx *sqlx.Tx) error {
		before, err := documents.All(ctx, tx, app)
		if err != nil {
			return err
		}
		if out.Changes, err = release.Diff(before, docs); err != nil {
			return &postgres.RejectedError{Text: err.Error()}
		}
		e, err := db.Made.Compile(ctx, docs)
		if err != nil {
			return &postgres.RejectedError{Text: err.Error()}
		}
		out.Findings = append(out.Findings[:0], e.Findings...)
		if len(out.Changes) == 0 || try {
			return nil
		}
		return replaceDraft(ctx, db, tx, app, person, before, docs)
	}
	if try {
		return out, db.Dry(ctx, work)
	}
	return out, schema.Evolve(ctx, db, work)
}

// forApp lets documents be those of an app, whatever it was called where they come from.
func forApp(app string, docs []definition.Document) ([]definition.Document, error) {
	docs = slices.Clone(docs)
	at := slices.IndexFunc(docs, func(d definition.Document) bool { return d.Kind == definition.App })
	if at < 0 {
		return nil, &postgres.RejectedError{Text: "There is no file app/….json among these, so this is no whole app."}
	}
	if docs[at].Key == app {
		return docs, nil
	}
	var body map[string]json.RawMessage
	if err := json.Unmarshal(docs[at].Body, &body); err != nil {
		return nil, &postgres.RejectedError{Text: err.Error()}
	}
	body["key"] = documents.Written(app)
	docs[at].Key, docs[at].Body = app, documents.Written(body)
	return docs, nil
}

func replaceDraft(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app string, person int64, before,
	docs []definition.Document) error {
	was := map[string]definition.Document{}
	for _, d := range before {
		was[d.Name()] = d
	}
	for _, d := range docs {
		have, there := was[d.Name()]
		delete(was, d.Name())
		if !there {
			// One that was taken away has its history still.
			err := tx.GetContext(ctx, &have.Revision,
				`UPDATE plainpath.document SET removed = false, revision = revision + 1 WHERE app = $1 AND kind = $2 AND key = $3 RETURNING revision`, app, d.Kind, d.Key)
			if errors.Is(err, sql.ErrNoRows) {
				if err := documents.AddDocument(ctx, tx, app, d); err != nil {
					return err
				}
				continue
			}
			if err != nil {
				return fmt.Errorf("bringing %s back: %w", d.Name(), err)
			}
			if have, err = documents.Get(ctx, tx, app, d.Kind, d.Key, ""); err != nil {
				return err
			}
		}
		patch, err := difference(have.Body, d.Body)
		if err != nil {
			return err
		}
		if len(patch) == 0 {
			continue
		}
		if _, err := documents.Record(ctx, db, tx, documents.Edit{App: app, Kind: d.Kind, Key: d.Key, Person: person},
			have, patch, documents.Origin{Forward: true}); err != nil {
			return err
		}
	}
	for _, name := range slices.Sorted(maps.Keys(was)) {
		d := was[name]
		if _, err := tx.ExecContext(ctx,
			`UPDATE plainpath.document SET removed = true, revision = revision + 1 WHERE app = $1 AND kind = $2 AND key = $3`, app, d.Kind, d.Key); err != nil {
			return fmt.Errorf("removing %s: %w", name, err)
		}
	}
	return drafts.Follow(ctx, db, tx, app, definition.Object)
}

// difference makes one body of the other, member by member.
func difference(from, to json.RawMessage) (edit.Patch, error) {
	var a, b map[string]json.RawMessage
	if err := errors.Join(json.Unmarshal(from, &a), json.Unmarshal(to, &b)); err != nil {
		return nil, &postgres.RejectedError{Text: err.Error()}
	}
	var out edit.Patch
	escaped := strings.NewReplacer("~", "~0", "/", "~1")
	for _, key := range slices.Sorted(maps.Keys(a)) {
		if _, stays := b[key]; !stays {
			out = append(out, definition.Op{Op: "remove", Path: "/" + escaped.Replace(key)})
		}
	}
	for _, key := range slices.Sorted(maps.Keys(b)) {
		if have, there := a[key]; !there || !sameJSON(have, b[key]) {
			out = append(out, definition.Op{Op: "add", Path: "/" + escaped.Replace(key), Value: b[key]})
		}
	}
	return out, nil
}

func sameJSON(a, b json.RawMessage) bool {
	x, errA := definition.Stable(a)
	y, errB := definition.Stable(b)
	return errA == nil && errB == nil && bytes.Equal(x, y)
}
