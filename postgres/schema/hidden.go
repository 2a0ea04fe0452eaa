package schema

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/sqlgen"
)

// Hidden is what is stored and not shown any more, because its object or field was taken away.
type Hidden struct {
	Object string `json:"object"`
	// Field is empty when all records of the object are hidden.
	Field string `json:"field,omitempty"`
	// Label is what the field or the object was called, Of the object of a field.
	Label string `json:"label"`
	Of    string `json:"of,omitempty"`
	// Trial and Production count the values, or the records, in each space.
	Trial      int64 `json:"trial"`
	Production int64 `json:"production"`
}

// Drop names something hidden that is to be dropped for good.
type Drop struct {
	Object string `json:"object"`
	Field  string `json:"field,omitempty"`
}

// ListHidden lists what is hidden in the spaces of an app.
func ListHidden(ctx context.Context, db *postgres.DB, app string) ([]Hidden, error) {
	number, err := documents.InForce(ctx, db, app) // before there is a transaction, which holds a connection
	if err != nil {
		return nil, err
	}
	var out []Hidden
	err = db.In(ctx, func(tx *sqlx.Tx) error {
		docs, err := documents.Released(ctx, tx, app, number)
		if err != nil {
			return err
		}
		out, err = HiddenOf(ctx, db, tx, app, docs)
		return err
	})
	return out, err
}

// HiddenOf lists what is hidden in trial, which follows the draft, and in production, which is on
// the documents given.
func HiddenOf(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app string,
	inForce []definition.Document) ([]Hidden, error) {
	draft, err := documents.All(ctx, tx, app)
	if err != nil {
		return nil, err
	}
	removed, err := documents.DocumentsWhere(ctx, tx, app, "removed")
	if err != nil {
		return nil, err
	}
	found := map[Drop]*Hidden{}
	for _, space := range []struct {
		key  string
		docs []definition.Document
	}{{postgres.Trial, draft}, {postgres.Production, inForce}} {
		e, err := db.Made.Compile(ctx, space.docs)
		if err != nil {
			return nil, err
		}
		var schema string
		if err := tx.GetContext(ctx, &schema, `SELECT schema FROM plainpath.space WHERE app = $1 AND key = $2`, app,
			space.key); err != nil {
			return nil, fmt.Errorf("finding the spaces: %w", err)
		}
		c, err := Look(ctx, db, tx, schema, e)
		if err != nil {
			return nil, err
		}
		for name, column := range c.have {
			o := e.Model.Object(name.table)
			at, stood, counted := Drop{Object: name.table}, c.stands[name], "*"
			switch {
			case o == nil && name.column == "revision": // every record has one, the history none
			case o != nil && column.made != nil && o.Field(name.column) == nil:
				at.Field, counted = name.column, sqlgen.Quote(stood.column)
			default:
				continue
			}
			h := found[at]
			if h == nil {
				h = &Hidden{Object: at.Object, Field: at.Field, Label: at.Object}
				if at.Field != "" {
					h.Label, h.Of = cmp.Or(column.made.Label, at.Field), o.Label
				}
				found[at] = h
			}
			n := &h.Trial
			if space.key == postgres.Production {
				n = &h.Production
			}
			if err := tx.GetContext(ctx, n, fmt.Sprintf("SELECT count(%s) FROM %s", counted,
				sqlgen.Space{Schema: schema}.Table(stood.table))); err != nil {
				return nil, fmt.Errorf("counting what is hidden: %w", err)
			}
		}
	}
	out := make([]Hidden, 0, len(found))
	for _, h := range found {
		for _, d := range append(removed, draft...) {
			var named struct{ Plural string }
			if h.Field == "" && d.Kind == definition.Object && d.Key == h.Object && json.Unmarshal(d.Body,
				&named) == nil {
				h.Label = cmp.Or(named.Plural, h.Label)
			}
		}
		out = append(out, *h)
	}
	slices.SortFunc(out, func(a, b Hidden) int {
		return cmp.Or(cmp.Compare(a.Object, b.Object), cmp.Compare(a.Field, b.Field))
	})
	return out, nil
}

// DropHidden drops what is hidden for good, in both spaces where it is hidden in both. The key of an
// object that is dropped is free again.
func DropHidden(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app string, inForce []definition.Document,
	drops []Drop) error {
	there, err := HiddenOf(ctx, db, tx, app, inForce)
	if err != nil {
		return err
	}
	for _, d := range drops {
		n := slices.IndexFunc(there, func(h Hidden) bool { return h.Object == d.Object && h.Field == d.Field })
		if n < 0 {
			return &postgres.RejectedError{Text: fmt.Sprintf("What is to be dropped is not hidden any more: %s %s. Look again and release then.", d.Object, d.Field)}
		}
		if err := dropOne(ctx, db, tx, app, inForce, d); err != nil {
			return err
		}
	}
	return nil
}

func dropOne(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app string, inForce []definition.Document,
	d Drop) error {
	draft, err := documents.All(ctx, tx, app)
	if err != nil {
		return err
	}
	spaces := map[string][]definition.Document{postgres.Trial: draft, postgres.Production: inForce}
	for _, space := range []string{postgres.Trial, postgres.Production} {
		shown := slices.ContainsFunc(spaces[space], func(doc definition.Document) bool {
			return doc.Kind == definition.Object && doc.Key == d.Object && (d.Field == "" || hasField(doc, d.Field))
		})
		if shown {
			continue
		}
		var schema string
		if err := tx.GetContext(ctx, &schema, `SELECT schema FROM plainpath.space WHERE app = $1 AND key = $2`, app,
			space); err != nil {
			return fmt.Errorf("finding the spaces: %w", err)
		}
		table := sqlgen.Space{Schema: schema}.Table(d.Object)
		statements := []string{"DROP TABLE IF EXISTS " + table + " CASCADE"} // hidden columns may refer to it
		if d.Field != "" {
			statements = []string{"ALTER TABLE IF EXISTS " + table + " DROP COLUMN IF EXISTS " + sqlgen.Quote(d.Field),
				"ALTER TABLE IF EXISTS " + table + " DROP COLUMN IF EXISTS " + sqlgen.Quote(d.Field+"_currency")}
		}
		for _, sql := range statements {
			if _, err := tx.ExecContext(ctx, sql); err != nil {
				return fmt.Errorf("dropping %s: %w", d.Object, err)
			}
		}
	}
	if d.Field != "" {
		return nil
	}
	res, err := tx.ExecContext(ctx,
		`DELETE FROM plainpath.document WHERE app = $1 AND kind = $2 AND key = $3 AND removed`, app, definition.Object,
		d.Object)
	if err != nil {
		return fmt.Errorf("freeing the key %s: %w", d.Object, err)
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return err
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.edit WHERE app = $1 AND kind = $2 AND key = $3`, app,
		definition.Object, d.Object); err != nil {
		return fmt.Errorf("freeing the key %s: %w", d.Object, err)
	}
	return nil
}

func hasField(d definition.Document, field string) bool {
	var o struct {
		Fields []struct{ Key string }
	}
	err := json.Unmarshal(d.Body, &o)
	return err == nil && slices.ContainsFunc(o.Fields, func(f struct{ Key string }) bool { return f.Key == field })
}
