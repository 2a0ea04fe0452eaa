package access

import (
	"reflect"
	"strings"
	"testing"

	"plainpath/core/predicate/judge"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

func house() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "customer", Label: "Customer", Plural: "Customers", LabelField: "name",
			Fields: []model.Field{{Key: "name", Label: "Name", Type: model.Text}}},
		&model.Object{Key: "building", Label: "Building", Plural: "Buildings", LabelField: "name",
			Fields: []model.Field{
				{Key: "name", Label: "Name", Type: model.Text},
				{Key: "customer", Label: "Customer", Type: model.Reference,
					Object: "customer"}}})
}

func own(empty predicate.EmptyMeans) *predicate.Condition {
	return &predicate.Condition{Field: "customer", Op: predicate.Is,
		Value: &predicate.Operand{Expression: "person.organisation"}, Empty: empty}
}

func person(organisation int64, roles ...string) Person {
	p := Person{ID: 1, Name: "Orla", Roles: roles}
	if organisation != 0 {
		p.Organisation = &value.Record{Object: "customer", ID: organisation}
	}
	return p
}

// sees says which of two buildings, of customers 5 and 6, a grant shows.
func sees(t *testing.T, g Grant) string {
	t.Helper()
	out := ""
	for _, customer := range []int64{5, 6} {
		rec := &value.Record{Object: "building",
			Fields: map[string]value.Value{"customer": &value.Record{Object: "customer", ID: customer}}}
		ok, err := judge.Holds(g.Rows(), nil, rec)
		if err != nil {
			t.Fatal(err)
		}
		if ok {
			out += string(rune('0' + customer))
		}
	}
	return out
}

func TestRightsAddUp(t *testing.T) {
	policy, problems := Compile(house(), "customer", []Role{
		{Key: "owner", Objects: map[string]Right{"building": {See: true, Rows: own(predicate.EmptyNothing)}}},
		{Key: "sixth", Objects: map[string]Right{"building": {See: true, Rows: &predicate.Condition{Field: "customer",
			Op: predicate.Is, Value: &predicate.Operand{Literal: []byte(`{"id":6}`)}}}}},
		{Key: "staff", Objects: map[string]Right{"building": {See: true, Change: true}}},
		{Key: "adder", Objects: map[string]Right{"building": {Add: true}}},
	})
	if len(problems.Findings()) != 0 {
		t.Fatal(problems.Findings())
	}
	for _, c := range []struct {
		person      Person
		want        string
		add, change bool
	}{
		{person(5, "owner"), "5", false, false},
		{person(0, "owner"), "", false, false}, // no organisation, no building
		{person(5, "owner", "sixth"), "56", false, false},
		{person(5, "owner", "staff"), "56", false, true},
		{person(5, "owner", "adder"), "5", true, false},
		{person(5, "adder"), "", true, false}, // adding does not show
		{person(5), "", false, false},
		{person(5, "nobody"), "", false, false},
	} {
		g, err := policy.Grant(house(), c.person, "building", expr.Values{"person": c.person.Value()})
		if err != nil || sees(t, g) != c.want || g.May(Adding) != c.add || g.May(Changing) != c.change {
			t.Errorf("%v sees %q, add %t, change %t, %v; want %+v", c.person.Roles, sees(t, g), g.May(Adding),
				g.May(Changing), err, c)
		}
	}
	if got := sees(t, Grant{}); got != "" {
		t.Errorf("the zero grant shows %q", got)
	}
}

// A rule with a problem lets nothing through until it is mended.
func TestABrokenRuleShowsNothing(t *testing.T) {
	for name, c := range map[string]struct {
		rule *predicate.Condition
		says string
	}{
		"unknown field": {&predicate.Condition{Field: "owner", Op: predicate.Is,
			Value: &predicate.Operand{Literal: []byte("1")}}, "no field"},
		"skipped when empty": {own(predicate.EmptySkip), "may not skip"},
		"skipped deeper down": {&predicate.Condition{Any: []predicate.Condition{*own(predicate.EmptySkip)}},
			"may not skip"},
		"not true or false": {&predicate.Condition{Expression: "record.name"}, "yes or no is wanted"},
		"has no SQL": {&predicate.Condition{Expression: `date(record.name) > today`},
			"cannot be carried out"},
		"another organisation": {&predicate.Condition{Field: "customer", Op: predicate.Is,
			Value: &predicate.Operand{Expression: "person.record"}}, "is wanted"},
	} {
		policy, check := Compile(house(), "customer",
			[]Role{{Key: "r", Objects: map[string]Right{"building": {See: true, Rows: c.rule}}}})
		if found := check.Findings(); len(found) == 0 || !strings.Contains(found[0].Text, c.says) {
			t.Errorf("%s: %v", name, found)
		}
		p := person(5, "r")
		if g, err := policy.Grant(house(), p, "building", expr.Values{"person": p.Value()}); err != nil ||
			sees(t, g) != "" {
			t.Errorf("%s shows %q, %v", name, sees(t, g), err)
		}
	}
}

