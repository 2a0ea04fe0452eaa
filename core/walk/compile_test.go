package walk

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/model"
)

func small() Context {
	return Context{Roles: []string{"dispatcher"}, Model: model.New("EUR",
		&model.Object{Key: "building", Label: "Building", Plural: "Buildings", LabelField: "name",
			Fields: []model.Field{
				{Key: "name", Label: "Name", Type: model.Text, Required: true},
				{Key: "floors", Label: "Floors", Type: model.Whole}}},
		&model.Object{Key: "visit", Label: "Visit", Plural: "Visits", LabelField: "day", Fields: []model.Field{
			{Key: "building", Label: "Building", Type: model.Reference, Object: "building", Required: true},
			{Key: "day", Label: "Day", Type: model.Date, Required: true},
			{Key: "minutes", Label: "Minutes", Type: model.Whole}}})}
}

// sound is a walkthrough without findings; each case breaks one thing in it.
const sound = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
 {"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
   {"key":"part","kind":"input","label":"Part","input":{"type":"text"}},{"key":"day","kind":"input","label":"Day","input":{"type":"date","required":true}}]}]}]}},
 {"key":"found","kind":"search","search":{"object":"building","where":{"all":[{"field":"name","op":"contains","value":{"expression":"ask.part"},"empty":"nothing"}]}}},
 {"key":"pick","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
   {"key":"building","kind":"table","label":"Building","table":{"source":"found","columns":[{"path":"name"}],"select":"one"}}]}]}]}},
 {"key":"visit","kind":"add","add":{"object":"visit","values":[{"field":"building","value":{"expression":"pick.building"}},{"field":"day","value":{"expression":"ask.day"}}]}},
 {"key":"done","kind":"finish","finish":{"message":"{pick.building.name} on {visit.day}"}}]}`

func check(t *testing.T, raw string) []definition.Finding {
	t.Helper()
	var w Walkthrough
	d := json.NewDecoder(strings.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(&w); err != nil {
		t.Fatalf("%v in %s", err, raw)
	}
	_, found := Compile(small(), &w)
	return found.Findings()
}

func TestWhatTheCheckerFinds(t *testing.T) {
	if f := check(t, sound); len(f) != 0 {
		t.Fatalf("the sound walkthrough has findings: %+v", f)
	}
	for _, c := range []struct {
		name, old, new, step, text string
		severity                   definition.Severity
		mended                     bool
	}{
		{"unknown name", `"ask.part"`, `"ask.prat"`, "found", `did you mean "part"`, definition.Stop, true},
		{"unknown field", `"field":"name"`, `"field":"nmae"`, "found", `did you mean "name"`, definition.Stop, true},
		{"wrong type", `"expression":"ask.day"`, `"expression":"ask.part"`, "visit", "a date is wanted",
			definition.Stop, false},
		{"may be empty", `"required":true`, `"required":false`, "visit", "can be empty here", definition.Stop, true},
		{"list for one record", `"expression":"pick.building"`, `"expression":"found"`, "visit",
			"a list of building records", definition.Stop, true},
		{"table fed by nothing", `"source":"found"`, `"source":""`, "pick", "fed by nothing", definition.Stop, true},
		{"table fed by a screen", `"source":"found"`, `"source":"ask"`, "pick", "wanted here", definition.Stop, false},
		{"unknown column", `{"path":"name"}`, `{"path":"flors"}`, "pick", `did you mean "floors"`, definition.Stop,
			true},
		{"required field not set", `,{"field":"day","value":{"expression":"ask.day"}}`, ``, "visit",
			"Day needs a value", definition.Stop, true},
		{"never reached", `{"key":"found",`, `{"key":"early","kind":"finish","finish":{"message":"x"}},{"key":"found",`,
			"found", "never reached", definition.Stop, true},
		{"unknown object", `"object":"building","where"`, `"object":"bilding","where"`, "found",
			`did you mean "building"`, definition.Stop, true},
		{"operator that does not fit", `"op":"contains"`, `"op":"more"`, "found", "cannot be asked of Name",
			definition.Stop, false},
		{"key taken twice", `"key":"pick"`, `"key":"ask"`, "ask", "is taken", definition.Stop, true},
		{"no finish", `,
 {"key":"done","kind":"finish","finish":{"message":"{pick.building.name} on {visit.day}"}}`, ``, "visit", "without a Finish", definition.Care, true},
		{"unknown role", `"roles":["dispatcher"]`, `"roles":["dispatcher","pilot"]`, "", "no role", definition.Stop,
			false},
		{"text with an unknown value", `{visit.day}`, `{visit.dya}`, "done", `did you mean "day"`, definition.Stop,
			true},
		{"value of one way only", `{"key":"done",`, `{"key":"way","kind":"branch","branch":{"ways":[{"title":"a","when":"empty(ask.part)","steps":[{"key":"first_visit","kind":"search","search":{"object":"visit","where":{}}}]}],"otherwise":[]}},
   {"key":"again","kind":"add","add":{"object":"visit","values":[{"field":"building","value":{"expression":"first(first_visit).building"}},{"field":"day","value":{"expression":"ask.day"}}]}},{"key":"done",`, "again", "can be empty here", definition.Stop, true},
	} {
		t.Run(c.name, func(t *testing.T) {
			broken := strings.Replace(sound, c.old, c.new, 1)
			if broken == sound {
				t.Fatal("the case changes nothing")
			}
			var hit *definition.Finding
			findings := check(t, broken)
			for i, f := range findings {
				if f.Step == c.step && f.Severity == c.severity && strings.Contains(f.Text, c.text) {
					hit = &findings[i]
				}
			}
			if hit == nil {
				t.Fatalf("not found; found instead %+v", findings)
			}
			if hit.Consequence == "" {
				t.Error("it is not said what would happen to the person")
			}
			if hit.Position != nil && !strings.Contains(broken,
				string([]rune(hit.Position.Source)[hit.Position.Offset:])) {
				t.Errorf("the place %+v is not in the walkthrough", hit.Position)
			}
			if (hit.Mend != nil) != c.mended {
				t.Fatalf("mend: %+v", hit.Mend)
			}
			if hit.Mend != nil {
				mendHolds(t, broken, *hit)
			}
		})
	}
}

func TestAFindingSaysWhereInTheExpression(t *testing.T) {
	for _, c := range []struct {
		old, new, source string
		offset           int
	}{
		{`"ask.part"`, `"ask.prat"`, "ask.prat", 3},
		{`{visit.day}`, `{visit.dya}`, "{pick.building.name} on {visit.dya}", 30},
		{`"empty":"nothing"}`, `"empty":"nothing"},{"expression":"record.floors > 2 && record.nmae == \"\""}`,
			`record.floors > 2 && record.nmae == ""`, 27},
	} {
		var places []string
		for _, f := range check(t, strings.Replace(sound, c.old, c.new, 1)) {
			if f.Position != nil {
				places = append(places, fmt.Sprintf("%s at %d", f.Position.Source, f.Position.Offset))
			}
		}
		if want := fmt.Sprintf("%s at %d", c.source, c.offset); !slices.Equal(places, []string{want}) {
			t.Errorf("%s: places %q, want %q", c.new, places, want)
		}
	}
}

// mendHolds carries out a mend and looks whether the finding is gone.
func mendHolds(t *testing.T, broken string, f definition.Finding) {
	t.Helper()
	after, _, err := edit.Patch(f.Mend.Patch).Apply([]byte(broken))
	if err != nil {
		t.Fatalf("the mend %+v cannot be carried out: %v", f.Mend, err)
	}
	for _, left := range check(t, string(after)) {
		if left.Text == f.Text && left.Step == f.Step {
			t.Errorf("the mend %q leaves the finding", f.Mend.Label)
		}
	}
}
