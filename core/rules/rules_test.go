package rules

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"
	"time"

	"plainpath/core/definition"
	"plainpath/core/predicate/judge"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// fleet is engineers with certificates, and calls that one of them is sent to.
func fleet(change func(call *model.Object)) *model.Model {
	call := &model.Object{Key: "call", Label: "Call", Plural: "Calls", LabelField: "problem", Fields: []model.Field{
		{Key: "problem", Label: "Problem", Type: model.Text, Required: true},
		{Key: "depot", Label: "Depot", Type: model.Text},
		{Key: "opened", Label: "Opened", Type: model.Date, Required: true},
		{Key: "due", Label: "Due", Type: model.Date},
		{Key: "engineer", Label: "Engineer", Type: model.Reference, Object: "engineer"},
		{Key: "shown", Label: "Shown", Type: model.WorkedOut, Expression: `problem + "!"`, Result: model.Text},
	}}
	if change != nil {
		change(call)
	}
	return model.New("EUR", call,
		&model.Object{Key: "engineer", Label: "Engineer", Plural: "Engineers", LabelField: "name",
			Fields: []model.Field{
				{Key: "name", Label: "Name", Type: model.Text}, {Key: "depot", Label: "Depot", Type: model.Text},
				{Key: "active", Label: "Active", Type: model.YesNo}}},
		&model.Object{Key: "certificate", Label: "Certificate", Plural: "Certificates", LabelField: "kind",
			Fields: []model.Field{
				{Key: "engineer", Label: "Engineer", Type: model.Reference, Object: "engineer"},
				{Key: "kind", Label: "Kind", Type: model.Text}, {Key: "expires", Label: "Expires", Type: model.Date}}})
}

func literal(raw string) *model.Operand     { return &model.Operand{Literal: []byte(raw)} }
func computed(source string) *model.Operand { return &model.Operand{Expression: source} }

func TestWhatIsWrongWithRules(t *testing.T) {
	candidates := func(c model.Condition) func(*model.Object) {
		return func(o *model.Object) { o.Fields[4].Candidates = &c }
	}
	rule := func(expression, message string) func(*model.Object) {
		return func(o *model.Object) { o.Rules = []model.Rule{{Expression: expression, Message: message}} }
	}
	for _, c := range []struct {
		name          string
		change        func(*model.Object)
		pointer, says string
		care          bool
	}{
		{"a sound rule", rule("empty(due) || due >= opened", "due before opened"), "", "", false},
		{"today is known", rule("opened <= today", "opened in the future"), "", "", false},
		{"a field across a reference", rule(`engineer.depot == "x" || empty(engineer)`, "m"), "", "", false},
		{"no message", rule("opened <= today", ""), "/rules/0/message", "does not say what a person is told", false},
		{"an unknown name", rule("openend <= today", "m"), "/rules/0/expression", `did you mean "opened"?`, false},
		{"not yes or no", rule("problem", "m"), "/rules/0/expression", "yes or no is wanted", false},
		{"a person is not known", rule(`person.name == "x"`, "m"), "/rules/0/expression", "person", false},
		{"no SQL for it", rule(`decimal(problem) > 1.0`, "m"), "/rules/0/expression",
			"cannot be carried out in the database", false},
		{"nothing said of empty", rule("due >= opened", "m"), "/rules/0/expression", "due can be empty", true},
		{"either says it", rule("either(due, opened) >= opened", "m"), "", "", false},
		{"sound candidates", candidates(model.Condition{Field: "depot", Op: model.Is, Value: computed("edited.depot")}),
			"", "", false},
		{"an unknown field of the candidates",
			candidates(model.Condition{Field: "deopt", Op: model.Is, Value: literal(`"x"`)}),
			"/fields/4/candidates/field", `did you mean "depot"?`, false},
		{"an unknown field of the record edited",
			candidates(model.Condition{Field: "depot", Op: model.Is, Value: computed("edited.deopt")}),
			"/fields/4/candidates/value/expression", `did you mean "depot"?`, false},
		{"what is worked out later",
			candidates(model.Condition{Field: "depot", Op: model.Is, Value: computed("edited.shown")}),
			"/fields/4/candidates", "not known yet while it is being edited", false},
		{"days that depend on the record",
			candidates(model.Condition{Related: &model.Related{Object: "certificate", Field: "engineer",
				Where: model.Condition{Field: "expires", Op: model.WithinNextDays,
					Value: computed("size(edited.problem)")}}}), "/fields/4/candidates/related/where/value/expression",
			"number of days cannot depend", false},
		{"a comparison of another type",
			candidates(model.Condition{Field: "depot", Op: model.Is, Value: computed("edited.due")}),
			"/fields/4/candidates/value/expression", "text is wanted", false},
		{"candidates of what is no reference", func(o *model.Object) { o.Fields[1].Candidates = &model.Condition{} },
			"/fields/1/candidates", "is no reference", false},
		{"a sound default", func(o *model.Object) { o.Fields[2].DefaultExpression = "today" }, "", "", false},
		{"a default of another type", func(o *model.Object) { o.Fields[2].DefaultExpression = "now" },
			"/fields/2/default_expression", "a date is wanted", false},
		{"a default that looks at the record", func(o *model.Object) { o.Fields[2].DefaultExpression = "due" },
			"/fields/2/default_expression", `by the name "due"`, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, check := Compile(fleet(c.change), "")
			got := check.Findings()
			if c.says == "" {
				if len(got) != 0 {
					t.Errorf("%+v", got)
				}
				return
			}
			if len(got) != 1 || got[0].Document != "object/call" || got[0].Pointer != c.pointer ||
				!strings.Contains(got[0].Text, c.says) || (got[0].Severity == definition.Care) != c.care ||
				got[0].Consequence == "" {
				t.Errorf("%+v", got)
			}
		})
	}
}

