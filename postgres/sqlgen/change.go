package sqlgen

import (
	"encoding/json"
	"fmt"
	"strings"

	"plainpath/core/query"
	"plainpath/core/value"
)

// Changed is what the SQL of a change gives: the keys of the records changed as a JSON array, or,
// of one record with a value that cannot be computed, for which none is changed, the number of the
// set and why.
type Changed struct {
	Keys   json.RawMessage `db:"keys"`
	Failed *int            `db:"failed"`
	Why    *string         `db:"why"`
}

// Change gives one Changed. Stamp is what is written with every change, as assignments.
func Change(space Space, c query.Change, stamp []string) (Statement, error) {
	w := &writer{space: space}
	s, where, err := w.query(c.Query)
	if err != nil {
		return Statement{}, err
	}
	columns, sets := []string{s.alias + ".id AS id"}, stamp
	var fails failures
	for i, set := range c.Sets {
		col, err := setColumn(s, set, formula{s: s, values: c.Values, record: c.Record})
		if err != nil {
			return Statement{}, err
		}
		name := fmt.Sprintf("v%d", i)
		columns = append(columns, col.SQL+" AS "+name)
		sets = append(sets, Column(set.Field)+" = u."+name)
		if set.Field.Kind() == value.KindMoney {
			columns = append(columns, col.Currency+" AS "+name+"c")
			sets = append(sets, CurrencyColumn(set.Field)+" = u."+name+"c")
		}
		if why := fails.add(i, col, space); why != "" {
			columns = append(columns, why)
		}
	}
	// The rows are locked in the order of their keys before they are changed, so that two
	// changes of the same rows wait for each other instead of blocking each other.
	return w.finish(fmt.Sprintf("WITH u AS MATERIALIZED (SELECT %s FROM %s WHERE %s ORDER BY %s.id FOR UPDATE OF %s)%s, "+
		"changed AS (UPDATE %s t SET %s FROM u WHERE t.id = u.id%s RETURNING t.id) SELECT coalesce(jsonb_agg(id), '[]') AS keys, %s",
		strings.Join(columns, ", "), w.from(s), where, s.alias, s.alias, fails.with(), space.Table(c.Query.Object),
		strings.Join(sets, ", "), fails.unless(" AND "), fails.told())), nil
}

// failures are the values of a statement that may not be what can be stored: nothing is written then.
type failures struct{ of []string }

// add gives the column that says why the value of a set cannot be stored, "" where it always can.
func (f *failures) add(set int, c scalar, space Space) string {
	why := unkept(c, space.Model.TextBound())
	if why == "" {
		return ""
	}
	name := fmt.Sprintf("w%d", set)
	f.of = append(f.of, fmt.Sprintf("SELECT %d AS failed, %s AS why FROM u WHERE %[2]s IS NOT NULL", set, name))
	return why + " AS " + name
}

func (f *failures) with() string {
	if len(f.of) == 0 {
		return ""
	}
	return ", wrong AS MATERIALIZED (" + strings.Join(f.of, " UNION ALL ") + " LIMIT 1)"
}

func (f *failures) unless(joint string) string {
	if len(f.of) == 0 {
		return ""
	}
	return joint + "NOT EXISTS (SELECT FROM wrong)"
}

func (f *failures) told() string {
	if len(f.of) == 0 {
		return "NULL::integer AS failed, NULL::text AS why FROM changed"
	}
	return "(SELECT failed FROM wrong), (SELECT why FROM wrong) FROM changed"
}

// unkept says why a value cannot be stored, "" where it always can: a text that is made of
// others must not grow with every change.
func unkept(c scalar, most int) string {
	if c.Stored < 2 {
		return c.Why
	}
	long := fmt.Sprintf("CASE WHEN octet_length(%s) > %d THEN %s END", c.SQL, most, Quoted(value.TooLong(most)))
	if c.Why == "" {
		return long
	}
	return "coalesce(" + c.Why + ", " + long + ")"
}

// setColumn writes the new value of a field.
func setColumn(s *source, set query.Assignment, f formula) (scalar, error) {
	switch kind := set.Field.Kind(); {
	case set.Program != nil:
		c, err := s.w.expression(set.Program, f)
		if kind == value.KindMoney && c.Currency == "" {
			c.Currency = "NULL::text"
		}
		if kind == value.KindText {
			c.SQL = "plainpath.tidy(" + c.SQL + ")"
		}
		return c, err
	case set.Value == nil:
		return nothing(kind), nil
	}
	return s.w.constant(set.Value), nil
}
