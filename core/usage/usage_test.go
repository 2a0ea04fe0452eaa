package usage

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/edition"
)

func document(kind definition.Kind, key, body string) definition.Document {
	return definition.Document{Kind: kind, Key: key, Revision: 1, Body: json.RawMessage(body)}
}

// app uses the field "kind" of a lift in every way there is.
func app() []definition.Document {
	return []definition.Document{
		document(definition.App, "app", `{"key":"app","label":"App","currency":"EUR","zone":"UTC"}`),
		document(definition.Object, "building", `{"key":"building","label":"Building","plural":"Buildings","label_field":"kind","fields":[
			{"key":"kind","label":"Its own kind","type":"text"},
			{"key":"goods","label":"Goods lifts","type":"worked_out","result":"whole_number","expression":"size(all_lift.filter(kind, kind.kind == \"goods\"))"}]}`),
		document(definition.Object, "lift", `{"key":"lift","label":"Lift","plural":"Lifts","label_field":"kind",
			"rules":[{"expression":"kind != \"kind\" || kind == building.kind","message":"a kind is not kind"}],"fields":[
			{"key":"kind","label":"Kind","type":"text","required":true},
			{"key":"building","label":"Building","type":"reference","object":"building","candidates":{"field":"kind","op":"is","value":{"expression":"edited.kind"}}},
			{"key":"shown","label":"Shown","type":"worked_out","result":"text","expression":"kind + \" kind\""}]}`),
		document(definition.Object, "visit", `{"key":"visit","label":"Visit","plural":"Visits","label_field":"note","fields":[
			{"key":"note","label":"Note","type":"text"},{"key":"lift","label":"Lift","type":"reference","object":"lift"}]}`),
		document(definition.Role, "desk", `{"key":"desk","label":"Desk","objects":{"visit":{"add":true,"remove":true},"lift":{"see":true,"add":true,"change":true,"fields":{"kind":{"fixed":false}},
			"rows":{"any":[{"field":"building.kind","op":"is_empty"},{"field":"kind","op":"is","value":{"literal":"kind"}},{"expression":"record.kind == record.building.kind"}]}}}}`),
		document(definition.Walkthrough, "walk", `{"key":"walk","label":"Walk","roles":["desk"],"steps":[
			{"key":"lifts","kind":"search","search":{"object":"lift","where":{"all":[{"field":"kind","op":"is_not_empty"},{"field":"building.kind","op":"is_not_empty"}]},"order":[{"path":"kind"}]}},
			{"key":"kind","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
				{"key":"said","kind":"text","text":"{size(lifts)} lifts, the first a {first(lifts).kind} in {first(lifts).building.kind}; {{kind}"},
				{"key":"chosen","kind":"table","table":{"source":"lifts","select":"one","columns":[{"path":"kind"},{"path":"building.kind"}],"keyword":["kind"],
					"views":[{"label":"By kind","roles":["desk"],"body":{"look":{"columns":[{"path":"kind"},{"path":"building.kind"}],"filter":[{"field":"kind","op":"is","value":{"literal":"goods"}}],"order":[{"path":"kind"}],"group":{"path":"kind"},"totals":[{"path":"kind","of":"count"}]}}}]}}]}]}]}},
			{"key":"way","kind":"branch","branch":{"ways":[{"title":"Goods","when":"kind.chosen.kind == \"goods\"","steps":[]}],"otherwise":[]}},
			{"key":"added","kind":"add","add":{"object":"visit","values":[{"field":"note","value":{"expression":"kind.chosen.kind + kind.chosen.building.kind"}},{"field":"lift","value":{"expression":"kind.chosen"}}]}},
			{"key":"made","kind":"add","add":{"object":"lift","values":[{"field":"kind","value":{"literal":"kind"}}]}},
			{"key":"done","kind":"finish","finish":{"message":"{kind.chosen.kind} is done."}}]}`),
	}
}

func apply(t *testing.T, docs []definition.Document, changes []Change) []definition.Document {
	t.Helper()
	out := slices.Clone(docs)
	for _, c := range changes {
		for i, d := range out {
			if d.Name() != c.Document.Name() {
				continue
			}
			body, _, err := c.Patch.Apply(d.Body)
			if err != nil {
				t.Fatal(err)
			}
			out[i].Body = body
		}
	}
	return out
}

