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
	c.renameBelongings(o.Key, o.Key+"_"+from+"_", o.Key+"_"+to+"_")
	c.exec(`ALTER SEQUENCE IF EXISTS %s.%s RENAME TO %s`, search.Quote(c.schema), search.Quote(o.Key+"_"+from+"_number"), search.Quote(o.Key+"_"+to+"_number"))
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
		c.renameBelongings(o.Key, was+"_", o.Key+"_")
		var sequences []string
		err := c.tx.SelectContext(c.ctx, &sequences, `SELECT relname FROM pg_class WHERE relnamespace = $1::regnamespace AND relkind = 'S' AND starts_with(relname, $2)`, search.Quote(c.schema), was+"_")
		if err != nil {
			return err
		}
		for name := range c.have {
			if sequence := was + "_" + name.column + "_number"; name.table == was && slices.Contains(sequences, sequence) {
				c.exec(`ALTER SEQUENCE %s.%s RENAME TO %s`, search.Quote(c.schema), search.Quote(sequence), search.Quote(o.Key+"_"+name.column+"_number"))
			}
		}
		c.exec(`UPDATE %s.history SET object = %s WHERE object = %s`, search.Quote(c.schema), literal(o.Key), literal(was))
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
			c.remember(space.Table(name.table), search.Quote(name.column), how, have)
			c.have[name] = have
		}
		c.rules[o.Key] = c.rules[was]
		delete(c.rules, was)
		return c.err
	}
	return nil
}

// renameBelongings renames the constraints and indexes of a table that are called after
// what has another key now.
func (c *convergence) renameBelongings(table, before, after string) {
	if c.err != nil {
		return
	}
	t := search.Space{Schema: c.schema}.Table(table)
	var err error
	named := func(query string, args ...any) []string {
		var out []string
		if err == nil {
			err = c.tx.SelectContext(c.ctx, &out, query, args...)
		}
		return out
	}
	constraints := named(`SELECT conname FROM pg_constraint WHERE conrelid = $1::regclass AND starts_with(conname, $2)`, t, before)
	indexes := named(`SELECT i.relname FROM pg_index x JOIN pg_class i ON i.oid = x.indexrelid LEFT JOIN pg_constraint k ON k.conindid = x.indexrelid
		WHERE x.indrelid = $1::regclass AND k.oid IS NULL AND starts_with(i.relname, $2)`, t, before)
	if err != nil {
		c.err = fmt.Errorf("reading what belongs to %s: %w", table, err)
		return
	}
	for _, name := range constraints {
		c.exec(`ALTER TABLE %s RENAME CONSTRAINT %s TO %s`, t, search.Quote(name), search.Quote(after+strings.TrimPrefix(name, before)))
	}
	for _, name := range indexes {
		c.exec(`ALTER INDEX %s.%s RENAME TO %s`, search.Quote(c.schema), search.Quote(name), search.Quote(after+strings.TrimPrefix(name, before)))
	}
}
