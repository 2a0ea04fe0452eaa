package sqlgen

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

func lifts() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "building", Label: "Building", Plural: "Buildings", LabelField: "name",
			Fields: []model.Field{
				{Key: "name", Label: "Name", Type: model.Text}, {Key: "secret", Label: "Secret", Type: model.Text}}},
		&model.Object{Key: "lift", Label: "Lift", Plural: "Lifts", LabelField: "serial", Fields: []model.Field{
			{Key: "serial", Label: "Serial", Type: model.Text},
			{Key: "building", Label: "Building", Type: model.Reference, Object: "building"},
			{Key: "price", Label: "Price", Type: model.Money}, {Key: "kind", Label: "Kind", Type: model.Choice,
				Choices: []model.ChoiceValue{{Key: "goods", Label: "Goods"}}}}})
}

// space grants what a role of the given rights may do.
func space(t testing.TB, m *model.Model, rights map[string]access.Right) Space {
	t.Helper()
	policy, problems := access.Compile(m, "", []access.Role{{Key: "role", Label: "Role", Objects: rights}})
	if len(problems.Findings()) > 0 {
		t.Fatal(problems.Findings())
	}
	return Space{Model: m, Schema: "sp", Grant: func(object string) (access.Grant, error) {
		return policy.Grant(m, access.Person{Name: "Dana", Roles: []string{"role"}}, object, expr.Values{})
	}}
}

