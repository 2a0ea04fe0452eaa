package predicate

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/model"
	"plainpath/core/value"
)

// OperatorWords are how operators read between a field and a value.
var OperatorWords = map[Operator]string{Is: "is", IsNot: "is not", Contains: "contains", StartsWith: "starts with",
	More: "is more than", MoreOrEqual: "is at least", Less: "is less than", LessOrEqual: "is at most",
	Between: "is between", OneOf: "is one of", Includes: "includes", IncludesNot: "does not include",
	IsEmpty: "is empty", IsNotEmpty: "is not empty", WithinLastDays: "is within the last … days",
	WithinNextDays: "is within the next … days"}

// Fields are asked otherwise when they hold days and times, or several choices.
var (
	DatedWords = map[Operator]string{More: "is after", MoreOrEqual: "is on or after", Less: "is before",
		LessOrEqual: "is on or before"}
	SeveralWords = map[Operator]string{OneOf: "includes one of"}
)

func operatorWord(op Operator, k value.Kind) string {
	switch {
	case (k == value.KindDate || k == value.KindInstant) && DatedWords[op] != "":
		return DatedWords[op]
	case k == value.KindSeveral && SeveralWords[op] != "":
		return SeveralWords[op]
	}
	return OperatorWords[op]
}

// Words says in words what a predicate asks of records.
func Words(p Predicate) string {
	switch x := p.(type) {
	case nil:
		return "always"
	case All:
		return group(x, " and ", "always")
	case Any:
		return group(x, " or ", "never")
	case Not:
		return "not: " + Words(x.Of)
	case Test:
		return x.words()
	case Same:
		if x.Value == nil {
			return Label(x.Path) + " is empty"
		}
		return Label(x.Path) + " is " + shown(x.Path.Last(), x.Value)
	case InCurrency:
		return Label(x.Path) + " is in " + x.Currency
	case HasRelated:
		has := "has " + model.WithArticle(x.Label)
		if x.None {
			has = "has no " + strings.ToLower(x.Label)
		}
		has += " (by " + x.Via.Label + ")"
		if all, ok := x.Where.(All); !ok || len(all) > 0 {
			has += " where " + Words(x.Where)
		}
		return has
	case Refers:
		return x.Via.Label + " is one where " + group(slices.DeleteFunc([]Predicate{x.Where, x.Filter},
			func(p Predicate) bool { return p == nil || Always(p) }), " and ", "anything holds")
	case Formula:
		return x.Program.Source
	case Keys:
		return fmt.Sprintf("is one of %d records", len(x))
	}
	return fmt.Sprintf("%T", p)
}

func group(members []Predicate, between, none string) string {
	if len(members) == 0 {
		return none
	}
	parts := make([]string, len(members))
	for i, m := range members {
		parts[i] = Words(m)
		if inner, ok := m.(Any); ok && len(inner) > 1 && between == " and " {
			parts[i] = "(" + parts[i] + ")"
		}
	}
	return strings.Join(parts, between)
}

func (t Test) words() string {
	f := t.Path.Last()
	name := Label(t.Path)
	switch t.Op {
	case IsEmpty:
		return name + " is empty"
	case IsNotEmpty:
		return name + " is not empty"
	case Between:
		return name + " is between " + shown(f, t.Value) + " and " + shown(f, t.To)
	}
	op := operatorWord(t.Op, f.Kind())
	if t.Op == OneOf {
		values := make([]string, len(t.Values))
		for i, v := range t.Values {
			values[i] = shown(f, v)
		}
		return name + " " + op + " " + strings.Join(values, ", ")
	}
	return name + " " + op + " " + shown(f, t.Value)
}

// Label names a path: its fields from the record on.
func Label(p model.Path) string {
	labels := make([]string, len(p.Fields))
	for i, f := range p.Fields {
		labels[i] = f.Label
	}
	return strings.Join(labels, " › ")
}

func shown(f *model.Field, v value.Value) string {
	switch x := v.(type) {
	case Deferred:
		return x.Program.Source
	case *value.Record:
		if x.Label == "" {
			return fmt.Sprintf("the %s with the key %d", strings.ReplaceAll(x.Object, "_", " "), x.ID)
		}
		return x.Label
	case value.Text:
		if !f.Type.Chosen() {
			return "“" + string(x) + "”"
		}
	}
	return f.Shown(v)
}
