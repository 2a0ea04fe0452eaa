package walk

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/memory"
	"plainpath/core/value"
)

// A value is there where a way, or what is done under a condition, says so; elsewhere it may be empty.
func TestWhatAConditionSaysIsThereIsThere(t *testing.T) {
	for when, clean := range map[string]bool{
		`!empty(ask.day)`:                   true,
		`!empty(ask.day) && ask.part != ""`: true,
		`!empty(ask.day) || ask.part != ""`: false,
		`empty(ask.day)`:                    false,
		`!empty(ask.part)`:                  false,
	} {
		visit := `{"key":"visit","kind":"add"%s,"add":{"object":"visit","values":[{"field":"building","value":{"expression":"first(found)"}},
			{"field":"day","value":{"expression":"ask.day"}}]}}`
		begin := `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
			{"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"part","kind":"input","label":"Part","input":{"type":"text"}},
			{"key":"day","kind":"input","label":"Day","input":{"type":"date"}}]}]}]}},
			{"key":"found","kind":"search","search":{"object":"building","where":{}}},`
		for _, raw := range []string{
			begin + fmt.Sprintf(visit, fmt.Sprintf(`,"only_when":%q`, when)),
			begin + fmt.Sprintf(`{"key":"way","kind":"branch","branch":{"ways":[{"title":"x","when":%q,"steps":[%s]}],"otherwise":[]}}`,
				when, fmt.Sprintf(visit, "")),
		} {
			raw += `,{"key":"done","kind":"finish","finish":{"message":"Done."}}]}`
			var about []string
			for _, f := range check(t, raw) {
				if f.Text == `"ask.day" can be empty here, but Day is required` {
					about = append(about, f.Text)
				}
			}
			if (len(about) == 0) != clean {
				t.Errorf("%s: %q", when, about)
			}
		}
	}
}

// What a search needs and is empty stops it with the message of its builder; what is there is searched by.
func TestASearchNeedsAValue(t *testing.T) {
	raw := strings.Replace(sound, `"expression":"ask.part"},"empty":"nothing"`,
		`"expression":"needed(ask.part, \"Type a part of the name.\")"},"empty":"skip"`, 1)
	if found := check(t, raw); len(found) > 0 {
		t.Fatal(found)
	}
	var w Walkthrough
	if err := json.Unmarshal([]byte(raw), &w); err != nil {
		t.Fatal(err)
	}
	p, _ := Compile(small(), &w)
	h := memory.New(t, small().Model)
	h.Put("building", 1, "Mill House", map[string]value.Value{"name": value.Text("Mill House")})
	for part, want := range map[string]string{
		"":     "The buildings could not be searched for: what they are searched by is empty. Type a part of the name.",
		"mill": "",
	} {
		run, err := p.Start(t.Context(), h, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		err = run.Answer(t.Context(), "ask", answers(fmt.Sprintf(`{"part":%q,"day":"2026-03-05"}`, part)))
		var refused *act.RefusedError
		if want != "" && (!errors.As(err, &refused) || refused.Text != want) || want == "" && err != nil {
			t.Errorf("%q: %v", part, err)
		}
	}
}
