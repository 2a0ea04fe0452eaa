package store

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/model"
	"plainpath/core/search"
)

// renames lets columns follow fields whose key has changed, there and, when that was
// undone, back.
func (c *convergence) renames() error {
	for _, key := range c.model.Keys() {
		o := c.model.Object(key)
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
	before, after := o.Key+"_"+from+"_", o.Key+"_"+to+"_"
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
		return err
	}
	for _, name := range constraints {
		c.exec(`ALTER TABLE %s RENAME CONSTRAINT %s TO %s`, t, search.Quote(name), search.Quote(after+strings.TrimPrefix(name, before)))
	}
	for _, name := range indexes {
		c.exec(`ALTER INDEX %s.%s RENAME TO %s`, search.Quote(c.schema), search.Quote(name), search.Quote(after+strings.TrimPrefix(name, before)))
	}
	c.exec(`ALTER SEQUENCE IF EXISTS %s.%s RENAME TO %s`, search.Quote(c.schema), search.Quote(before+"number"), search.Quote(after+"number"))
	made := *c.have[columnName{o.Key, from}].made
	made.Key = to
	c.have[columnName{o.Key, to}] = column{made: &made, hidden: c.have[columnName{o.Key, from}].hidden}
	delete(c.have, columnName{o.Key, from})
	return nil
}
