package edition

import (
	"strings"
	"testing"

	"plainpath/core/definition"
)

// What those who may start a walkthrough may not write is found at the step that writes it, unless something is said of
// when it is done or of what is done if it fails.
func TestWhoMayStartMayWrite(t *testing.T) {
	const house = `{"key":"house","label":"House","plural":"Houses","label_field":"name","fields":[{"key":"name","label":"Name","type":"text"}]}`
	const add = `{"key":"new","kind":"add",%s"add":{"object":"house","values":[{"field":"name","value":{"literal":"x"}}]}}`
	const change = `{"key":"all","kind":"search","search":{"object":"house"}},
		{"key":"changed","kind":"change","change":{"of":"all","item":"each","values":[{"field":"name","value":{"literal":"x"}}]}}`
	const remove = `{"key":"all","kind":"search","search":{"object":"house"}},{"key":"gone","kind":"remove","remove":{"of":"all"}}`
	for _, c := range []struct{ right, steps, finds string }{
		{`{"see":true}`, strings.Replace(add, "%s", "", 1), "new: Desk may start this, but may not add houses"},
		{`{"see":true,"add":true}`, strings.Replace(add, "%s", "", 1), ""},
		{`{"see":true,"add":true,"fields":{"name":{"fixed":true}}}`, strings.Replace(add, "%s", "", 1),
			"new: Desk may start this, but may not set Name of houses"},
		{`{"see":true,"add":true,"fields":{"name":{"hidden":true}}}`, strings.Replace(add, "%s", "", 1), "may not set Name"},
		{`{"see":true,"add":true}`, change, "changed: Desk may start this, but may not change houses"},
		{`{"see":true,"change":true}`, change, ""},
		{`{"see":true,"change":true}`, remove, "gone: Desk may start this, but may not remove houses"},
		{`{"see":true,"remove":true}`, remove, ""},
		{`{"see":true}`, strings.Replace(add, "%s", `"only_when":"1 > 0",`, 1), ""},
		{`{"see":true}`, strings.Replace(add, "%s", `"if_fails":[{"key":"n","kind":"work_out","work_out":{"value":"1"}}],`, 1), ""},
		{`{"see":true}`, `{"key":"b","kind":"branch","branch":{"ways":[{"title":"w","when":"1 > 0","steps":[` +
			strings.Replace(add, "%s", "", 1) + `]}],"otherwise":[]}}`, ""},
		{`{"see":true}`, `{"key":"all","kind":"search","search":{"object":"house"}},{"key":"r","kind":"repeat","repeat":{"for_each":"all","item":"each","steps":[` +
			strings.Replace(add, "%s", "", 1) + `]}}`, "may not add houses"},
	} {
		docs := append(app(house),
			definition.Document{Kind: definition.Role, Key: "desk",
				Body: []byte(`{"key":"desk","label":"Desk","objects":{"house":` + c.right + `}}`)},
			definition.Document{Kind: definition.Role, Key: "all", Body: []byte(`{"key":"all","label":"All",
				"objects":{"house":{"see":true,"add":true,"change":true,"remove":true}}}`)},
			definition.Document{Kind: definition.Walkthrough, Key: "w", Body: []byte(`{"key":"w","label":"W","roles":["all","desk"],"steps":[` +
				c.steps + `,{"key":"done","kind":"finish","finish":{"message":"Done."}}]}`)})
		e, err := Compile(docs)
		if err != nil {
			t.Fatal(err)
		}
		var said []string
		for _, f := range e.Of("walkthrough/w") {
			if !strings.Contains(f.Text, "may start this") {
				continue
			}
			said = append(said, f.Step+": "+f.Text)
			if f.Severity != definition.Care || f.Mend == nil || f.Mend.Patch[0].Path != "/roles/1" {
				t.Errorf("%s: %+v", c.steps, f)
			}
		}
		if got := strings.Join(said, "; "); got != c.finds && (c.finds == "" || !strings.Contains(got, c.finds)) {
			t.Errorf("%s under %s: %q, want %q", c.steps, c.right, got, c.finds)
		}
	}
}
