package screen

import (
	"encoding/json"
	"maps"
	"slices"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/value"
)

// required is a scope in which a lift needs its serial and a building.
func required() expr.Scope {
	s := scope()
	lift := s.Model.Object("lift")
	lift.Fields[0].Required, lift.Fields[1].Required = true, true
	return s
}

func formOf(f Form) Part { return Part{Key: "p", Kind: FormPart, Label: "P", Form: &f} }

func TestWhatIsWrongWithAForm(t *testing.T) {
	serial := FormField{Field: "serial"}
	in := []act.Assignment{{Field: "building", Value: predicate.Operand{Expression: "house"}}}
	for _, c := range []struct {
		name                string
		form                Form
		pointer, says, mend string
	}{
		{"sound, to change", Form{Source: "house", Fields: []FormField{{Field: "name"}, {Field: "floors"}}, Columns: 4},
			"", "", ""},
		{"sound, to add", Form{Object: "lift", Fields: []FormField{serial}, Values: in}, "", "", ""},
		{"about nothing", Form{Fields: []FormField{serial}}, "/form/object", "object", ""},
		{"about a list", Form{Source: "lifts", Fields: []FormField{serial}}, "/form/source", "wanted", ""},
		{"no field", Form{Source: "house"}, "/form/fields", "the form has no fields", ""},
		{"an unknown field", Form{Source: "house", Fields: []FormField{{Field: "nmae"}}}, "/form/fields/0/field",
			"did you mean", "name"},
		{"a field twice", Form{Source: "house", Fields: []FormField{{Field: "name"}, {Field: "name"}}},
			"/form/fields/1/field", "stands in the form twice", ""},
		{"five columns", Form{Source: "house", Fields: []FormField{{Field: "name"}}, Columns: 5}, "/form/columns",
			"from 1 to 4", ""},
		{"what is required is not asked for", Form{Object: "lift", Fields: []FormField{serial}}, "/form/fields",
			"Lift needs Building, which is not asked for", `{"field":"building"}`},
		{"what is required is only shown",
			Form{Object: "lift", Values: in, Fields: []FormField{{Field: "serial", ReadOnly: true}}}, "/form/fields",
			"Lift needs Serial", ""},
		{"values for a record that there is", Form{Source: "house", Fields: []FormField{{Field: "name"}}, Values: in},
			"/form/values", "only a new record begins with values", ""},
		{"a value of another kind", Form{Object: "lift", Fields: []FormField{serial, {Field: "building"}},
			Values: []act.Assignment{{Field: "serial", Value: predicate.Operand{Expression: "house"}}}},
			"/form/values/0/value/expression", "wanted", ""},
	} {
		_, findings := compile(required(), one(formOf(c.form)), "")
		if c.says == "" {
			if len(findings) > 0 {
				t.Errorf("%s: %+v", c.name, findings)
			}
			continue
		}
		if len(findings) != 1 || !strings.HasSuffix(findings[0].Pointer, c.pointer) ||
			!strings.Contains(findings[0].Text, c.says) {
			t.Errorf("%s: %+v", c.name, findings)
			continue
		}
		m := findings[0].Mend
		if c.mend != "" && (m == nil || !strings.Contains(string(m.Patch[0].Value), c.mend)) {
			t.Errorf("%s is mended with %+v", c.name, m)
		}
	}
}

// A form is about the record that there is just now, or about none; a new record begins with what the builder says.
func TestWhatAFormIsAbout(t *testing.T) {
	bands := []Band{{Columns: []Column{{Parts: []Part{
		formOf(Form{Source: "house", Fields: []FormField{{Field: "name"}, {Field: "floors", ReadOnly: true}}}),
		{Key: "new", Kind: FormPart, Form: &Form{Object: "lift", Fields: []FormField{{Field: "serial"}},
			Values: []act.Assignment{{Field: "building", Value: predicate.Operand{Expression: "house"}}}}}}}}}}
	s, findings := compile(required(), bands, "")
	if len(findings) > 0 {
		t.Fatal(findings)
	}
	house := &value.Record{Object: "building", ID: 2, Label: "Pier Hall"}
	for _, c := range []struct {
		house *value.Record
		none  bool
	}{{house, false}, {nil, true}} {
		values := expr.Values{"house": c.house}
		shown, err := s.Show(t.Context(), memory.New(t, scope().Model), values, nil)
		if err != nil {
			t.Fatal(err)
		}
		parts := shown[0].Columns[0].Parts
		if f := parts[0].Form; f.None != c.none || len(f.Fields) != 2 || f.Object != "building" || f.Columns != 1 ||
			!f.Fields[1].ReadOnly || f.Currency != "EUR" {
			t.Errorf("shown: %+v", f)
		}
		if f := parts[1].Form; f.None || f.Record != 0 || !f.Fields[0].Required ||
			f.Fields[0].Heading.Type != model.Text {
			t.Errorf("shown: %+v", f)
		}
		open, err := s.Form(values, "p")
		if c.none {
			if err == nil {
				t.Error("a form that is about nothing is open")
			}
			continue
		}
		if err != nil || open.Record != 2 || !open.Edits("name") || open.Edits("floors") || !open.Shows("floors") ||
			open.Shows("serial") {
			t.Errorf("%v: %+v", err, open)
		}
		fresh, err := s.Form(values, "new")
		if err != nil || fresh.Record != 0 {
			t.Fatal(err)
		}
		begins, problems, err := fresh.Begins()
		if err != nil || len(problems) > 0 || begins["building"] != value.Value(house) || len(begins) != 1 {
			t.Errorf("%v: it begins with %v", err, begins)
		}
	}
	fresh, err := s.Form(expr.Values{"house": house}, "new")
	if err != nil {
		t.Fatal(err)
	}
	for given, want := range map[string]string{"serial": "building serial", "building": "!cannot be changed"} {
		in, err := fresh.Saving(records.Saving{Values: map[string]json.RawMessage{given: json.RawMessage(`"x"`)}})
		got := strings.Join(slices.Sorted(maps.Keys(in.Values)), " ")
		if says, fails := strings.CutPrefix(want, "!"); fails && (err == nil || !strings.Contains(err.Error(), says)) ||
			!fails && (err != nil || got != want) {
			t.Errorf("%s is saved as %q, %v", given, got, err)
		}
	}
	view := records.FormView{Values: map[string]any{"serial": nil, "building": nil}, Fixed: []string{"building"}}
	if err := fresh.Narrow(&view); err != nil || len(view.Values) != 1 || len(view.Fixed) != 0 {
		t.Errorf("%v: %+v", err, view)
	}
	if _, err := s.Form(expr.Values{}, "nowhere"); err == nil {
		t.Error("a form that there is not is open")
	}
}
