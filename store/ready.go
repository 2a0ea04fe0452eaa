package store

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/core/search"
	"plainpath/core/value"
)

// A change of type rewrites a column, during which nobody could read. Over many records the new
// column is made ready beside the old one first, piece by piece, while everybody works; the
// change itself then only puts it in the old one's place.

// notReadyError says that columns must be made ready before tables can be changed.
type notReadyError struct {
	schema  string
	edition *edition.Edition
}

func (e *notReadyError) Error() string { return "columns of " + e.schema + " are not ready" }

// mostReadyings bounds how often a change is tried again because the model changed meanwhile.
const mostReadyings = 5

// evolve is in for work that changes tables.
func (db *DB) evolve(ctx context.Context, work func(tx *sqlx.Tx) error) error {
	for attempt := 1; ; attempt++ {
		err := db.in(ctx, work)
		var unready *notReadyError
		if !errors.As(err, &unready) || attempt == mostReadyings {
			return err
		}
		if err := db.makeReady(ctx, unready.schema, unready.edition); err != nil {
			return fmt.Errorf("getting %s ready: %w", unready.schema, err)
		}
	}
}

// rewriting is a column that is to be written anew.
type rewriting struct {
	conversion model.Conversion
	// table and column are what it is called in the database now, plural and label in words.
	table, column string
	plural, label string
	note          string
}

const readyFrom = "plainpath ready "

// readyNote is what a column is noted as that has the values of one field as those of another.
func readyNote(was, f *model.Field) string {
	raw, _ := json.Marshal([]*model.Field{was, f})
	return fmt.Sprintf("%s%x", readyFrom, sha256.Sum256(raw))
}

// ready is the column that was made ready for a field, "" when there is none.
func (c *convergence) ready(o *model.Object, was, f *model.Field) string {
	var name string
	err := c.tx.GetContext(c.ctx, &name, `SELECT coalesce((SELECT attname FROM pg_attribute WHERE attrelid = $1::regclass AND attnum > 0 AND NOT attisdropped
		AND col_description(attrelid, attnum) = $2), '')`, search.Space{Schema: c.schema}.Table(o.Key), readyNote(was, f))
	if err != nil && c.err == nil {
		c.err = fmt.Errorf("looking for what is ready of %s: %w", f.Label, err)
	}
	return name
}

// unready are the columns of many records that must be written anew and are not ready.
func (c *convergence) unready(each func(o *model.Object, was, f *model.Field) error) error {
	for _, key := range c.model.Keys() {
		o := c.model.Object(key)
		for i := range o.Fields {
			f := &o.Fields[i]
			was := c.have[columnName{key, f.Key}].made
			if was == nil || !was.Stored() || !f.Stored() || !c.conversion(was, f).Needed() || !c.many(key) || c.ready(o, was, f) != "" {
				continue
			}
			if err := errors.Join(c.err, each(o, was, f)); err != nil {
				return err
			}
		}
	}
	return c.err
}

// attribute is a column, whatever it is called.
type attribute struct {
	Table int64 `db:"attrelid"`
	Place int   `db:"attnum"`
}

// makeReady makes the columns ready that a model needs, for one change of a space at a time.
func (db *DB) makeReady(ctx context.Context, schema string, e *edition.Edition) error {
	for {
		mine, err := db.alone(ctx, "ready", schema, func(*sqlx.Conn) error { return db.readied(ctx, schema, e) })
		if mine || err != nil {
			return err
		}
		select { // holding no connection, which whoever is at it may need
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(500 * time.Millisecond):
		}
	}
}

// alone does work of a kind unless somebody else is at it in that schema.
func (db *DB) alone(ctx context.Context, kind, schema string, work func(conn *sqlx.Conn) error) (mine bool, err error) {
	conn, err := db.Connx(ctx)
	if err != nil {
		return false, err
	}
	defer func() { _ = conn.Close() }()
	if err := conn.GetContext(ctx, &mine, `SELECT pg_try_advisory_lock(hashtext('plainpath ' || $1), hashtext($2))`, kind, schema); err != nil || !mine {
		return false, err
	}
	defer func() {
		_, _ = conn.ExecContext(context.WithoutCancel(ctx), `SELECT pg_advisory_unlock(hashtext('plainpath ' || $1), hashtext($2))`, kind, schema)
	}()
	return true, work(conn)
}

