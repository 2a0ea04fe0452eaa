package expr

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"plainpath/core/value"
)

// Template is a text with values in braces: "Visit on {visit.day}". Two opening
// braces stand for one.
type Template struct {
	Uses  [][]string
	parts []templatePart
}

type templatePart struct {
	text string
	p    *Program
}

// CompileTemplate checks a text with values. The error is an *Error whose offset
// counts from the start of the text.
func CompileTemplate(s Scope, text string) (*Template, error) {
	t := &Template{}
	rest := text
	for rest != "" {
		open := strings.IndexByte(rest, '{')
		if open < 0 {
			t.parts = append(t.parts, templatePart{text: rest})
			break
		}
		if open > 0 {
			t.parts = append(t.parts, templatePart{text: rest[:open]})
		}
		rest = rest[open+1:]
		if strings.HasPrefix(rest, "{") {
			t.parts = append(t.parts, templatePart{text: "{"})
			rest = rest[1:]
			continue
		}
		at := utf8.RuneCountInString(text) - utf8.RuneCountInString(rest)
		inside, after, ok := strings.Cut(rest, "}")
		if !ok {
			return nil, &Error{Offset: at - 1, Text: "this brace is never closed; write two of them for a brace in the text"}
		}
		p, err := Compile(s, inside)
		if err != nil {
			if e, ok := err.(*Error); ok {
				e.Offset += at
			}
			return nil, err
		}
		if p.Type.Kind == value.KindList || p.Type.Kind == value.KindScreen {
			return nil, &Error{Offset: at, Expected: value.KindText,
				Text: fmt.Sprintf("%s cannot stand in a text; take one field of one record, or size(…) for how many", Describe(s.Model, p.Type))}
		}
		t.parts = append(t.parts, templatePart{p: p})
		t.Uses = append(t.Uses, p.Uses...)
		rest = after
	}
	return t, nil
}

// Render writes the text. Empty values leave nothing behind.
func (t *Template) Render(values Values) (string, error) {
	var b strings.Builder
	for _, part := range t.parts {
		if part.p == nil {
			b.WriteString(part.text)
			continue
		}
		v, err := part.p.Eval(values)
		if err != nil {
			return "", err
		}
		b.WriteString(value.Display(v))
	}
	return b.String(), nil
}
