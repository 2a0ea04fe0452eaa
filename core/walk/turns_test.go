package walk

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/value"
)

// round leads through the buildings found, one by one: a note for each, and a visit where a day is given.
const round = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
 {"key":"found","kind":"search","search":{"object":"building"}},
 {"key":"round","kind":"repeat","repeat":{"for_each":"found","item":"each","steps":[
   {"key":"look","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
     {"key":"note","kind":"input","label":"Note","input":{"type":"text"}},
     {"key":"day","kind":"input","label":"Day","input":{"type":"date","required":true}}]}]}]}},
   {"key":"when","kind":"branch","branch":{"ways":[{"title":"Not dry","when":"look.note != \"dry\"","steps":[
     {"key":"visit","kind":"add","add":{"object":"visit","values":[{"field":"building","value":{"expression":"each"}},
       {"field":"day","value":{"expression":"look.day"}}]}}]}],"otherwise":[]}},
   {"key":"sure","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
     {"key":"said","kind":"text","label":"Said","text":"{each.name}: {look.note}"}]}]}]}}]}},
 {"key":"sum","kind":"gather","gather":{"columns":[{"key":"who","label":"Who","type":"reference","object":"building"},
   {"key":"what","label":"What","type":"text"}],
   "from":[{"list":"look","item":"r","values":[{"column":"who","value":{"expression":"r.each"}},{"column":"what","value":{"expression":"r.note"}}]}]}},
 {"key":"done","kind":"finish","finish":{"message":"{size(visit)} visits, {size(sum)} rows"}}]}`

// taken takes the run up anew from what is kept of it.
func taken(t *testing.T, p *Program, run *Run) *Run {
	t.Helper()
	raw, err := json.Marshal(run.State)
	if err != nil {
		t.Fatal(err)
	}
	var s State
	if err := json.Unmarshal(raw, &s); err != nil {
		t.Fatal(err)
	}
	again, err := p.Resume(t.Context(), run.host, s)
	if err != nil {
		t.Fatal(said(err))
	}
	return again
}

func stands(t *testing.T, run *Run) string {
	t.Helper()
	v, err := run.Show(t.Context())
	if err != nil {
		t.Fatal(said(err))
	}
	var out []string
	for _, turn := range v.Turns {
		out = append(out, fmt.Sprintf("%s %d of %d: %s", turn.What, turn.Number, turn.Of, turn.Item))
	}
	out = append(out, fmt.Sprintf("%s, %d of %d", v.Step, v.Screen, v.Of))
	if v.Closed {
		out = append(out, v.Message.String())
	}
	if v.Back != "" {
		out = append(out, "back to "+v.Back)
	}
	return strings.Join(out, "; ")
}

// Somebody is led through a list one by one: each turn is taken up where it was left, what was given in turns before
// stays, and afterwards everything is known together.
func TestARepeatWithScreensTurnByTurn(t *testing.T) {
	p, h := program(t, round)
	for n, name := range []string{"Pier Hall", "Quay Block"} {
		h.Put("building", int64(n+2), name, map[string]value.Value{"name": value.Text(name)})
	}
	run, err := p.Start(t.Context(), h, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	for _, step := range []struct{ do, given, want string }{
		{"", "", "Building 1 of 3: Mill House; look, 1 of 6"},
		{"look", `{"note":"wet","day":"2026-03-05"}`, "Building 1 of 3: Mill House; sure, 2 of 6"},
		{"sure", `{}`, "Building 2 of 3: Pier Hall; look, 3 of 6; back to sure"},
		{"look", `{"note":"dry","day":"2026-03-05"}`, "Building 2 of 3: Pier Hall; sure, 4 of 6; back to look"},
		{"back", "look", "Building 2 of 3: Pier Hall; look, 3 of 6; back to sure"},
		{"back", "sure", "Building 1 of 3: Mill House; sure, 2 of 6"},
		{"sure", `{}`, "Building 2 of 3: Pier Hall; look, 3 of 6; back to sure"},
		{"look", `{"note":"dry","day":"2026-03-07"}`, "Building 2 of 3: Pier Hall; sure, 4 of 6; back to look"},
		{"sure", `{}`, "Building 3 of 3: Quay Block; look, 5 of 6; back to sure"},
		{"look", `{"day":"2026-03-06"}`, "Building 3 of 3: Quay Block; sure, 6 of 6"},
		{"sure", `{}`, "done, 6 of 6; 2 visits, 3 rows"},
	} {
		if run.State.Place != "" {
			run = taken(t, p, run)
		}
		switch step.do {
		case "":
		case "back":
			err = run.Back(t.Context(), step.given)
		default:
			err = run.Answer(t.Context(), step.do, answers(step.given))
		}
		if err != nil {
			t.Fatalf("%s %s: %s", step.do, step.given, said(err))
		}
		for _, r := range []*Run{run, taken(t, p, run)} {
			if got := stands(t, r); got != step.want {
				t.Fatalf("%s %s: %s\nwant %s", step.do, step.given, got, step.want)
			}
		}
	}
	var rows []string
	for _, row := range run.values["sum"].(value.Rows) {
		rows = append(rows, value.Display(row.Get("who"))+"="+value.Display(row.Get("what")))
	}
	if got := strings.Join(rows, ", "); got != "Mill House=wet, Pier Hall=dry, Quay Block=" {
		t.Errorf("the rows are %s", got)
	}
	if len(h.Wrote) != 2 {
		t.Errorf("written: %q", h.Wrote)
	}
}

// A record that goes while somebody stands in its turn is said to be gone, and the walkthrough goes on; what is read to
// take a run up does not grow with the turns that are over; nobody is led through thousands.
func TestTurnsGoOn(t *testing.T) {
	p, h := program(t, round)
	for n := range 30 {
		h.Put("building", int64(n+2), fmt.Sprint("House ", n), map[string]value.Value{"name": value.Text("House")})
	}
	run, err := p.Start(t.Context(), h, nil, nil)
	var asked []int
	for range 20 {
		for _, answer := range [][2]string{{"look", `{"note":"dry","day":"2026-03-05"}`}, {"sure", `{}`}} {
			h.Asked = nil
			if run = taken(t, p, run); answer[0] == "look" {
				asked = append(asked, len(h.Asked))
			}
			if err == nil {
				err = run.Answer(t.Context(), answer[0], answers(answer[1]))
			}
		}
	}
	if err != nil {
		t.Fatal(said(err))
	}
	if asked[19] > asked[1] {
		t.Errorf("in turn 20 %d things are read, in the second %d", asked[19], asked[1])
	}
	all := h.Records["building"]
	h.Records["building"] = append(all[:20:20], all[21:]...) // the one whose turn it is
	run = taken(t, p, run)
	if got := stands(t, run); !strings.HasPrefix(got, "Building 21 of 31: no longer there; look, 41 of 62") {
		t.Errorf("where the record has gone: %s", got)
	}
	if err = run.Answer(t.Context(), "look", answers(`{"note":"gone","day":"2026-03-05"}`)); err != nil {
		t.Errorf("the turn of what has gone: %s", said(err))
	}
	for n := range 1000 {
		h.Put("building", int64(n+100), "More", map[string]value.Value{"name": value.Text("More")})
	}
	_, err = p.Start(t.Context(), h, nil, nil)
	if err == nil || !strings.Contains(said(err), "it is done for at most 1000") {
		t.Errorf("a thousand and more: %v", err)
	}
}