func (db *DB) readied(ctx context.Context, schema string, e *edition.Edition) error {
	var all []rewriting
	var at []attribute
	err := db.in(ctx, func(tx *sqlx.Tx) error {
		c, err := begin(ctx, tx, schema, e)
		if err != nil {
			return err
		}
		err = c.unready(func(o *model.Object, was, f *model.Field) error {
			r := rewriting{conversion: c.conversion(was, f), plural: o.Plural, label: f.Label, note: readyNote(was, f)}
			all = append(all, r)
			at = append(at, attribute{})
			n := len(all) - 1
			if err := tx.GetContext(ctx, &at[n], `SELECT attrelid::bigint, attnum FROM pg_attribute WHERE attrelid = $1::regclass AND attname = $2`, search.Space{Schema: schema}.Table(o.Key), f.Key); err != nil {
				return err
			}
			return c.known(&all[n].conversion)
		})
		if err == nil {
			err = errDryRun // what begin renamed is as it was again
		}
		return err
	})
	if !errors.Is(err, errDryRun) {
		return err
	}
	for i := range all {
		err := db.QueryRowxContext(ctx, `SELECT c.relname, a.attname FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid WHERE a.attrelid::bigint = $1 AND a.attnum = $2`,
			at[i].Table, at[i].Place).Scan(&all[i].table, &all[i].column)
		if err != nil {
			return err
		}
	}
	defer func() {
		_, _ = db.ExecContext(context.WithoutCancel(ctx), `DELETE FROM plainpath.readying WHERE schema = $1`, schema)
	}()
	for _, r := range all {
		if err := db.rewrite(ctx, schema, r); err != nil {
			return fmt.Errorf("writing %s of %s anew: %w", r.label, r.plural, err)
		}
	}
	return nil
}

// Readying is how far a column of many records is written anew.
type Readying struct {
	// What names the field and its object.
	What  string `db:"what" json:"what"`
	Done  int64  `db:"done" json:"done"`
	Total int64  `db:"total" json:"total"`
}

// Readying is what is being made ready for changes of an app under way.
func (db *DB) Readying(ctx context.Context, app string) ([]Readying, error) {
	out := []Readying{}
	err := db.SelectContext(ctx, &out, `SELECT what, done, total FROM plainpath.readying JOIN plainpath.space s USING (schema) WHERE s.app = $1 ORDER BY 1`, app)
	if err != nil {
		return nil, fmt.Errorf("looking how far changes are: %w", err)
	}
	return out, nil
}

// pieceOfRewrite is how many records are written at a time; whoever changes one waits so long.
const pieceOfRewrite = 5_000

