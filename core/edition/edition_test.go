package edition

import (
	"encoding/json"
	"strings"
	"testing"

	"plainpath/core/access"
	"plainpath/core/definition"
)

func app(objects ...string) []definition.Document {
	docs := []definition.Document{{Kind: definition.App, Key: "a",
		Body: json.RawMessage(`{"key":"a","label":"A","currency":"EUR","zone":"Europe/Dublin"}`)}}
	for _, o := range objects {
		var named struct{ Key string }
		if json.Unmarshal([]byte(o), &named) != nil {
			panic(o)
		}
		docs = append(docs, definition.Document{Kind: definition.Object, Key: named.Key, Body: json.RawMessage(o)})
	}
	return docs
}

func TestDocumentsThatCannotBeRead(t *testing.T) {
	for name, c := range map[string]struct {
		kind            definition.Kind
		key, body, says string
	}{
		"an unknown kind":   {"picture", "x", `{}`, "no kind of document"},
		"an unknown member": {definition.Object, "x", `{"key":"x","colour":"red"}`, `unknown field "colour"`},
		"another key":       {definition.Object, "x", `{"key":"y","label":"Y","fields":[]}`, `calls itself "y"`},
		"not JSON":          {definition.Role, "x", `{`, "reading role/x"},
		"another type":      {definition.Walkthrough, "x", `{"key":"x","steps":{}}`, "reading walkthrough/x"},
	} {
		if _, err := Compile([]definition.Document{{Kind: c.kind, Key: c.key,
			Body: json.RawMessage(c.body)}}); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
	e, err := Compile([]definition.Document{{Kind: definition.App, Key: "a",
		Body: json.RawMessage(`{"key":"a","label":"A","currency":"EUR","zone":"Nowhere/Land"}`)}})
	if err != nil || len(e.Of("app/a")) != 1 || e.Zone.String() != "UTC" {
		t.Errorf("a zone there is not: %v, %v", e.Findings, err)
	}
}

const (
	part  = `{"key":"part","label":"Part","plural":"Parts","label_field":"name","fields":[{"key":"name","label":"Name","type":"text"},{"key":"price","label":"Price","type":"money"},{"key":"lift","label":"Lift","type":"reference","object":"lift"},{"key":"spare","label":"Spare","type":"reference","object":"lift"},{"key":"double","label":"Double","type":"worked_out","result":"money","expression":"price * 2"},{"key":"high","label":"High","type":"worked_out","result":"text","expression":"lift.serial"}]}`
	start = `{"key":"lift","label":"Lift","plural":"Lifts","label_field":"serial","fields":[{"key":"serial","label":"Serial","type":"text"},{"key":"twice","label":"Twice","type":"worked_out","result":"text","expression":"serial + serial"},`
)

func TestWhatAWorkedOutFieldMayUse(t *testing.T) {
	for _, c := range []struct {
		expression, result, says string
		beyond                   bool
	}{
		{`serial + "!"`, "text", "", false},
		{`upper(serial)`, "text", "", false},
		{`sum(all_part_by_lift.map(p, p.price))`, "money", "", true},
		{`sum(all_part_by_lift.map(p, p.double))`, "money", "", true},
		{`size(all_part_by_spare.filter(p, p.lift.serial == serial))`, "whole_number", "", true},
		{`twice + text(size(all_part_by_lift))`, "text", "", true},
		{`all_part_by_lift.exists(p, p.price > money("5", "EUR"))`, "yes_no", "", true},
		{`twice + "!"`, "text", "", false},
		{`sum(all_part_by_lift.map(p, size(p.high)))`, "whole_number", "", true},
		{`w + "!"`, "text", "W is made of itself: Lift › W, which uses Lift › W", false},
		{`sum(all_part_by_lift.filter(p, p.price > money("1", "EUR")).map(p, p.double))`, "money", "", true},
		{`(size(all_part_by_lift) > 1 ? serial : twice) + "x"`, "text", "", true},
		{`size(all_part)`, "whole_number", `did you mean`, false},
		{`sum(all_part_by_lift.map(p, p.name))`, "text", "cannot be used with", false},
		{`sum(all_part_by_lift.map(p, p.price))`, "decimal", "a decimal is wanted", false},
		{`size(all_visit)`, "whole_number", "nothing is known", false},
	} {
		raw, _ := json.Marshal(map[string]string{"key": "w", "label": "W", "type": "worked_out", "result": c.result,
			"expression": c.expression})
		e, err := Compile(app(part, start+string(raw)+`]}`))
		if err != nil {
			t.Fatal(err)
		}
		found := e.Of("object/lift")
		if c.says == "" {
			if w, ok := e.WorkedOut("lift", "w"); len(found) != 0 || !ok || w.Own == c.beyond {
				t.Errorf("%s: %+v, keeps to its own record %t", c.expression, found, w.Own)
			}
			continue
		}
		if len(found) != 1 || !strings.Contains(found[0].Text, c.says) || found[0].Pointer != "/fields/2/expression" {
			t.Errorf("%s: %+v", c.expression, found)
		}
	}
}

func TestRolesAndWhoMayStart(t *testing.T) {
	docs := append(app(part, start[:len(start)-1]+`]}`),
		definition.Document{Kind: definition.Role, Key: "desk",
			Body: json.RawMessage(`{"key":"desk","label":"Desk","objects":{"lift":{"see":true},"nothing":{"see":true}}}`)},
		definition.Document{Kind: definition.Walkthrough, Key: "w",
			Body: json.RawMessage(`{"key":"w","label":"W","roles":["desk"],"steps":[{"key":"done","kind":"finish","finish":{"message":"Done."}}]}`)})
	e, err := Compile(docs)
	if err != nil {
		t.Fatal(err)
	}
	if f := e.Of("role/desk"); len(f) != 1 || !strings.Contains(f[0].Text, "no object") {
		t.Errorf("%+v", f)
	}
	if !e.HasRole("desk") || e.HasRole("x") || e.Role("x").Label != "x" || !e.Role("desk").Objects["lift"].See {
		t.Error("roles are not found by their keys")
	}
	for roles, want := range map[string]bool{"desk": true, "x": false, "": false} {
		if got := e.MayStart(access.Person{Roles: strings.Split(roles, ",")}, "w"); got != want {
			t.Errorf("%q may start it: %t", roles, got)
		}
	}
	if e.MayStart(access.Person{Roles: []string{"desk"}}, "nothing") {
		t.Error("a walkthrough there is not may be started")
	}
	e, err = Compile(append(docs, definition.Document{Kind: definition.Page, Key: "p", Body: json.RawMessage(`{"key":"p","label":"P","roles":["desk"],"searches":[{"key":"lifts","search":{"object":"lift"}}],"bands":[{"columns":[{"parts":[{"key":"t","kind":"table","table":
		{"source":"lifts","select":"none","columns":[{"path":"serial"}],"views":[{"label":"V","roles":["desk","boss"],"body":{"look":{}}}],"buttons":[{"key":"b","label":"B","on":"table","roles":["boss"],"do":[{"kind":"copy_link"}]}]}}]}]}]}`)}))
	if err != nil {
		t.Fatal(err)
	}
	f := e.Of("page/p")
	if len(f) != 2 || f[0].Pointer != "/bands/0/columns/0/parts/0/table/views/0/roles/1" || f[0].Mend == nil ||
		!strings.HasSuffix(f[1].Pointer, "/buttons/0/roles/0") {
		t.Fatalf("%+v", f)
	}
	if f[1].Mend != nil {
		t.Error("a button for nobody would be made one for everybody")
	}
}
