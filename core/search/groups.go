package search

import (
	"fmt"
	"strings"
	"time"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Span says how much of a date a group takes in.
type Span string

// The groups of a date: every day its own, or a month or a year.
const (
	EachValue Span = ""
	Month     Span = "month"
	Year      Span = "year"
)

// Grouping puts records together that have the same value in a field.
type Grouping struct {
	Path model.Path
	Span Span
	Desc bool
	// Zone is where months and years of points in time begin.
	Zone *time.Location
}

// Group is the records that have a value in common.
type Group struct {
	// Key is the value, a date for the first day of a month or year, nil for none.
	Key   value.Value
	Count int64
	// Totals are in the order they were asked for.
	Totals []Figure
}

// Groups is a query for groups as SQL.
type Groups struct {
	SQL  string
	Args []any

	grouping *Grouping
	label    *model.Field
	totals   []Total
	// currencies is the place of each total's currency among those grouped by, -1 for none.
	currencies []int
	split      int
	// keyFails says that what is grouped by may fail, fails which totals may.
	keyFails bool
	fails    []bool
}

// MostGroups is how many groups are read at once.
const MostGroups = 1000

// CompileGroups writes the query as SQL that counts its records and makes totals, by
// group, or over all when the grouping is nil. Order and limit are left aside. Amounts
// are added up by currency in the same statement; Decode puts the pieces together.
func (q Query) CompileGroups(space Space, g *Grouping, totals []Total) (*Groups, error) {
	w := &writer{space: space}
	s, where, err := q.source(w)
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
		if err := CheckTotal(t); err != nil {
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
				inner, by, currencies = append(inner, c.Currency+" AS "+currency), append(by, currency), append(currencies, currency)
			}
			taken[t.Path.String()] = of
		}
		out.currencies = append(out.currencies, of.currency)
		out.fails = append(out.fails, of.fails)
		sums = append(sums, aggregate(t, of.name)...)
		if of.fails {
			sums = append(sums, "min("+of.name+"w)")
		}
	}
	out.split = len(currencies)
	outer = append(append(outer, currencies...), sums...)
	if len(inner) == 0 {
		inner = []string{"1"}
	}
	out.SQL = "SELECT " + strings.Join(outer, ", ") + " FROM (SELECT " + strings.Join(inner, ", ") + " FROM " + w.from(s) + " WHERE " + where + ") q"
	if len(by) > 0 {
		out.SQL += " GROUP BY " + strings.Join(by, ", ")
	}
	if order != "" {
		out.SQL += " ORDER BY " + order
		out.SQL += fmt.Sprintf(" LIMIT %d", MostGroups+1)
	}
	out.SQL, out.Args = w.finish(out.SQL)
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
func (out *Groups) key(s *source, g *Grouping) (inner, outer, by []string, order string, err error) {
	f := g.Path.Last()
	if err := CheckGrouping(*g); err != nil {
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
	case g.Span != EachValue:
		if c.Kind == value.KindInstant {
			c.SQL = g.periodSQL(c.SQL, s.w.arg(zoneName(g.Zone), "text"))
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
			collate = expr.ByLanguage
		}
	case f.Type == model.Choice:
		order = s.w.rank(f, "k")
	case c.Kind == value.KindSeveral: // in whatever order they were given
		c.SQL = "plainpath.set(" + c.SQL + ")"
		shown, order, collate = "to_jsonb(k)::text", "array_to_string(k, ', ')", expr.ByLanguage
	case c.Kind == value.KindAddress:
		shown, order, collate = "to_jsonb(k)::text", "plainpath.address_text(k)", expr.ByLanguage
	case c.Kind == value.KindMoney:
		inner, by = append(inner, c.Currency+" AS kc"), append(by, "kc")
	case c.Kind == value.KindText:
		collate = expr.ByLanguage
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

// CheckGrouping says why records cannot be grouped as asked.
func CheckGrouping(g Grouping) error {
	f := g.Path.Last()
	dated := f.Kind() == value.KindDate || f.Kind() == value.KindInstant
	switch {
	case f.HoldsFile() || f.Type == model.LongText:
		return &LookError{fmt.Sprintf("Records cannot be grouped by %s.", f.Label)}
	case g.Span != EachValue && g.Span != Month && g.Span != Year, g.Span != EachValue && !dated:
		return &LookError{fmt.Sprintf("%s cannot be grouped by %q.", f.Label, g.Span)}
	}
	return nil
}

// Decode makes groups of the rows the database gave, the pieces of a group by currency
// put together, and of all of them the whole. More says that there are more groups than
// were read, so that the whole is not known. The rates are for totals that are converted.
func (g *Groups) Decode(rows [][]any, rates Converter) (groups []Group, all Group, more bool, err error) {
	if g.grouping != nil && len(rows) > MostGroups {
		rows, more = rows[:MostGroups], true
	}
	var merging []*merger
	whole := newMerger(g.totals)
	for _, row := range rows {
		key, n, err := g.decodeKey(row)
		if err != nil {
			return nil, all, false, err
		}
		count, _ := row[n].(int64)
		last := len(groups) - 1
		if last < 0 || !value.Same(groups[last].Key, key) {
			groups = append(groups, Group{Key: key})
			merging = append(merging, newMerger(g.totals))
			last++
		}
		groups[last].Count += count
		all.Count += count
		for _, m := range []*merger{merging[last], whole} {
			if err := m.take(g, row[n+1:]); err != nil {
				return nil, all, false, err
			}
		}
	}
	if more && len(groups) > 1 { // the last may be only a piece
		groups = groups[:len(groups)-1]
	}
	for i := range groups {
		if groups[i].Totals, err = merging[i].figures(rates); err != nil {
			return nil, all, false, err
		}
	}
	all.Totals, err = whole.figures(rates)
	return groups, all, more, err
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
	case g.grouping.Span != EachValue:
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
