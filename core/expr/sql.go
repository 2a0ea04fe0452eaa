package expr

import (
	"errors"
	"fmt"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"

	"plainpath/core/value"
)

// Column is a value as SQL. Money takes two texts: the amount and the currency.
type Column struct {
	Kind     value.Kind
	SQL      string
	Currency string
	// Why is the text of the value.Failure where the value cannot be computed, whose SQL and
	// Currency are NULL then; where it can, Why is NULL. It is "" where the value always can.
	Why string
	// Stored is of how many stored texts a text is made at most, each of which can be long.
	Stored int
}

// mostSQL bounds what is written for one expression, in bytes.
const mostSQL = 200_000

// Columns says how a name is written in SQL, and how a constant is. The kind is that
// of the value, which an empty one cannot tell by itself.
type Columns interface {
	Column(path []string, kind value.Kind) (Column, error)
	Constant(v value.Value, kind value.Kind) Column
}

// SQL writes the expression as SQL with the same meaning as Eval, empties
// included. What has no SQL is refused with the reason.
func (p *Program) SQL(c Columns) (Column, error) {
	w := sqlWriter{columns: c, ast: p.checked.NativeRep(), house: p.house}
	out, err := w.write(p.checked.NativeRep().Expr())
	if err != nil {
		return Column{}, fmt.Errorf("%q cannot be carried out in the database: %w", p.Source, err)
	}
	if len(out.SQL)+len(out.Currency)+len(out.Why) > mostSQL {
		return Column{}, fmt.Errorf("%q cannot be carried out in the database: written as SQL it is too long; take it apart", p.Source)
	}
	if p.Type.Kind == value.KindDecimal && out.Kind == value.KindWhole {
		out.Kind, out.SQL = value.KindDecimal, out.SQL+"::numeric"
	}
	return out, nil
}

type sqlWriter struct {
	columns Columns
	ast     *ast.AST
	house   house
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
		return w.call(e)
	}
	return Column{}, fmt.Errorf("going through a list has no SQL")
}

func (w sqlWriter) call(e ast.Expr) (Column, error) {
	f := byName[e.AsCall().FunctionName()]
	if f == nil {
		return Column{}, fmt.Errorf("%s has no SQL", e.AsCall().FunctionName())
	}
	args := w.terms(e)
	if f.listSQL != nil && w.ast.GetType(args[0].ID()).Kind() == types.ListKind && w.kind(args[0]) != value.KindSeveral {
		return f.listSQL(w, args[0])
	}
	written := make([]Column, len(args))
	for i, a := range args {
		var err error
		if written[i], err = w.write(a); err != nil {
			return Column{}, err
		}
		if len(written[i].SQL)+len(written[i].Why) > mostSQL {
			return Column{}, errors.New("written as SQL it is too long; take it apart")
		}
	}
	if f.name == operators.Add && written[0].Kind == value.KindText {
		return joinedSQL(written, w.house.mostText), nil
	}
	return f.write(written, w.house)
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
	columns := w.columns
	if v := w.vars[path[0]]; v != nil {
		columns, path = v, path[1:]
	}
	c, err := columns.Column(path, kind)
	if c.Kind == value.KindText {
		c.Stored = max(c.Stored, 1)
	}
	return c, err
}

func (w sqlWriter) kind(e ast.Expr) value.Kind {
	t, _ := typeOf(w.ast.GetType(e.ID()))
	return t.Kind
}

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
		f := byName[e.AsCall().FunctionName()]
		if f == nil || f.compute == nil {
			return nil, false, nil
		}
		v, err := f.apply(args, house{mostText: value.MostText})
		return v, true, err
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
