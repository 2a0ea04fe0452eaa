package walk

import (
	"fmt"
	"testing"

	"plainpath/core/definition"
)

// What keeps a repeat from being done at once is a finding where something simple mends it, and none where nothing does
// or nothing is to be mended.
func TestRepeatsTurnByTurnAreMended(t *testing.T) {
	visit := func(key, more string) string {
		return fmt.Sprintf(`{"key":%q,"kind":"add"%s,"add":{"object":"visit","values":[{"field":"building","value":{"expression":"b"}},
			{"field":"day","value":{"expression":"today"}}]}}`, key, more)
	}
	const raise = `{"key":"raise","kind":"change","change":{"of":"b","values":[{"field":"floors","value":{"literal":3}}]}}`
	for _, c := range []struct{ name, steps, text string }{
		{"at once", visit("v", "") + "," + raise, ""},
		{"something else if it fails", visit("v", `,"if_fails":[{"key":"so","kind":"work_out","work_out":{"value":"1"}}]`),
			"it is done turn by turn: \"v\" says what is done if it fails"},
		{"reads what was written", raise + "," + visit("v", `,"only_when":"b.floors > 2"`),
			"it is done turn by turn: v reads what a step before it wrote"},
		{"the same for each", visit("v", "") + `,{"key":"n","kind":"work_out","work_out":{"value":"size(found)"}}`,
			"it is done turn by turn: \"n\" is not something that is done to each of them"},
		{"another for each", visit("v", "") + `,{"key":"n","kind":"work_out","work_out":{"value":"b.floors"}}`, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			raw := `{"key":"w","label":"W","roles":["dispatcher"],"steps":[{"key":"found","kind":"search","search":{"object":"building","where":{}}},
				{"key":"each","kind":"repeat","repeat":{"for_each":"found","item":"b","steps":[` + c.steps + `]}},
				{"key":"done","kind":"finish","finish":{"message":"Done."}}]}`
			found := check(t, raw)
			if c.text == "" {
				if len(found) > 0 {
					t.Errorf("%+v", found)
				}
				return
			}
			if len(found) != 1 || found[0].Text != c.text || found[0].Severity != definition.Care ||
				found[0].Mend == nil {
				t.Fatalf("%+v", found)
			}
			mendHolds(t, raw, found[0])
		})
	}
}

// A repeat that only adds a record for each row put together is mended to one act.
func TestRowsAreAddedAtOnce(t *testing.T) {
	raw := `{"key":"w","label":"W","roles":["dispatcher"],"steps":[{"key":"found","kind":"search","search":{"object":"building","where":{}}},
		{"key":"lines","kind":"gather","gather":{"columns":[{"key":"n","label":"N","type":"whole_number"}],
			"from":[{"list":"found","item":"b","values":[{"column":"n","value":{"expression":"b.floors"}}]}]}},
		{"key":"each","kind":"repeat","repeat":{"for_each":"lines","item":"line","steps":[
			{"key":"v","kind":"add","add":{"object":"building","values":[{"field":"name","value":{"literal":"x"}},
				{"field":"floors","value":{"expression":"line.n"}}]}}]}},
		{"key":"done","kind":"finish","finish":{"message":"Done."}}]}`
	found := check(t, raw)
	if len(found) != 1 || found[0].Text != "it is done turn by turn: the rows are not stored" {
		t.Fatalf("%+v", found)
	}
	mendHolds(t, raw, found[0])
}
