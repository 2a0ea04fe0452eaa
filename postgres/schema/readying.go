package schema

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/model"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// Readying is how far a column of many records is written anew.
type Readying struct {
	// What names the field and its object.
	What  string `db:"what" json:"what"`
	Done  int64  `db:"done" json:"done"`
	Total int64  `db:"total" json:"total"`
}

// Progress is what is being made ready for changes of an app under way.
func Progress(ctx context.Context, db *postgres.DB, app string) ([]Readying, error) {
	out := []Readying{}
	err := db.SelectContext(ctx, &out,
		`SELECT what, done, total FROM plainpath.readying JOIN plainpath.space s USING (schema) WHERE s.app = $1 ORDER BY 1`, app)
	if err != nil {
		return nil, fmt.Errorf("looking how far changes are: %w", err)
	}
	return out, nil
}

// pieceOfRewrite is how many records are written at a time; whoever changes one waits so long.
const pieceOfRewrite = 5_000

// getReady makes ready what a field needs. That no value is there twice, and that references lead
// somewhere, holds from then on for what is written.
func getReady(ctx context.Context, db *postgres.DB, p preparation) error {
	if p.rewritten {
		if err := rewrite(ctx, db, p); err != nil {
			return err
		}
	}
	column, unique := p.column, postgres.NameOf(p.table, p.column, "unique") // by which a refusal names the field
	if p.anew {
		column, unique = p.fresh, postgres.NameOf("", p.column, "new unique")
	}
	t := p.space().Table(p.table)
	alone := func(sql string) error {
		return db.Briefly(ctx, func(tx *sqlx.Tx) error {
			_, err := tx.ExecContext(ctx, sql)
			return err
		})
	}
	beside := func(sql string) error { // keeps nobody from reading and writing
		_, err := db.ExecContext(ctx, sql)
		return err
	}
	if p.distinct {
		index := sqlgen.Quote(unique)
		within := sqlgen.Quote(p.schema) + "." + index
		for _, sql := range []string{"DROP INDEX CONCURRENTLY IF EXISTS " + within,
			fmt.Sprintf("CREATE UNIQUE INDEX CONCURRENTLY %s ON %s (%s)", index, t, sqlgen.Quote(column)),
			fmt.Sprintf("COMMENT ON INDEX %s IS %s", within, sqlgen.Quoted(p.note+" unique"))} {
			if err := beside(sql); err != nil {
				return err
			}
		}
	}
	if p.target == "" {
		return nil
	}
	id := sqlgen.Quote(postgres.NameOf("", p.column, "new reference"))
	if err := alone(fmt.Sprintf("ALTER TABLE %s DROP CONSTRAINT IF EXISTS %s", t, id)); err != nil {
		return err
	}
	if err := alone(fmt.Sprintf("ALTER TABLE %s ADD CONSTRAINT %s FOREIGN KEY (%s) REFERENCES %s (id) NOT VALID", t, id,
		sqlgen.Quote(column), p.target)); err != nil {
		return err
	}
	if err := beside(fmt.Sprintf("ALTER TABLE %s VALIDATE CONSTRAINT %s", t, id)); err != nil {
		return err
	}
	return alone(fmt.Sprintf("COMMENT ON CONSTRAINT %s ON %s IS %s", id, t, sqlgen.Quoted(p.note+" reference")))
}

// DropLeftReady drops what was made ready by a server that was killed.
func DropLeftReady(ctx context.Context, db *postgres.DB) error {
	var schemas []string
	if err := db.SelectContext(ctx, &schemas, `SELECT schema FROM plainpath.space`); err != nil {
		return fmt.Errorf("finding the spaces: %w", err)
	}
	var failed []error
	for _, schema := range schemas {
		_, err := alone(ctx, db, "ready", schema, func(*sqlx.Conn) error { return clearReady(ctx, db, schema) })
		failed = append(failed, err)
	}
	return errors.Join(failed...)
}

