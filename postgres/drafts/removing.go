package drafts

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/schema"
)

// RemoveDocument takes a document out of the draft. It stays, and RestoreDocument brings
// it back; so do the records of an object, and what roles could do with them. It is a
// *FindingsError when an object cannot do without it.
func RemoveDocument(ctx context.Context, db *postgres.DB, app string, kind definition.Kind, key string,
	person int64) error {
	return setRemoved(ctx, db, app, kind, key, person, true)
}

// RestoreDocument brings back a document that was taken out of the draft.
func RestoreDocument(ctx context.Context, db *postgres.DB, app string, kind definition.Kind, key string,
	person int64) error {
	return setRemoved(ctx, db, app, kind, key, person, false)
}

func setRemoved(ctx context.Context, db *postgres.DB, app string, kind definition.Kind, key string, person int64,
	removed bool) error {
	if kind == definition.App {
		return &postgres.RejectedError{Text: "An app cannot do without its settings."}
	}
	return schema.Evolve(ctx, db, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx,
			`UPDATE plainpath.document SET removed = $4, revision = revision + 1 WHERE app = $1 AND kind = $2 AND key = $3 AND removed <> $4`, app, kind, key, removed)
		if err != nil {
			return fmt.Errorf("removing %s %q: %w", kind, key, err)
		}
		if n, err := res.RowsAffected(); err == nil && n == 0 {
			return fmt.Errorf("%s %q: %w", kind, key, postgres.ErrNotFound)
		}
		switch {
		case kind != definition.Object:
		case removed:
			err = TakeRights(ctx, db, tx, app, key, person)
		default:
			err = giveRightsBack(ctx, db, tx, app, key, person)
		}
		if err != nil {
			return err
		}
		return Follow(ctx, db, tx, app, kind)
	})
}

// TakeRights takes an object that is gone out of the roles, and keeps what they could do with
// it: a right on nothing would keep every release back, and go to the next object of that key.
func TakeRights(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app, object string, person int64) error {
	docs, err := documents.All(ctx, tx, app)
	if err != nil {
		return err
	}
	kept := map[string]json.RawMessage{}
	for _, d := range docs {
		if d.Kind != definition.Role {
			continue
		}
		var role struct {
			Objects map[string]json.RawMessage `json:"objects"`
		}
		if err := json.Unmarshal(d.Body, &role); err != nil {
			return fmt.Errorf("reading %s: %w", d.Name(), err)
		}
		right, has := role.Objects[object]
		if !has {
			continue
		}
		kept[d.Key] = right
		if _, err := Change(ctx, db, tx, app, definition.Role, d.Key, person,
			edit.Patch{{Op: "remove", Path: "/objects/" + object}}, documents.Origin{Forward: true}); err != nil {
			return err
		}
	}
	raw, err := json.Marshal(kept)
	if err != nil {
		return fmt.Errorf("keeping rights: %w", err)
	}
	if _, err := tx.ExecContext(ctx,
		`UPDATE plainpath.document SET rights = $4 WHERE app = $1 AND kind = $2 AND key = $3`, app, definition.Object,
		object, raw); err != nil {
		return fmt.Errorf("keeping rights: %w", err)
	}
	return nil
}

// giveRightsBack gives roles what they could do with an object before it was taken away, where
// they have no other right on it by now.
func giveRightsBack(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app, object string, person int64) error {
	var raw []byte
	if err := tx.GetContext(ctx, &raw,
		`SELECT coalesce(rights, '{}') FROM plainpath.document WHERE app = $1 AND kind = $2 AND key = $3`, app,
		definition.Object, object); err != nil {
		return fmt.Errorf("reading kept rights: %w", err)
	}
	var kept map[string]json.RawMessage
	if err := json.Unmarshal(raw, &kept); err != nil {
		return fmt.Errorf("reading kept rights: %w", err)
	}
	docs, err := documents.All(ctx, tx, app)
	if err != nil {
		return err
	}
	for _, role := range slices.Sorted(maps.Keys(kept)) {
		i := slices.IndexFunc(docs, func(d definition.Document) bool {
			return d.Kind == definition.Role &&
				d.Key == role
		})
		if i < 0 {
			continue // the role was taken away meanwhile
		}
		var now struct {
			Objects map[string]json.RawMessage `json:"objects"`
		}
		if err := json.Unmarshal(docs[i].Body, &now); err != nil {
			return fmt.Errorf("reading %s: %w", docs[i].Name(), err)
		}
		if _, has := now.Objects[object]; has || now.Objects == nil {
			continue
		}
		if _, err := Change(ctx, db, tx, app, definition.Role, role, person,
			edit.Patch{{Op: "add", Path: "/objects/" + object, Value: kept[role]}},
			documents.Origin{Forward: true}); err != nil {
			return err
		}
	}
	return nil
}
