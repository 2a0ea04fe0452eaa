package usage

import (
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/edition"
)

// moved applies changes, new keys of documents included.
func moved(t *testing.T, docs []definition.Document, changes []Change) map[string]string {
	t.Helper()
	after := apply(t, docs, changes)
	for i, d := range after {
		for _, c := range changes {
			if c.Document.Name() == d.Name() {
				after[i].Key = c.Key
			}
		}
	}
	if e, err := edition.Compile(after); err != nil || len(e.Findings) != 0 {
		t.Fatalf("%v, %v", e, err)
	}
	bodies := map[string]string{}
	for _, d := range after {
		bodies[d.Key] = string(d.Body)
	}
	return bodies
}

func want(t *testing.T, bodies map[string]string, all map[string][]string) {
	t.Helper()
	for key, parts := range all {
		for _, part := range parts {
			if !strings.Contains(bodies[key], part) {
				t.Errorf("%s lacks %s:\n%s", key, part, bodies[key])
			}
		}
	}
}

func TestAnObjectsNewKeyIsFollowed(t *testing.T) {
	docs := app()
	docs[0].Body = []byte(`{"key":"app","label":"App","currency":"EUR","zone":"UTC","organisation":"lift"}`)
	docs[1].Body = []byte(strings.Replace(string(docs[1].Body), `}]}`,
		`},{"key":"first","label":"First","type":"worked_out","result":"text","expression":"all_lift.exists(x, x.kind == \"lift\") ? \"lift\" : text(size(all_lift))"}]}`, 1))
	docs[4].Body = []byte(strings.Replace(string(docs[4].Body), `"rows":{"any":[`,
		`"rows":{"any":[{"related":{"object":"visit","field":"lift","where":{"field":"lift.kind","op":"is_not_empty"}}},`, 1))
	changes, err := RenameObject(docs, "lift", "hoist")
	if err != nil {
		t.Fatal(err)
	}
	bodies := moved(t, docs, changes)
	want(t, bodies, map[string][]string{
		"app": {`"organisation":"hoist"`},
		"building": {`all_hoist.filter(kind, kind.kind`,
			`all_hoist.exists(x, x.kind == \"lift\") ? \"lift\" : text(size(all_hoist))`},
		"hoist": {`"was":["lift"]`, `"key":"hoist"`},
		"visit": {`"key":"lift","label":"Lift","type":"reference","object":"hoist"`},
		"desk":  {`"hoist":{`, `"field":"lift"`, `"field":"lift.kind"`},
		"walk":  {`"object":"hoist"`, `first(lifts).kind`, `"field":"lift","value":{"expression":"kind.chosen"}`},
	})
	if _, still := bodies["lift"]; still {
		t.Error("the old document is still there")
	}
	for to, says := range map[string]string{"visit": "already", "person": "already", "Hoist": "cannot be a key",
		"in": "cannot be a key"} {
		if _, err := RenameObject(app(), "lift", to); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", to, err)
		}
	}
	if _, err := RenameObject(app(), "person", "staff"); err == nil {
		t.Error("the people of the program are not the app's to change")
	}
}

// chosen is app with choices in the place of texts.
func chosen() []definition.Document {
	docs := app()
	values := `"choices":[{"key":"goods","label":"Goods"},{"key":"people","label":"People"}]`
	docs[2].Body = []byte(strings.NewReplacer(`"label":"Kind","type":"text","required":true`,
		`"label":"Kind","type":"choice","required":true,"default":"goods",`+values,
		`kind != \"kind\" || kind == building.kind`,
		`kind != \"goods\" || \"goods\" in also || building.kind == \"goods\" || kind in [\"people\", \"goods\"] || either(building.kind, kind) == \"goods\" || either(kind, \"goods\") == \"goods\"`,
		`{"key":"shown"`, `{"key":"also","label":"Also","type":"several_choices","required":true,"default":["people","goods"],`+values+`},{"key":"shown"`).Replace(string(docs[2].Body)))
	docs[4].Body = []byte(strings.NewReplacer(`{"literal":"kind"}`, `{"literal":"goods"}`, `]}}}`,
		`,{"field":"kind","op":"one_of","values":[{"literal":"people"},{"literal":"goods"}]},{"field":"also","op":"includes","value":{"literal":"goods"}},{"field":"kind","op":"is","value":{"expression":"person.name == \"goods\" ? \"goods\" : \"people\""}}]}}}`).Replace(string(docs[4].Body)))
	docs[5].Body = []byte(strings.Replace(string(docs[5].Body), `"value":{"literal":"kind"}`,
		`"value":{"literal":"goods"}`, 1))
	return docs
}