// clearReady drops what was made ready and not taken over.
func clearReady(ctx context.Context, db *postgres.DB, schema string) error {
	var left []string
	err := db.SelectContext(ctx, &left, `WITH tables AS (SELECT oid FROM pg_class WHERE relnamespace = to_regnamespace($1) AND relkind = 'r')
		SELECT drop FROM (
			SELECT 1 AS step, format('DROP TRIGGER %I ON %s', g.tgname,
				t.oid::regclass) AS drop FROM tables t JOIN pg_trigger g ON g.tgrelid = t.oid WHERE g.tgname LIKE '.%'
			UNION ALL SELECT 2, format('DROP INDEX CONCURRENTLY %s',
				i.indexrelid::regclass) FROM tables t JOIN pg_index i ON i.indrelid = t.oid
				WHERE i.indisunique AND NOT EXISTS (SELECT FROM pg_constraint k WHERE k.conindid = i.indexrelid)
			UNION ALL SELECT 3, format('ALTER TABLE %s DROP CONSTRAINT %I', t.oid::regclass,
				k.conname) FROM tables t JOIN pg_constraint k ON k.conrelid = t.oid WHERE k.conname LIKE '.%'
			UNION ALL SELECT 4, format('ALTER TABLE %s DROP COLUMN %I', t.oid::regclass,
				a.attname) FROM tables t JOIN pg_attribute a ON a.attrelid = t.oid
				WHERE a.attname LIKE '.%' AND a.attnum > 0 AND NOT a.attisdropped)
		found ORDER BY step`, sqlgen.Quote(schema))
	if err != nil {
		return fmt.Errorf("looking for what was made ready of %s: %w", schema, err)
	}
	for _, sql := range left {
		work := func() error { _, err := db.ExecContext(ctx, sql); return err }
		if !strings.Contains(sql, "CONCURRENTLY") {
			work = func() error {
				return db.Briefly(ctx, func(tx *sqlx.Tx) error { _, err := tx.ExecContext(ctx, sql); return err })
			}
		}
		if err := work(); err != nil {
			return fmt.Errorf("dropping what was made ready of %s: %w", schema, err)
		}
	}
	return nil
}

