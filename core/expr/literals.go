package expr

import (
	"strings"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"
)

// ours puts what is ours in the place of what CEL does in its own way: decimals, digit for
// digit as they are written, for numbers that it reads as binary floating point, and a place
// in a list that may be empty for one that must be there.
func ours(source string, a *ast.AST) {
	letters := []rune(source)
	factory := ast.NewExprFactory()
	next := ast.MaxID(a)
	visit := ast.NewExprVisitor(func(e ast.Expr) {
		switch e.Kind() {
		case ast.CallKind:
			if e.AsCall().FunctionName() == operators.Index {
				e.SetKindCase(factory.NewCall(e.ID(), loopIndex, e.AsCall().Args()...))
			}
		case ast.LiteralKind:
			if _, binary := e.AsLiteral().(types.Double); !binary {
				return
			}
			at := a.SourceInfo().GetStartLocation(e.ID())
			written := numeral(letters[min(offset(source, at.Line(), at.Column()), len(letters)):])
			next++
			e.SetKindCase(factory.NewCall(e.ID(), "decimal", factory.NewLiteral(next, types.String(written))))
		}
	})
	ast.PostOrderVisit(a.Expr(), visit)
	for _, macro := range a.SourceInfo().MacroCalls() {
		ast.PostOrderVisit(macro, visit)
	}
}

// numeral is the number that a text begins with, as it is written.
func numeral(letters []rune) string {
	var out []rune
	for i, r := range letters {
		sign := (r == '-' || r == '+') && (i == 0 || len(out) > 0 && (out[len(out)-1] == 'e' || out[len(out)-1] == 'E'))
		space := len(out) == 1 && out[0] == '-' && (r == ' ' || r == '\t' || r == '\n')
		switch {
		case space:
		case sign, r >= '0' && r <= '9', r == '.', r == 'e', r == 'E':
			out = append(out, r)
		default:
			return string(out)
		}
	}
	return string(out)
}

// unstorable is the mistake of a text that is written out with a character that no text of the
// database can have.
func unstorable(source string, a *ast.AST) error {
	var found error
	ast.PreOrderVisit(a.Expr(), ast.NewExprVisitor(func(e ast.Expr) {
		text, ok := literalText(e)
		if ok && found == nil && strings.ContainsRune(text, 0) {
			at := a.SourceInfo().GetStartLocation(e.ID())
			found = &Error{Offset: offset(source, at.Line(), at.Column()),
				Text: "this text has the character U+0000, which nothing can be stored or searched for with; take it out"}
		}
	}))
	return found
}
