package predicate_test

import (
	"testing"
	"time"

	"plainpath/core/expr"
	. "plainpath/core/predicate"
	"plainpath/core/predicate/judge"
	"plainpath/core/value"
)

// lifts are those of two buildings.
type lifts map[int64][]*value.Record

func (l lifts) Related(_, _ string, id int64) ([]*value.Record, error) { return l[id], nil }

func TestWhatAnEmptyValueDoes(t *testing.T) {
	building := &value.Record{Object: "building", ID: 1,
		Fields: map[string]value.Value{"name": value.Text("Mill House"), "floors": value.Whole(4),
			"built": value.Date{Year: 2026, Month: time.March, Day: 1}, "use": value.Text("shop")}}
	values := expr.Values{"n": value.Whole(4), "today": value.Date{Year: 2026, Month: time.March, Day: 3},
		"now": value.NewInstant(time.Date(2026, 3, 3, 9, 0, 0, 0, time.UTC))}
	word := Condition{Field: "name", Op: Contains, Value: Named("word")}
	skipped := word
	skipped.Empty = EmptySkip
	no := Condition{Field: "floors", Op: Is, Value: Typed("9")}
	for _, c := range []struct {
		name string
		c    Condition
		want bool
	}{
		{"nothing asked", Condition{}, true},
		{"an empty value finds nothing", word, false},
		{"or is skipped", skipped, true},
		{"skipped among all", Condition{All: []Condition{skipped, {Field: "floors", Op: Is, Value: Named("n")}}}, true},
		{"skipped among any", Condition{Any: []Condition{skipped, no}}, false},
		{"all of any skipped", Condition{Any: []Condition{skipped, skipped}}, true},
		{"a bracket of nothing but skipped ones, among any",
			Condition{Any: []Condition{{All: []Condition{skipped, skipped}}, no}}, false},
		{"an empty bracket among any",
			Condition{Any: []Condition{{All: []Condition{}}, {Any: []Condition{skipped}}, no}}, false},
		{"a bracket of nothing but skipped ones, among all",
			Condition{All: []Condition{{Any: []Condition{skipped}}, no}}, false},
		{"is not holds for an empty field",
			Condition{Field: "value", Op: IsNot, Value: Typed(`{"amount":"5","currency":"EUR"}`)}, true},
		{"less does not", Condition{Field: "value", Op: Less, Value: Typed(`{"amount":"5","currency":"EUR"}`)}, false},
		{"empty", Condition{Field: "listed", Op: IsEmpty}, true},
		{"not empty", Condition{Field: "floors", Op: IsNotEmpty}, true},
		{"a retired choice can be asked for", Condition{Field: "use", Op: Is, Value: Typed(`"shop"`)}, true},
		{"within the last days", Condition{Field: "built", Op: WithinLastDays, Value: Typed("2")}, true},
		{"not within fewer", Condition{Field: "built", Op: WithinLastDays, Value: Typed("1")}, false},
		{"within the next", Condition{Field: "built", Op: WithinNextDays, Value: Typed("5")}, false},
		{"between, ends included", Condition{Field: "floors", Op: Between, Value: Typed("4"), To: Typed("4")}, true},
		{"one of", Condition{Field: "floors", Op: OneOf, Values: []Operand{*Typed("1"), *Named("n")}}, true},
		{"starts with, whatever the case", Condition{Field: "name", Op: StartsWith, Value: Typed(`"MILL"`)}, true},
		{"has a lift", Condition{Related: &Related{Object: "lift", Field: "building",
			Where: Condition{Field: "serial", Op: Is, Value: Typed(`"QL-1"`)}}}, true},
		{"has no other", Condition{Related: &Related{Object: "lift", Field: "building", None: true,
			Where: Condition{Field: "serial", Op: Is, Value: Typed(`"QL-2"`)}}}, true},
		{"an expression", Condition{Expression: `record.floors == n && empty(word)`}, true},
	} {
		checked, problems := Check(Scope(), "building", c.c, "")
		if len(problems) > 0 {
			t.Errorf("%s: %v", c.name, problems)
			continue
		}
		p, err := checked.Bind(values)
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		got, err := judge.Holds(p,
			lifts{1: {{Object: "lift", ID: 5, Fields: map[string]value.Value{"serial": value.Text("QL-1")}}}}, building)
		if err != nil || got != c.want {
			t.Errorf("%s: %t, %v", c.name, got, err)
		}
	}
}
