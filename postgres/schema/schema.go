// Package schema makes the tables of a space follow the model of its app: what is missing is made, what
// changed is converted, what takes long is made ready beside, what stored records would break is listed,
// and what is not in the model any more is hidden until somebody drops it.
package schema

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// Converge makes the tables of a space fit a model. What is there and right stays
// untouched; columns and tables that the model no longer has are hidden, not dropped:
// they stay, accept being empty, and come back when the model does.
//
// Stored records that stand in the way of a new rule are all found first; the error is
// then an *ObstacleError and nothing has been changed.
func Converge(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, schema string, e *edition.Edition) error {
	c, err := Look(ctx, db, tx, schema, e)
	if err != nil {
		return err
	}
	if err := c.Stops(); err != nil {
		return err
	}
	return c.Fit()
}

// Stops is why tables cannot be changed: an *ObstacleError, or that something is not ready.
func (c *convergence) Stops() error {
	schema := c.Schema
	return c.Viewed(func() error {
		found, err := c.Obstacles()
		if err != nil {
			return err
		}
		if len(found) > 0 {
			return &ObstacleError{found}
		}
		todo, err := c.unready(schema)
		if err == nil && len(todo) > 0 {
			err = &NotReadyError{schema, c.edition}
		}
		return err
	})
}

// Fit makes them fit when nothing stops it.
func (c *convergence) Fit() error {
	c.exec(postgres.GiveWay)
	if err := c.begin(); err != nil {
		return err
	}
	c.exec(`CREATE SCHEMA IF NOT EXISTS %s`, sqlgen.Quote(c.Schema))
	c.exec(`CREATE TABLE IF NOT EXISTS %s.history (
		id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, at timestamptz NOT NULL DEFAULT now(),
		person bigint, cause jsonb, object text NOT NULL, record bigint NOT NULL, action text NOT NULL, before jsonb, after jsonb)`, sqlgen.Quote(c.Schema))
	if _, there := c.indexed["history_record"]; !there { // asking for it would keep everybody from writing
		c.exec(`CREATE INDEX history_record ON %s.history (object, record, id)`, sqlgen.Quote(c.Schema))
	}
	for _, key := range c.model.Keys() {
		c.table(key)
	}
	for _, key := range c.model.Keys() { // references may point at any table, so they come after all of them
		c.columns(c.model.Object(key))
		c.rememberRules(c.model.Object(key))
	}
	c.indexes(c.model.Keys())
	if c.later && c.err == nil {
		return leaveIndexes(c.ctx, c.tx, c.Schema)
	}
	return c.err
}

// FreshTables makes the tables of new objects that are to be gone again with the transaction.
// They have no references: those would lock what they point at.
func FreshTables(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, schema string, e *edition.Edition,
	keys []string) error {
	if len(keys) == 0 {
		return nil
	}
	c, err := Look(ctx, db, tx, schema, e)
	if err != nil {
		return err
	}
	if err := c.begin(); err != nil {
		return err
	}
	c.alone = true
	for _, key := range keys {
		c.table(key)
	}
	for _, key := range keys {
		c.columns(c.model.Object(key))
	}
	c.indexes(keys)
	return c.err
}

// begin gives what there is its new names. Others wait from here on.
func (c *convergence) begin() error {
	if err := c.renames(); err != nil {
		return err
	}
	return errors.Join(c.readIndexes(), c.readConstraints())
}

func (c *convergence) readConstraints() error {
	var there []struct{ Table, Name string }
	err := c.tx.SelectContext(c.ctx, &there, `SELECT t.relname AS table, k.conname AS name FROM pg_constraint k JOIN pg_class t ON t.oid = k.conrelid
		WHERE t.relnamespace = to_regnamespace($1)`, sqlgen.Quote(c.Schema))
	if err != nil {
		return fmt.Errorf("reading the constraints of %s: %w", c.Schema, err)
	}
	c.constrained = map[columnName]bool{}
	for _, k := range there {
		c.constrained[columnName{k.Table, k.Name}] = true
	}
	return nil
}

func (c *convergence) readIndexes() error {
	var made []struct{ Name, From string }
	err := c.tx.SelectContext(c.ctx, &made, `SELECT c.relname AS name, CASE WHEN i.indisvalid THEN coalesce(obj_description(c.oid), '') ELSE $2 END AS from
		FROM pg_index i JOIN pg_class c ON c.oid = i.indexrelid WHERE c.relnamespace = to_regnamespace($1)`, sqlgen.Quote(c.Schema), begun)
	if err != nil {
		return fmt.Errorf("reading the indexes of %s: %w", c.Schema, err)
	}
	c.indexed = map[string]string{}
	for _, m := range made {
		c.indexed[m.Name] = m.From
	}
	return nil
}

