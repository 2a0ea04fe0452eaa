package schema

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// To write a column anew, to see that no value is there twice or that all references lead
// somewhere takes long over many records, and keeps everybody else out while a table is changed.
// All that is made ready before, beside what is there, while everybody works; the change itself
// then only takes it over.

// NotReadyError says that something must be made ready before tables can be changed.
type NotReadyError struct {
	schema  string
	edition *edition.Edition
}

func (e *NotReadyError) Error() string { return e.schema + " is not ready" }

// mostReadyings bounds how often a change is tried again because others worked meanwhile.
const mostReadyings = 5

// Evolve is in for work that changes tables. What others write after it was looked whether
// records are in the way is found when it is looked once more.
func Evolve(ctx context.Context, db *postgres.DB, work func(tx *sqlx.Tx) error) error {
	attempt := func() (unready *NotReadyError, err error) {
		for range mostReadyings {
			if err = postgres.Patiently(ctx, func() error { return db.In(ctx, work) }); !overtaken(err) {
				break
			}
		}
		errors.As(err, &unready)
		return unready, err
	}
	unready, err := attempt()
	for unready != nil {
		mine, aside := alone(ctx, db, "ready", unready.schema, func(*sqlx.Conn) error {
			schema := unready.schema
			for range mostReadyings {
				if unready, err = attempt(); unready == nil {
					break
				}
				err = &postgres.RejectedError{Text: "What this change needs could not be made ready, because others went on changing the same. Nothing was changed; try again."}
				if failed := makeReady(ctx, db, schema, unready.edition); failed != nil && !overtaken(failed) {
					err = failed
					break
				}
			}
			unready = nil
			return clearReady(context.WithoutCancel(ctx), db, schema)
		})
		if mine || aside != nil {
			return errors.Join(err, aside)
		}
		select { // holding no connection, which whoever is at it may need
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(500 * time.Millisecond):
		}
	}
	return err
}

// overtaken says that somebody wrote a record that is in the way of a change of the tables.
func overtaken(err error) bool {
	code, _, _ := postgres.Violated(err)
	return strings.HasPrefix(code, "23")
}

// alone does work of a kind unless somebody else is at it in that schema.
func alone(ctx context.Context, db *postgres.DB, kind, schema string,
	work func(conn *sqlx.Conn) error) (mine bool, err error) {
	conn, err := db.Connx(ctx)
	if err != nil {
		return false, err
	}
	defer func() { _ = conn.Close() }()
	if err := conn.GetContext(ctx, &mine, `SELECT pg_try_advisory_lock(hashtext('plainpath ' || $1), hashtext($2))`,
		kind, schema); err != nil || !mine {
		return false, err
	}
	defer func() {
		_, _ = conn.ExecContext(context.WithoutCancel(ctx),
			`SELECT pg_advisory_unlock(hashtext('plainpath ' || $1), hashtext($2))`, kind, schema)
	}()
	return true, work(conn)
}

// preparation is what must be made ready for a field.
type preparation struct {
	// conversion leads from the field as it was, nil for numbers that are new.
	conversion model.Conversion
	// anew says that its column is another one, rewritten that this is still to be written,
	// distinct that no value may be there twice.
	anew, rewritten, distinct bool
	// target is the table of the records it is to refer to, "" when that is nothing new.
	target string
	// schema, table and column say where it stands now, plural and label what it is in words;
	// fresh is the column beside it that is written.
	schema, table, column, fresh string
	plural, label                string
	// note is what all that is ready for it is noted as.
	note string
}

const readyFrom = "plainpath ready "

// readyNote is what is noted of what was made ready for a field that was another one.
func readyNote(was, f *model.Field) string {
	raw, _ := json.Marshal([]*model.Field{was, f})
	return fmt.Sprintf("%s%x", readyFrom, sha256.Sum256(raw))
}

func (p preparation) space() sqlgen.Space { return sqlgen.Space{Schema: p.schema} }

type readyIn struct{ Table, Note string }

