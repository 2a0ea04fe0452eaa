package sqlgen

import (
	"fmt"
	"strings"

	"plainpath/core/query"
	"plainpath/core/value"
)

// Insertion gives one Changed: the keys of the records added, in the order of the query. Stamp is what
// is written with every record, SQL by column; it may use u.place, which counts from 1.
func Insertion(space Space, i query.Insertion, stamp [][2]string) (Statement, error) {
	w := &writer{space: space}
	s, where, err := w.query(i.Query)
	if err != nil {
		return Statement{}, err
	}
	keys, err := s.orderKeys(i.Query)
	if err != nil {
		return Statement{}, err
	}
	var read, columns, values []string
	var fails failures
	put := func(column, sql string) {
		name := fmt.Sprintf("v%d", len(read))
		read = append(read, sql+" AS "+name)
		columns, values = append(columns, column), append(values, "u."+name)
	}
	for n, set := range i.Sets {
		c, err := setColumn(s, set, formula{s: s, values: i.Values, record: i.Item, visible: true})
		if err != nil {
			return Statement{}, err
		}
		put(Column(set.Field), c.SQL)
		if set.Field.Kind() == value.KindMoney {
			put(CurrencyColumn(set.Field), c.Currency)
		}
		if why := fails.add(n, c, space); why != "" {
			read = append(read, why)
		}
	}
	for _, of := range stamp {
		columns, values = append(columns, of[0]), append(values, of[1])
	}
	if len(read) == 0 {
		read = []string{s.alias + ".id"}
	}
	found, err := s.page("SELECT "+strings.Join(read, ", ")+" FROM "+w.from(s)+" WHERE "+where, keys, i.Query)
	if err != nil {
		return Statement{}, err
	}
	return w.finish(fmt.Sprintf("WITH u AS MATERIALIZED (SELECT row_number() OVER () AS place, found.* FROM (%s) found)%s, "+
		"changed AS (INSERT INTO %s (%s) SELECT %s FROM u%s ORDER BY u.place RETURNING id) SELECT coalesce(jsonb_agg(id), '[]') AS keys, %s",
		found, fails.with(), space.Table(i.Object.Key), strings.Join(columns, ", "), strings.Join(values, ", "),
		fails.unless(" WHERE "), fails.told())), nil
}
