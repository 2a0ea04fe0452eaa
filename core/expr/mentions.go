package expr

import (
	"cmp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"cel.dev/cel-go/common/ast"

	"plainpath/core/model"
)

// mention is a place in an expression where something is called by its key: a field, or what a path of
// known values leads to, which is something else in another scope; or a value of a choice of those.
type mention struct {
	start, end int
	path       []string
	of         model.Referent
	choice     string
}

// Mentions are what the expression calls by keys, as it stands at a pointer, in the scope it was checked in.
func (p *Program) Mentions(s Scope, pointer string) []model.Mention {
	return resolved(s, p.mentions, pointer)
}

// Mentions are what the values in the text call by keys, as it stands at a pointer.
func (t *Template) Mentions(s Scope, pointer string) []model.Mention {
	return resolved(s, t.mentions, pointer)
}

func resolved(s Scope, mentions []mention, pointer string) []model.Mention {
	var out []model.Mention
	for _, m := range mentions {
		of := m.of
		if len(m.path) > 0 {
			n, ok := s.named(m.path)
			if !ok {
				continue
			}
			for _, part := range n.parts {
				part.Pointer, part.Start, part.End = pointer, m.start+part.Start, m.start+part.End
				out = append(out, part)
			}
			of = n.Of
			if m.choice != "" && of.At != "" {
				of.At += choiceAt(n.Type.field, m.choice)
			}
		}
		if m.choice != "" && of.Object != "" {
			of.Choice = m.choice
		}
		if of != (model.Referent{}) {
			out = append(out, model.Mention{Pointer: pointer, Start: m.start, End: m.end, Of: of})
		}
	}
	return out
}

// named is the name that a path of known values leads to: one that is known, or what a screen gave.
func (s Scope) named(path []string) (Name, bool) {
	n, ok := s.Find(path[0])
	for _, part := range path[1:] {
		i := slices.IndexFunc(n.Type.Answers, func(n Name) bool { return n.Key == part })
		if i < 0 {
			return Name{}, false
		}
		n = n.Type.Answers[i]
	}
	return n, ok
}

// mentions finds what a checked expression calls by keys, each once, in order.
func mentions(s Scope, source string, a *ast.AST, choices []mention) []mention {
	f := &finder{scope: s, source: []rune(source), text: source, ast: a, found: slices.Clone(choices)}
	f.visit(a.Expr(), nil)
	slices.SortFunc(f.found, func(a, b mention) int { return cmp.Or(a.start-b.start, a.end-b.end) })
	return slices.CompactFunc(f.found, func(a, b mention) bool { return a.start == b.start && a.end == b.end })
}

type finder struct {
	scope  Scope
	source []rune
	text   string
	ast    *ast.AST
	found  []mention
}

// visit goes through an expression; variables are those of the macros around it.
func (f *finder) visit(e ast.Expr, variables []string) {
	switch e.Kind() {
	case ast.IdentKind:
		if _, known := f.scope.Find(e.AsIdent()); known && !slices.Contains(variables, e.AsIdent()) {
			f.note(e, e.AsIdent(), mention{path: []string{e.AsIdent()}})
		}
	case ast.SelectKind:
		f.visit(e.AsSelect().Operand(), variables)
		of, key := f.ast.GetType(e.AsSelect().Operand().ID()), e.AsSelect().FieldName()
		if object := objectOf(of); object != "" {
			f.note(e, key, mention{of: model.Referent{Object: object, Field: key}})
		} else if screen := screenOf(of); screen != "" {
			f.note(e, key, mention{path: []string{screen, key}})
		}
	case ast.CallKind:
		for _, arg := range arguments(e) {
			f.visit(arg, variables)
		}
	case ast.ListKind:
		for _, element := range e.AsList().Elements() {
			f.visit(element, variables)
		}
	case ast.ComprehensionKind:
		c := e.AsComprehension()
		f.visit(c.IterRange(), variables)
		inner := append(slices.Clone(variables), c.IterVar(), c.AccuVar())
		for _, part := range []ast.Expr{c.AccuInit(), c.LoopCondition(), c.LoopStep(), c.Result()} {
			f.visit(part, inner)
		}
	}
}

// note takes down a key; a field that is taken stands behind its dot.
func (f *finder) note(e ast.Expr, key string, m mention) {
	at := f.ast.SourceInfo().GetStartLocation(e.ID())
	m.start = offset(f.text, at.Line(), at.Column())
	for m.start < len(f.source) && (f.source[m.start] == '.' || unicode.IsSpace(f.source[m.start])) {
		m.start++
	}
	m.end = m.start + utf8.RuneCountInString(key)
	if m.end <= len(f.source) && string(f.source[m.start:m.end]) == key { // else a macro made it up
		f.found = append(f.found, m)
	}
}

// chosen takes down a text that is a value of a choice.
func (c *choiceChecker) chosen(f *model.Field, text ast.Expr, key string) {
	m := mention{choice: key}
	if object := c.scope.Model.Owner(f); object != "" {
		m.of = model.Referent{Object: object, Field: f.Key}
	} else {
		m.path = c.scope.pathOf(f)
	}
	at := c.ast.SourceInfo().GetStartLocation(text.ID())
	from := offset(c.source, at.Line(), at.Column())
	runes := []rune(c.source)
	if from >= len(runes) || m.path == nil && m.of.Object == "" {
		return
	}
	// a literal begins with what says how it is written, and its quotes, one or three
	quotes := strings.TrimLeft(string(runes[from:]), "rRbB")
	inside := strings.TrimLeft(quotes, `"'`)
	m.start = len(runes) - utf8.RuneCountInString(inside)
	m.end = m.start + utf8.RuneCountInString(key)
	if strings.HasPrefix(inside, key) {
		c.mentions = append(c.mentions, m)
	}
}

// pathOf leads to the known value that is of a field, nil where there is none.
func (s Scope) pathOf(f *model.Field) []string {
	for _, n := range s.Names {
		if n.Type.field == f {
			return []string{n.Key}
		}
		for _, a := range n.Type.Answers {
			if a.Type.field == f {
				return []string{n.Key, a.Key}
			}
		}
	}
	return nil
}

// choiceAt is where a value stands among the choices of an input.
func choiceAt(f *model.Field, key string) string {
	if f == nil {
		return ""
	}
	return model.ChoicePointer(slices.IndexFunc(f.Choices, func(c model.ChoiceValue) bool { return c.Key == key }))
}