// readReady finds what was made ready: columns, indexes that no value is in twice, and references.
func (c *convergence) readReady() error {
	var rows []struct {
		readyIn
		Name string
	}
	err := c.tx.SelectContext(c.ctx, &rows, `WITH tables AS (SELECT oid, relname FROM pg_class WHERE relnamespace = to_regnamespace($1) AND relkind = 'r'),
		noted AS (
			SELECT t.relname, d.description, a.attname AS name FROM tables t JOIN pg_description d ON d.objoid = t.oid AND d.classoid = 'pg_class'::regclass
				JOIN pg_attribute a ON a.attrelid = t.oid AND a.attnum = d.objsubid
			UNION ALL SELECT t.relname, d.description, r.relname FROM tables t JOIN pg_index i ON i.indrelid = t.oid AND i.indisvalid JOIN pg_class r ON r.oid = i.indexrelid
				JOIN pg_description d ON d.objoid = r.oid AND d.classoid = 'pg_class'::regclass AND NOT EXISTS (SELECT FROM pg_constraint k WHERE k.conindid = r.oid)
			UNION ALL SELECT t.relname, d.description, k.conname FROM tables t JOIN pg_constraint k ON k.conrelid = t.oid AND k.convalidated
				JOIN pg_description d ON d.objoid = k.oid AND d.classoid = 'pg_constraint'::regclass)
		SELECT relname AS table, description AS note, name FROM noted WHERE description LIKE $2`, sqlgen.Quote(c.Schema), readyFrom+"%")
	if err != nil {
		return fmt.Errorf("looking for what is ready in %s: %w", c.Schema, err)
	}
	c.made = map[readyIn]string{}
	for _, r := range rows {
		c.made[r.readyIn] = r.Name
	}
	return nil
}

// ready is what was made ready for an object and is noted so, "" when nothing was.
func (c *convergence) ready(object, note string) string {
	return c.made[readyIn{c.stands[columnName{object, "id"}].table, note}]
}

// unready is what must be made ready, over many records, and is not.
func (c *convergence) unready(schema string) ([]preparation, error) {
	var out []preparation
	for _, key := range c.model.Keys() {
		o := c.model.Object(key)
		stood := c.stands[columnName{key, "id"}]
		if stood.table == "" {
			continue
		}
		for i := range o.Fields {
			f := &o.Fields[i]
			p := c.preparation(schema, o, f)
			if !p.rewritten && !p.distinct && p.target == "" || !c.many(key) {
				continue
			}
			p.table, p.plural, p.label = stood.table, o.Plural, f.Label
			if p.rewritten && p.conversion.From != nil {
				if err := c.known(&p.conversion); err != nil {
					return nil, err
				}
			}
			out = append(out, p)
		}
	}
	return out, c.err
}

// preparation is what is to be made ready for a field and is not.
func (c *convergence) preparation(schema string, o *model.Object, f *model.Field) preparation {
	p := preparation{schema: schema}
	now, exists := c.have[columnName{o.Key, f.Key}]
	was := now.made
	switch {
	case !exists && f.Type == model.Number:
		p.column, p.anew, p.distinct = f.Key, true, true
		p.conversion.To = f
	case !exists || was == nil || !was.Stored() || !f.Stored():
		return p
	default:
		stood := c.stands[columnName{o.Key, f.Key}]
		there := func(kind string) bool {
			return c.constrained[columnName{stood.table, postgres.NameOf(stood.table, stood.column, kind)}]
		}
		p.column, p.conversion = stood.column, c.conversion(was, f)
		p.anew = p.conversion.Needed()
		p.distinct = f.Distinct() && (p.anew || !there("unique"))
		if to := f.Target(); to != "" && (p.anew || !there("reference") || was.Target() != to) {
			p.target = c.stands[columnName{to, "id"}].table
			if model.BuiltInKey(to) {
				p.target = sqlgen.Space{}.Table(to)
			} else if p.target != "" {
				p.target = sqlgen.Space{Schema: schema}.Table(p.target)
			}
		}
	}
	p.note, p.fresh = readyNote(was, f), postgres.NameOf("", p.column, "new")
	p.rewritten = p.anew && c.ready(o.Key, p.note) == ""
	p.distinct = p.distinct && c.ready(o.Key, p.note+" unique") == ""
	if c.ready(o.Key, p.note+" reference") != "" {
		p.target = ""
	}
	return p
}

// makeReady makes ready what a model needs.
func makeReady(ctx context.Context, db *postgres.DB, schema string, e *edition.Edition) error {
	var todo []preparation
	err := db.In(ctx, func(tx *sqlx.Tx) error {
		c, err := Look(ctx, db, tx, schema, e)
		if err != nil {
			return err
		}
		return c.Viewed(func() error {
			todo, err = c.unready(schema)
			return err
		})
	})
	if err != nil {
		return err
	}
	defer func() {
		_, _ = db.ExecContext(context.WithoutCancel(ctx), `DELETE FROM plainpath.readying WHERE schema = $1`, schema)
	}()
	for _, p := range todo {
		if err := getReady(ctx, db, p); err != nil {
			return fmt.Errorf("getting %s of %s ready: %w", p.label, p.plural, err)
		}
	}
	return nil
}
