package sqlgen

import (
	"fmt"
	"slices"

	"plainpath/core/query"
	"plainpath/core/value"
)

// page writes the part of a list that begins behind a cursor and is as long as the limit.
//
// Where an index has the records in order but some are empty, it is read in two parts: those
// with a value, from the place on, and behind them the empty ones. As one, "less than this or
// empty" leads to no place in an index, and PostgreSQL keeps the empty ones at the wrong end
// of one read backwards. The second part is read only as far as the first left room.
func (s *source) page(list string, keys []orderKey, q query.Query) (string, error) {
	var values []value.Value
	if q.After != nil {
		var err error
		if values, err = placeOf(q.After, keys); err != nil {
			return "", err
		}
	}
	first := keys[0]
	inParts := first.indexed && first.nullable && q.Limit > 0
	if inParts && len(values) > 0 {
		inParts = values[0] != nil
	} else if inParts {
		inParts = first.desc
	}
	limit := ""
	if q.Limit > 0 {
		limit = fmt.Sprintf(" LIMIT %d", q.Limit)
	}
	if !inParts {
		return list + s.after(keys, values) + " ORDER BY " + orderBy(keys) + limit, nil
	}
	keys = slices.Clone(keys)
	keys[0].nullable = false
	filled := list + " AND " + first.sql + " IS NOT NULL" + s.after(keys, values) + " ORDER BY " + orderBy(keys) + limit
	empty := list + " AND " + first.sql + " IS NULL ORDER BY " + orderBy(keys[1:])
	return fmt.Sprintf("WITH filled AS MATERIALIZED (%s) SELECT * FROM filled UNION ALL (%s LIMIT %d - (SELECT count(*) FROM filled))",
		filled, empty, q.Limit), nil
}
