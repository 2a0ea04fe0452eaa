package expr

import (
	"fmt"
	"strconv"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"

	"plainpath/core/value"
)

// Column is a value as SQL. Money takes two texts: the amount and the currency.
type Column struct {
	Kind     value.Kind
	SQL      string
	Currency string
}

// Columns says how a name is written in SQL, and how a constant is. The kind is that
// of the value, which an empty one cannot tell by itself.
type Columns interface {
	Column(path []string, kind value.Kind) (Column, error)
	Constant(v value.Value, kind value.Kind) Column
}

// SQL writes the expression as SQL with the same meaning as Eval, empties
// included. What has no SQL is refused with the reason.
func (p *Program) SQL(c Columns) (Column, error) {
	w := sqlWriter{columns: c, ast: p.checked.NativeRep()}
	out, err := w.write(p.checked.NativeRep().Expr())
	if err != nil {
		return Column{}, fmt.Errorf("%q cannot be carried out in the database: %w", p.Source, err)
	}
	if p.Type.Kind == value.KindDecimal && out.Kind == value.KindWhole {
		out = Column{Kind: value.KindDecimal, SQL: out.SQL + "::numeric"}
	}
	return out, nil
}

type sqlWriter struct {
	columns Columns
	ast     *ast.AST
	// vars are the records that lists are gone through with, by the name they have there.
	vars map[string]Columns
}

func (w sqlWriter) write(e ast.Expr) (Column, error) {
	if v, ok, err := constant(e); ok {
		return w.columns.Constant(v, w.kind(e)), err
	}
	switch e.Kind() {
	case ast.IdentKind, ast.SelectKind:
		return w.fieldOf(e, nil, w.kind(e))
	case ast.ComprehensionKind, ast.UnspecifiedExprKind: // one within another is known by its number alone
		return w.comprehension(e)
	case ast.CallKind:
		args := arguments(e)
		function := e.AsCall().FunctionName()
		if totals[function] {
			return w.total(function, args[0])
		}
		if function == "size" && w.kind(args[0]) == value.KindList {
			l, err := w.list(args[0])
			if err != nil {
				return Column{}, err
			}
			return Column{Kind: value.KindWhole, SQL: l.query("count(*)")}, nil
		}
		written := make([]Column, len(args))
		for i, a := range args {
			var err error
			if written[i], err = w.write(a); err != nil {
				return Column{}, err
			}
		}
		return w.call(e.AsCall().FunctionName(), written)
	}
	return Column{}, fmt.Errorf("going through a list has no SQL")
}

// fieldOf writes what a path of fields leads to from one of two records: (c ? a : b).name.
func (w sqlWriter) fieldOf(record ast.Expr, path []string, kind value.Kind) (Column, error) {
	if names, ok := chain(record); ok {
		return w.named(append(names, path...), kind)
	}
	switch {
	case record.Kind() == ast.SelectKind:
		return w.fieldOf(record.AsSelect().Operand(), append([]string{record.AsSelect().FieldName()}, path...), kind)
	case record.Kind() == ast.CallKind && record.AsCall().FunctionName() == operators.Conditional:
		args := record.AsCall().Args()
		condition, err := w.write(args[0])
		if err != nil {
			return Column{}, err
		}
		yes, err := w.fieldOf(args[1], path, kind)
		if err != nil {
			return Column{}, err
		}
		no, err := w.fieldOf(args[2], path, kind)
		return either(condition, yes, no), err
	}
	return Column{}, fmt.Errorf("taking one record of a list has no SQL")
}

// named writes the value that a path of names leads to.
func (w sqlWriter) named(path []string, kind value.Kind) (Column, error) {
	if v := w.vars[path[0]]; v != nil {
		return v.Column(path[1:], kind)
	}
	return w.columns.Column(path, kind)
}

// either writes the choice between two values.
func either(condition, yes, no Column) Column {
	return merge(yes, no, func(x, y string) string {
		return fmt.Sprintf("CASE WHEN %s THEN %s ELSE %s END", condition.SQL, x, y)
	})
}

func (w sqlWriter) kind(e ast.Expr) value.Kind { return typeOf(w.ast.GetType(e.ID())).Kind }