func (db *DB) rewrite(ctx context.Context, schema string, r rewriting) error {
	t, fresh := search.Quote(schema)+"."+search.Quote(r.table), nameOf("", r.column, "new")
	to := r.conversion.To
	currency := search.Quote(fresh + "_currency")
	err := db.in(ctx, func(tx *sqlx.Tx) error {
		sql := []string{
			fmt.Sprintf("ALTER TABLE %s DROP COLUMN IF EXISTS %s, DROP COLUMN IF EXISTS %s", t, search.Quote(fresh), currency),
			fmt.Sprintf("ALTER TABLE %s ADD COLUMN %s %s", t, search.Quote(fresh), columnTypes[to.Kind()]),
			// What is changed meanwhile is written anew at the end.
			fmt.Sprintf("DROP TRIGGER IF EXISTS %s ON %s", search.Quote(fresh), t),
			fmt.Sprintf("CREATE TRIGGER %s BEFORE UPDATE ON %s FOR EACH ROW WHEN (%s IS DISTINCT FROM %s) EXECUTE FUNCTION plainpath.not_ready(%s)",
				search.Quote(fresh), t, r.held("OLD."), r.held("NEW."), search.Quoted(fresh)),
		}
		if to.Kind() == value.KindMoney {
			sql = append(sql, fmt.Sprintf("ALTER TABLE %s ADD COLUMN %s text", t, currency))
		}
		for _, s := range sql {
			if _, err := tx.ExecContext(ctx, s); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	var total int64
	if err := db.GetContext(ctx, &total, "SELECT count(*) FROM "+t); err != nil {
		return err
	}
	last, done := int64(-1<<62), int64(0)
	for {
		n := 0
		err := db.in(ctx, func(tx *sqlx.Tx) error {
			if _, err := tx.ExecContext(ctx, `ALTER TABLE `+t+` DISABLE TRIGGER USER`); err != nil { // no record is changed for anybody
				return err
			}
			var err error
			if last, n, err = r.piece(ctx, tx, t, fresh, fmt.Sprintf("t.id > %d", last)); err != nil {
				return err
			}
			_, err = tx.ExecContext(ctx, `ALTER TABLE `+t+` ENABLE TRIGGER USER`)
			return err
		})
		if err != nil {
			return err
		}
		done += int64(n)
		if _, err := db.ExecContext(ctx, `INSERT INTO plainpath.readying (schema, what, done, total) VALUES ($1, $2, $3, $4)
			ON CONFLICT (schema) DO UPDATE SET what = excluded.what, done = excluded.done, total = excluded.total`, schema, r.label+" of "+r.plural, done, total); err != nil {
			return err
		}
		if n < pieceOfRewrite {
			break
		}
	}
	_, err = db.ExecContext(ctx, fmt.Sprintf("COMMENT ON COLUMN %s.%s IS %s", t, search.Quote(fresh), search.Quoted(r.note)))
	return err
}

func (r rewriting) held(alias string) string {
	was := *r.conversion.From
	was.Key = r.column
	return held(&was, alias)
}

// piece writes the next records of a table for which a condition holds, and gives the key of the
// last and how many they were. A value that does not convert is left for whoever looks for what
// is in the way.
func (r rewriting) piece(ctx context.Context, tx *sqlx.Tx, t, fresh, where string) (last int64, n int, err error) {
	var rows []struct {
		ID   int64
		Held *string
	}
	if err := tx.SelectContext(ctx, &rows, fmt.Sprintf("SELECT id, %s AS held FROM %s t WHERE %s ORDER BY id LIMIT %d", r.held("t."), t, where, pieceOfRewrite)); err != nil {
		return 0, 0, err
	}
	var keys []int64
	var becomes, currencies []string
	for _, row := range rows {
		last = row.ID
		if row.Held == nil {
			continue
		}
		old, err := value.Parse(r.conversion.From.Kind(), json.RawMessage(*row.Held))
		if err != nil {
			return 0, 0, err
		}
		v, reason := r.conversion.Value(old)
		if reason != nil || v == nil {
			continue
		}
		amount, currency := search.Literal(v), ""
		if m, ok := v.(value.Money); ok {
			amount, currency = m.Amount.String(), m.Currency
		}
		keys, becomes, currencies = append(keys, row.ID), append(becomes, amount), append(currencies, currency)
	}
	kind := r.conversion.To.Kind()
	set := fmt.Sprintf("%s = m.becomes::%s", search.Quote(fresh), columnTypes[kind])
	if kind == value.KindMoney {
		set += fmt.Sprintf(", %s = m.currency", search.Quote(fresh+"_currency"))
	}
	_, err = tx.ExecContext(ctx, fmt.Sprintf(`UPDATE %s t SET %s FROM unnest($1::bigint[], $2::text[], $3::text[]) m (id, becomes, currency) WHERE t.id = m.id`, t, set), keys, becomes, currencies)
	return last, len(rows), err
}

// adopt puts a column that is ready in the place of the old one. Records that were added or
// changed meanwhile are written first.
func (c *convergence) adopt(o *model.Object, was, f *model.Field, t, ready string) {
	c.exec("DROP TRIGGER IF EXISTS %s ON %s", search.Quote(ready), t)
	r := rewriting{conversion: c.conversion(was, f), column: f.Key}
	if c.err == nil {
		c.err = c.known(&r.conversion)
	}
	late := fmt.Sprintf("NOT (t.%s IS NULL) AND t.%s IS NULL", search.Quote(f.Key), search.Quote(ready))
	c.silently(t, func() {
		for from := int64(-1 << 62); c.err == nil; {
			last, n, err := r.piece(c.ctx, c.tx, t, ready, fmt.Sprintf("%s AND t.id > %d", late, from))
			if c.err = err; n < pieceOfRewrite {
				return
			}
			from = last
		}
	})
	c.replace(f, t, ready)
}
