package search

import (
	"fmt"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Change sets fields of all records of a query with one statement.
type Change struct {
	Query Query
	Sets  []Set
	// Values are what is known; Record is what expressions call the record.
	Values expr.Values
	Record string
}

// Set is a field and its new value: one value, or what an expression gives for each record.
type Set struct {
	Field   *model.Field
	Value   value.Value
	Program *expr.Program
}

// Compile writes the change as SQL that gives the keys of the records changed as one JSON
// array. Stamp is what is written with every change, as assignments.
func (c Change) Compile(space Space, stamp []string) (string, []any, error) {
	w := &writer{space: space}
	s, where, err := c.Query.source(w)
	if err != nil {
		return "", nil, err
	}
	columns, sets := []string{s.alias + ".id AS id"}, stamp
	for i, set := range c.Sets {
		col, err := c.value(s, set)
		if err != nil {
			return "", nil, err
		}
		name := fmt.Sprintf("v%d", i)
		columns = append(columns, col.SQL+" AS "+name)
		sets = append(sets, Column(set.Field)+" = u."+name)
		if set.Field.Kind() == value.KindMoney {
			columns = append(columns, col.Currency+" AS "+name+"c")
			sets = append(sets, CurrencyColumn(set.Field)+" = u."+name+"c")
		}
	}
	// The rows are locked in the order of their keys before they are changed, so that two
	// changes of the same rows wait for each other instead of blocking each other.
	sql, args := w.finish(fmt.Sprintf("WITH u AS MATERIALIZED (SELECT %s FROM %s WHERE %s ORDER BY %s.id FOR UPDATE OF %s), "+
		"changed AS (UPDATE %s t SET %s FROM u WHERE t.id = u.id RETURNING t.id) SELECT coalesce(jsonb_agg(id), '[]') FROM changed",
		strings.Join(columns, ", "), w.from(s), where, s.alias, s.alias, space.Table(c.Query.Object), strings.Join(sets, ", ")))
	return sql, args, nil
}

func (c Change) value(s *source, set Set) (expr.Column, error) {
	kind := set.Field.Kind()
	switch {
	case set.Program != nil:
		return set.Program.SQL(formula{s: s, values: c.Values, record: c.Record})
	case set.Value == nil:
		return expr.Column{Kind: kind, SQL: "NULL::" + cast(kind), Currency: "NULL::text"}, nil
	}
	return s.w.constant(set.Value), nil
}
