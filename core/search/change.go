package search

import (
	"encoding/json"
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

// Changed is what the SQL of a change gives: the keys of the records changed as a JSON array, or,
// of one record with a value that cannot be computed, for which none is changed, the number of the
// set and why.
type Changed struct {
	Keys   json.RawMessage `db:"keys"`
	Failed *int            `db:"failed"`
	Why    *string         `db:"why"`
}

// Compile writes the change as SQL that gives one Changed. Stamp is what is written with every
// change, as assignments.
func (c Change) Compile(space Space, stamp []string) (string, []any, error) {
	w := &writer{space: space}
	s, where, err := c.Query.source(w)
	if err != nil {
		return "", nil, err
	}
	columns, sets := []string{s.alias + ".id AS id"}, stamp
	var fails []string
	for i, set := range c.Sets {
		col, err := c.value(s, set)
		if err != nil {
			return "", nil, err
		}
		name := fmt.Sprintf("v%d", i)
		if why := unkept(col); why != "" {
			columns = append(columns, why+" AS "+name+"w")
			fails = append(fails, fmt.Sprintf("SELECT %d AS failed, %sw AS why FROM u WHERE %[2]sw IS NOT NULL", i, name))
		}
		columns = append(columns, col.SQL+" AS "+name)
		sets = append(sets, Column(set.Field)+" = u."+name)
		if set.Field.Kind() == value.KindMoney {
			columns = append(columns, col.Currency+" AS "+name+"c")
			sets = append(sets, CurrencyColumn(set.Field)+" = u."+name+"c")
		}
	}
	// The rows are locked in the order of their keys before they are changed, so that two
	// changes of the same rows wait for each other instead of blocking each other.
	unless, failed := "", "NULL::integer AS failed, NULL::text AS why FROM changed"
	if len(fails) > 0 {
		unless = " AND NOT EXISTS (SELECT FROM wrong)"
		failed = "(SELECT failed FROM wrong), (SELECT why FROM wrong) FROM changed"
		fails = []string{", wrong AS MATERIALIZED (" + strings.Join(fails, " UNION ALL ") + " LIMIT 1)"}
	}
	sql, args := w.finish(fmt.Sprintf("WITH u AS MATERIALIZED (SELECT %s FROM %s WHERE %s ORDER BY %s.id FOR UPDATE OF %s)%s, "+
		"changed AS (UPDATE %s t SET %s FROM u WHERE t.id = u.id%s RETURNING t.id) SELECT coalesce(jsonb_agg(id), '[]') AS keys, %s",
		strings.Join(columns, ", "), w.from(s), where, s.alias, s.alias, strings.Join(fails, ""), space.Table(c.Query.Object), strings.Join(sets, ", "), unless, failed))
	return sql, args, nil
}

// unkept says why a value cannot be stored, "" where it always can: a text that is made of
// others must not grow with every change.
func unkept(c expr.Column) string {
	if c.Stored < 2 {
		return c.Why
	}
	long := fmt.Sprintf("CASE WHEN octet_length(%s) > %d THEN %s END", c.SQL, value.MostText, Quoted(value.TooLong))
	if c.Why == "" {
		return long
	}
	return "coalesce(" + c.Why + ", " + long + ")"
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
