package edition

import (
	"fmt"
	"strings"
	"testing"

	"plainpath/core/access"
	"plainpath/core/definition"
)

// Which page people begin with, and by which they see records, is decided by role, condition and key; what nobody would
// see is found.
func TestWhichPageIsMeant(t *testing.T) {
	docs := app(`{"key":"house","label":"House","plural":"Houses","label_field":"name","fields":[{"key":"name","label":"Name","type":"text"}]}`)
	for _, role := range []string{"desk", "field"} {
		docs = append(docs, definition.Document{Kind: definition.Role, Key: role,
			Body: fmt.Appendf(nil, `{"key":%q,"label":%q,"objects":{"house":{"see":true}}}`, role, role)})
	}
	for key, more := range map[string]string{
		"a_home":   `"roles":["desk"],"home":["desk"]`,
		"b_home":   `"roles":["desk","field"],"home":["desk","field"]`,
		"c_closed": `"roles":["desk"],"home":["field"]`,
		"d_needs":  `"roles":["desk"],"home":["desk"],"record":{"object":"house"}`,
		"e_some":   `"roles":["desk"],"record":{"object":"house","when":"record.name == \"x\""}`,
		"f_other":  `"roles":["field"],"record":{"object":"house"}`,
		"g_late":   `"roles":["desk","field"],"record":{"object":"house"}`,
	} {
		docs = append(docs, definition.Document{Kind: definition.Page, Key: key,
			Body: fmt.Appendf(nil, `{"key":%q,"label":%q,"searches":[],"bands":[],%s}`, key, key, more)})
	}
	e, err := Compile(docs)
	if err != nil {
		t.Fatal(err)
	}
	for role, want := range map[string]string{"desk": "a_home", "field": "b_home", "nobody": ""} {
		if got := e.HomePage(access.Person{Roles: []string{role}}); got != want {
			t.Errorf("%s begins with %q, want %q", role, got, want)
		}
	}
	var order []string
	for _, p := range e.recordPages("house") {
		order = append(order, p.Def.Key)
	}
	if got := strings.Join(order, " "); got != "e_some d_needs f_other g_late" {
		t.Errorf("they are asked in the order %s", got)
	}
	for page, want := range map[string]string{"a_home": "", "b_home": "begin with “a_home” already",
		"c_closed": "may not open it", "d_needs": "hands it nothing", "e_some": "", "f_other": "",
		"g_late": "“d_needs” shows the same records"} {
		said := ""
		for _, f := range e.Of("page/" + page) {
			said += f.Text + "; "
		}
		if (want == "") != (said == "") || !strings.Contains(said, want) {
			t.Errorf("%s: %q, want %q", page, said, want)
		}
	}
}