// The finding about an empty value offers the rule that says what then.
func TestARuleIsMendedForEmpty(t *testing.T) {
	_, check := Compile(fleet(func(o *model.Object) {
		o.Rules = []model.Rule{{Expression: "due >= opened",
			Message: "m"}}
	}), "")
	var mended string
	if mend := check.Findings()[0].Mend; mend == nil || json.Unmarshal(mend.Patch[0].Value, &mended) != nil ||
		mended != "empty(due) || (due >= opened)" {
		t.Fatalf("%+v", mend)
	}
	book, check := Compile(fleet(func(o *model.Object) {
		o.Rules = []model.Rule{{Expression: mended,
			Message: "m"}}
	}), "")
	if len(check.Findings()) != 0 {
		t.Fatal(check.Findings())
	}
	day := func(n int) value.Value { return value.Date{Year: 2026, Month: time.March, Day: n} }
	for _, c := range []struct {
		due  value.Value
		want bool
	}{{nil, true}, {day(3), true}, {day(1), false}} {
		record := &value.Record{Object: "call", Fields: map[string]value.Value{"opened": day(2), "due": c.due}}
		if got, err := judge.Holds(book.Of("call").Rules[0].Predicate(nil), nil, record); err != nil || got != c.want {
			t.Errorf("due %v: %t, %v", c.due, got, err)
		}
	}
}

// Only what looks at a field that was written is asked again.
func TestWhatIsReviewedAfterAWrite(t *testing.T) {
	book, check := Compile(fleet(func(o *model.Object) {
		o.Rules = []model.Rule{{Expression: "empty(due) || due >= opened", Message: "due before opened"},
			{Expression: "size(problem) > 2", Message: "say more"}}
		o.Fields[4].Candidates = &model.Condition{All: []model.Condition{
			{Field: "active", Op: model.Is, Value: literal("true")},
			{Field: "depot", Op: model.Is, Value: computed("edited.depot"), Empty: model.EmptySkip}}}
	}), "")
	if len(check.Findings()) != 0 {
		t.Fatal(check.Findings())
	}
	values := expr.Values{"today": value.Date{Year: 2026, Month: 3, Day: 1}}
	for _, c := range []struct {
		changed []string
		want    string
	}{
		{nil, "due before opened|say more|Engineer is not among the records that can be chosen here"},
		{[]string{"due"}, "due before opened"},
		{[]string{"problem", "opened"}, "due before opened|say more"},
		{[]string{"engineer"}, "Engineer is not among the records that can be chosen here"},
		{[]string{"depot"}, "Engineer is not among the records that can be chosen here"},
		{[]string{"shown"}, ""},
	} {
		review, breaches, any, err := book.Of("call").Review("call", c.changed, values)
		var texts []string
		for _, b := range breaches {
			texts = append(texts, b.Text)
		}
		if err != nil || strings.Join(texts, "|") != c.want || any != (c.want != "") {
			t.Errorf("%v: %v, %t, %v", c.changed, texts, any, err)
		}
		if len(review.Holds)+len(review.Candidates) != len(breaches) {
			t.Errorf("%v: %d questions for %d answers", c.changed, len(review.Holds)+len(review.Candidates),
				len(breaches))
		}
	}
	if r := book.Of("nothing"); len(r.Rules) != 0 || r.Candidate("engineer") != nil {
		t.Error("an unknown object is under rules")
	}
}

// Without a record at hand, what depends on it is left for the database; with one it is
// a value like any other.
func TestCandidatesAreBoundLateOrAtOnce(t *testing.T) {
	m := fleet(func(o *model.Object) {
		o.Fields[4].Candidates = &model.Condition{Field: "depot", Op: model.Is, Value: computed("edited.depot")}
	})
	book, _ := Compile(m, "")
	c := book.Of("call").Candidate("engineer")
	if c == nil || !slices.Equal(c.Uses(), []string{"depot"}) {
		t.Fatalf("%+v", c)
	}
	late, err := c.Bind(expr.Values{})
	if err != nil {
		t.Fatal(err)
	}
	if _, deferred := late.(predicate.Test).Value.(predicate.Deferred); !deferred {
		t.Errorf("%+v", late)
	}
	at, err := c.Bind(expr.Values{predicate.EditedName: &value.Record{Object: "call",
		Fields: map[string]value.Value{"depot": value.Text("Varrow")}}})
	if err != nil {
		t.Fatal(err)
	}
	for depot, want := range map[string]bool{"Varrow": true, "Sandholt": false} {
		if got, err := judge.Holds(at, nil,
			&value.Record{Fields: map[string]value.Value{"depot": value.Text(depot)}}); err != nil || got != want {
			t.Errorf("an engineer of %s: %t, %v", depot, got, err)
		}
	}
	if _, check := CheckCandidates(m, "", m.Object("call"), &model.Field{Key: "engineer", Label: "Engineer",
		Type: model.Reference, Object: "engineer",
		Candidates: &model.Condition{Field: "depot", Op: model.More,
			Value: literal(`"x"`)}}); len(check.Findings()) != 1 ||
		!strings.Contains(check.Findings()[0].Text, "cannot be asked of Depot") {
		t.Errorf("%+v", check.Findings())
	}
}
