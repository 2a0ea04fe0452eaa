package expr

import (
	"errors"
	"fmt"
	"slices"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"

	"plainpath/core/value"
)

// Term is a checked expression as data, for a database to compute: one of Constant, Path, Call,
// Exists, Every and Total. Kind is that of the value, which an empty one cannot tell by itself.
type Term interface {
	Kind() value.Kind
	// weight is how much there is to write down, in bytes or so.
	weight() int
}

type (
	// Constant is a value that names nothing, nil for empty.
	Constant struct {
		Value value.Value
		Of    value.Kind
	}
	// Path is what a path of names leads to. It begins at a known value, or at a record of a list
	// that is gone through, by the name it has there.
	Path struct {
		Names []string
		Of    value.Kind
	}
	// Call applies a function or operator, the receiver first among what it takes.
	Call struct {
		Function string
		Args     []Term
		Of       value.Kind
	}
	// Exists says whether a condition holds for a record of a list at least.
	Exists struct{ Of List }
	// Every says whether a condition holds for every record of a list.
	Every struct {
		Of    List
		Holds Holds
	}
	// Total is what a function makes of a list: of what is taken from each record, or, where that
	// is nil, of the records.
	Total struct {
		Function string
		Over     List
		// Name is what the record is called in Each.
		Name string
		Each Term
		Of   value.Kind
	}
)

// List is the records that point at the one an expression is about, those for which all
// conditions hold.
type List struct {
	Path  []string
	Where []Holds
}

// Holds is a condition on a record of a list, which it calls by a name.
type Holds struct {
	Name string
	That Term
}

// Kind is that of the value.
func (c Constant) Kind() value.Kind { return c.Of }

// Kind is that of the value.
func (p Path) Kind() value.Kind { return p.Of }

// Kind is that of the value.
func (c Call) Kind() value.Kind { return c.Of }

// Kind is yes or no.
func (Exists) Kind() value.Kind { return value.KindYesNo }

// Kind is yes or no.
func (Every) Kind() value.Kind { return value.KindYesNo }

// Kind is that of the value.
func (t Total) Kind() value.Kind { return t.Of }

// mostWeight bounds what a database is asked to compute as one expression, and leafWeight is about
// what a name or a constant takes.
const (
	mostWeight = 200_000
	leafWeight = 20
)

func (Constant) weight() int { return leafWeight }
func (Path) weight() int     { return leafWeight }
func (e Exists) weight() int { return e.Of.weight() }
func (e Every) weight() int  { return e.Of.weight() + e.Holds.That.weight() }

func (t Total) weight() int {
	w := leafWeight
	if t.Each != nil {
		w = 4 * t.Each.weight()
	}
	return bounded(w + t.Over.weight())
}

func (c Call) weight() int {
	w := leafWeight
	for _, a := range c.Args {
		w = bounded(w + Repeats(c.Function, a.Kind())*a.weight())
	}
	return w
}

func (l List) weight() int {
	w := leafWeight
	for _, h := range l.Where {
		w = bounded(w + h.That.weight())
	}
	return w
}

// bounded keeps a weight that is too much anyway from growing out of a number.
func bounded(weight int) int { return min(weight, mostWeight+1) }

// Term is the expression as data. What the database cannot compute is refused with the reason.
func (p *Program) Term() (Term, error) { return p.term() }

func (p *Program) translated() (Term, error) {
	native := p.checked.NativeRep()
	t, err := translation{native}.term(native.Expr())
	if err == nil && t.weight() > mostWeight {
		err = errors.New("it is too long; take it apart")
	}
	if err != nil {
		return nil, fmt.Errorf("%q cannot be carried out in the database: %w", p.Source, err)
	}
	return t, nil
}

// ForARecord is the expression as data for a place where the database has one record alone, and goes
// through no list.
func (p *Program) ForARecord() (Term, error) {
	t, err := p.term()
	if err == nil && throughList(t) {
		err = fmt.Errorf("%q cannot be carried out in the database: %w", p.Source, errThroughList)
	}
	return t, err
}

func throughList(t Term) bool {
	switch t := t.(type) {
	case Exists, Every, Total:
		return true
	case Call:
		return slices.ContainsFunc(t.Args, throughList)
	}
	return false
}

// translation makes terms of an expression.
type translation struct{ ast *ast.AST }

// errThroughList says that the database has no records to go through.
var errThroughList = errors.New("it cannot go through that list")

