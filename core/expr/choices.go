package expr

import (
	"fmt"
	"slices"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"

	"plainpath/core/model"
)

// comparedChoices are the texts that choices are compared with. One that is none of the choice's values
// is an *Error: such a comparison would never hold.
func comparedChoices(s Scope, source string, a *ast.AST) ([]mention, error) {
	c := &choiceChecker{scope: s, source: source, ast: a}
	ast.PreOrderVisit(a.Expr(), ast.NewExprVisitor(c.visit))
	if c.found == nil {
		return c.mentions, nil
	}
	return nil, c.found
}

// CompileFor is CompileAs for a value of a field, or one that a field is compared with. A
// text that the expression may give, by itself or one way of a condition, must be among the
// values of a choice.
func CompileFor(s Scope, source string, want Type, f *model.Field) (*Program, error) {
	return offering(source, func(source string) (*Program, error) { return compileFor(s, source, want, f) })
}

func compileFor(s Scope, source string, want Type, f *model.Field) (*Program, error) {
	p, err := compileAs(s, source, want)
	if err != nil || !f.Type.Chosen() {
		return p, err
	}
	c := &choiceChecker{scope: s, source: source, ast: p.checked.NativeRep()}
	c.given(f, c.ast.Expr())
	if c.found != nil {
		return nil, c.found
	}
	if len(c.mentions) == 0 {
		return p, nil
	}
	out := *p // which is kept for other fields as well
	out.mentions = slices.Concat(p.mentions, c.mentions)
	return &out, nil
}

func (c *choiceChecker) given(f *model.Field, e ast.Expr) {
	if key, ok := literalText(e); ok && !c.formerly(f, e, key) {
		c.among(f, e, key)
		if f.HasChoice(key) {
			c.chosen(f, e, key)
		}
	}
	of := instead(e)
	if e.Kind() == ast.ListKind {
		of = e.AsList().Elements()
	}
	for _, o := range of {
		c.given(f, o)
	}
}

type choiceChecker struct {
	scope  Scope
	source string
	ast    *ast.AST
	found  *Error
	// mentions are the texts that are values of choices.
	mentions []mention
}

func (c *choiceChecker) visit(e ast.Expr) {
	if e.Kind() != ast.CallKind || c.found != nil {
		return
	}
	args := e.AsCall().Args()
	switch f := e.AsCall().FunctionName(); {
	case f == operators.Equals || f == operators.NotEquals:
		c.compare(args[0], args[1])
		c.compare(args[1], args[0])
	case f == operators.In:
		c.compare(args[1], args[0])
		if args[1].Kind() == ast.ListKind {
			for _, text := range args[1].AsList().Elements() {
				c.compare(args[0], text)
			}
		}
	case len(instead(e)) > 0: // a text in the place of a choice may be any but a key it had
		for _, text := range instead(e) {
			if key, ok := literalText(text); ok && c.choiceOf(e) != nil {
				c.formerly(c.choiceOf(e), text, key)
				if c.choiceOf(e).HasChoice(key) {
					c.chosen(c.choiceOf(e), text, key)
				}
			}
		}
	}
}

// instead are what a function gives one of: either(a, b) and c ? a : b.
func instead(e ast.Expr) []ast.Expr {
	if e.Kind() != ast.CallKind {
		return nil
	}
	switch e.AsCall().FunctionName() {
	case "either":
		return e.AsCall().Args()
	case "needed":
		return e.AsCall().Args()[:1]
	case operators.Conditional:
		return e.AsCall().Args()[1:]
	}
	return nil
}

func literalText(e ast.Expr) (string, bool) {
	if e.Kind() != ast.LiteralKind {
		return "", false
	}
	key, ok := e.AsLiteral().Value().(string)
	return key, ok
}

// compare looks at a text that something is compared with.
func (c *choiceChecker) compare(of, text ast.Expr) {
	key, ok := literalText(text)
	f := c.choiceOf(of)
	if !ok || f == nil || c.found != nil {
		return
	}
	if f.HasChoice(key) {
		c.chosen(f, text, key)
		return
	}
	if c.formerly(f, text, key) {
		return
	}
	for _, o := range instead(of) { // it may be the text that stands in the place of the choice
		if other, ok := literalText(o); ok && other == key {
			return
		}
	}
	c.among(f, text, key)
}

// among finds a text that is no key of the choice.
func (c *choiceChecker) among(f *model.Field, text ast.Expr, key string) {
	keys := make([]string, len(f.Choices))
	for i, v := range f.Choices {
		keys[i] = v.Key
	}
	if c.found == nil && !f.HasChoice(key) {
		c.find(f, text, key, model.Nearest(key, keys))
	}
}

// formerly finds a text that is a key which a value of the choice had before.
func (c *choiceChecker) formerly(f *model.Field, text ast.Expr, key string) bool {
	if c.found != nil || f.HasChoice(key) {
		return false
	}
	for _, v := range f.Choices {
		if slices.Contains(v.Was, key) {
			c.find(f, text, key, v.Key)
			return true
		}
	}
	return false
}

func (c *choiceChecker) find(f *model.Field, text ast.Expr, key, nearest string) {
	at := c.ast.SourceInfo().GetStartLocation(text.ID())
	c.found = &Error{Offset: offset(c.source, at.Line(), at.Column()), Text: fmt.Sprintf("%s is never %q", f.Label,
		key), Name: key, Nearest: nearest}
	if nearest != "" {
		c.found.Text += fmt.Sprintf("; did you mean %q?", nearest)
	}
}

// choiceOf is the choice that an expression names or gives, nil when it gives something
// else.
func (c *choiceChecker) choiceOf(e ast.Expr) *model.Field {
	for _, o := range instead(e) {
		if f := c.choiceOf(o); f != nil {
			return f
		}
	}
	if f := named(c.scope, c.ast, e); f != nil && f.Type.Chosen() {
		return f
	}
	return nil
}

// fieldOf is the field whose values an expression gives, nil when it gives others.
func fieldOf(s Scope, a *ast.AST, e ast.Expr) *model.Field {
	for _, o := range instead(e) {
		if f := fieldOf(s, a, o); f != nil {
			return f
		}
	}
	return named(s, a, e)
}

// named is the field that an expression names, nil when it names none.
func named(s Scope, a *ast.AST, e ast.Expr) *model.Field {
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
	if t.field == nil || t.field.Kind() != t.Kind {
		return nil
	}
	return t.field
}
