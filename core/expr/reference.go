package expr

import (
	"slices"
	"strings"

	"cel.dev/cel-go/common/operators"
)

// Function is what a builder is told of something that expressions can call.
type Function struct {
	Name string `json:"name"`
	// Form is how it is called, About what it gives.
	Form  string `json:"form"`
	About string `json:"about"`
	// Only says where it cannot be used: what the database cannot compute has no place in
	// conditions, rules and worked-out fields. Empty when it can be used everywhere.
	Only string `json:"only,omitempty"`
}

const onScreens = "only on screens, on pages and in steps, for the database cannot compute it."

// told is what a function is called, and what builders are told of it. Operators have a name alone.
type told struct{ name, form, about, only string }

// tell says how a function is called, by which its name is known, what it gives, and where it cannot be used.
func tell(form, about string, only ...string) told {
	name, _, _ := strings.Cut(form, "(")
	return told{name[strings.LastIndexByte(name, '.')+1:], form, about, strings.Join(only, " ")}
}

// Reference is everything that an expression can call, in the order it is shown.
func Reference() []Function {
	out := slices.Clone(choosing)
	for i := range functions {
		if f := &functions[i]; f.form != "" {
			out = append(out, Function{Name: f.name, Form: f.form, About: f.about, Only: f.only})
		}
	}
	return append(out, goingThrough...)
}

// What is written like a function and is none: it decides what is looked at.
var (
	choosing = []Function{
		{Name: casesMacro, Form: `cases(x > 9, "many", x > 1, "some", "few")`,
			About: "The value behind the first condition that holds; the last is for when none does."},
	}
	goingThrough = []Function{
		{Name: operators.Filter, Form: "records.filter(x, x.price > y)",
			About: "The records for which something holds."},
		{Name: operators.Map, Form: "records.map(x, x.price)", About: "What is taken from each record."},
		{Name: operators.Exists, Form: "records.exists(x, x.open)",
			About: "Whether something holds for one record at least."},
		{Name: operators.All, Form: "records.all(x, x.open)", About: "Whether something holds for every record."},
		{Name: operators.ExistsOne, Form: "records.exists_one(x, x.open)",
			About: "Whether something holds for exactly one record.", Only: "For use " + onScreens},
	}
)