func TestAChoicesNewKeyIsFollowed(t *testing.T) {
	docs := chosen()
	if e, err := edition.Compile(docs); err != nil || len(e.Findings) != 0 {
		t.Fatalf("%+v, %v", e.Findings, err)
	}
	changes, err := RenameChoice(docs, "lift", "kind", "goods", "freight")
	if err != nil {
		t.Fatal(err)
	}
	bodies := moved(t, docs, changes)
	want(t, bodies, map[string][]string{
		"building": {`kind.kind == \"freight\"`},
		"lift": {`"was":["goods"]`, `"default":"freight"`,
			`kind != \"freight\" || \"goods\" in also || building.kind == \"goods\" || kind in [\"people\", \"freight\"] || either(building.kind, kind) == \"freight\" || either(kind, \"freight\") == \"freight\"`, `"default":["people","goods"]`},
		"desk": {`"literal":"freight"`, `"values":[{"literal":"people"},{"literal":"freight"}]`,
			`"op":"includes","value":{"literal":"goods"}`, `person.name == \"goods\" ? \"freight\" : \"people\"`},
		"walk": {`kind.chosen.kind == \"freight\"`, `"value":{"literal":"freight"}`,
			`"filter":[{"field":"kind","op":"is","value":{"literal":"freight"}}]`},
	})
	if changes, err = RenameChoice(docs, "lift", "also", "goods", "freight"); err != nil {
		t.Fatal(err)
	}
	want(t, moved(t, docs, changes),
		map[string][]string{"lift": {`"default":["people","freight"]`, `\"freight\" in also`, `kind != \"goods\"`},
			"desk": {`"op":"includes","value":{"literal":"freight"}`}})
	for to, says := range map[string]string{"people": "already", "Freight": "cannot be a key"} {
		if _, err := RenameChoice(docs, "lift", "kind", "goods", to); err == nil || !strings.Contains(err.Error(),
			says) {
			t.Errorf("%q: %v", to, err)
		}
	}
	for _, bad := range [][3]string{{"lift", "kind", "boat"}, {"lift", "boat", "goods"}, {"boat", "kind", "goods"}} {
		if _, err := RenameChoice(docs, bad[0], bad[1], bad[2], "freight"); err == nil {
			t.Errorf("%v was renamed", bad)
		}
	}
}

// A text that is none of a choice's values can never be met, and is pointed out.
func TestComparingAChoiceWithNoneOfItsValues(t *testing.T) {
	for from, to := range map[string]string{`kind != \"goods\"`: `kind != \"gods\"`,
		`\"goods\" in also`: `\"gods\" in also`, `[\"people\", \"goods\"]`: `[\"people\", \"gods\"]`} {
		docs := chosen()
		docs[2].Body = []byte(strings.Replace(string(docs[2].Body), from, to, 1))
		e, err := edition.Compile(docs)
		if err != nil || len(e.Findings) != 1 || !strings.Contains(e.Findings[0].Text,
			`is never "gods"; did you mean "goods"?`) || e.Findings[0].Mend == nil {
			t.Errorf("%s: %+v, %v", to, e.Findings, err)
		}
	}
	docs := chosen()
	docs[2].Body = []byte(strings.Replace(string(docs[2].Body), `"default":"goods"`, `"default":"boat"`, 1))
	if e, err := edition.Compile(docs); err != nil || len(e.Findings) != 1 ||
		e.Findings[0].Pointer != "/fields/0/default" {
		t.Errorf("%+v, %v", e.Findings, err)
	}
}

