package walk

import (
	"strings"
	"testing"
)

// Where an act is refused and the builder says what is done then, that is done, what it wrote is taken back, and it
// is known why; without it all stops.
func TestWhatIsDoneIfAnActFails(t *testing.T) {
	const instead = `,"if_fails":[{"key":"sorry","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
	 {"key":"why","kind":"text","label":"Why","text":"It failed: {failure}"},
	 {"key":"note","kind":"input","label":"Note","input":{"type":"text"}}]}]}]}}]},
	 {"key":"done","kind":"finish","finish":{"message":"{empty(visit) ? \"none: \" + sorry.note : \"one\"}"}}]}`
	raw := sound[:strings.Index(sound, `},
 {"key":"done"`)] + instead
	for refuses, want := range map[string]string{"": "done, 2 of 2; one", "Visits are full.": "done, 3 of 3; none: call them"} {
		p, h := program(t, raw)
		h.Refuses = refuses
		run, err := p.Start(t.Context(), h, nil, nil)
		if err == nil {
			err = run.Answer(t.Context(), "ask", answers(`{"part":"mill","day":"2026-03-05"}`))
		}
		if err == nil {
			run = taken(t, p, run)
			if got := stands(t, run); got != "pick, 2 of 3; back to ask" {
				t.Errorf("%s", got)
			}
			err = run.Answer(t.Context(), "pick", answers(`{"building":{"id":1}}`))
		}
		if err != nil {
			t.Fatal(said(err))
		}
		if run = taken(t, p, run); refuses != "" {
			if run.State.Place != "sorry" || len(h.Wrote) != 0 {
				t.Fatalf("it stands at %q with %q written", run.State.Place, h.Wrote)
			}
			v, err := run.Show(t.Context())
			if err != nil || !strings.Contains(v.Bands[0].Columns[0].Parts[0].Text.String(), "It failed: The visit could not be") {
				t.Errorf("%v: %+v", err, v.Bands[0].Columns[0].Parts[0])
			}
			if err := run.Answer(t.Context(), "sorry", answers(`{"note":"call them"}`)); err != nil {
				t.Fatal(said(err))
			}
		}
		if got := stands(t, taken(t, p, run)); got != want {
			t.Errorf("with %q it comes to %s", refuses, got)
		}
	}
	for say, broken := range map[string]string{
		"never refused": strings.Replace(raw, `{"key":"pick"`, `{"key":"n","kind":"work_out","work_out":{"value":"1"},
			"if_fails":[{"key":"m","kind":"work_out","work_out":{"value":"1"}}]},{"key":"pick"`, 1),
		"nothing is done if it fails": raw[:strings.Index(raw, `{"key":"sorry"`)] + "]}]}",
		`key "failure" is taken`:      strings.Replace(raw, `"key":"sorry"`, `"key":"failure"`, 1),
		"nothing is known here by":    strings.Replace(raw, `sorry.note : `, `failure : `, 1),
		"never reached: the walkthrough": strings.Replace(raw, `{"key":"sorry"`,
			`{"key":"end","kind":"finish","finish":{"message":"No."}},{"key":"sorry"`, 1),
	} {
		said := ""
		for _, f := range check(t, broken) {
			said += f.Text + "\n"
		}
		if !strings.Contains(said, say) {
			t.Errorf("%q is not found: %s", say, said)
		}
	}
}
