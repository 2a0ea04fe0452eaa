package sqlgen

import (
	"fmt"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Profile describes what is stored in a field, as far as the person may see it: how many records
// have a value, how many different ones there are, the least and the greatest, and up to three of
// them. It gives one row: two numbers, two texts and an array of texts, as JSON.
func Profile(space Space, o *model.Object, f *model.Field) (Statement, error) {
	w := &writer{space: space}
	s, where, err := w.query(query.Query{Object: o.Key})
	if err != nil {
		return Statement{}, err
	}
	c, err := s.field(nil, f, true)
	if err != nil {
		return Statement{}, err
	}
	shown, least, greatest := c.SQL+"::text", "NULL", "NULL"
	if value.Parts(f.Kind()) != nil {
		shown = compositeText(f.Kind(), c.SQL)
	}
	switch f.Kind() {
	case value.KindInstant: // as it travels: whoever shows it has a zone
		as := "to_char(%s AT TIME ZONE 'UTC', 'YYYY-MM-DD\"T\"HH24:MI:SS\"Z\"')"
		shown = fmt.Sprintf(as, c.SQL)
		least, greatest = fmt.Sprintf(as, "min("+c.SQL+")"), fmt.Sprintf(as, "max("+c.SQL+")")
	case value.KindWhole, value.KindDecimal, value.KindDate:
		least, greatest = "min("+c.SQL+")::text", "max("+c.SQL+")::text"
	case value.KindMoney:
		shown = c.SQL + "::text || ' ' || " + c.Currency
		one := "CASE WHEN count(DISTINCT " + c.Currency + ") = 1 THEN %s(" + c.SQL + ")::text || ' ' || min(" +
			c.Currency + ") END"
		least, greatest = fmt.Sprintf(one, "min"), fmt.Sprintf(one, "max")
	case value.KindSeveral:
		shown = "array_to_string(" + c.SQL + ", ', ')"
	case value.KindText:
		if f.Type != model.Choice {
			least, greatest = "min("+c.SQL+byLanguage+")", "max("+c.SQL+byLanguage+")"
		}
	case value.KindRecord:
		target := space.Model.Object(f.Target())
		named := target.Field(target.LabelField)
		label, err := s.field([]*model.Field{f}, named, true)
		if err != nil {
			return Statement{}, err
		}
		shown = w.arg(named.Prefix, "text") + " || " + label.SQL + "::text"
	}
	filled := where + " AND NOT (" + c.SQL + " IS NULL)"
	return w.finish("SELECT count(" + c.SQL + ") AS filled, count(DISTINCT " + c.SQL + ") AS distinct, " + least +
		" AS least, " + greatest + " AS greatest, " +
		"(SELECT coalesce(jsonb_agg(v ORDER BY n DESC, v), '[]') FROM (SELECT v, count(*) AS n FROM (SELECT " + shown +
		" AS v FROM " + s.from() + " WHERE " + filled +
		" LIMIT 2000) taken WHERE v IS NOT NULL GROUP BY v ORDER BY 2 DESC, 1 LIMIT 3) best) AS samples FROM " +
		s.from() + " WHERE " + where), nil
}

// Names gives what a field calls records, as the person may see them: their keys and the values as
// text, in the columns "id" and "name". Its parameters are numbered from first.
func Names(space Space, o *model.Object, f *model.Field, first int) (Statement, error) {
	w := &writer{space: space, first: first - 1}
	s, where, err := w.query(query.Query{Object: o.Key})
	if err != nil {
		return Statement{}, err
	}
	c, err := s.field(nil, f, true)
	if err != nil {
		return Statement{}, err
	}
	names := "SELECT " + s.alias + ".id AS id, " + c.SQL + "::text AS name FROM " + s.from() + " WHERE " + where +
		" AND " + c.SQL + " IS NOT NULL"
	if f.Type == model.Number && f.Prefix != "" { // with the prefix or without
		names = "WITH bare AS (" + names + ") SELECT id, name FROM bare UNION ALL SELECT id, " + w.arg(f.Prefix,
			"text") + " || name FROM bare"
	}
	return w.finish(names), nil
}