func TestWhereAChoiceIsUsed(t *testing.T) {
	uses, err := OfChoice(chosen(), "lift", "kind", "goods")
	if err != nil {
		t.Fatal(err)
	}
	in := map[string]int{}
	for _, u := range uses {
		in[u.Document]++
	}
	for document, least := range map[string]int{"object/building": 1, "object/lift": 2, "role/desk": 2,
		"walkthrough/walk": 2} {
		if in[document] < least {
			t.Errorf("%s: %d uses, want %d at least: %+v", document, in[document], least, uses)
		}
	}
	if uses, err = OfChoice(chosen(), "lift", "also", "people"); err != nil || len(uses) != 1 ||
		uses[0].Pointer != "/fields/2/default" {
		t.Errorf("%+v, %v", uses, err)
	}
	if _, err = OfChoice(chosen(), "lift", "kind", "boat"); err == nil {
		t.Error("a value that is not there")
	}
}

func TestWhatBreaksWithoutADocument(t *testing.T) {
	uses, err := OfDocument(app(), definition.Object, "visit")
	if err != nil || len(uses) != 2 || uses[0].Document != "role/desk" || uses[1].Step != "added" {
		t.Errorf("%+v, %v", uses, err)
	}
	if uses, err = OfDocument(app(), definition.Object, "lift"); err != nil || len(uses) < 4 {
		t.Errorf("%+v, %v", uses, err)
	}
	if uses, err = OfDocument(app(), definition.Walkthrough, "walk"); err != nil || len(uses) != 0 {
		t.Errorf("nothing needs a walkthrough: %+v, %v", uses, err)
	}
	if _, err = OfDocument(app(), definition.Role, "nobody"); err == nil {
		t.Error("a document that is not there")
	}
}

// Keys of fields, steps and what they give are followed in every act.
func TestNewKeysAreFollowedInActs(t *testing.T) {
	docs := append(app(), document(definition.Walkthrough, "acts", `{"key":"acts","label":"Acts","roles":["desk"],"steps":[
		{"key":"found","kind":"search","search":{"object":"lift","where":{"field":"kind","op":"is_not_empty"}}},
		{"key":"shout","kind":"work_out","work_out":{"value":"first(found).kind + \"!\""}},
		{"key":"loud","kind":"change","change":{"of":"found","item":"each","values":[{"field":"kind","value":{"expression":"each.kind + either(shout, \"x\")"}}]}},
		{"key":"more","kind":"add","add":{"object":"visit","for_each":"loud","item":"one","values":[{"field":"lift","value":{"expression":"one"}}]}},
		{"key":"gone","kind":"remove","remove":{"of":"more"}},
		{"key":"done","kind":"finish","finish":{"message":"{size(loud)} {gone} {shout}"}}]}`))
	if e, err := edition.Compile(docs); err != nil || len(e.Of("walkthrough/acts")) != 0 {
		t.Fatalf("%v: %+v", err, e.Of("walkthrough/acts"))
	}
	changes, err := RenameField(docs, "lift", "kind", "sort")
	if err != nil {
		t.Fatal(err)
	}
	want(t, moved(t, docs, changes),
		map[string][]string{"acts": {`"field":"sort","op":"is_not_empty"`, `first(found).sort + \"!\"`,
			`{"field":"sort","value":{"expression":"each.sort + either(shout, \"x\")"}}`}})
	for _, c := range []struct {
		pointer, from, to string
		parts             []string
	}{
		{"/steps/0", "found", "lifts", []string{`first(lifts).kind`, `"of":"lifts"`}},
		{"/steps/1", "shout", "cry", []string{`either(cry, `, `{cry}`}},
		{"/steps/2", "loud", "louder", []string{`"for_each":"louder"`, `{size(louder)}`}},
		{"/steps/3", "more", "visits", []string{`"of":"visits"`}},
		{"/steps/4", "gone", "left", []string{`{left}`}},
	} {
		changes, err := RenameIn(docs, definition.Walkthrough, "acts", c.pointer, c.from, c.to)
		if err != nil {
			t.Errorf("%s: %v", c.from, err)
			continue
		}
		want(t, moved(t, docs, changes), map[string][]string{"acts": c.parts})
	}
}
