package model

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"plainpath/core/value"
)

// Problem is something wrong in a definition, at a JSON Pointer into it.
type Problem struct {
	Pointer string `json:"pointer"`
	Text    string `json:"text"`
	// Instead is the value that would mend it, when one is near at hand.
	Instead string `json:"instead,omitempty"`
	// Position is where inside an expression or text, when it is known.
	Position *Position `json:"position,omitempty"`
}

// Position is a place inside an expression or a text with values.
type Position struct {
	Source string `json:"source"`
	// Offset counts characters from the start of the source.
	Offset int `json:"offset"`
}

// KeyPattern is what every key looks like: it is a name in expressions and in
// the database alike.
var KeyPattern = regexp.MustCompile(`^[a-z][a-z0-9_]{0,47}$`)

// Reserved are the columns every record has; no field may take their names.
var Reserved = []string{"id", "revision", "created_at", "created_by", "changed_at", "changed_by"}

// HistoryTable is where a space keeps what changed; no object has this key.
const HistoryTable = "history"

// words that CEL keeps for itself.
var celWords = []string{"as", "break", "const", "continue", "else", "false", "for", "function", "if", "import",
	"in", "let", "loop", "namespace", "null", "package", "return", "true", "var", "void", "while"}

// KeyProblem says what is wrong with a key, "" when nothing is.
func KeyProblem(key string) string {
	switch {
	case !KeyPattern.MatchString(key):
		return fmt.Sprintf("%q cannot be a key: use small letters, digits and underscores, beginning with a letter, at most 48", key)
	case slices.Contains(celWords, key):
		return fmt.Sprintf("%q is a word of the expression language and cannot be a key", key)
	}
	return ""
}

// composite are the types whose values are made of several things, in words.
var composite = map[FieldType]string{Choices: "several choices", Address: "an address", Picture: "a picture",
	File: "a file"}

// mostFields bounds the fields of an object: each is a column or two of a table, which PostgreSQL
// lets have 1,600.
const mostFields = 500

// Check finds what is wrong with an object among the objects of the model.
// Expressions of worked-out fields are checked by package expr.
func (m *Model) Check(o *Object) []Problem {
	var out []Problem
	bad := func(pointer, format string, a ...any) {
		out = append(out, Problem{Pointer: pointer, Text: fmt.Sprintf(format, a...)})
	}
	if len(o.Fields) > mostFields {
		bad("/fields", "%s has %d fields, and an object can have %d; put some into an object of their own", o.Label,
			len(o.Fields), mostFields)
	}
	if p := KeyProblem(o.Key); p != "" {
		bad("/key", "%s", p)
	}
	if o.Key == HistoryTable {
		bad("/key", "%q is where the program keeps what changed; choose another key", o.Key)
	}
	if o.BuiltIn() {
		bad("/key", "%q is an object of the program's own; choose another key", o.Key)
	}
	if o.Label == "" {
		bad("/label", "the object needs a name")
	}
	seen := map[string]bool{}
	for i := range o.Fields {
		f := &o.Fields[i]
		at := fmt.Sprintf("/fields/%d", i)
		if p := KeyProblem(f.Key); p != "" {
			bad(at+"/key", "%s", p)
		}
		if of, ok := strings.CutSuffix(f.Key, "_currency"); ok {
			if amount := o.Field(of); amount != nil && amount.Kind() == value.KindMoney {
				bad(at+"/key", "the currency of %s is kept under %q; choose another key", amount.Label, f.Key)
			}
		}
		if slices.Contains(Reserved, f.Key) {
			bad(at+"/key", "%q is a column every record has; choose another key", f.Key)
		}
		if seen[f.Key] {
			bad(at+"/key", "%s has two fields with the key %q", o.Label, f.Key)
		}
		seen[f.Key] = true
		if f.Label == "" {
			bad(at+"/label", "the field needs a name")
		}
		m.checkType(f, at, bad)
		checkDefault(f, at, bad)
	}
	switch f := o.Field(o.LabelField); {
	case f == nil:
		bad("/label_field", "%q is not a field of %s; choose the field that stands for a record", o.LabelField, o.Label)
	case composite[f.Type] != "":
		bad("/label_field", "%s holds %s and cannot stand for a record; work out a text instead", f.Label,
			composite[f.Type])
	case f.Target() != "":
		bad("/label_field", "%s is a reference and cannot stand for a record", f.Label)
	}
	return out
}

// bounded says whether values of the field, or their length, can have limits.
func (f *Field) bounded() bool {
	switch f.Kind() {
	case value.KindText:
		return f.Stored() && f.Type != Choice
	case value.KindWhole, value.KindDecimal, value.KindMoney:
		return f.Stored()
	}
	return false
}

func checkDefault(f *Field, at string, bad func(string, string, ...any)) {
	if len(f.Default) == 0 || !f.Stored() {
		return
	}
	v, err := value.Parse(f.Kind(), f.Default)
	if err == nil && v != nil {
		err = f.CheckValue(v)
	}
	if err != nil {
		bad(at+"/default", "the default: %s", err)
	}
}

func (m *Model) checkType(f *Field, at string, bad func(string, string, ...any)) {
	switch {
	case !slices.Contains(FieldTypes, f.Type):
		bad(at+"/type", "%q is not a field type", f.Type)
	case f.Type == Reference && m.Object(f.Object) == nil:
		bad(at+"/object", "there is no object %q for %s to point at", f.Object, f.Label)
	case f.Type.Chosen() && len(f.Choices) == 0:
		bad(at+"/choices", "%s offers nothing to choose", f.Label)
	case f.Type == WorkedOut && f.Expression == "":
		bad(at+"/expression", "%s is worked out but does not say how", f.Label)
	case len(f.Default) > 0 && f.DefaultExpression != "":
		bad(at+"/default_expression", "%s has two defaults; keep one", f.Label)
	case (f.Least != nil || f.Most != nil) && !f.bounded():
		bad(at+"/most", "%s is %s, which has no limits", f.Label, WithArticle(Words(f.Type)))
	case f.Least != nil && f.Most != nil && *f.Least > *f.Most:
		bad(at+"/least", "%s would have to be at least %d and at most %d", f.Label, *f.Least, *f.Most)
	case f.Unique && composite[f.Type] != "":
		bad(at+"/unique", "%s holds %s, which cannot be unique", f.Label, composite[f.Type])
	case f.Type == WorkedOut && (!slices.Contains(FieldTypes, f.Result) || f.Result == WorkedOut ||
		f.Result == Reference || f.Result == Person || composite[f.Result] != ""):
		bad(at+"/result", "%s does not say what type its value has", f.Label)
	}
	seen := map[string]bool{}
	for j, c := range f.Choices {
		if c.Key == "" || seen[c.Key] {
			bad(fmt.Sprintf("%s/choices/%d/key", at, j), "%s has the value %q twice or empty", f.Label, c.Key)
		}
		if c.Colour != "" && !slices.Contains(ChoiceColours, c.Colour) {
			bad(fmt.Sprintf("%s/choices/%d/colour", at, j), "there is no colour %q for choices", c.Colour)
		}
		seen[c.Key] = true
	}
}
