package schema

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/edition"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// Look reads what tables there are, as a model would have them called. Nothing is changed, so
// that nobody waits for who looks.
func Look(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, schema string, e *edition.Edition) (*convergence, error) {
	have, err := installed(ctx, tx, schema)
	if err != nil {
		return nil, err
	}
	c := &convergence{ctx: ctx, tx: tx, Schema: schema, edition: e, model: e.Model, have: have,
		most: cmp.Or(db.MostAtOnce, mostAtOnce)}
	if c.rules, err = installedRules(ctx, tx, schema); err != nil {
		return nil, err
	}
	if err := errors.Join(c.readReady(), c.readConstraints()); err != nil {
		return nil, err
	}
	c.follow()
	return c, nil
}

// Viewed lets work read the tables by the names they are to have: through views, as far as they
// are called otherwise now, since giving them new names keeps everybody else out.
func (c *convergence) Viewed(work func() error) error {
	if len(c.moves) == 0 {
		return work()
	}
	c.exec("SAVEPOINT viewed")
	columns := map[string][]string{}
	tables := map[string]string{}
	for name, stood := range c.stands {
		columns[name.table] = append(columns[name.table], sqlgen.Quote(stood.column)+" AS "+sqlgen.Quote(name.column))
		tables[name.table] = stood.table
	}
	for table, each := range columns {
		slices.Sort(each)
		c.exec("CREATE TEMPORARY VIEW %s AS SELECT %s FROM %s", sqlgen.Quote(table), strings.Join(each, ", "),
			sqlgen.Space{Schema: c.Schema}.Table(tables[table]))
	}
	err := c.err
	if err == nil {
		schema := c.Schema
		c.Schema = "pg_temp"
		err = work()
		c.Schema = schema
	}
	if _, back := c.tx.ExecContext(c.ctx, "ROLLBACK TO SAVEPOINT viewed"); back != nil {
		err = errors.Join(err, back)
	}
	return err
}
