package expr

import (
	"fmt"
	"net/url"
	"strings"
	"unicode/utf8"

	"plainpath/core/model"
	"plainpath/core/value"
)

// Template is a text with values in braces: "Visit on {visit.day}". Two opening
// braces stand for one.
type Template struct {
	Uses     [][]string
	mentions []mention
	parts    []templatePart
}

type templatePart struct {
	text string
	p    *Program
}

// CompileTemplate checks a text with values. The error is an *Error whose offset
// counts from the start of the text.
func CompileTemplate(s Scope, text string) (*Template, error) {
	return offering(text, func(text string) (*Template, error) { return compileTemplate(s, text) })
}

func compileTemplate(s Scope, text string) (*Template, error) {
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
			return nil, &Error{Offset: at - 1,
				Text: "this brace is never closed; write two of them for a brace in the text"}
		}
		p, err := compile(s, inside)
		if err != nil {
			if e, ok := err.(*Error); ok {
				e.Offset += at
			}
			return nil, err
		}
		if plural(p.Type.Kind) {
			return nil, &Error{Offset: at, Expected: value.KindText,
				Text: fmt.Sprintf("%s cannot stand in a text; take one field of one record, or size(…) for how many",
					Describe(s.Model, p.Type))}
		}
		t.parts = append(t.parts, templatePart{p: p})
		t.Uses = append(t.Uses, p.Uses...)
		for _, m := range p.mentions {
			m.start, m.end = m.start+at, m.end+at
			t.mentions = append(t.mentions, m)
		}
		rest = after
	}
	return t, nil
}

// Sentence is a text with its values, to be written in the language and zone of who reads it.
type Sentence []Piece

// Piece is a part of a sentence: a text, or a value with what it takes to write it as tables do.
type Piece struct {
	Text string `json:"text,omitempty"`
	// Given says that the text is a value, and not what somebody wrote around values.
	Given bool `json:"given,omitempty"`
	// Value is the value as it travels, of Type.
	Value   any                 `json:"value,omitempty"`
	Type    model.FieldType     `json:"type,omitempty"`
	Prefix  string              `json:"prefix,omitempty"`
	Choices []model.ChoiceValue `json:"choices,omitempty"`

	of value.Value
}

// Say makes a sentence of a text.
func Say(text string) Sentence { return Sentence{{Text: text}} }

// Render puts the values into the text. Empty values leave nothing behind.
func (t *Template) Render(values Values) (Sentence, error) {
	out := Sentence{}
	for _, part := range t.parts {
		if part.p == nil {
			out = append(out, Piece{Text: part.text})
			continue
		}
		v, err := part.p.Eval(values)
		if err != nil {
			return nil, err
		}
		if v != nil {
			out = append(out, part.p.piece(v))
		}
	}
	return out, nil
}

// Address renders an address on the web (RFC 3986). The value of a part is escaped, but for one that it begins with.
func (t *Template) Address(values Values) (string, error) {
	var b strings.Builder
	for i, part := range t.parts {
		if part.p == nil {
			b.WriteString(part.text)
			continue
		}
		v, err := part.p.Eval(values)
		if err != nil {
			return "", err
		}
		text := value.Display(v)
		if i > 0 {
			text = strings.ReplaceAll(url.QueryEscape(text), "+", "%20")
		}
		b.WriteString(text)
	}
	return b.String(), nil
}

// shownTypes are the types that values are written as where they are of no field.
var shownTypes = map[value.Kind]model.FieldType{value.KindWhole: model.Whole, value.KindDecimal: model.Decimal,
	value.KindMoney: model.Money,
	value.KindYesNo: model.YesNo, value.KindDate: model.Date, value.KindInstant: model.DateTime}

func (p *Program) piece(v value.Value) Piece {
	out := Piece{Type: shownTypes[v.Kind()], of: v}
	if _, ok := v.(value.Composite); ok { // whose types are called as their kinds
		out.Type = model.FieldType(v.Kind())
	}
	if f := p.Field; f != nil && f.Kind() == v.Kind() && (f.Type.Chosen() || f.Type == model.Number) {
		out.Type, out.Prefix, out.Choices = f.Type, f.Prefix, f.Choices
	}
	if out.Type == "" { // texts, records, and what could not be computed
		return Piece{Text: value.Display(v), Given: true}
	}
	out.Value = value.Wire(v)
	return out
}

// String is the sentence where nobody's language is known.
func (s Sentence) String() string {
	var b strings.Builder
	for _, p := range s {
		if p.Type == "" {
			b.WriteString(p.Text)
			continue
		}
		b.WriteString(p.Prefix + value.Display(p.of))
	}
	return b.String()
}
