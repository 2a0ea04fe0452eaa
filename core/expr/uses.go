package expr

import (
	"slices"
	"strings"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"

	"plainpath/core/value"
)

// uses finds the known values an expression depends on and the fields it takes
// from each. A variable of a macro stands for the list it goes through.
func uses(a *ast.AST) [][]string {
	var out [][]string
	seen := map[string]bool{}
	var walk func(e ast.Expr, local map[string][]string)
	add := func(path []string) {
		if key := strings.Join(path, "."); !seen[key] {
			seen[key] = true
			out = append(out, path)
		}
	}
	walk = func(e ast.Expr, local map[string][]string) {
		switch e.Kind() {
		case ast.IdentKind, ast.SelectKind:
			if path, ok := chain(e, local); ok {
				if len(path) > 0 {
					add(path)
				}
				return
			}
			walk(e.AsSelect().Operand(), local)
		case ast.CallKind:
			c := e.AsCall()
			if c.IsMemberFunction() {
				walk(c.Target(), local)
			}
			for _, arg := range c.Args() {
				walk(arg, local)
			}
		case ast.ListKind:
			for _, el := range e.AsList().Elements() {
				walk(el, local)
			}
		case ast.ComprehensionKind:
			c := e.AsComprehension()
			walk(c.IterRange(), local)
			inner := map[string][]string{c.AccuVar(): {}}
			for k, v := range local {
				inner[k] = v
			}
			path, _ := chain(c.IterRange(), local)
			inner[c.IterVar()] = path
			for _, part := range []ast.Expr{c.AccuInit(), c.LoopCondition(), c.LoopStep(), c.Result()} {
				walk(part, inner)
			}
		}
	}
	walk(a.Expr(), nil)
	slices.SortFunc(out, slices.Compare[[]string])
	return out
}

// chain reads a.b.c as a path. first(list).b counts as list.b.
func chain(e ast.Expr, local map[string][]string) ([]string, bool) {
	switch e.Kind() {
	case ast.IdentKind:
		if path, ok := local[e.AsIdent()]; ok {
			return path, true
		}
		return []string{e.AsIdent()}, true
	case ast.SelectKind:
		path, ok := chain(e.AsSelect().Operand(), local)
		return append(slices.Clone(path), e.AsSelect().FieldName()), ok
	case ast.CallKind:
		if c := e.AsCall(); c.FunctionName() == "first" && len(c.Args()) == 1 {
			return chain(c.Args()[0], local)
		}
	}
	return nil, false
}

// mayBeEmpty says whether the value of an expression can be empty, judging by the
// known values it is made of.
func mayBeEmpty(s Scope, a *ast.AST) bool {
	var empty func(e ast.Expr) bool
	empty = func(e ast.Expr) bool {
		switch e.Kind() {
		case ast.IdentKind, ast.SelectKind:
			path, ok := chain(e, nil)
			return !ok || pathMayBeEmpty(s, path)
		case ast.CallKind:
			c := e.AsCall()
			switch c.FunctionName() {
			case "empty", "size", operators.Equals, operators.NotEquals, operators.Less, operators.LessEquals,
				operators.Greater, operators.GreaterEquals, operators.In, operators.LogicalAnd, operators.LogicalOr, operators.LogicalNot:
				return false
			case "either":
				return empty(c.Args()[1])
			case "first", "sum", "least", "greatest", "average", operators.Divide, operators.Modulo:
				return true
			case operators.Conditional:
				return empty(c.Args()[1]) || empty(c.Args()[2])
			}
			return slices.ContainsFunc(c.Args(), empty) || c.IsMemberFunction() && empty(c.Target())
		case ast.LiteralKind:
			return e.AsLiteral().Type().TypeName() == "null_type"
		}
		return false
	}
	return empty(a.Expr())
}

func pathMayBeEmpty(s Scope, path []string) bool {
	n, ok := s.Find(path[0])
	if !ok {
		return false
	}
	t := n.Type
	for _, part := range path[1:] {
		if t.Empty {
			return true
		}
		fields := t.Answers
		if t.Kind == value.KindRecord {
			fields = OfRecord(s.Model, t.Object).Names
		}
		if t.Kind == value.KindAddress {
			fields = addressParts
		}
		i := slices.IndexFunc(fields, func(n Name) bool { return n.Key == part })
		if i < 0 {
			return false
		}
		t = fields[i].Type
	}
	return t.Empty
}