// constant computes an expression that names nothing, such as money("10", "EUR").
func constant(e ast.Expr) (value.Value, bool, error) {
	switch e.Kind() {
	case ast.LiteralKind:
		v, err := fromCEL(e.AsLiteral())
		return v, true, err
	case ast.ListKind:
		return constantList(e.AsList().Elements())
	case ast.CallKind:
		var args []value.Value
		for _, a := range arguments(e) {
			v, ok, err := constant(a)
			if !ok || err != nil {
				return nil, ok, err
			}
			args = append(args, v)
		}
		return apply(e.AsCall().FunctionName(), args)
	}
	return nil, false, nil
}

// constantList is a list of texts written out, such as ["done", "cancelled"].
func constantList(elements []ast.Expr) (value.Value, bool, error) {
	keys := make([]string, len(elements))
	for i, e := range elements {
		v, ok, err := constant(e)
		if _, text := v.(value.Text); !ok || !text || err != nil {
			return nil, false, err
		}
		keys[i] = value.Display(v)
	}
	return value.NewSeveral(keys...), true, nil
}

// arguments are those of a call, the receiver first.
func arguments(e ast.Expr) []ast.Expr {
	c := e.AsCall()
	if c.IsMemberFunction() {
		return append([]ast.Expr{c.Target()}, c.Args()...)
	}
	return c.Args()
}

func (w sqlWriter) call(function string, a []Column) (Column, error) {
	yes := func(format string, args ...any) (Column, error) {
		return Column{Kind: value.KindYesNo, SQL: fmt.Sprintf(format, args...)}, nil
	}
	text := func(format string, args ...any) (Column, error) {
		return Column{Kind: value.KindText, SQL: fmt.Sprintf(format, args...)}, nil
	}
	switch function {
	case operators.In:
		return yes("coalesce(%s = ANY(%s), FALSE)", a[0].SQL, a[1].SQL)
	case "empty":
		return yes("(%s IS NULL)", a[0].SQL)
	case "either":
		return merge(a[0], a[1], func(x, y string) string { return "coalesce(" + x + ", " + y + ")" }), nil
	case operators.LogicalAnd:
		return yes("(%s IS TRUE AND %s IS TRUE)", a[0].SQL, a[1].SQL)
	case operators.LogicalOr:
		return yes("(%s IS TRUE OR %s IS TRUE)", a[0].SQL, a[1].SQL)
	case operators.LogicalNot:
		return yes("(%s IS NOT TRUE)", a[0].SQL)
	case operators.Conditional:
		return either(a[0], a[1], a[2]), nil
	case operators.Equals, operators.NotEquals, operators.Less, operators.LessEquals, operators.Greater, operators.GreaterEquals:
		return compareSQL(function, a[0], a[1]), nil
	case operators.Add, operators.Subtract, operators.Multiply, operators.Divide, operators.Modulo:
		return arithSQL(function, a[0], a[1])
	case operators.Negate:
		return Column{Kind: a[0].Kind, SQL: "(-" + a[0].SQL + ")", Currency: a[0].Currency}, nil
	case "lower", "upper":
		return text("%s(%s)", function, a[0].SQL)
	case "text":
		return textSQL(a[0])
	case "trim":
		return text("btrim(%s)", a[0].SQL)
	case "size":
		if a[0].Kind == value.KindSeveral {
			return Column{Kind: value.KindWhole, SQL: "cardinality(" + a[0].SQL + ")::bigint"}, nil
		}
		return Column{Kind: value.KindWhole, SQL: "char_length(" + a[0].SQL + ")::bigint"}, nil
	case "round":
		return Column{Kind: value.KindDecimal, SQL: fmt.Sprintf("round(%s, %s::int)", a[0].SQL, a[1].SQL)}, nil
	case "contains":
		return yes("coalesce(strpos(lower(%s), lower(%s)) > 0, false)", a[0].SQL, a[1].SQL)
	case "startsWith":
		return yes("coalesce(starts_with(lower(%s), lower(%s)), false)", a[0].SQL, a[1].SQL)
	}
	return Column{}, fmt.Errorf("%s has no SQL", function)
}

// textSQL mirrors value.Display for the kinds that PostgreSQL writes alike.
func textSQL(c Column) (Column, error) {
	switch c.Kind {
	case value.KindText:
		return c, nil
	case value.KindWhole, value.KindDate:
		return Column{Kind: value.KindText, SQL: c.SQL + "::text"}, nil
	case value.KindAddress:
		return Column{Kind: value.KindText, SQL: "plainpath.address_text(" + c.SQL + ")"}, nil
	}
	return Column{}, fmt.Errorf("text of a %s has no SQL", c.Kind)
}