func path(t testing.TB, m *model.Model, object, text string) model.Path {
	t.Helper()
	p, err := m.Path(object, text)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

var everything = map[string]access.Right{"lift": {See: true}, "building": {See: true}}

func TestWithoutARightNothingCompiles(t *testing.T) {
	m := lifts()
	s := space(t, m, map[string]access.Right{"building": {See: true}})
	var denied *access.DeniedError
	if _, err := Select(s, query.Query{Object: "lift"}); !errors.As(err, &denied) {
		t.Errorf("%v", err)
	}
	if _, err := Count(s, query.Query{Object: "lift"}); !errors.As(err, &denied) {
		t.Errorf("%v", err)
	}
	if _, err := Profile(s, m.Object("lift"), &m.Object("lift").Fields[0]); !errors.As(err, &denied) {
		t.Errorf("%v", err)
	}
	if _, err := Select(s, query.Query{Object: "nothing"}); err == nil || !strings.Contains(err.Error(), "no object") {
		t.Errorf("%v", err)
	}
}

// What cannot be seen is not read at all: hidden fields, and all of a record that a row
// rule keeps away.
func TestHiddenFieldsAreNotRead(t *testing.T) {
	m := lifts()
	hidden := map[string]access.Right{"lift": {See: true,
		Fields: map[string]access.FieldRight{"price": {Hidden: true}}},
		"building": {See: true, Fields: map[string]access.FieldRight{"name": {Hidden: true}, "secret": {Hidden: true}}}}
	s := space(t, m, hidden)
	q := query.Query{Object: "lift", Columns: []model.Path{path(t, m, "lift", "price"), path(t, m, "lift", "building"),
		path(t, m, "lift", "building.secret")},
		Filter: predicate.Test{Path: path(t, m, "lift", "price"), Op: predicate.IsNotEmpty},
		Order:  []query.Order{{Path: path(t, m, "lift", "building.name")}}}
	sel, err := Select(s, q)
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range []string{`"price"`, `"name"`, `"secret"`} {
		if strings.Contains(sel.SQL, name) {
			t.Errorf("%s is read: %s", name, sel.SQL)
		}
	}
	// The builder's own conditions may look at them.
	q.Filter, q.Where = nil, q.Filter
	if sel, err = Select(s, q); err != nil || !strings.Contains(sel.SQL, `"price" IS NOT NULL`) {
		t.Errorf("%s, %v", sel.SQL, err)
	}
	// A reference whose field is hidden leads nowhere.
	s = space(t, m, map[string]access.Right{"lift": {See: true,
		Fields: map[string]access.FieldRight{"building": {Hidden: true}}}, "building": {See: true}})
	sel, err = Select(s, query.Query{Object: "lift", Columns: []model.Path{path(t, m, "lift", "building.name")}})
	if err != nil || !strings.Contains(sel.SQL, `AND FALSE`) {
		t.Errorf("%s, %v", sel.SQL, err)
	}
}

// A field that one of two roles may see is seen.
func TestRightsOnFieldsAddUp(t *testing.T) {
	m := lifts()
	policy, _ := access.Compile(m, "", []access.Role{
		{Key: "a", Objects: map[string]access.Right{"lift": {See: true, Change: true,
			Fields: map[string]access.FieldRight{"price": {Hidden: true}, "kind": {Fixed: true}}}}},
		{Key: "b", Objects: map[string]access.Right{"lift": {See: true,
			Fields: map[string]access.FieldRight{"kind": {Hidden: true}}}}}})
	for roles, want := range map[string]string{"a": "price:false/false kind:true/false",
		"b": "price:true/false kind:false/false", "a,b": "price:true/false kind:true/false"} {
		g, err := policy.Grant(m, access.Person{Roles: strings.Split(roles, ",")}, "lift", expr.Values{})
		if err != nil {
			t.Fatal(err)
		}
		got := fmt.Sprintf("price:%t/%t kind:%t/%t", g.SeesField("price"), g.Sets(access.Changing, "price"),
			g.SeesField("kind"), g.Sets(access.Changing, "kind"))
		if got != want {
			t.Errorf("%s: %s, want %s", roles, got, want)
		}
	}
}

func TestCursorsThatCannotBeRead(t *testing.T) {
	m := lifts()
	for _, text := range []string{"!", "e30", "W10", "bnVsbA"} {
		if _, err := query.ParseCursor(text); err == nil || !strings.Contains(err.Error(), "first page") {
			t.Errorf("%q: %v", text, err)
		}
	}
	c, err := query.ParseCursor("WzFd") // [1]: too short for an order by two things
	if err != nil {
		t.Fatal(err)
	}
	q := query.Query{Object: "lift", Order: []query.Order{{Path: path(t, m, "lift", "serial")}}, After: c}
	if _, err := Select(space(t, m, everything), q); err == nil {
		t.Error("a cursor of another order was taken")
	}
}

func TestRowsThatAreNotWhatWasAskedFor(t *testing.T) {
	m := lifts()
	sel, err := Select(space(t, m, everything),
		query.Query{Object: "lift", Columns: []model.Path{path(t, m, "lift", "price")}})
	if err != nil {
		t.Fatal(err)
	}
	for name, row := range map[string][]any{"too short": {int64(1)}, "another type": {int64(1), "QL-1", 3.5, "EUR"},
		"no currency": {int64(1), "QL-1", "3.5", nil}} {
		if _, _, err := sel.Decode(row); err == nil {
			t.Errorf("%s: taken", name)
		}
	}
	rec, _, err := sel.Decode([]any{int64(7), "QL-1", "3.50", "EUR"})
	if err != nil || rec.ID != 7 || rec.Label != "QL-1" || value.Display(rec.Get("price")) != "3.50 EUR" {
		t.Errorf("%+v, %v", rec, err)
	}
	if got := Label(&model.Field{Label: "Name", Type: model.Text}, nil); got != "(no name)" {
		t.Error(got)
	}
}

// Nothing that comes from outside stands in the text of a statement.
func FuzzNoInputReachesSQL(f *testing.F) {
	for _, s := range []string{"mill", `'; DROP TABLE x; --`, `"`, `\`, "%_", "$1", "\x00"} {
		f.Add(s)
	}
	m := lifts()
	f.Fuzz(func(t *testing.T, text string) {
		marked := "zq" + text + "qz"
		v := value.Text(marked)
		serial := path(t, m, "lift", "serial")
		across := path(t, m, "lift", "building.name")
		where := predicate.Any{
			predicate.Test{Path: serial, Op: predicate.Is, Value: v},
			predicate.Test{Path: across, Op: predicate.Contains, Value: v},
			predicate.Test{Path: serial, Op: predicate.StartsWith, Value: v},
			predicate.Test{Path: serial, Op: predicate.OneOf, Values: []value.Value{v, v}},
			predicate.Test{Path: serial, Op: predicate.Between, Value: v, To: v}}
		q := query.Query{Object: "lift", Where: where, Filter: where, Order: []query.Order{{Path: across}},
			Edited: &query.Edited{Object: "lift", Values: map[string]value.Value{"serial": v}}}
		sel, err := Select(space(t, m, everything), q)
		if err != nil {
			t.Fatal(err)
		}
		if strings.Contains(sel.SQL, "zq") {
			t.Errorf("%q stands in %s", marked, sel.SQL)
		}
		if !strings.Contains(fmt.Sprint(sel.Args...), "zq") {
			t.Errorf("%q is no argument of %s", marked, sel.SQL)
		}
	})
}

// Names come from the model and are quoted, whatever is in them.
func TestNamesAreQuoted(t *testing.T) {
	if got := Quote(`a"b`); got != `"a""b"` {
		t.Error(got)
	}
	s := Space{Schema: `x"; DROP`}
	if got := s.Table("lift"); got != `"x""; DROP"."lift"` {
		t.Error(got)
	}
	if got := s.Table(model.PersonObject); got != "plainpath.person" {
		t.Error(got)
	}
}

// How many records have a text somewhere depends on the text, so a search for it in
// several places is planned with it; one in a single place need not be.
func TestASearchForWordsIsPlannedWithThem(t *testing.T) {
	m := lifts()
	s := space(t, m, everything)
	has := func(field string) predicate.Predicate {
		return predicate.Test{Path: path(t, m, "lift", field), Op: predicate.Contains, Value: value.Text("x")}
	}
	for _, c := range []struct {
		where   predicate.Predicate
		planned bool
	}{{predicate.Any{has("serial"), has("building.name")}, true},
		{predicate.All{predicate.Any{has("building.name"), has("serial")}}, true}, {has("serial"), false},
		{has("building.name"), false}} {
		q := query.Query{Object: "lift", Filter: c.where}
		sel, err := Select(s, q)
		if err != nil {
			t.Fatal(err)
		}
		count, err := Count(s, q)
		if err != nil || sel.PlanWithValues != c.planned || count.PlanWithValues != c.planned {
			t.Errorf("%s, %v", sel.SQL, err)
		}
		if c.planned != strings.Contains(sel.SQL, "= ANY(ARRAY(SELECT") {
			t.Errorf("%s", sel.SQL)
		}
	}
}
