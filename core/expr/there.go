package expr

import (
	"slices"
	"strings"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
)

// Where is the scope of a place that is reached only where a condition holds: what the condition says is not empty is
// not empty there.
func (s Scope) Where(p *Program) Scope {
	if p != nil {
		s.there = slices.Concat(s.there, present(p.checked.NativeRep().Expr()))
	}
	return s
}

func (s Scope) isThere(path []string) bool {
	return slices.ContainsFunc(s.there, func(t []string) bool { return slices.Equal(t, path) })
}

// present are the paths that are not empty where a condition holds: of !empty(a.b) a.b, of two that both hold those of
// either. What is reached through an empty record is empty, so that the records on the way are there as well.
func present(e ast.Expr) [][]string {
	if e.Kind() != ast.CallKind {
		return nil
	}
	args := e.AsCall().Args()
	switch e.AsCall().FunctionName() {
	case operators.LogicalAnd:
		return slices.Concat(present(args[0]), present(args[1]))
	case operators.LogicalNot:
		not := args[0]
		if not.Kind() != ast.CallKind || not.AsCall().FunctionName() != "empty" {
			return nil
		}
		path, ok := chain(not.AsCall().Args()[0])
		if !ok {
			return nil
		}
		var out [][]string
		for n := range path {
			out = append(out, path[:n+1])
		}
		return out
	}
	return nil
}

// without leaves out what is known of a name.
func without(there [][]string, key string) [][]string {
	return slices.DeleteFunc(slices.Clone(there), func(path []string) bool { return path[0] == key })
}

// saidThere tells apart scopes in which other values are there.
func (s Scope) saidThere(b *strings.Builder, source string) {
	for _, path := range s.there {
		if strings.Contains(source, path[0]) {
			b.WriteString("+" + strings.Join(path, ".") + "\n")
		}
	}
}
