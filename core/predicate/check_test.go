package predicate

import (
	"slices"
	"strings"
	"testing"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

func house() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "building", Label: "Building", Plural: "Buildings", LabelField: "name",
			Fields: []model.Field{
				{Key: "name", Label: "Name", Type: model.Text}, {Key: "floors", Label: "Floors", Type: model.Whole},
				{Key: "value", Label: "Value", Type: model.Money},
				{Key: "listed", Label: "Listed", Type: model.YesNo}, {Key: "built", Label: "Built", Type: model.Date},
				{Key: "seen", Label: "Seen", Type: model.DateTime},
				{Key: "use", Label: "Use", Type: model.Choice,
					Choices: []model.ChoiceValue{{Key: "home", Label: "Home"},
						{Key: "shop", Label: "Shop", Retired: true}}},
				{Key: "owner", Label: "Owner", Type: model.Person}}},
		&model.Object{Key: "lift", Label: "Lift", Plural: "Lifts", LabelField: "serial", Fields: []model.Field{
			{Key: "serial", Label: "Serial", Type: model.Text},
			{Key: "building", Label: "Building", Type: model.Reference, Object: "building"}}})
}

func scope() expr.Scope {
	return expr.Scope{Model: house(), Names: []expr.Name{
		{Key: "word", Label: "Word", Type: expr.Type{Kind: value.KindText, Empty: true}},
		{Key: "n", Label: "N", Type: expr.Type{Kind: value.KindWhole}},
		{Key: "some", Label: "Some", Type: expr.Type{Kind: value.KindList, Object: "building"}},
		{Key: "today", Label: "Today", Type: expr.Type{Kind: value.KindDate}}}}
}

func typed(raw string) *Operand  { return &Operand{Literal: []byte(raw)} }
func named(name string) *Operand { return &Operand{Expression: name} }

func TestWhatIsWrongWithAConditionIsSaidWhereItIs(t *testing.T) {
	for _, c := range []struct {
		name, object  string
		condition     Condition
		pointer, says string
	}{
		{"an unknown field", "lift", Condition{Field: "serail", Op: Is, Value: typed(`"x"`)}, "/w/field",
			`did you mean "serial"?`},
		{"an unknown field across a reference", "lift", Condition{Field: "building.nmae", Op: Is, Value: typed(`"x"`)},
			"/w/field", `did you mean "name"?`},
		{"through what is no reference", "lift", Condition{Field: "serial.name", Op: Is, Value: typed(`"x"`)},
			"/w/field", "not a reference"},
		{"an operator of another type", "building", Condition{Field: "floors", Op: Contains, Value: typed(`"x"`)},
			"/w/op", "cannot be asked of Floors"},
		{"order among yes and no", "building", Condition{Field: "listed", Op: More, Value: typed(`true`)}, "/w/op",
			"cannot be asked of Listed"},
		{"no value", "building", Condition{Field: "name", Op: Is}, "/w/value", "choose what Name is compared with"},
		{"half a span", "building", Condition{Field: "floors", Op: Between, Value: typed(`1`)}, "/w/to",
			"choose what Floors"},
		{"a meaning of empty there is not", "building", Condition{Field: "name", Op: Contains, Value: named("word"),
			Empty: "everything"}, "/w/empty", "say nothing or skip"},
		{"no values", "building", Condition{Field: "name", Op: OneOf}, "/w/values", "name the values"},
		{"one bad value of several", "building",
			Condition{Field: "floors", Op: OneOf, Values: []Operand{*typed(`1`), *typed(`"x"`)}}, "/w/values/1/literal",
			"not a whole number"},
		{"a value of another type", "building", Condition{Field: "built", Op: More, Value: typed(`"soon"`)},
			"/w/value/literal", "not a date"},
		{"a choice there is not", "building", Condition{Field: "use", Op: Is, Value: typed(`"barn"`)},
			"/w/value/literal", `has no value "barn"`},
		{"money without a currency", "building", Condition{Field: "value", Op: Is, Value: typed(`{"amount":"5"}`)},
			"/w/value/literal", "not a currency"},
		{"an unknown name", "building", Condition{Field: "name", Op: Is, Value: named("wrod")}, "/w/value/expression",
			`did you mean "word"?`},
		{"a name of another type", "building", Condition{Field: "floors", Op: Is, Value: named("word")},
			"/w/value/expression", "a whole number is wanted"},
		{"a list where one is wanted", "lift", Condition{Field: "building", Op: Is, Value: named("some")},
			"/w/value/expression", "one building is wanted"},
		{"days that are no number", "building", Condition{Field: "built", Op: WithinLastDays, Value: typed(`"x"`)},
			"/w/value/literal", "not a whole number"},
		{"an object there is not", "building", Condition{Related: &Related{Object: "boat", Field: "x"}},
			"/w/related/object", "no object"},
		{"a reference there is not", "building", Condition{Related: &Related{Object: "lift", Field: "house"}},
			"/w/related/field", "has no field"},
		{"a reference elsewhere", "lift", Condition{Related: &Related{Object: "lift", Field: "building"}},
			"/w/related/field", "no reference"},
		{"deep inside", "building",
			Condition{All: []Condition{{Any: []Condition{{},
				{Related: &Related{Object: "lift", Field: "building",
					Where: Condition{All: []Condition{{Field: "x", Op: Is}}}}}}}}},
			"/w/all/0/any/1/related/where/all/0/field", "has no field"},
		{"an expression that is no condition", "building", Condition{Expression: "record.floors"}, "/w/expression",
			"yes or no is wanted"},
		{"an expression that cannot be read", "building", Condition{Expression: "record.floors >"}, "/w/expression",
			"cannot be read as an expression"},
		{"an expression without SQL", "building", Condition{Expression: "some.exists(b, b.floors > 2)"},
			"/w/expression", "cannot go through that list"},
	} {
		_, problems := Check(scope(), c.object, c.condition, "/w")
		if len(problems) != 1 || problems[0].Pointer != c.pointer || !strings.Contains(problems[0].Text, c.says) {
			t.Errorf("%s: %+v", c.name, problems)
		}
	}
}

func TestLeavesOfACondition(t *testing.T) {
	c := Condition{All: []Condition{{Field: "a"},
		{Any: []Condition{{Expression: "b"}, {Related: &Related{Object: "c", Where: Condition{Field: "d"}}}}}, {}}}
	var got []string
	for _, l := range c.Leaves() {
		got = append(got, l.Pointer)
	}
	if strings.Join(got, " ") != "/all/0 /all/1/any/0 /all/1/any/1" {
		t.Error(got)
	}
	if l := (Condition{Field: "a"}).Leaves(); len(l) != 1 || l[0].Pointer != "" {
		t.Errorf("%+v", l)
	}
}

func TestOperatorsOfEveryType(t *testing.T) {
	for _, kind := range model.FieldTypes {
		ops := Operators(&model.Field{Type: kind, Result: model.Text})
		want := 4
		// there or not is all that can be asked
		if kind == model.Address || kind == model.Picture || kind == model.File {
			want = 2
		}
		if len(ops) < want || !slices.Contains(ops, IsEmpty) || !slices.Contains(ops, IsNotEmpty) {
			t.Errorf("%s: %v", kind, ops)
		}
	}
}
