package sqlgen

import (
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/value"
)

// related is the records that point at the one an expression is about, as SQL.
type related struct {
	// element writes the columns of one of them; its paths begin at the record.
	element names
	// link ties them to the record; from is what to read from, asked for when everything
	// that is used has been written.
	link string
	from func() string
	// once makes columns of aggregates, each a single call, over those for which a condition
	// holds, computed once for all records. It is false where they depend on more of the record
	// than which it is; nil always is.
	once func(where string, what []string) ([]string, bool)
}

// rows is a list being written: its source and the conditions on it.
type rows struct {
	related
	where string
}

func (r rows) query(what string) string {
	return "(SELECT " + what + " FROM " + r.from() + " WHERE " + r.link + r.where + ")"
}

// aggregate is a call of an aggregate function of SQL.
type aggregate struct{ function, of string }

// totals are columns of what aggregates over the list come to, NULL perhaps where it is empty.
func (r rows) totals(what ...aggregate) []string {
	calls := make([]string, len(what))
	for i, a := range what {
		calls[i] = a.function + "(" + a.of + ")"
	}
	if r.once != nil {
		if out, ok := r.once(r.where, calls); ok {
			return out
		}
	}
	out := make([]string, len(what))
	for i, a := range what {
		if a.of == "*" {
			out[i] = r.query(calls[i])
			continue
		}
		// What is aggregated is a column of its own first: SQL takes an aggregate of nothing but
		// outer columns for one of the outer query.
		out[i] = "(SELECT " + a.function + "(x) FROM " + r.query(a.of+" AS x") + " each)"
	}
	return out
}

// list writes a list of related records, filtered perhaps.
func (w terms) list(l expr.List) (rows, error) {
	n, ok := w.names.(relatedNames)
	if !ok {
		return rows{}, fmt.Errorf("going through a list has no SQL here")
	}
	from, err := n.related(l.Path)
	out := rows{related: from}
	for _, h := range l.Where {
		if err != nil {
			return out, err
		}
		var that scalar
		that, err = w.element(out, h.Name).write(h.That)
		out.where += " AND " + that.SQL + " IS TRUE"
	}
	return out, err
}

// element is the writer for what is said of one record of a list by its name.
func (w terms) element(l rows, name string) terms {
	vars := map[string]names{name: l.element}
	for k, v := range w.vars {
		if _, hidden := vars[k]; !hidden {
			vars[k] = v
		}
	}
	w.vars = vars
	return w
}

func (w terms) every(e expr.Every) (scalar, error) {
	l, err := w.list(e.Of)
	if err != nil {
		return scalar{}, err
	}
	that, err := w.element(l, e.Holds.Name).write(e.Holds.That)
	if err != nil {
		return scalar{}, err
	}
	l.where += " AND " + that.SQL + " IS NOT TRUE"
	return yesNo("NOT EXISTS " + l.query("1"))
}

// aggregates are the aggregate functions of SQL that totals begin with.
var aggregates = map[string]string{"sum": "sum", "least": "min", "greatest": "max", "average": "sum"}

func (w terms) total(t expr.Total) (scalar, error) {
	l, err := w.list(t.Over)
	if err != nil {
		return scalar{}, err
	}
	if t.Each == nil {
		return of(value.KindWhole, "coalesce("+l.totals(aggregate{"count", "*"})[0]+", 0)")
	}
	c, err := w.element(l, t.Name).write(t.Each)
	if err != nil {
		return scalar{}, err
	}
	what := []aggregate{{aggregates[t.Function], c.SQL}}
	if c.Kind == value.KindMoney {
		what = append(what, aggregate{"min", c.Currency}, aggregate{"max", c.Currency})
	}
	if c.Why != "" {
		what = append(what, aggregate{"min", c.Why})
	}
	if t.Function == "average" {
		what = append(what, aggregate{"count", c.SQL})
	}
	totals := l.totals(what...)
	out := scalar{Kind: c.Kind, SQL: totals[0]}
	if t.Function == "average" {
		last := len(totals) - 1
		out.SQL = quotient(totals[0]+"::numeric", totals[last])
		totals = totals[:last]
	}
	switch {
	case c.Kind == value.KindMoney: // two currencies are never a number
		least, greatest := totals[1], totals[2]
		out.SQL = "CASE WHEN " + least + " = " + greatest + " THEN " + out.SQL + " END"
		out.Currency = "CASE WHEN " + least + " = " + greatest + " THEN " + least + " END"
		out.Why = currenciesWhy(least, greatest)
	case c.Kind == value.KindWhole && t.Function == "sum":
		out = within64(totals[0])
	case c.Kind == value.KindWhole && t.Function == "average":
		out.Kind = value.KindDecimal
	}
	if c.Why == "" {
		return out, nil
	}
	// Where one of them failed, so has the total.
	why := totals[len(totals)-1]
	all := func(sql string) string {
		if sql == "" {
			return ""
		}
		return "CASE WHEN " + why + " IS NULL THEN " + sql + " END"
	}
	return scalar{Kind: out.Kind, SQL: all(out.SQL), Currency: all(out.Currency), Why: firstOf(why, out.Why)}, nil
}
