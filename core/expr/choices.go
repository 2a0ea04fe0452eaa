package expr

import (
	"fmt"
	"slices"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"

	"plainpath/core/model"
	"plainpath/core/value"
)

// unknownChoice finds a text that a choice is compared with and that is none of its
// values: such a comparison would never hold. It is an *Error, nil when there is none.
func unknownChoice(s Scope, source string, a *ast.AST) error {
	var found error
	look := func(of, text ast.Expr) {
		f := choiceOf(s, a, of)
		if f == nil || found != nil || text.Kind() != ast.LiteralKind {
			return
		}
		key, ok := text.AsLiteral().Value().(string)
		if !ok || slices.ContainsFunc(f.Choices, func(c model.ChoiceValue) bool { return c.Key == key }) {
			return
		}
		keys := make([]string, len(f.Choices))
		for i, c := range f.Choices {
			keys[i] = c.Key
		}
		at := a.SourceInfo().GetStartLocation(text.ID())
		e := &Error{Offset: offset(source, at.Line(), at.Column()), Text: fmt.Sprintf("%s is never %q", f.Label, key), Name: key, Nearest: model.Nearest(key, keys)}
		if e.Nearest != "" {
			e.Text += fmt.Sprintf("; did you mean %q?", e.Nearest)
		}
		found = e
	}
	ast.PreOrderVisit(a.Expr(), ast.NewExprVisitor(func(e ast.Expr) {
		if e.Kind() != ast.CallKind || len(e.AsCall().Args()) != 2 {
			return
		}
		left, right := e.AsCall().Args()[0], e.AsCall().Args()[1]
		switch e.AsCall().FunctionName() {
		case operators.Equals, operators.NotEquals:
			look(left, right)
			look(right, left)
		case operators.In:
			look(right, left)
			if right.Kind() == ast.ListKind {
				for _, text := range right.AsList().Elements() {
					look(left, text)
				}
			}
		}
	}))
	return found
}

// choiceOf is the choice that an expression names, nil when it names something else.
func choiceOf(s Scope, a *ast.AST, e ast.Expr) *model.Field {
	var t Type
	switch e.Kind() {
	case ast.IdentKind:
		n, _ := s.Find(e.AsIdent())
		t = n.Type
	case ast.SelectKind:
		of := a.GetType(e.AsSelect().Operand().ID())
		var names []Name
		if object := objectOf(of); object != "" && s.Model != nil {
			names = OfRecord(s.Model, object).Names
		} else if n, ok := s.Find(screenOf(of)); ok {
			names = n.Type.Answers
		}
		if i := slices.IndexFunc(names, func(n Name) bool { return n.Key == e.AsSelect().FieldName() }); i >= 0 {
			t = names[i].Type
		}
	}
	if t.field == nil || !t.field.Type.Chosen() || t.Kind != value.KindText && t.Kind != value.KindSeveral {
		return nil
	}
	return t.field
}
