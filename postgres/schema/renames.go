package schema

import (
	"fmt"
	"slices"

	"plainpath/core/model"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// move is a table or a column that is to be called otherwise.
type move struct {
	// table is what the table is called then; a column that moves is in it.
	table    string
	from, to string
	column   bool
	// money has its currency in a column beside it.
	money bool
}

// columns are what the columns of a field have behind its key.
func (m move) columns() []string {
	if m.money {
		return []string{"", "_currency"}
	}
	return []string{""}
}

// follow works out how tables follow objects and columns follow fields whose key has changed,
// columns there and, when that was undone, back. From then on c knows them by their new names.
func (c *convergence) follow() {
	c.stands = map[columnName]columnName{}
	for name := range c.have {
		c.stands[name] = name
	}
	for _, key := range c.model.Keys() {
		o := c.model.Object(key)
		c.followTable(o)
		for i := range o.Fields {
			f := &o.Fields[i]
			if _, there := c.have[columnName{key, f.Key}]; there {
				continue
			}
			if from := c.formerly(o, f); from != "" {
				c.followColumn(o, from, f.Key)
			}
		}
	}
}

func (c *convergence) followTable(o *model.Object) {
	if _, there := c.have[columnName{o.Key, "id"}]; there {
		return
	}
	was := slices.IndexFunc(o.Was, func(was string) bool {
		_, there := c.have[columnName{was, "id"}]
		return there && c.model.Object(was) == nil
	})
	if was < 0 {
		return
	}
	from := o.Was[was]
	c.moves = append(c.moves, move{table: o.Key, from: from, to: o.Key})
	for name := range c.have {
		if name.table == from {
			c.rename(name, columnName{o.Key, name.column})
		}
	}
	for name, have := range c.have { // what refers to it refers to it by its new key
		if have.made != nil && have.made.Object == from {
			made := *have.made
			made.Object = o.Key
			have.made, have.renamed = &made, true
			c.have[name] = have
		}
	}
	c.rules[o.Key] = c.rules[from]
	delete(c.rules, from)
}

func (c *convergence) followColumn(o *model.Object, from, to string) {
	made := *c.have[columnName{o.Key, from}].made
	m := move{table: o.Key, from: from, to: to, column: true, money: made.Kind() == value.KindMoney}
	c.moves = append(c.moves, m)
	for _, suffix := range m.columns() {
		c.rename(columnName{o.Key, from + suffix}, columnName{o.Key, to + suffix})
	}
	have := c.have[columnName{o.Key, to}]
	made.Key = to
	have.made = &made
	c.have[columnName{o.Key, to}] = have
}

func (c *convergence) rename(from, to columnName) {
	c.have[to], c.stands[to] = c.have[from], c.stands[from]
	delete(c.have, from)
	delete(c.stands, from)
}

// formerly is the column of a field under another key, "" when there is none.
func (c *convergence) formerly(o *model.Object, f *model.Field) string {
	for name, have := range c.have {
		if name.table != o.Key || have.made == nil || o.Field(name.column) != nil {
			continue
		}
		if slices.Contains(f.Was, name.column) || slices.Contains(have.made.Was, f.Key) {
			return name.column
		}
	}
	return ""
}

// renames carries out what follow found, with all that is called after it.
func (c *convergence) renames() error {
	for _, m := range c.moves {
		var err error
		if m.column {
			err = c.moveColumn(m)
		} else {
			err = c.moveTable(m)
		}
		if err != nil {
			return fmt.Errorf("renaming what was %s: %w", m.from, err)
		}
	}
	for name, have := range c.have {
		if have.renamed {
			how := madeFrom
			if have.hidden {
				how = hiddenFrom
			}
			c.remember(sqlgen.Space{Schema: c.Schema}.Table(name.table), sqlgen.Quote(name.column), how, have.made)
		}
		c.stands[name] = name
	}
	c.moves = nil
	return c.err
}

func (c *convergence) moveColumn(m move) error {
	t := sqlgen.Space{Schema: c.Schema}.Table(m.table)
	for _, suffix := range m.columns() {
		c.exec(`ALTER TABLE %s RENAME COLUMN %s TO %s`, t, sqlgen.Quote(m.from+suffix), sqlgen.Quote(m.to+suffix))
	}
	c.renameBelongings(m.table, m.table, m.from, m.to)
	return c.err
}

func (c *convergence) moveTable(m move) error {
	space := sqlgen.Space{Schema: c.Schema}
	c.exec(`ALTER TABLE %s RENAME TO %s`, space.Table(m.from), sqlgen.Quote(m.to))
	for _, own := range []string{"_pkey", "_created_by_fkey", "_changed_by_fkey"} { // as PostgreSQL calls them
		var there int
		if err := c.tx.GetContext(c.ctx, &there,
			`SELECT count(*) FROM pg_constraint WHERE conrelid = $1::regclass AND conname = $2`, space.Table(m.to),
			m.from+own); err != nil {
			return err
		}
		if there > 0 {
			c.exec(`ALTER TABLE %s RENAME CONSTRAINT %s TO %s`, space.Table(m.to), sqlgen.Quote(m.from+own),
				sqlgen.Quote(m.to+own))
		}
	}
	for _, stood := range c.stands {
		if stood.table == m.from {
			c.renameBelongings(m.to, m.from, stood.column, stood.column)
		}
	}
	return c.err
}

// renameBelongings renames the constraints, indexes and the sequence of a column, after its
// object or its field got another key. Table is what its table is called now.
func (c *convergence) renameBelongings(table, object, from, to string) {
	if c.err != nil {
		return
	}
	t := sqlgen.Space{Schema: c.Schema}.Table(table)
	var there []string
	if err := c.tx.SelectContext(c.ctx, &there, `SELECT conname FROM pg_constraint WHERE conrelid = $1::regclass`,
		t); err != nil {
		c.err = fmt.Errorf("reading what belongs to %s: %w", table, err)
		return
	}
	for _, kind := range postgres.ConstraintKinds {
		if was := postgres.NameOf(object, from, kind); slices.Contains(there, was) {
			c.exec(`ALTER TABLE %s RENAME CONSTRAINT %s TO %s`, t, sqlgen.Quote(was),
				sqlgen.Quote(postgres.NameOf(table, to, kind)))
		}
	}
	schema := sqlgen.Quote(c.Schema) + "."
	for _, kind := range sqlgen.IndexKinds {
		c.exec(`ALTER INDEX IF EXISTS %s RENAME TO %s`,
			schema+sqlgen.Quote(postgres.NameOf(object, from, string(kind))),
			sqlgen.Quote(postgres.NameOf(table, to, string(kind))))
	}
	c.exec(`ALTER SEQUENCE IF EXISTS %s RENAME TO %s`,
		schema+sqlgen.Quote(postgres.NameOf(object, from, postgres.SequenceKind)),
		sqlgen.Quote(postgres.NameOf(table, to, postgres.SequenceKind)))
}