// Everything that means the field follows; whatever is only called the same stays.
func TestOnlyWhatMeansTheFieldFollows(t *testing.T) {
	docs := app()
	if e, err := edition.Compile(docs); err != nil || len(e.Findings) != 0 {
		t.Fatalf("%v, %v", e.Findings, err)
	}
	changes, err := RenameField(docs, "lift", "kind", "sort")
	if err != nil {
		t.Fatal(err)
	}
	after := apply(t, docs, changes)
	if e, err := edition.Compile(after); err != nil || len(e.Findings) != 0 {
		t.Fatalf("%v, %v", e.Findings, err)
	}
	bodies := map[string]string{}
	for _, d := range after {
		bodies[d.Key] = string(d.Body)
	}
	for key, all := range map[string][]string{
		"building": {`"label_field":"kind"`, `filter(kind, kind.sort == \"goods\")`},
		"lift": {`"was":["kind"]`, `"label_field":"sort"`, `sort != \"kind\" || sort == building.kind`,
			`"field":"kind","op":"is"`, `edited.sort`, `sort + \" kind\"`},
		"desk": {`"sort":{"fixed":false}`, `"field":"building.kind"`, `"field":"sort"`, `"literal":"kind"`,
			`record.sort == record.building.kind`},
		"walk": {`"field":"sort","op":"is_not_empty"`, `"field":"building.kind","op":"is_not_empty"`,
			`"order":[{"path":"sort"}]`, `first(lifts).sort} in {first(lifts).building.kind}; {{kind}`,
			`{"path":"sort"}`, `"look":{"columns":[{"path":"sort"},{"path":"building.kind"}],"filter":[{"field":"sort","op":"is","value":{"literal":"goods"}}],"order":[{"path":"sort"}],"group":{"path":"sort"},"totals":[{"path":"sort","of":"count"}]}`, `{"path":"building.kind"}`, `"keyword":["sort"]`, `kind.chosen.sort == \"goods\"`, `kind.chosen.sort + kind.chosen.building.kind`, `"field":"sort","value":{"literal":"kind"}`, `{kind.chosen.sort} is done.`},
	} {
		for _, want := range all {
			if !strings.Contains(bodies[key], want) {
				t.Errorf("%s lacks %s:\n%s", key, want, bodies[key])
			}
		}
	}
	if bodies["visit"] != string(docs[3].Body) {
		t.Errorf("the visit changed: %s", bodies["visit"])
	}
	back, err := RenameField(after, "lift", "sort", "kind")
	if err != nil {
		t.Fatal(err)
	}
	for i, d := range apply(t, after, back) {
		if got := strings.Replace(string(d.Body), `"was":["kind","sort"],`, "", 1); !same(t, got,
			string(docs[i].Body)) {
			t.Errorf("%s is not as it was:\n%s\n%s", d.Key, got, docs[i].Body)
		}
	}
}

func same(t *testing.T, a, b string) bool {
	t.Helper()
	var x, y any
	if json.Unmarshal([]byte(a), &x) != nil || json.Unmarshal([]byte(b), &y) != nil {
		t.Fatalf("%s\n%s", a, b)
	}
	strip(x)
	return fmt.Sprint(x) == fmt.Sprint(y)
}

func strip(v any) {
	switch x := v.(type) {
	case map[string]any:
		delete(x, "was")
		for _, m := range x {
			strip(m)
		}
	case []any:
		for _, m := range x {
			strip(m)
		}
	}
}

func TestWhereAFieldIsUsed(t *testing.T) {
	uses, err := OfField(app(), "lift", "kind")
	if err != nil {
		t.Fatal(err)
	}
	count := map[string]int{}
	for _, u := range uses {
		count[u.Document]++
		if u.Consequence == "" {
			t.Errorf("it is not said what would happen: %+v", u)
		}
	}
	for document, least := range map[string]int{"object/building": 1, "object/lift": 3, "role/desk": 3,
		"walkthrough/walk": 8} {
		if count[document] < least {
			t.Errorf("%s: %d uses, want %d at least: %+v", document, count[document], least, uses)
		}
	}
	if uses, err := OfField(app(), "visit", "lift"); err != nil || len(uses) != 1 || uses[0].Step != "added" {
		t.Errorf("%+v, %v", uses, err)
	}
	if _, err := OfField(app(), "visit", "nothing"); err == nil {
		t.Error("a field that is not there")
	}
}

func TestKeysThatAreNotTaken(t *testing.T) {
	for to, says := range map[string]string{"building": "already", "Kind": "cannot be a key", "id": "cannot be a key",
		"in": "cannot be a key", "": "cannot be a key"} {
		if _, err := RenameField(app(), "lift", "kind", to); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", to, err)
		}
	}
	if _, err := RenameField(app(), "person", "name", "title"); err == nil {
		t.Error("the people of the program are not the app's to change")
	}
}

// Where a place cannot follow by itself nothing is renamed, and the place is named.
func TestWhatCannotFollowIsNamed(t *testing.T) {
	docs := app()
	// The new key hides another name that is used in the same expression.
	docs[2] = document(definition.Object, "lift",
		strings.Replace(string(docs[2].Body), `kind != \"kind\" || kind == building.kind`,
			`kind != \"kind\" || date(\"2020-01-01\") < today`, 1))
	_, err := RenameField(docs, "lift", "kind", "today")
	var stuck *StuckError
	if !errors.As(err, &stuck) || len(stuck.Findings) == 0 || !strings.Contains(err.Error(), "cannot follow") {
		t.Errorf("%v", err)
	}
}

func TestReadingAtAPointer(t *testing.T) {
	body := json.RawMessage(`{"a":{"b/c":[10,{"d~e":"x"}]}}`)
	for pointer, want := range map[string]string{"/a/b~1c/0": "10", "/a/b~1c/1/d~0e": `"x"`, "/a/b~1c/2": "",
		"/a/x": "", "/a/b~1c/x": "", "": string(body)} {
		got, ok := lookup(body, pointer)
		if ok != (want != "") || string(got) != want {
			t.Errorf("%q: %s, %t", pointer, got, ok)
		}
	}
}

// Taking away a step or a part says what names it; what merely moves up says nothing.
func TestWhatAStepOrAPartIsUsedBy(t *testing.T) {
	docs := app()
	for pointer, want := range map[string]int{"/steps/0": 1, "/nowhere": -1} {
		uses, err := OfPart(docs, definition.Walkthrough, "walk", pointer)
		if want < 0 {
			if err == nil {
				t.Errorf("%s: no error", pointer)
			}
			continue
		}
		if err != nil || len(uses) < want || uses[0].Document != "walkthrough/walk" {
			t.Errorf("%s: %+v, %v", pointer, uses, err)
		}
	}
}
