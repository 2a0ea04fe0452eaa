package expr

import (
	"slices"
	"strings"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"

	"plainpath/core/value"
)

// uses finds the known values an expression depends on and the fields it takes from each.
// A list and the records in it have the same path.
func uses(a *ast.AST) [][]string {
	f := &follower{found: map[string][]string{},
		isList: func(e ast.Expr) bool { return a.GetType(e.ID()).Kind() == types.ListKind }}
	f.use(a.Expr(), nil)
	var out [][]string
	for _, path := range f.found {
		out = append(out, path)
	}
	slices.SortFunc(out, slices.Compare[[]string])
	return out
}

// follower works out, of every subexpression, from which known values what it gives may be
// taken. found gathers the paths of what is looked at.
type follower struct {
	found  map[string][]string
	isList func(ast.Expr) bool
	// selected is told of every field taken, with where it is taken from; nil does not listen.
	selected func(e ast.Expr, from [][]string)
}

// local are the paths of the variables of macros.
type local map[string][][]string

func (f *follower) use(e ast.Expr, vars local) { f.note(f.origins(e, vars)) }

func (f *follower) note(paths [][]string) {
	for _, path := range paths {
		f.found[strings.Join(path, ".")] = path
	}
}

// origins are the paths of the known values that e may give, whole or as parts of a list;
// none where it gives something new. Whatever else e looks at is used.
func (f *follower) origins(e ast.Expr, vars local) [][]string {
	switch e.Kind() {
	case ast.IdentKind:
		if paths, ok := vars[e.AsIdent()]; ok {
			return paths
		}
		return [][]string{{e.AsIdent()}}
	case ast.SelectKind:
		from := f.origins(e.AsSelect().Operand(), vars)
		if f.selected != nil {
			f.selected(e, from)
		}
		out := make([][]string, len(from))
		for i, path := range from {
			out[i] = append(slices.Clone(path), e.AsSelect().FieldName())
		}
		return out
	case ast.ListKind:
		return f.union(vars, e.AsList().Elements()...)
	case ast.ComprehensionKind:
		return f.comprehension(e.AsComprehension(), vars)
	case ast.CallKind:
		args := arguments(e)
		switch function := e.AsCall().FunctionName(); {
		case function == operators.Conditional:
			f.use(args[0], vars)
			return f.union(vars, args[1:]...)
		case function == "either", function == operators.Add && f.isList(e):
			return f.union(vars, args...)
		case function == "first":
			return f.origins(args[0], vars)
		case function == "needed":
			f.use(args[1], vars)
			return f.origins(args[0], vars)
		case function == loopIndex:
			f.use(args[1], vars)
			return f.origins(args[0], vars)
		}
		for _, arg := range args {
			f.use(arg, vars)
		}
	}
	return nil
}

func (f *follower) union(vars local, of ...ast.Expr) [][]string {
	var out [][]string
	for _, e := range of {
		for _, path := range f.origins(e, vars) {
			if !slices.ContainsFunc(out, func(o []string) bool { return slices.Equal(o, path) }) {
				out = append(out, path)
			}
		}
	}
	return out
}

// comprehension follows a macro: what it goes through, and what gathers in its accumulator,
// which takes only what one turn adds to it.
func (f *follower) comprehension(c ast.ComprehensionExpr, vars local) [][]string {
	from := f.origins(c.IterRange(), vars) // looked at once, for there may be more in it that goes through lists
	f.note(from)
	inner := local{}
	for k, v := range vars {
		inner[k] = v
	}
	inner[c.IterVar()] = from
	inner[c.AccuVar()] = f.origins(c.AccuInit(), vars)
	inner[c.AccuVar()] = append(slices.Clone(inner[c.AccuVar()]), f.origins(c.LoopStep(), inner)...)
	f.use(c.LoopCondition(), inner)
	return f.origins(c.Result(), inner)
}

// chain reads a.b.c as a path.
func chain(e ast.Expr) ([]string, bool) {
	switch e.Kind() {
	case ast.IdentKind:
		return []string{e.AsIdent()}, true
	case ast.SelectKind:
		path, ok := chain(e.AsSelect().Operand())
		return append(path, e.AsSelect().FieldName()), ok && !e.AsSelect().IsTestOnly()
	}
	return nil, false
}

// mayBeEmpty says whether the value of an expression can be empty, judging by the
// known values it is made of.
func mayBeEmpty(s Scope, a *ast.AST) bool {
	var empty func(e ast.Expr) bool
	empty = func(e ast.Expr) bool {
		if path, ok := chain(e); ok && s.isThere(path) {
			return false
		}
		switch e.Kind() {
		case ast.IdentKind:
			n, ok := s.Find(e.AsIdent())
			return ok && n.Type.Empty
		case ast.SelectKind:
			of := e.AsSelect().Operand()
			return empty(of) || fieldMayBeEmpty(s, a.GetType(of.ID()), e.AsSelect().FieldName())
		case ast.CallKind:
			c := e.AsCall()
			switch c.FunctionName() {
			case "empty", "needed", "size", operators.Equals, operators.NotEquals, operators.Less, operators.LessEquals,
				operators.Greater, operators.GreaterEquals, operators.In, operators.LogicalAnd, operators.LogicalOr,
				operators.LogicalNot:
				return false
			case "either":
				return empty(c.Args()[1])
			case "first", loopIndex, "sum", "least", "greatest", "average", operators.Divide, operators.Modulo:
				return true
			case operators.Conditional:
				return empty(c.Args()[1]) || empty(c.Args()[2])
			}
			return slices.ContainsFunc(arguments(e), empty)
		case ast.LiteralKind:
			return e.AsLiteral().Type().TypeName() == "null_type"
		}
		return false
	}
	return empty(a.Expr())
}

func fieldMayBeEmpty(s Scope, of *types.Type, field string) bool {
	var names []Name
	t, _ := typeOf(of)
	switch t.Kind {
	case value.KindRecord:
		names = OfRecord(s.Model, t.Object).Names
	case value.KindScreen:
		names, _ = s.answers(screenOf(of))
	default:
		names = partsOf(t.Kind)
	}
	i := slices.IndexFunc(names, func(n Name) bool { return n.Key == field })
	return i >= 0 && names[i].Type.Empty
}

// lookedAt visits the paths from which an expression that is not checked takes a field.
func lookedAt(parsed *ast.AST, field string, visit func(path []string)) {
	f := &follower{found: map[string][]string{}, isList: func(ast.Expr) bool { return true }}
	f.selected = func(e ast.Expr, from [][]string) {
		if e.AsSelect().FieldName() == field {
			for _, path := range from {
				visit(path)
			}
		}
	}
	f.use(parsed.Expr(), nil)
}
