package store

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/model"
	"plainpath/core/search"
)

// renames lets tables follow objects and columns follow fields whose key has changed,
// columns there and, when that was undone, back.
func (c *convergence) renames() error {
	for _, key := range c.model.Keys() {
		o := c.model.Object(key)
		if err := c.renameTable(o); err != nil {
			return fmt.Errorf("renaming what was %s: %w", strings.Join(o.Was, ", "), err)
		}
		for i := range o.Fields {
			f := &o.Fields[i]
			if _, there := c.have[columnName{key, f.Key}]; there {
				continue
			}
			if from := c.formerly(o, f); from != "" {
				if err := c.rename(o, from, f.Key); err != nil {
					return fmt.Errorf("renaming %s of %s: %w", from, o.Label, err)
				}
			}
		}
	}
	return c.err
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

func (c *convergence) rename(o *model.Object, from, to string) error {
	t := search.Space{Schema: c.schema}.Table(o.Key)
	columns := []string{from}
	var others []string
	err := c.tx.SelectContext(c.ctx, &others, `SELECT attname FROM pg_attribute WHERE attrelid = $1::regclass AND attname = $2 AND NOT attisdropped`, t, from+"_currency")
	if err != nil {
		return err
	}
	for _, column := range append(columns, others...) {
		c.exec(`ALTER TABLE %s RENAME COLUMN %s TO %s`, t, search.Quote(column), search.Quote(to+strings.TrimPrefix(column, from)))
	}
	c.renameBelongings(o.Key, o.Key, from, to)
	made := *c.have[columnName{o.Key, from}].made
	made.Key = to
	c.have[columnName{o.Key, to}] = column{made: &made, hidden: c.have[columnName{o.Key, from}].hidden}
	delete(c.have, columnName{o.Key, from})
	return c.err
}

// renameTable gives the table of an object that had another key its new name, with
// everything that is called after it.
func (c *convergence) renameTable(o *model.Object) error {
	if _, there := c.have[columnName{o.Key, "id"}]; there {
		return nil
	}
	for _, was := range o.Was {
		if _, there := c.have[columnName{was, "id"}]; !there || c.model.Object(was) != nil {
			continue
		}
		space := search.Space{Schema: c.schema}
		c.exec(`ALTER TABLE %s RENAME TO %s`, space.Table(was), search.Quote(o.Key))
		for _, own := range []string{"_pkey", "_created_by_fkey", "_changed_by_fkey"} { // as PostgreSQL calls them
			var there int
			if err := c.tx.GetContext(c.ctx, &there, `SELECT count(*) FROM pg_constraint WHERE conrelid = $1::regclass AND conname = $2`, space.Table(o.Key), was+own); err != nil {
				return err
			}
			if there > 0 {
				c.exec(`ALTER TABLE %s RENAME CONSTRAINT %s TO %s`, space.Table(o.Key), search.Quote(was+own), search.Quote(o.Key+own))
			}
		}
		for name := range c.have {
			if name.table == was {
				c.renameBelongings(o.Key, was, name.column, name.column)
			}
		}
		c.exec(`UPDATE %s.history SET object = %s WHERE object = %s`, search.Quote(c.schema), search.Quoted(o.Key), search.Quoted(was))
		for name, have := range c.have {
			if name.table == was {
				c.have[columnName{o.Key, name.column}] = have
				delete(c.have, name)
			}
		}
		for name, have := range c.have { // what refers to it refers to it by its new key
			if have.made == nil || have.made.Object != was {
				continue
			}
			made, how := *have.made, madeFrom
			if made.Object = o.Key; have.hidden {
				how = hiddenFrom
			}
			have.made = &made
			c.remember(space.Table(name.table), search.Quote(name.column), how, have.made)
			c.have[name] = have
		}
		c.rules[o.Key] = c.rules[was]
		delete(c.rules, was)
		return c.err
	}
	return nil
}

// renameBelongings renames the constraints, indexes and the sequence of a column, after its
// object or its field got another key. Table is what its table is called now.
func (c *convergence) renameBelongings(table, object, from, to string) {
	if c.err != nil {
		return
	}
	t := search.Space{Schema: c.schema}.Table(table)
	var there []string
	if err := c.tx.SelectContext(c.ctx, &there, `SELECT conname FROM pg_constraint WHERE conrelid = $1::regclass`, t); err != nil {
		c.err = fmt.Errorf("reading what belongs to %s: %w", table, err)
		return
	}
	for _, kind := range constraintKinds {
		if was := nameOf(object, from, kind); slices.Contains(there, was) {
			c.exec(`ALTER TABLE %s RENAME CONSTRAINT %s TO %s`, t, search.Quote(was), search.Quote(nameOf(table, to, kind)))
		}
	}
	schema := search.Quote(c.schema) + "."
	for _, kind := range search.IndexKinds {
		c.exec(`ALTER INDEX IF EXISTS %s RENAME TO %s`, schema+search.Quote(nameOf(object, from, string(kind))), search.Quote(nameOf(table, to, string(kind))))
	}
	c.exec(`ALTER SEQUENCE IF EXISTS %s RENAME TO %s`, schema+search.Quote(nameOf(object, from, sequenceKind)), search.Quote(nameOf(table, to, sequenceKind)))
}
