package store

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
)

// RemoveDocument takes a document out of the draft. It stays, and RestoreDocument brings
// it back; so do the records of an object, and what roles could do with them. It is a
// *FindingsError when an object cannot do without it.
func (db *DB) RemoveDocument(ctx context.Context, app string, kind definition.Kind, key string, person int64) error {
	return db.setRemoved(ctx, app, kind, key, person, true)
}

// RestoreDocument brings back a document that was taken out of the draft.
func (db *DB) RestoreDocument(ctx context.Context, app string, kind definition.Kind, key string, person int64) error {
	return db.setRemoved(ctx, app, kind, key, person, false)
}

func (db *DB) setRemoved(ctx context.Context, app string, kind definition.Kind, key string, person int64, removed bool) error {
	if kind == definition.App {
		return &RejectedError{"An app cannot do without its settings."}
	}
	return db.evolve(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE plainpath.document SET removed = $4, revision = revision + 1 WHERE app = $1 AND kind = $2 AND key = $3 AND removed <> $4`, app, kind, key, removed)
		if err != nil {
			return fmt.Errorf("removing %s %q: %w", kind, key, err)
		}
		if n, err := res.RowsAffected(); err == nil && n == 0 {
			return fmt.Errorf("%s %q: %w", kind, key, ErrNotFound)
		}
		switch {
		case kind != definition.Object:
		case removed:
			err = db.takeRights(ctx, tx, app, key, person)
		default:
			err = db.giveRightsBack(ctx, tx, app, key, person)
		}
		if err != nil {
			return err
		}
		return db.follow(ctx, tx, app, kind)
	})
}

// takeRights takes an object that is gone out of the roles, and keeps what they could do with
// it: a right on nothing would keep every release back, and go to the next object of that key.
func (db *DB) takeRights(ctx context.Context, tx *sqlx.Tx, app, object string, person int64) error {
	docs, err := documents(ctx, tx, app)
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
		if _, err := db.change(ctx, tx, app, definition.Role, d.Key, person, edit.Patch{{Op: "remove", Path: "/objects/" + object}}, origin{forward: true}); err != nil {
			return err
		}
	}
	raw, err := json.Marshal(kept)
	if err != nil {
		return fmt.Errorf("keeping rights: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE plainpath.document SET rights = $4 WHERE app = $1 AND kind = $2 AND key = $3`, app, definition.Object, object, raw); err != nil {
		return fmt.Errorf("keeping rights: %w", err)
	}
	return nil
}

// giveRightsBack gives roles what they could do with an object before it was taken away, where
// they have no other right on it by now.
func (db *DB) giveRightsBack(ctx context.Context, tx *sqlx.Tx, app, object string, person int64) error {
	var raw []byte
	if err := tx.GetContext(ctx, &raw, `SELECT coalesce(rights, '{}') FROM plainpath.document WHERE app = $1 AND kind = $2 AND key = $3`, app, definition.Object, object); err != nil {
		return fmt.Errorf("reading kept rights: %w", err)
	}
	var kept map[string]json.RawMessage
	if err := json.Unmarshal(raw, &kept); err != nil {
		return fmt.Errorf("reading kept rights: %w", err)
	}
	docs, err := documents(ctx, tx, app)
	if err != nil {
		return err
	}
	for _, role := range slices.Sorted(maps.Keys(kept)) {
		i := slices.IndexFunc(docs, func(d definition.Document) bool { return d.Kind == definition.Role && d.Key == role })
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
		if _, err := db.change(ctx, tx, app, definition.Role, role, person, edit.Patch{{Op: "add", Path: "/objects/" + object, Value: kept[role]}}, origin{forward: true}); err != nil {
			return err
		}
	}
	return nil
}