// People are seen by whom a role lets see them; where no role says so, those from outside see
// whom they know of.
func TestWhichPeopleAreSeen(t *testing.T) {
	named := model.New("EUR",
		&model.Object{Key: "customer", Label: "Customer", LabelField: "name",
			Fields: []model.Field{{Key: "name", Label: "Name", Type: model.Text}}},
		&model.Object{Key: "building", Label: "Building", LabelField: "name", Fields: []model.Field{
			{Key: "name", Label: "Name", Type: model.Text}, {Key: "customer", Label: "Customer", Type: model.Reference,
				Object: "customer"}, {Key: "keeper", Label: "Keeper", Type: model.Person}}})
	seen := Right{See: true, Rows: own(predicate.EmptyNothing)}
	hidden := seen
	hidden.Fields = map[string]FieldRight{"keeper": {Hidden: true}}
	only := &predicate.Condition{Field: "email", Op: predicate.Is,
		Value: &predicate.Operand{Literal: []byte(`"desk@quillmere.example"`)}}
	policy, check := Compile(named, "customer", []Role{
		{Key: "owner", Objects: map[string]Right{"building": seen}},
		{Key: "blind", Objects: map[string]Right{"building": hidden}},
		{Key: "desk", Objects: map[string]Right{"person": {See: true, Rows: only,
			Fields: map[string]FieldRight{"email": {Hidden: true}}}}},
		{Key: "adder", Objects: map[string]Right{"person": {See: true, Add: true}}},
	})
	if found := check.Findings(); len(found) != 1 || found[0].Document != "role/adder" ||
		!strings.Contains(found[0].Text, "as accounts") {
		t.Error(found)
	}
	outside := person(5, "owner")
	outside.Colleagues = []int64{1, 7}
	related := predicate.HasRelated{Object: "building", Label: "Building",
		Via: named.Object("building").Field("keeper"), Where: predicate.Any{mustBind(t, named, outside)}}
	for name, c := range map[string]struct {
		who   Person
		want  predicate.Predicate
		email bool
	}{
		"inside":                {person(0, "owner"), predicate.True, true},
		"inside, with no role":  {person(0), predicate.True, true},
		"outside":               {outside, predicate.Any{predicate.Any{predicate.Keys{1, 1, 7}, related}}, true},
		"the field hidden":      {person(5, "blind"), predicate.Any{predicate.Any{predicate.Keys{1}}}, true},
		"outside, with no role": {person(5), predicate.Any{predicate.Any{predicate.Keys{1}}}, true},
		"a rule":                {person(5, "desk"), nil, false},
		"a rule and no word":    {person(0, "desk", "owner"), predicate.True, true},
	} {
		g, err := policy.Grant(named, c.who, model.PersonObject, expr.Values{"person": c.who.Value()})
		if err != nil || c.want != nil && !reflect.DeepEqual(g.Rows(), c.want) || g.SeesField("email") != c.email {
			t.Errorf("%s: %#v %t %v, want %#v", name, g.Rows(), g.SeesField("email"), err, c.want)
		}
	}
	p := person(5, "adder")
	if g, err := policy.Grant(named, p, model.PersonObject, expr.Values{"person": p.Value()}); err != nil ||
		g.May(Adding) {
		t.Errorf("people are added: %v", err)
	}
}

// mustBind is the row rule of an owner's buildings.
func mustBind(t *testing.T, m *model.Model, who Person) predicate.Predicate {
	t.Helper()
	checked, wrong := predicate.Check(PersonScope(m, "customer"), "building", *own(predicate.EmptyNothing), "")
	if len(wrong) > 0 {
		t.Fatal(wrong)
	}
	p, err := checked.Bind(expr.Values{"person": who.Value()})
	if err != nil {
		t.Fatal(err)
	}
	return p
}
