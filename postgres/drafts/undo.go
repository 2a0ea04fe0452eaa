package drafts

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/usage"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/schema"
)

// Undo takes back the person's last edit of a document; Redo takes back their last
// undo. What was one act in several documents is taken back in all of them. Others' edits
// since stay; it is an *edit.ClashError when they stand in the way, and a *FindingsError
// when they would be broken by it.
func Undo(ctx context.Context, db *postgres.DB, e documents.Edit) (definition.Document, error) {
	return takeBack(ctx, db, e, true, `forward`, "There is nothing to undo.")
}

// Redo is described with Undo.
func Redo(ctx context.Context, db *postgres.DB, e documents.Edit) (definition.Document, error) {
	return takeBack(ctx, db, e, false, `NOT forward AND NOT EXISTS (SELECT 1 FROM plainpath.edit n WHERE n.app = edit.app
		AND n.kind = edit.kind AND n.key = edit.key AND n.person = edit.person AND n.id > edit.id AND n.undoes IS NULL)`,
		"There is nothing to redo.")
}

// made is an edit to be taken back.
type made struct {
	ID       int64  `db:"id"`
	Kind     string `db:"kind"`
	Key      string `db:"key"`
	Origin   int64  `db:"origin"`
	Revision int    `db:"revision"`
	Inverse  []byte `db:"inverse"`
	Together int64  `db:"together"`
}

const selectMade = `SELECT id, kind, key, coalesce(origin, id) AS origin, revision, inverse, coalesce(together, 0) AS together FROM plainpath.edit WHERE NOT undone AND `

func takeBack(ctx context.Context, db *postgres.DB, e documents.Edit, undo bool, which,
	nothing string) (definition.Document, error) {
	var out definition.Document
	err := schema.Evolve(ctx, db, func(tx *sqlx.Tx) error {
		d, err := documents.Get(ctx, tx, e.App, e.Kind, e.Key, "FOR UPDATE")
		if err != nil {
			return err
		}
		e.Key = d.Key
		var last made
		err = tx.GetContext(ctx, &last,
			selectMade+`app = $1 AND kind = $2 AND key = $3 AND person = $4 AND (`+which+`) ORDER BY id DESC LIMIT 1`,
			e.App, e.Kind, e.Key, e.Person)
		if errors.Is(err, sql.ErrNoRows) {
			return &postgres.RejectedError{Text: nothing}
		}
		if err != nil {
			return fmt.Errorf("looking for the last edit: %w", err)
		}
		if last.Together != 0 {
			out, err = takeBackTogether(ctx, db, tx, e, last, undo)
			return err
		}
		if out, err = takeBackOne(ctx, db, tx, e, last, documents.Origin{Forward: !undo}); err != nil {
			return err
		}
		return Follow(ctx, db, tx, e.App, e.Kind)
	})
	return out, err
}

// takeBackTogether takes back everything of one act and gives the document asked for, which
// may have another key then.
func takeBackTogether(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, e documents.Edit, last made,
	undo bool) (definition.Document, error) {
	var out definition.Document
	before, err := documents.All(ctx, tx, e.App)
	if err != nil {
		return out, err
	}
	var all []made
	if err := tx.SelectContext(ctx, &all, selectMade+`together = $1 ORDER BY kind, key`, last.Together); err != nil {
		return out, fmt.Errorf("looking for what was done together: %w", err)
	}
	from, err := together(ctx, tx)
	if err != nil {
		return out, err
	}
	from.Forward = !undo
	var was, is string
	for _, m := range all {
		one := e
		one.Kind, one.Key = definition.Kind(m.Kind), m.Key
		if m.ID != last.ID {
			one.Request = ""
		}
		d, err := takeBackOne(ctx, db, tx, one, m, from)
		if errors.Is(err, postgres.ErrNotFound) {
			return out, &postgres.RejectedError{Text: fmt.Sprintf("This was done together with the %s %s, which was taken away. Bring it back first.", m.Kind, m.Key)}
		}
		if err != nil {
			return out, err
		}
		if d.Key != m.Key {
			was, is = m.Kind+"/"+m.Key, d.Name()
		}
		if m.ID == last.ID {
			out = d
		}
	}
	after, err := documents.All(ctx, tx, e.App)
	if err != nil {
		return out, err
	}
	broken, err := usage.Broken(before, after, was, is)
	if err != nil {
		return out, err
	}
	if len(broken) > 0 {
		return out, &documents.FindingsError{Findings: broken}
	}
	return out, Follow(ctx, db, tx, e.App, definition.Object)
}

// takeBackOne takes back one edit of one document.
func takeBackOne(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, e documents.Edit, m made,
	from documents.Origin) (definition.Document, error) {
	d, err := documents.Get(ctx, tx, e.App, e.Kind, e.Key, "FOR UPDATE")
	if err != nil {
		return d, err
	}
	var inverse edit.Patch
	if err := json.Unmarshal(m.Inverse, &inverse); err != nil {
		return d, fmt.Errorf("reading the last edit: %w", err)
	}
	patch, err := documents.Carry(ctx, tx, e.App, d, edit.Change{Base: m.Revision, Patch: inverse})
	if err != nil {
		return d, err
	}
	if key := keyIn(patch); key != "" && key != d.Key {
		if patch, err = rememberKey(d, patch); err != nil {
			return d, err
		}
		if err := refile(ctx, tx, e.App, d, key); err != nil {
			return d, err
		}
		d.Key, e.Key = key, key
	}
	if _, err := tx.ExecContext(ctx, `UPDATE plainpath.edit SET undone = true WHERE id = $1`, m.ID); err != nil {
		return d, fmt.Errorf("marking the edit undone: %w", err)
	}
	e.Base, from.Undoes, from.First = d.Revision, m.ID, m.Origin
	return documents.Record(ctx, db, tx, e, d, patch, from)
}

// keyIn is the key that a patch gives the document itself, "" when it leaves it.
func keyIn(p edit.Patch) string {
	var key string
	for _, op := range p {
		if op.Path == "/key" && json.Unmarshal(op.Value, &key) != nil {
			return ""
		}
	}
	return key
}

// rememberKey keeps the key that an object had until now among its former ones, by which
// its table is found; what the patch would do to them is left out.
func rememberKey(d definition.Document, p edit.Patch) (edit.Patch, error) {
	var said struct {
		Was []string `json:"was"`
	}
	if err := json.Unmarshal(d.Body, &said); err != nil {
		return nil, fmt.Errorf("reading %s: %w", d.Name(), err)
	}
	raw, err := json.Marshal(append(said.Was, d.Key))
	if err != nil {
		return nil, fmt.Errorf("writing the former keys of %s: %w", d.Name(), err)
	}
	p = slices.DeleteFunc(slices.Clone(p), func(op definition.Op) bool { return op.Path == "/was" })
	return append(p, definition.Op{Op: "add", Path: "/was", Value: raw}), nil
}
