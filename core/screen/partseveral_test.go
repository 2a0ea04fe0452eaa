package screen

import (
	"encoding/json"
	"fmt"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// An input of several records makes a list of those given, each once and in their order, and says what is wrong.
func TestSeveralRecordsAreGiven(t *testing.T) {
	h := memory.New(t, memory.Houses())
	for n, name := range []string{"Mill", "Pier", "Quay"} {
		h.Put("building", int64(n+1), name, map[string]value.Value{"name": value.Text(name)})
	}
	for _, c := range []struct {
		in          Input
		given, want string
	}{
		{Input{Required: true}, `[{"id":3},{"id":1},{"id":3}]`, "[Quay Mill]"},
		{Input{}, `[]`, "[]"},
		{Input{}, `null`, "[]"},
		{Input{}, ``, "[]"},
		{Input{Required: true}, `[]`, "P is required"},
		{Input{Least: new(int64(2))}, `[]`, "P is required"},
		{Input{Least: new(int64(2))}, `[{"id":1}]`, "P: at least 2 are wanted, and 1 are given"},
		{Input{Most: new(int64(1))}, `[{"id":1},{"id":2}]`, "P: at most 1 can be given, and 2 are"},
		{Input{}, `[{"id":1},{"id":9}]`, "the building chosen as P cannot be found; choose another"},
		{Input{}, `{"id":1}`, "P takes a list of records"},
		{Input{}, `[null]`, "P takes a list of records"},
		{Input{}, `["Mill"]`, "P takes a list of records"},
	} {
		c.in.Type, c.in.Object, c.in.Several = model.Reference, "building", true
		s, findings := compile(scope(), one(inputOf(c.in)), "")
		if len(findings) > 0 {
			t.Fatal(findings)
		}
		answers := Answers{}
		if c.given != "" {
			answers["p"] = json.RawMessage(c.given)
		}
		given, problems, err := s.Accept(t.Context(), h, expr.Values{}, answers,
			func(string) []model.Path { return nil })
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		if len(problems) > 0 {
			got = problems[0].Text
		} else {
			found, err := given.Get("p").(*value.List).Source.All()
			if err != nil {
				t.Fatal(err)
			}
			labels := []string{}
			for _, r := range found {
				labels = append(labels, r.Label)
			}
			got = fmt.Sprint(labels)
		}
		if got != c.want {
			t.Errorf("%s: %q, want %q", c.given, got, c.want)
		}
	}
}

func TestWhatCannotBeSeveral(t *testing.T) {
	known := predicate.Operand{Expression: "lifts"}
	for _, c := range []struct {
		in      Input
		pointer string
		mended  bool
	}{
		{Input{Type: model.Text, Several: true}, "/input/several", true},
		{Input{Type: model.File, Several: true, Default: &predicate.Operand{Literal: json.RawMessage(`1`)}},
			"/input/default", true},
		{Input{Type: model.Reference, Object: "lift", Several: true, Least: new(int64(3)), Most: new(int64(2))},
			"/input/least", false},
		{Input{Type: model.Reference, Object: "lift", Several: true, Most: new(int64(-3))}, "/input/least", false},
		{Input{Type: model.Reference, Object: "lift", Several: true, Least: new(int64(201))}, "/input/least", false},
		{Input{Type: model.Reference, Object: "building", Several: true, Default: &known},
			"/input/default/expression", false},
		{Input{Type: model.Reference, Object: "lift", Several: true, Default: &known}, "", false},
	} {
		_, findings := compile(scope(), one(inputOf(c.in)), "")
		if c.pointer == "" {
			if len(findings) > 0 {
				t.Errorf("%+v", findings)
			}
			continue
		}
		if len(findings) != 1 || findings[0].Pointer != "/bands/0/columns/0/parts/0"+c.pointer ||
			findings[0].Severity != definition.Stop || (findings[0].Mend != nil) != c.mended {
			t.Errorf("%+v: %+v", c.in, findings)
		}
	}
}