func (t translation) term(e ast.Expr) (Term, error) {
	if v, ok, err := constant(e); ok {
		return Constant{v, t.kind(e)}, err
	}
	switch e.Kind() {
	case ast.IdentKind, ast.SelectKind:
		return t.field(e, nil, t.kind(e))
	case ast.ComprehensionKind, ast.UnspecifiedExprKind: // one within another is known by its number alone
		return t.quantified(e)
	case ast.CallKind:
		return t.call(e)
	}
	return nil, errThroughList
}

func (t translation) call(e ast.Expr) (Term, error) {
	f := byName[e.AsCall().FunctionName()]
	if f == nil {
		return nil, fmt.Errorf("it cannot compute %s", e.AsCall().FunctionName())
	}
	args := arguments(e)
	if f.overRecords && t.ast.GetType(args[0].ID()).Kind() == types.ListKind && t.kind(args[0]) != value.KindSeveral {
		return t.total(f, args[0], t.kind(e))
	}
	out := Call{Function: f.name, Args: make([]Term, len(args)), Of: t.kind(e)}
	for i, a := range args {
		var err error
		if out.Args[i], err = t.term(a); err != nil {
			return nil, err
		}
	}
	return out, f.refused(out.Args[0].Kind())
}

// field is what a path of fields leads to from one of two records: (c ? a : b).name.
func (t translation) field(record ast.Expr, path []string, kind value.Kind) (Term, error) {
	if names, ok := chain(record); ok {
		if kind == value.KindList {
			return nil, errThroughList
		}
		return Path{append(names, path...), kind}, nil
	}
	switch {
	case record.Kind() == ast.SelectKind:
		return t.field(record.AsSelect().Operand(), append([]string{record.AsSelect().FieldName()}, path...), kind)
	case record.Kind() == ast.CallKind && record.AsCall().FunctionName() == operators.Conditional:
		args := record.AsCall().Args()
		condition, err := t.term(args[0])
		if err != nil {
			return nil, err
		}
		yes, err := t.field(args[1], path, kind)
		if err != nil {
			return nil, err
		}
		no, err := t.field(args[2], path, kind)
		return Call{Function: operators.Conditional, Args: []Term{condition, yes, no}, Of: kind}, err
	}
	return nil, errors.New("it cannot take one record of a list")
}

// macro is the call that a macro was before it was expanded, false where it does not go through a
// list once, with a name for the record and something said of it.
func (t translation) macro(e ast.Expr) (ast.CallExpr, bool) {
	call, ok := t.ast.SourceInfo().GetMacroCall(e.ID())
	if !ok || call.Kind() != ast.CallKind || len(call.AsCall().Args()) != 2 {
		return nil, false
	}
	return call.AsCall(), true
}

// list is a list of related records, filtered perhaps.
func (t translation) list(e ast.Expr) (List, error) {
	if path, ok := chain(e); ok {
		return List{Path: path}, nil
	}
	call, ok := t.macro(e)
	if !ok || call.FunctionName() != operators.Filter {
		return List{}, errThroughList
	}
	l, err := t.list(call.Target())
	if err != nil {
		return l, err
	}
	that, err := t.term(call.Args()[1])
	l.Where = append(l.Where, Holds{call.Args()[0].AsIdent(), that})
	return l, err
}

// quantified is exists and all.
func (t translation) quantified(e ast.Expr) (Term, error) {
	call, ok := t.macro(e)
	if !ok {
		return nil, errThroughList
	}
	l, err := t.list(call.Target())
	if err != nil {
		return nil, err
	}
	that, err := t.term(call.Args()[1])
	if err != nil {
		return nil, err
	}
	holds := Holds{call.Args()[0].AsIdent(), that}
	switch call.FunctionName() {
	case operators.Exists:
		l.Where = append(l.Where, holds)
		return Exists{l}, nil
	case operators.All:
		return Every{l, holds}, nil
	}
	return nil, fmt.Errorf("it cannot compute %s over a list", call.FunctionName())
}

// total is sum(list.map(x, …)) and its like, and size(list).
func (t translation) total(f *function, list ast.Expr, kind value.Kind) (Term, error) {
	if f.name == "size" {
		l, err := t.list(list)
		return Total{Function: f.name, Over: l, Of: kind}, err
	}
	call, ok := t.macro(list)
	if !ok || call.FunctionName() != operators.Map {
		return nil, fmt.Errorf("it can compute %s only over a list gone through with map", f.name)
	}
	l, err := t.list(call.Target())
	if err != nil {
		return nil, err
	}
	each, err := t.term(call.Args()[1])
	return Total{Function: f.name, Over: l, Name: call.Args()[0].AsIdent(), Each: each, Of: kind}, err
}

func (t translation) kind(e ast.Expr) value.Kind {
	of, _ := typeOf(t.ast.GetType(e.ID()))
	return of.Kind
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
