package expr

import (
	"fmt"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"

	"plainpath/core/value"
)

// Related is the records that point at the one an expression is about, as SQL.
type Related struct {
	// Element writes the columns of one of them; its paths begin at the record.
	Element Columns
	// Link ties them to the record; From is what to read from, asked for when everything
	// that is used has been written.
	Link string
	From func() string
	// Once makes columns of aggregates, each a single call, over those for which a condition
	// holds, computed once for all records. It is false where they depend on more of the record
	// than which it is; nil always is.
	Once func(where string, what []string) ([]string, bool)
}

// RelatedColumns are columns that also know lists of related records.
type RelatedColumns interface {
	Columns
	Related(path []string) (Related, error)
}

// rows is a list being written: its source and the conditions on it.
type rows struct {
	Related
	where string
}

func (r rows) query(what string) string {
	return "(SELECT " + what + " FROM " + r.From() + " WHERE " + r.Link + r.where + ")"
}

// aggregate is a call of an aggregate function of SQL.
type aggregate struct{ function, of string }

// totals are columns of what aggregates over the list come to, NULL perhaps where it is empty.
func (r rows) totals(what ...aggregate) []string {
	calls := make([]string, len(what))
	for i, a := range what {
		calls[i] = a.function + "(" + a.of + ")"
	}
	if r.Once != nil {
		if out, ok := r.Once(r.where, calls); ok {
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

// macro is the call that a macro was before it was expanded.
func (w sqlWriter) macro(e ast.Expr) (ast.CallExpr, bool) {
	call, ok := w.ast.SourceInfo().GetMacroCall(e.ID())
	if !ok || call.Kind() != ast.CallKind {
		return nil, false
	}
	return call.AsCall(), true
}

// list writes a list of related records, filtered perhaps.
func (w sqlWriter) list(e ast.Expr) (rows, error) {
	if path, ok := chain(e); ok {
		c, ok := w.columns.(RelatedColumns)
		if !ok {
			return rows{}, fmt.Errorf("going through a list has no SQL")
		}
		r, err := c.Related(path)
		return rows{r, ""}, err
	}
	call, ok := w.macro(e)
	if !ok || call.FunctionName() != "filter" || len(call.Args()) != 2 {
		return rows{}, fmt.Errorf("going through a list has no SQL")
	}
	l, err := w.list(call.Target())
	if err != nil {
		return l, err
	}
	condition, err := w.element(l, call.Args()[0]).write(call.Args()[1])
	l.where += " AND " + condition.SQL + " IS TRUE"
	return l, err
}

// element is the writer for what is said of one record of a list by its name.
func (w sqlWriter) element(l rows, name ast.Expr) sqlWriter {
	vars := map[string]Columns{name.AsIdent(): l.Element}
	for k, v := range w.vars {
		if _, hidden := vars[k]; !hidden {
			vars[k] = v
		}
	}
	w.vars = vars
	return w
}

// comprehension writes exists and all.
func (w sqlWriter) comprehension(e ast.Expr) (Column, error) {
	call, ok := w.macro(e)
	if !ok || len(call.Args()) != 2 {
		return Column{}, fmt.Errorf("going through a list has no SQL")
	}
	l, err := w.list(call.Target())
	if err != nil {
		return Column{}, err
	}
	condition, err := w.element(l, call.Args()[0]).write(call.Args()[1])
	if err != nil {
		return Column{}, err
	}
	switch call.FunctionName() {
	case operators.Exists:
		l.where += " AND " + condition.SQL + " IS TRUE"
		return Column{Kind: value.KindYesNo, SQL: "EXISTS " + l.query("1")}, nil
	case operators.All:
		l.where += " AND " + condition.SQL + " IS NOT TRUE"
		return Column{Kind: value.KindYesNo, SQL: "NOT EXISTS " + l.query("1")}, nil
	}
	return Column{}, fmt.Errorf("%s over a list has no SQL", call.FunctionName())
}

// total writes sum(list.map(x, …)) and its like.
func (w sqlWriter) total(function string, arg ast.Expr) (Column, error) {
	call, ok := w.macro(arg)
	if !ok || call.FunctionName() != operators.Map || len(call.Args()) != 2 {
		return Column{}, fmt.Errorf("%s has SQL only over a list gone through with map", function)
	}
	l, err := w.list(call.Target())
	if err != nil {
		return Column{}, err
	}
	c, err := w.element(l, call.Args()[0]).write(call.Args()[1])
	if err != nil {
		return Column{}, err
	}
	what := []aggregate{{map[string]string{"sum": "sum", "least": "min", "greatest": "max", "average": "sum"}[function], c.SQL}}
	if c.Kind == value.KindMoney {
		what = append(what, aggregate{"min", c.Currency}, aggregate{"max", c.Currency})
	}
	if c.Why != "" {
		what = append(what, aggregate{"min", c.Why})
	}
	if function == "average" {
		what = append(what, aggregate{"count", c.SQL})
	}
	totals := l.totals(what...)
	out := Column{Kind: c.Kind, SQL: totals[0]}
	if function == "average" {
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
	case c.Kind == value.KindWhole && function == "sum":
		out = wholeSQL(totals[0])
	case c.Kind == value.KindWhole && function == "average":
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
	return Column{Kind: out.Kind, SQL: all(out.SQL), Currency: all(out.Currency), Why: firstOf(why, out.Why)}, nil
}
