package schema

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/model"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/sqlgen"
)

// mostAtOnce is how many records a table may have for all of them to be gone through while others
// wait, unless a DB says otherwise.
const mostAtOnce = 20_000

// indexWork is an index to be made, and what is there by its name to be dropped before.
type indexWork struct {
	name, table, from string
	// note is what is kept of it, "" for nothing.
	note string
	drop bool
}

// begun is what an index that was never finished is noted as.
const begun = "begun"

// workedOut begins what is noted of an index over an expression. It does not go along with a
// column: it goes with any column in it.
const workedOut = "worked out "

// indexWork compares the indexes of objects with those that queries count on.
func (c *convergence) indexWork(keys []string) (map[string][]indexWork, error) {
	space := sqlgen.Space{Model: c.model, Schema: c.Schema, Worked: c.edition.WorkedOut}
	out, named := map[string][]indexWork{}, map[string]bool{}
	for _, key := range keys {
		o := c.model.Object(key)
		for i := range o.Fields {
			f := &o.Fields[i]
			wanted, err := space.Indexes(o, f)
			if err != nil {
				return nil, fmt.Errorf("indexing %s of %s: %w", f.Label, o.Label, err)
			}
			for _, kind := range sqlgen.IndexKinds {
				w := indexWork{name: postgres.NameOf(o.Key, f.Key, string(kind)), table: space.Table(o.Key),
					from: wanted[kind]}
				var note string
				note, w.drop = c.indexed[w.name]
				named[w.name] = true
				same := note != begun && !strings.HasPrefix(note, workedOut) && f.Type != model.WorkedOut
				if f.Type == model.WorkedOut {
					w.note = workedOut + w.from
					same = note == w.note
				}
				if w.drop != (w.from != "") || w.drop && !same {
					out[key] = append(out[key], w)
				}
			}
		}
	}
	if len(keys) == len(c.model.Keys()) { // those of what is worked out no more
		for name, note := range c.indexed {
			if strings.HasPrefix(note, workedOut) && !named[name] {
				out[""] = append(out[""], indexWork{name: name, drop: true})
			}
		}
	}
	return out, nil
}

// indexes makes those that queries count on. Those that no longer serve go. Over many records
// both are left to the background, so that nobody waits.
func (c *convergence) indexes(keys []string) {
	if c.err == nil {
		c.err = c.readIndexes() // some went with their columns
	}
	if c.err != nil {
		return
	}
	work, err := c.indexWork(keys)
	c.err = err
	for key, each := range work {
		if key != "" && c.many(key) {
			c.later = true
			continue
		}
		for _, w := range each {
			for _, sql := range w.statements(c.Schema, "") {
				c.exec("%s", sql)
			}
		}
	}
}

// statements carry the work out, concurrently or in a transaction.
func (w indexWork) statements(schema, concurrently string) []string {
	var out []string
	name := sqlgen.Quote(schema) + "." + sqlgen.Quote(w.name)
	if w.drop {
		out = append(out, fmt.Sprintf("DROP INDEX %s %s", concurrently, name))
	}
	if w.from != "" {
		out = append(out, fmt.Sprintf("CREATE INDEX %s %s ON %s %s", concurrently, sqlgen.Quote(w.name), w.table,
			w.from))
	}
	if w.note != "" && w.from != "" {
		out = append(out, fmt.Sprintf("COMMENT ON INDEX %s IS %s", name, sqlgen.Quoted(w.note)))
	}
	return out
}

// many says whether a table has so many records that nobody should wait for all of them.
func (c *convergence) many(table string) bool {
	if full, known := c.full[table]; known || c.err != nil {
		return full
	}
	var n int
	if err := c.tx.GetContext(c.ctx, &n, fmt.Sprintf("SELECT count(*) FROM (SELECT 1 FROM %s LIMIT %d) taken",
		sqlgen.Space{Schema: c.Schema}.Table(table), c.most+1)); err != nil {
		c.err = fmt.Errorf("counting the records of %s: %w", table, err)
	}
	if c.full == nil {
		c.full = map[string]bool{}
	}
	c.full[table] = n > c.most
	return c.full[table]
}

// leaveIndexes notes that a space lacks indexes. Its queries give the same without them.
func leaveIndexes(ctx context.Context, tx *sqlx.Tx, schema string) error {
	if _, err := tx.ExecContext(ctx, `UPDATE plainpath.space SET unindexed = true WHERE schema = $1`,
		schema); err != nil {
		return fmt.Errorf("leaving indexes to the background: %w", err)
	}
	return nil
}

// MakeIndexes makes the indexes that spaces lack, one after the other, while everybody works on.
func MakeIndexes(ctx context.Context, e *documents.Editions) error {
	var spaces []struct{ App, Key, Schema string }
	if err := e.Db.SelectContext(ctx, &spaces,
		`SELECT app, key, schema FROM plainpath.space WHERE unindexed`); err != nil {
		return fmt.Errorf("looking for spaces without indexes: %w", err)
	}
	var failed []error
	for _, s := range spaces {
		if err := makeIndexes(ctx, e, s.App, s.Key, s.Schema); err != nil {
			failed = append(failed, fmt.Errorf("making the indexes of %s: %w", s.Schema, err))
		}
	}
	return errors.Join(failed...)
}

func makeIndexes(ctx context.Context, e *documents.Editions, app, space, schema string) error {
	_, err := alone(ctx, e.Db, "indexes", schema, func(conn *sqlx.Conn) error {
		// Marked before it is looked at: what changes meanwhile marks it again.
		if _, err := conn.ExecContext(ctx, `UPDATE plainpath.space SET unindexed = false WHERE schema = $1`,
			schema); err != nil {
			return err
		}
		err := makeEach(ctx, e, conn, app, space, schema)
		if err != nil {
			_, marking := conn.ExecContext(context.WithoutCancel(ctx),
				`UPDATE plainpath.space SET unindexed = true WHERE schema = $1`, schema)
			err = errors.Join(err, marking)
		}
		return err
	})
	return err
}

func makeEach(ctx context.Context, e *documents.Editions, conn *sqlx.Conn, app, space, schema string) error {
	in, err := e.Of(ctx, app, space)
	if err != nil {
		return err
	}
	var work []indexWork
	err = e.Db.In(ctx, func(tx *sqlx.Tx) error {
		c := &convergence{ctx: ctx, tx: tx, Schema: schema, edition: in, model: in.Model, most: mostAtOnce}
		if err := c.readIndexes(); err != nil {
			return err
		}
		each, err := c.indexWork(in.Model.Keys())
		for _, some := range each {
			work = append(work, some...)
		}
		return err
	})
	if err != nil {
		return err
	}
	for _, w := range work {
		for _, sql := range w.statements(schema, "CONCURRENTLY") {
			if _, err := conn.ExecContext(ctx, sql); err != nil {
				return fmt.Errorf("%s: %w", w.name, err)
			}
		}
	}
	return nil
}
