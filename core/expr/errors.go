package expr

import (
	"errors"
	"fmt"
	"regexp"
	"strings"
	"unicode/utf8"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/ast"

	"plainpath/core/model"
)

var (
	undeclared = regexp.MustCompile(`undeclared reference to '([^']+)'`)
	noField    = regexp.MustCompile(`undefined field '([^']+)'`)
	typeName   = regexp.MustCompile(`type\((list|map|int|uint|double|bool|string|bytes|null_type|type)\b`)
	noOverload = regexp.MustCompile(`found no matching overload for '([^']+)' applied to '\(([^']*)\)'`)
)

// elsewhere are our functions by the names that spreadsheets and databases give them.
var elsewhere = map[string]string{
	"avg": "average", "mean": "average", "min": "least", "minimum": "least", "max": "greatest", "maximum": "greatest",
	"total": "sum", "count": "size", "len": "size", "length": "size", "int": "whole", "trunc": "whole",
	"ceil": "ceiling", "abs": "absolute", "mod": "remainder", "percentage": "percent",
	"substring": "part", "substr": "part", "mid": "part", "split": "piece", "split_part": "piece",
	"substitute": "replace", "title": "capitalized", "initcap": "capitalized", "proper": "capitalized",
	"lpad": "padLeft", "rpad": "padRight",
	"datediff": "daysBetween", "days": "daysBetween", "dateadd": "addDays", "age": "yearsBetween",
	"dayname": "weekdayName", "limit": "take", "concatenate": "join",
	"coalesce": "either", "ifnull": "either", "isblank": "empty", "isempty": "empty", "isnull": "empty",
	"concat": "text", "string": "text",
}

func syntaxError(source string, issues *cel.Issues) error {
	first := issues.Errors()[0]
	return &Error{Offset: offset(source, first.Location.Line(), first.Location.Column()),
		Text: "this cannot be read as an expression: " + firstLine(first.Message)}
}

// checkError says in our words what CEL found, and names what was probably meant.
func checkError(s Scope, source string, parsed *ast.AST, issues *cel.Issues) error {
	first := issues.Errors()[0]
	e := &Error{Offset: offset(source, first.Location.Line(), first.Location.Column()), Text: firstLine(first.Message)}
	if name := ofType(parsed, first.Message); name != nil { // CEL's own types have names, which nobody means
		at := parsed.SourceInfo().GetStartLocation(name.ID())
		e.Offset, e.Name, e.Nearest = offset(source, at.Line(), at.Column()), name.AsIdent(),
			model.Nearest(name.AsIdent(), keys(s.Names))
		e.Text = fmt.Sprintf("nothing is known here by the name %q", name.AsIdent())
	} else if m := undeclared.FindStringSubmatch(first.Message); m != nil {
		e.Name, e.Nearest = m[1], elsewhere[strings.ToLower(m[1])]
		// a call is where its bracket opens
		if runes := []rune(source); strings.HasSuffix(string(runes[:min(e.Offset, len(runes))]), e.Name) {
			e.Offset -= utf8.RuneCountInString(e.Name)
		}
		if e.Nearest == "" {
			e.Nearest = model.Nearest(m[1], append(keys(s.Names), FunctionNames...))
		}
		e.Text = fmt.Sprintf("nothing is known here by the name %q", m[1])
	} else if m := noField.FindStringSubmatch(first.Message); m != nil {
		e.Name, e.Nearest = m[1], model.Nearest(m[1], fieldsNear(s, parsed, m[1]))
		e.Text = fmt.Sprintf("there is no field %q here", m[1])
	} else if m := noOverload.FindStringSubmatch(first.Message); m != nil {
		e.Text = fmt.Sprintf("%s cannot be used with %s", strings.Trim(m[1], "_@"), plainTypes(m[2]))
	}
	if e.Nearest != "" {
		e.Text += fmt.Sprintf("; did you mean %q?", e.Nearest)
	}
	return e
}

// ofType finds the name of a type of CEL's where a value should be, nil when none is to blame.
func ofType(parsed *ast.AST, message string) ast.Expr {
	var found ast.Expr
	if m := typeName.FindStringSubmatch(message); m != nil {
		ast.PreOrderVisit(parsed.Expr(), ast.NewExprVisitor(func(e ast.Expr) {
			if e.Kind() == ast.IdentKind && e.AsIdent() == m[1] {
				found = e
			}
		}))
	}
	return found
}

// Problem is a checking error as something wrong at a JSON Pointer: with the place in
// the source and, for an unknown name, the source mended.
func Problem(err error, pointer, source string) model.Problem {
	p := model.Problem{Pointer: pointer, Text: err.Error()}
	var e *Error
	var unknown *model.UnknownNameError
	switch {
	case source == "":
	case errors.As(err, &e):
		p.Position, p.Instead = &model.Position{Source: source, Offset: e.Offset}, e.Instead
	case errors.As(err, &unknown):
		p.Position, p.Instead = &model.Position{Source: source, Offset: unknown.Offset}, unknown.Instead
	}
	return p
}

func plainTypes(list string) string {
	list = strings.NewReplacer("string", "text", "int", "a whole number", "bool", "yes/no", "double", "a decimal",
		"google.protobuf.Timestamp", "a date and time", "timestamp", "a date and time", recordPrefix,
		"a record of ").Replace(list)
	return strings.ReplaceAll(list, ", ", " and ")
}

func firstLine(s string) string {
	s, _, _ = strings.Cut(s, "\n")
	return s
}

func offset(source string, line, column int) int {
	for i := 1; i < line; i++ {
		_, rest, ok := strings.Cut(source, "\n")
		if !ok {
			break
		}
		column += utf8.RuneCountInString(source) - utf8.RuneCountInString(rest)
		source = rest
	}
	return max(column, 0)
}

func keys(names []Name) []string {
	out := make([]string, len(names))
	for i, n := range names {
		out[i] = n.Key
	}
	return out
}

// fieldsNear lists the fields that could have been meant where an unknown one was
// selected: those of every object a known value leads to.
func fieldsNear(s Scope, parsed *ast.AST, field string) []string {
	var out []string
	lookedAt(parsed, field, func(path []string) {
		if t, ok := s.TypeAt(path); ok {
			out = append(out, keys(t.fields(s.Model))...)
		}
	})
	return out
}

// TypeAt is the type a path of names leads to.
func (s Scope) TypeAt(path []string) (Type, bool) {
	n, ok := s.Find(path[0])
	if !ok {
		return Type{}, false
	}
	t := n.Type
	for _, part := range path[1:] {
		found := false
		for _, f := range t.fields(s.Model) {
			if f.Key == part {
				t, found = f.Type, true
			}
		}
		if !found {
			return Type{}, false
		}
	}
	return t, true
}

// fields are the names that can follow a value of the type.
func (t Type) fields(m *model.Model) []Name {
	if t.Object != "" {
		return OfRecord(m, t.Object).Names
	}
	return t.Answers
}
