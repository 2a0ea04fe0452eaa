package sqlgen

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Groups is a query for groups as SQL.
type Groups struct {
	Statement

	by     []groupedBy
	totals []query.Total
	// currencies is the place of each total's currency among those grouped by, -1 for none.
	currencies []int
	split      int
	// fails says which totals may fail.
	fails []bool
}

// groupedBy is one of those that are grouped by.
type groupedBy struct {
	query.Grouping
	// label is that of the records that a reference points at.
	label *model.Field
	// fails says that what is grouped by may fail.
	fails bool
}

// Grouped counts the records of a query and makes totals, by groups in groups, or over all without
// groupings. Order and limit are left aside. Amounts are added up by currency in the same statement;
// query.Merge puts the pieces together.
func Grouped(space Space, q query.Query, groupings []query.Grouping, totals []query.Total) (*Groups, error) {
	w := &writer{space: space}
	s, where, err := w.query(q)
	if err != nil {
		return nil, err
	}
	out := &Groups{totals: totals}
	var inner, outer, by, order []string
	for i, g := range groupings {
		k, err := s.key(g, i)
		if err != nil {
			return nil, err
		}
		out.by = append(out.by, k.groupedBy)
		inner, outer, by = append(inner, k.inner...), append(outer, k.outer...), append(by, k.by...)
		order = append(append(order, k.order), k.by...)
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
	if len(order) > 0 {
		sql += " ORDER BY " + strings.Join(order, ", ")
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

// keyed is how one of those that are grouped by is written: what is read of a record, what is given out of a group,
// what makes the groups, and what they are ordered by before that.
type keyed struct {
	groupedBy
	inner, outer, by []string
	order            string
}

// key writes what is grouped by, the first in names without a number.
func (s *source) key(g query.Grouping, level int) (keyed, error) {
	out := keyed{groupedBy: groupedBy{Grouping: g}}
	f := g.Path.Last()
	if err := query.CheckGrouping(g); err != nil {
		return out, err
	}
	c, err := s.column(g.Path, true)
	if err != nil {
		return out, err
	}
	number := ""
	if level > 0 {
		number = strconv.Itoa(level + 1)
	}
	k := "k" + number
	out.by = []string{k}
	shown, collate := k, ""
	out.order = k
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
			return out, err
		}
		c.SQL = to + ".id"
		target := s.w.space.Model.Object(f.Target())
		out.label = target.Field(target.LabelField)
		label, err := s.field(g.Path.Fields, out.label, true)
		if err != nil {
			return out, err
		}
		l := "l" + number
		out.inner, out.by, out.order = append(out.inner, label.SQL+" AS "+l), append(out.by, l), l
		if label.Kind == value.KindText {
			collate = byLanguage
		}
	case f.Type == model.Choice:
		out.order = s.w.rank(f, k)
	case c.Kind == value.KindSeveral: // in whatever order they were given
		c.SQL = "plainpath.set(" + c.SQL + ")"
		shown, out.order, collate = "to_jsonb("+k+")::text", "array_to_string("+k+", ', ')", byLanguage
	case value.Parts(c.Kind) != nil:
		shown, out.order, collate = "to_jsonb("+k+")::text", compositeText(c.Kind, k), byLanguage
	case c.Kind == value.KindMoney:
		out.inner, out.by = append(out.inner, c.Currency+" AS "+k+"c"), append(out.by, k+"c")
	case c.Kind == value.KindText:
		collate = byLanguage
	}
	out.inner, out.outer = append(out.inner, c.SQL+" AS "+k), append(out.outer, shown)
	if len(out.by) > 1 {
		out.outer = append(out.outer, out.by[1])
	}
	if out.fails = c.Why != ""; out.fails { // those that failed are groups of their own
		w := k + "w"
		out.inner, out.outer, out.by = append(out.inner, c.Why+" AS "+w), append(out.outer, w), append(out.by, w)
	}
	out.order += collate
	if g.Desc {
		out.order += " DESC NULLS LAST"
	}
	return out, nil
}

func zoneName(z *time.Location) string {
	if z == nil {
		return "UTC"
	}
	return z.String()
}

// Decode makes a piece of a group of a row as the database gave it.
func (g *Groups) Decode(row []any) (query.Piece, error) {
	out := query.Piece{Parts: make([]query.Part, len(g.totals))}
	for _, by := range g.by {
		key, n, err := by.decode(row)
		if err != nil {
			return query.Piece{}, err
		}
		out.Keys, row = append(out.Keys, key), row[n:]
	}
	out.Count, _ = row[0].(int64)
	row = row[1:]
	at, err := g.split, error(nil)
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

// decode reads the key of a group, and of how many columns it is made.
func (g groupedBy) decode(row []any) (value.Value, int, error) {
	v, n, err := g.decodeKey(row)
	if g.fails {
		if why, failed := row[n].(string); failed {
			v = value.Failure{Why: why}
		}
		n++
	}
	return v, n, err
}

func (g groupedBy) decodeKey(row []any) (value.Value, int, error) {
	f := g.Path.Last()
	switch {
	case g.Span != query.EachValue:
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
