package sqlgen

import (
	"fmt"
	"strings"
	"time"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Groups is a query for groups as SQL.
type Groups struct {
	Statement

	grouping *query.Grouping
	label    *model.Field
	totals   []query.Total
	// currencies is the place of each total's currency among those grouped by, -1 for none.
	currencies []int
	split      int
	// keyFails says that what is grouped by may fail, fails which totals may.
	keyFails bool
	fails    []bool
}

// Grouped counts the records of a query and makes totals, by group, or over all when the grouping is
// nil. Order and limit are left aside. Amounts are added up by currency in the same statement;
// query.Merge puts the pieces together.
func Grouped(space Space, q query.Query, g *query.Grouping, totals []query.Total) (*Groups, error) {
	w := &writer{space: space}
	s, where, err := w.query(q)
	if err != nil {
		return nil, err
	}
	out := &Groups{grouping: g, totals: totals}
	var inner, outer, by []string
	order := ""
	if g != nil {
		if inner, outer, by, order, err = out.key(s, g); err != nil {
			return nil, err
		}
	}
	outer = append(outer, "count(*)")
	taken := map[string]amount{}
	var currencies, sums []string
	for _, t := range totals {
		if err := query.CheckTotal(t); err != nil {
			return nil, err
		}
		of, have := taken[t.Path.String()]
		if !have {
			c, err := s.column(t.Path, true)
			if err != nil {
				return nil, err
			}
			of = amount{name: fmt.Sprintf("x%d", len(taken)), currency: -1, fails: c.Why != ""}
			inner = append(inner, c.SQL+" AS "+of.name)
			if of.fails {
				inner = append(inner, c.Why+" AS "+of.name+"w")
			}
			if c.Kind == value.KindMoney {
				of.currency = len(currencies)
				currency := fmt.Sprintf("c%d", of.currency)
				inner, by, currencies = append(inner, c.Currency+" AS "+currency), append(by, currency),
					append(currencies, currency)
			}
			taken[t.Path.String()] = of
		}
		out.currencies = append(out.currencies, of.currency)
		out.fails = append(out.fails, of.fails)
		sums = append(sums, totalled(t, of.name)...)
		if of.fails {
			sums = append(sums, "min("+of.name+"w)")
		}
	}
	out.split = len(currencies)
	outer = append(append(outer, currencies...), sums...)
	if len(inner) == 0 {
		inner = []string{"1"}
	}
	sql := "SELECT " + strings.Join(outer, ", ") + " FROM (SELECT " + strings.Join(inner, ", ") + " FROM " + w.from(s) +
		" WHERE " + where + ") q"
	if len(by) > 0 {
		sql += " GROUP BY " + strings.Join(by, ", ")
	}
	if order != "" {
		sql += " ORDER BY " + order
		sql += fmt.Sprintf(" LIMIT %d", query.MostGroups+1)
	}
	out.Statement = w.finish(sql)
	return out, nil
}

// amount is a field that totals are made of: its column, and the place of its currency
// among those grouped by, -1 when it has none.
type amount struct {
	name     string
	currency int
	fails    bool
}

// key writes what is grouped by.
func (out *Groups) key(s *source, g *query.Grouping) (inner, outer, by []string, order string, err error) {
	f := g.Path.Last()
	if err := query.CheckGrouping(*g); err != nil {
		return nil, nil, nil, "", err
	}
	c, err := s.column(g.Path, true)
	if err != nil {
		return nil, nil, nil, "", err
	}
	by = []string{"k"}
	shown, collate := "k", ""
	order = "k"
	switch {
	case g.Span != query.EachValue:
		if c.Kind == value.KindInstant {
			c.SQL = period(g, c.SQL, s.w.arg(zoneName(g.Zone), "text"))
		} else {
			c.SQL = fmt.Sprintf("date_trunc('%s', %s)::date", g.Span, c.SQL)
		}
	case c.Kind == value.KindRecord:
		to, err := s.join(g.Path, len(g.Path.Fields), true)
		if err != nil {
			return nil, nil, nil, "", err
		}
		c.SQL = to + ".id"
		target := s.w.space.Model.Object(f.Target())
		out.label = target.Field(target.LabelField)
		label, err := s.field(g.Path.Fields, out.label, true)
		if err != nil {
			return nil, nil, nil, "", err
		}
		inner, by, order = append(inner, label.SQL+" AS l"), append(by, "l"), "l"
		if label.Kind == value.KindText {
			collate = byLanguage
		}
	case f.Type == model.Choice:
		order = s.w.rank(f, "k")
	case c.Kind == value.KindSeveral: // in whatever order they were given
		c.SQL = "plainpath.set(" + c.SQL + ")"
		shown, order, collate = "to_jsonb(k)::text", "array_to_string(k, ', ')", byLanguage
	case value.Parts(c.Kind) != nil:
		shown, order, collate = "to_jsonb(k)::text", compositeText(c.Kind, "k"), byLanguage
	case c.Kind == value.KindMoney:
		inner, by = append(inner, c.Currency+" AS kc"), append(by, "kc")
	case c.Kind == value.KindText:
		collate = byLanguage
	}
	inner, outer = append(inner, c.SQL+" AS k"), append(outer, shown)
	if len(by) > 1 {
		outer = append(outer, by[1])
	}
	if out.keyFails = c.Why != ""; out.keyFails { // those that failed are groups of their own
		inner, outer, by = append(inner, c.Why+" AS kw"), append(outer, "kw"), append(by, "kw")
	}
	order += collate
	if g.Desc {
		order += " DESC NULLS LAST"
	}
	return inner, outer, by, strings.Join(append([]string{order}, by...), ", "), nil
}

func zoneName(z *time.Location) string {
	if z == nil {
		return "UTC"
	}
	return z.String()
}

// Decode makes a piece of a group of a row as the database gave it.
func (g *Groups) Decode(row []any) (query.Piece, error) {
	key, n, err := g.decodeKey(row)
	if err != nil {
		return query.Piece{}, err
	}
	out := query.Piece{Key: key, Parts: make([]query.Part, len(g.totals))}
	out.Count, _ = row[n].(int64)
	row = row[n+1:]
	at := g.split
	for i, t := range g.totals {
		if out.Parts[i], at, err = g.part(row, i, at); err != nil {
			return query.Piece{}, fmt.Errorf("reading a total of %s: %w", t.Path.Last().Label, err)
		}
	}
	return out, nil
}

// part reads what one total comes to, and where the next one begins.
func (g *Groups) part(row []any, i, at int) (out query.Part, next int, err error) {
	t := g.totals[i]
	kind := t.Path.Last().Kind()
	if (t.Of == query.Sum || t.Of == query.Average) && kind == value.KindWhole {
		kind = value.KindDecimal
	}
	if n := g.currencies[i]; n >= 0 {
		out.Currency, _ = row[n].(string)
	}
	switch {
	case t.Of == query.Count:
		out.Value, err = Decode(value.KindWhole, row[at])
	case kind == value.KindMoney:
		out.Value, err = money(row[at], row[g.currencies[i]])
	default:
		out.Value, err = Decode(kind, row[at])
	}
	at++
	if t.Of == query.Average {
		out.Count, _ = row[at].(int64)
		at++
	}
	if g.fails[i] {
		out.Failed, _ = row[at].(string)
		at++
	}
	return out, at, err
}

func (g *Groups) decodeKey(row []any) (value.Value, int, error) {
	if g.grouping == nil {
		return nil, 0, nil
	}
	v, n, err := g.decodeGrouped(row)
	if g.keyFails {
		if why, failed := row[n].(string); failed {
			v = value.Failure{Why: why}
		}
		n++
	}
	return v, n, err
}

func (g *Groups) decodeGrouped(row []any) (value.Value, int, error) {
	f := g.grouping.Path.Last()
	switch {
	case g.grouping.Span != query.EachValue:
		v, err := Decode(value.KindDate, row[0])
		return v, 1, err
	case f.Kind() == value.KindMoney:
		v, err := money(row[0], row[1])
		return v, 2, err
	case f.Kind() == value.KindRecord:
		id, ok := row[0].(int64)
		if !ok {
			return nil, 2, nil
		}
		label, err := Decode(g.label.Kind(), row[1])
		return &value.Record{Object: f.Target(), ID: id, Label: Label(g.label, label)}, 2, err
	}
	v, err := Decode(f.Kind(), row[0])
	return v, 1, err
}