// rewrite writes a column anew beside the old one.
func rewrite(ctx context.Context, db *postgres.DB, p preparation) error {
	t, fresh, to := p.space().Table(p.table), p.fresh, p.conversion.To
	numbers := p.conversion.From == nil
	currency := sqlgen.Quote(fresh + "_currency")
	err := db.Briefly(ctx, func(tx *sqlx.Tx) error {
		sql := []string{
			fmt.Sprintf("ALTER TABLE %s DROP COLUMN IF EXISTS %s, DROP COLUMN IF EXISTS %s", t, sqlgen.Quote(fresh),
				currency),
			fmt.Sprintf("ALTER TABLE %s ADD COLUMN %s %s", t, sqlgen.Quote(fresh), sqlgen.ColumnType(to.Kind())),
		}
		if numbers { // which new records get from here on
			sequence := p.space().Table(postgres.NameOf(p.table, p.column, postgres.SequenceKind))
			sql = append(sql, fmt.Sprintf("CREATE SEQUENCE %s OWNED BY %s.%s", sequence, t, sqlgen.Quote(fresh)),
				fmt.Sprintf("ALTER TABLE %s ALTER COLUMN %s SET DEFAULT nextval(%s)", t, sqlgen.Quote(fresh),
					sqlgen.Quoted(sequence)))
		} else { // what is changed meanwhile is written anew at the end
			sql = append(sql, fmt.Sprintf("DROP TRIGGER IF EXISTS %s ON %s", sqlgen.Quote(fresh), t),
				fmt.Sprintf("CREATE TRIGGER %s BEFORE UPDATE ON %s FOR EACH ROW WHEN (%s IS DISTINCT FROM %s) EXECUTE FUNCTION plainpath.not_ready(%s)",
					sqlgen.Quote(fresh), t, p.held("OLD."), p.held("NEW."), sqlgen.Quoted(fresh)))
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
		err := db.Briefly(ctx, func(tx *sqlx.Tx) error {
			// no record is changed for anybody
			if _, err := tx.ExecContext(ctx, `ALTER TABLE `+t+` DISABLE TRIGGER USER`); err != nil {
				return err
			}
			var err error
			if numbers {
				last, n, err = p.number(ctx, tx, last)
			} else {
				last, n, err = p.piece(ctx, tx, fmt.Sprintf("t.id > %d", last))
			}
			if err != nil {
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
			ON CONFLICT (schema) DO UPDATE SET what = excluded.what, done = excluded.done, total = excluded.total`, p.schema, p.label+" of "+p.plural, done, total); err != nil {
			return err
		}
		if n < pieceOfRewrite {
			break
		}
	}
	return db.Briefly(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, fmt.Sprintf("COMMENT ON COLUMN %s.%s IS %s", t, sqlgen.Quote(fresh),
			sqlgen.Quoted(p.note)))
		return err
	})
}

// number gives numbers to the next records, and the key of the last and how many they were.
func (p preparation) number(ctx context.Context, tx *sqlx.Tx, after int64) (last int64, n int, err error) {
	t := p.space().Table(p.table)
	err = tx.QueryRowxContext(ctx, fmt.Sprintf(`WITH next AS (SELECT id FROM %[1]s WHERE id > $1 ORDER BY id LIMIT %[2]d),
			numbered AS (SELECT id, nextval(pg_get_serial_sequence(%[3]s,
				%[5]s)) AS n FROM (SELECT id FROM next ORDER BY id) o),
			written AS (UPDATE %[1]s t SET %[4]s = m.n FROM numbered m WHERE t.id = m.id AND t.%[4]s IS NULL)
		SELECT coalesce(max(id), $1), count(*) FROM next`, t, pieceOfRewrite, sqlgen.Quoted(t), sqlgen.Quote(p.fresh), sqlgen.Quoted(p.fresh)), after).Scan(&last, &n)
	return last, n, err
}

func (p preparation) held(alias string) string {
	was := *p.conversion.From
	was.Key = p.column
	return held(&was, alias)
}

// piece writes the next records of a table for which a condition holds, and gives the key of the
// last and how many they were. A value that does not convert is left for whoever looks for what
// is in the way.
func (p preparation) piece(ctx context.Context, tx *sqlx.Tx, where string) (last int64, n int, err error) {
	t, fresh := p.space().Table(p.table), p.fresh
	var rows []struct {
		ID   int64
		Held *string
	}
	if err := tx.SelectContext(ctx, &rows, fmt.Sprintf("SELECT id, %s AS held FROM %s t WHERE %s ORDER BY id LIMIT %d",
		p.held("t."), t, where, pieceOfRewrite)); err != nil {
		return 0, 0, err
	}
	var keys []int64
	var becomes, currencies []string
	for _, row := range rows {
		last = row.ID
		if row.Held == nil {
			continue
		}
		old, err := value.Parse(p.conversion.From.Kind(), json.RawMessage(*row.Held))
		if err != nil {
			return 0, 0, err
		}
		v, reason := p.conversion.Value(old)
		if reason != nil || v == nil {
			continue
		}
		amount, currency := sqlgen.Literal(v), ""
		if m, ok := v.(value.Money); ok {
			amount, currency = m.Amount.String(), m.Currency
		}
		keys, becomes, currencies = append(keys, row.ID), append(becomes, amount), append(currencies, currency)
	}
	kind := p.conversion.To.Kind()
	set := fmt.Sprintf("%s = m.becomes::%s", sqlgen.Quote(fresh), sqlgen.ColumnType(kind))
	if kind == value.KindMoney {
		set += fmt.Sprintf(", %s = m.currency", sqlgen.Quote(fresh+"_currency"))
	}
	_, err = tx.ExecContext(ctx,
		fmt.Sprintf(`UPDATE %s t SET %s FROM unnest($1::bigint[], $2::text[], $3::text[]) m (id, becomes, currency) WHERE t.id = m.id`, t, set), keys, becomes, currencies)
	return last, len(rows), err
}

// adopt puts a column that is ready in the place of the old one. Records that were added or
// changed meanwhile are written first.
func (c *convergence) adopt(o *model.Object, was, f *model.Field, t, ready string) {
	c.exec("DROP TRIGGER IF EXISTS %s ON %s", sqlgen.Quote(ready), t)
	p := preparation{conversion: c.conversion(was, f), schema: c.Schema, table: o.Key, column: f.Key, fresh: ready}
	if c.err == nil {
		c.err = c.known(&p.conversion)
	}
	late := fmt.Sprintf("NOT (t.%s IS NULL) AND t.%s IS NULL", sqlgen.Quote(f.Key), sqlgen.Quote(ready))
	c.silently(t, func() {
		for from := int64(-1 << 62); c.err == nil; {
			last, n, err := p.piece(c.ctx, c.tx, fmt.Sprintf("%s AND t.id > %d", late, from))
			if c.err = err; n < pieceOfRewrite {
				return
			}
			from = last
		}
	})
	c.replace(o, f, t, ready)
}