type convergence struct {
	ctx     context.Context
	tx      *sqlx.Tx
	Schema  string
	edition *edition.Edition
	model   *model.Model
	have    map[columnName]column
	// moves are what is to be called otherwise, stands what each column is called until then.
	moves  []move
	stands map[columnName]columnName
	// made is what was made ready before, by the table it stands in and what it is noted as.
	made map[readyIn]string
	// rules are the record rules that stored records are known to keep, by object.
	rules map[string][]string
	// indexed are the indexes there are, by name, with what they were made from.
	indexed map[string]string
	// constrained are the constraints there are, by table and name.
	constrained map[columnName]bool
	// alterations are those of one table, which PostgreSQL goes through its records for once.
	alterations []string
	// most is how many records a table may have for others to wait, full says which have more.
	most int
	full map[string]bool
	// later says that indexes are to be made in the background.
	later bool
	// alone leaves references out.
	alone bool
	err   error
}

type columnName struct{ table, column string }

// column is what is known of a column: the field it was made from, which its comment
// holds, and whether it is hidden because the model has that field no more.
type column struct {
	made   *model.Field
	hidden bool
	// renamed says that made says something else than its comment.
	renamed bool
	// cut says that its constraints cannot be trusted, see migration 12.
	cut bool
}

const (
	madeFrom   = "plainpath "
	hiddenFrom = "plainpath hidden "
)

func readColumn(comment string) column {
	raw, hidden := strings.CutPrefix(comment, hiddenFrom)
	if !hidden {
		raw = strings.TrimPrefix(comment, madeFrom)
	}
	var note struct {
		model.Field
		As string `json:"as"`
	}
	if json.Unmarshal([]byte(raw), &note) != nil {
		return column{}
	}
	return column{made: &note.Field, hidden: hidden, cut: note.As == "cut"}
}

// stored is the part of a field that its column depends on.
func stored(f *model.Field) model.Field {
	out := *f
	out.Label, out.Help, out.Prefix, out.IgnoreAccents = "", "", "", false
	return out
}

// unnamed is that without the keys it has and had.
func unnamed(f *model.Field) model.Field {
	out := stored(f)
	out.Key, out.Was = "", nil
	return out
}

func installed(ctx context.Context, tx *sqlx.Tx, schema string) (map[columnName]column, error) {
	rows, err := tx.QueryContext(ctx, `
		SELECT c.relname, a.attname, coalesce(col_description(c.oid, a.attnum), '')
		FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
		JOIN pg_attribute a ON a.attrelid = c.oid AND a.attnum > 0 AND NOT a.attisdropped
		WHERE n.nspname = $1 AND c.relkind = 'r'`, schema)
	if err != nil {
		return nil, fmt.Errorf("reading the tables of %s: %w", schema, err)
	}
	defer func() { _ = rows.Close() }()
	have := map[columnName]column{}
	for rows.Next() {
		var name columnName
		var comment string
		if err := rows.Scan(&name.table, &name.column, &comment); err != nil {
			return nil, fmt.Errorf("reading the tables of %s: %w", schema, err)
		}
		have[name] = readColumn(comment)
	}
	return have, rows.Err()
}

func (c *convergence) exec(format string, args ...any) {
	if c.err != nil {
		return
	}
	sql := fmt.Sprintf(format, args...)
	if _, err := c.tx.ExecContext(c.ctx, sql); err != nil {
		c.err = fmt.Errorf("changing the tables of %s: %w", c.Schema, err)
	}
}

func (c *convergence) table(key string) {
	if _, ok := c.have[columnName{key, "id"}]; ok {
		return
	}
	t := sqlgen.Space{Schema: c.Schema}.Table(key)
	person := "bigint REFERENCES plainpath.person (id)"
	if c.alone {
		person = "bigint"
	}
	c.exec(`CREATE TABLE %s (
		id bigint GENERATED BY DEFAULT AS IDENTITY PRIMARY KEY,
		revision integer NOT NULL DEFAULT 1,
		created_at timestamptz NOT NULL DEFAULT now(), created_by %s,
		changed_at timestamptz NOT NULL DEFAULT now(), changed_by %s)`, t, person, person)
	c.exec(`SELECT plainpath.keep_history(%s)`, sqlgen.Quoted(t))
}