func merge(a, b Column, sql func(x, y string) string) Column {
	out := Column{Kind: a.Kind, SQL: sql(a.SQL, b.SQL)}
	if a.Kind == value.KindMoney {
		out.Currency = sql(a.Currency, b.Currency)
	}
	return out
}

func compareSQL(op string, a, b Column) Column {
	symbol := map[string]string{operators.Equals: "=", operators.NotEquals: "<>", operators.Less: "<", operators.LessEquals: "<=",
		operators.Greater: ">", operators.GreaterEquals: ">="}[op]
	out := fmt.Sprintf("%s %s %s", a.SQL, symbol, b.SQL)
	switch {
	case a.Kind == value.KindMoney && op == operators.NotEquals:
		out = fmt.Sprintf("%s = %s AND %s = %s", a.SQL, b.SQL, a.Currency, b.Currency)
		return Column{Kind: value.KindYesNo, SQL: "((" + out + ") IS NOT TRUE)"}
	case a.Kind == value.KindMoney:
		out += fmt.Sprintf(" AND %s = %s", a.Currency, b.Currency)
	case op == operators.NotEquals:
		return Column{Kind: value.KindYesNo, SQL: fmt.Sprintf("((%s = %s) IS NOT TRUE)", a.SQL, b.SQL)}
	}
	return Column{Kind: value.KindYesNo, SQL: "((" + out + ") IS TRUE)"}
}

// arithSQL mirrors value.Arith.
func arithSQL(op string, a, b Column) (Column, error) {
	symbol := op[1 : len(op)-1]
	plain := fmt.Sprintf("(%s %s %s)", a.SQL, symbol, b.SQL)
	switch {
	case a.Kind == value.KindMoney && b.Kind == value.KindMoney:
		return Column{Kind: value.KindMoney, SQL: plain, Currency: fmt.Sprintf("plainpath.one_currency(%s, %s)", a.Currency, b.Currency)}, nil
	case a.Kind == value.KindMoney && symbol == "/":
		return Column{Kind: value.KindMoney, SQL: quotient(a.SQL, b.SQL), Currency: emptyWith(a.Currency, b.SQL)}, nil
	case a.Kind == value.KindMoney:
		return Column{Kind: value.KindMoney, SQL: plain, Currency: emptyWith(a.Currency, b.SQL)}, nil
	case b.Kind == value.KindMoney:
		return Column{Kind: value.KindMoney, SQL: plain, Currency: emptyWith(b.Currency, a.SQL)}, nil
	case a.Kind == value.KindText:
		return Column{Kind: value.KindText, SQL: fmt.Sprintf("(%s || %s)", a.SQL, b.SQL)}, nil
	case a.Kind == value.KindDate && b.Kind == value.KindDate:
		return Column{Kind: value.KindWhole, SQL: plain + "::bigint"}, nil
	case a.Kind == value.KindDate:
		return Column{Kind: value.KindDate, SQL: fmt.Sprintf("(%s %s %s::int)", a.SQL, symbol, b.SQL)}, nil
	case a.Kind == value.KindWhole && b.Kind == value.KindWhole:
		if symbol == "/" || symbol == "%" {
			plain = fmt.Sprintf("(%s %s nullif(%s, 0))", a.SQL, symbol, b.SQL)
		}
		return Column{Kind: value.KindWhole, SQL: plain}, nil
	case symbol == "/":
		return Column{Kind: value.KindDecimal, SQL: quotient(a.SQL, b.SQL)}, nil
	case isNumber(a.Kind) && isNumber(b.Kind):
		return Column{Kind: value.KindDecimal, SQL: plain}, nil
	}
	return Column{}, fmt.Errorf("%s %s %s has no SQL", a.Kind, symbol, b.Kind)
}

// quotient divides exactly and rounds once, half away from zero: div() cuts off one
// place further than is kept, so that last place alone decides the rounding.
func quotient(a, b string) string {
	places := strconv.Itoa(value.DivisionPlaces)
	return fmt.Sprintf("round(div(%s * 1e%d, nullif(%s, 0)) * 1e-%d, %s)", a, value.DivisionPlaces+1, b, value.DivisionPlaces+1, places)
}

func emptyWith(currency, number string) string {
	return fmt.Sprintf("CASE WHEN %s IS NOT NULL THEN %s END", number, currency)
}

func isNumber(k value.Kind) bool { return k == value.KindWhole || k == value.KindDecimal }
