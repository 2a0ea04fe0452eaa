package walk

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"plainpath/core/definition"
	"plainpath/core/memory"
	"plainpath/core/value"
)

const innerSteps = `{"key":"choose","label":"Choose","roles":["dispatcher"],
 "takes":[{"key":"wish","label":"Wish","type":"text","required":true}],
 "steps":[
  {"key":"found","kind":"search","search":{"object":"building"}},
  {"key":"pick","kind":"screen","title":"Pick","screen":{"bands":[{"columns":[{"parts":[
    {"key":"building","kind":"table","label":"Building","table":{"source":"found","columns":[{"path":"name"}],"select":"one"}},
    {"key":"day","kind":"input","label":"Day","input":{"type":"date","required":true}}]}]}]}},
  {"key":"confirm","kind":"screen","title":"Sure","screen":{"bands":[]}}%s],
 "gives":[{"key":"building","label":"Building","value":"pick.building"},{"key":"all","label":"All","value":"found"},
  {"key":"words","label":"Words","value":"wish + \"!\""}]}`

const outerSteps = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
 {"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
   {"key":"part","kind":"input","label":"Part","input":{"type":"text"}}]}]}]}},
 {"key":"chosen","kind":"run","title":"Choosing","run":{"walkthrough":"choose","hand":[{"to":"wish","value":"ask.part"}]}},
 {"key":"look","kind":"screen","screen":{"bands":[]}},
 {"key":"done","kind":"finish","finish":{"message":"{chosen.building.name} of {size(chosen.all)}: {chosen.words}"}}]}`

// nested compiles a walkthrough that may run another one.
func nested(t *testing.T, outer, inner string) (*Program, *memory.Store) {
	t.Helper()
	c := small()
	read := func(raw string) *Walkthrough {
		var w Walkthrough
		if err := definition.Decode(json.RawMessage(raw), &w); err != nil {
			t.Fatal(err)
		}
		return &w
	}
	within, found := Compile(c, read(inner))
	c.Walkthrough = func(key string) (*Program, []string) {
		if key == within.Def.Key {
			return within, nil
		}
		return nil, nil
	}
	p, also := Compile(c, read(outer))
	if definition.Blocks(found.Findings()) || definition.Blocks(also.Findings()) {
		t.Fatalf("%+v %+v", found.Findings(), also.Findings())
	}
	h := memory.New(t, c.Model)
	h.Clock = time.Date(2026, 3, 4, 9, 0, 0, 0, time.UTC)
	for n, name := range []string{"Mill House", "Pier Hall"} {
		h.Put("building", int64(n+1), name, map[string]value.Value{"name": value.Text(name)})
	}
	return p, h
}

// do answers screens or goes back, one after the other, from what is kept of the run each time.
func do(t *testing.T, p *Program, h *memory.Store, steps [][3]string) *Run {
	t.Helper()
	run, err := p.Start(t.Context(), h, nil, nil)
	if err != nil {
		t.Fatal(said(err))
	}
	for _, s := range steps {
		run = taken(t, p, run)
		if s[0] == "back" {
			err = run.Back(t.Context(), s[1])
		} else {
			err = run.Answer(t.Context(), s[0], answers(s[1]))
		}
		if err != nil {
			t.Fatalf("%v: %s", s, said(err))
		}
		for _, r := range []*Run{run, taken(t, p, run)} {
			if got := stands(t, r); got != s[2] {
				t.Fatalf("%v: %s", s, got)
			}
		}
	}
	return run
}

const picked = `{"building":{"id":2},"day":"2026-03-05"}`

// A walkthrough runs another one in its place: its screens are counted among its own, there is a way back into it as
// long as it wrote nothing, and what it gives back is known, with the fields that are used.
func TestAWalkthroughRunsAnother(t *testing.T) {
	p, h := nested(t, outerSteps, strings.Replace(innerSteps, "%s", "", 1))
	run := do(t, p, h, [][3]string{
		{"ask", `{"part":"mill"}`, "chosen/pick, 2 of 4; back to ask"},
		{"back", "ask", "ask, 1 of 4"},
		{"ask", `{"part":"pier"}`, "chosen/pick, 2 of 4; back to ask"},
		{"chosen/pick", picked, "chosen/confirm, 3 of 4; back to chosen/pick"},
		{"chosen/confirm", `{}`, "look, 4 of 4; back to chosen/confirm"},
		{"back", "chosen/confirm", "chosen/confirm, 3 of 4; back to chosen/pick"},
		{"back", "chosen/pick", "chosen/pick, 2 of 4; back to ask"},
	})
	v, err := run.Show(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	if raw, _ := json.Marshal(v.Bands[0].Columns[0].Parts[1].Value); string(raw) != `"2026-03-05"` {
		t.Errorf("what was given is offered again as %s", raw)
	}
	for _, s := range [][2]string{{"chosen/pick", picked}, {"chosen/confirm", "{}"}, {"look", "{}"}} {
		if err := run.Answer(t.Context(), s[0], answers(s[1])); err != nil {
			t.Fatal(said(err))
		}
	}
	if got := stands(t, taken(t, p, run)); got != "done, 4 of 4; Pier Hall of 2: pier!" {
		t.Errorf("at the end: %s", got)
	}
	if err := run.Answer(t.Context(), "chosen/pick", answers(picked)); err == nil {
		t.Error("a screen was answered that is over")
	}
}

// What the walkthrough inside wrote cannot be gone back behind, and is part of what the run wrote.
func TestNoWayBackIntoWhatWrote(t *testing.T) {
	p, h := nested(t, outerSteps, strings.Replace(innerSteps, "%s", addsVisit, 1))
	run := do(t, p, h, [][3]string{
		{"ask", `{"part":"pier"}`, "chosen/pick, 2 of 4; back to ask"},
		{"chosen/pick", picked, "chosen/confirm, 3 of 4; back to chosen/pick"},
		{"chosen/confirm", `{}`, "look, 4 of 4"},
	})
	if err := run.Back(t.Context(), "chosen/confirm"); err == nil {
		t.Error("it went back behind what was written")
	}
	if len(h.Wrote) != 1 || len(run.wrote().Added) != 1 || !p.Adds("visit") {
		t.Errorf("written: %q, %+v", h.Wrote, run.wrote())
	}
	h.Refuses = "Visits are full that day."
	for says, given := range map[string][][2]string{
		"begin: Wish is required": {{"ask", `{}`}},
		"full that day":           {{"ask", `{"part":"pier"}`}, {"chosen/pick", picked}, {"chosen/confirm", "{}"}},
	} {
		again, err := p.Start(t.Context(), h, nil, nil)
		for _, s := range given {
			if err != nil {
				t.Fatal(said(err))
			}
			err = again.Answer(t.Context(), s[0], answers(s[1]))
		}
		if err == nil || !strings.Contains(said(err), says) {
			t.Errorf("%v, want %q", err, says)
		}
	}
}

// Rehearsed with answers by their places; turns of a repeat around it are told apart.
func TestAWalkthroughInsideIsRehearsed(t *testing.T) {
	outer := strings.Replace(outerSteps, `{"key":"chosen"`, `{"key":"all","kind":"search","search":{"object":"building"}},
	 {"key":"each","kind":"repeat","repeat":{"for_each":"all","item":"one","steps":[{"key":"chosen"`, 1)
	outer = strings.Replace(outer, `]}},
 {"key":"look"`, `]}}]}},
 {"key":"look"`, 1)
	outer = outer[:strings.Index(outer, `{"key":"done"`)] + `{"key":"done","kind":"finish","finish":{"message":"Done."}}]}`
	p, h := nested(t, outer, strings.Replace(innerSteps, "%s", "", 1))
	given := func(screen, turns, a string) Recorded {
		return Recorded{Screen: screen, Turns: turns, Answers: answers(a)}
	}
	recorded := []Recorded{given("ask", "", `{"part":"pier"}`),
		given("chosen/pick", "1/", picked), given("chosen/confirm", "1/", "{}"),
		given("chosen/pick", "2/", picked), given("chosen/confirm", "2/", "{}"), given("look", "", "{}")}
	out, err := p.Rehearse(t.Context(), h, Replay{Recorded: recorded})
	if err != nil || out.Stopped != nil || len(out.Given) != 6 || !out.Run.State.Closed {
		t.Fatalf("%v, %+v", err, out)
	}
	out, err = p.Rehearse(t.Context(), h, Replay{Remembered: recorded, Recall: true, Upto: "look"})
	if err != nil || out.Stopped != nil || len(out.Given) != 5 || out.Run.Place() != "look" {
		t.Fatalf("%v, %+v at %s", err, out, out.Run.Place())
	}
	out, err = p.Rehearse(t.Context(), h, Replay{Recorded: recorded[:3], Remembered: recorded})
	if err != nil || stands(t, out.Run) != "Building 2 of 2: Pier Hall; chosen/pick, 4 of 6; back to chosen/confirm" {
		t.Fatalf("%v, %s", err, stands(t, out.Run))
	}
	if a := out.Run.inside.State.Answers["pick"]; string(a["day"]) != `"2026-03-05"` {
		t.Errorf("what is remembered of the turn: %s", a)
	}
}

// A list is handed over to a walkthrough that another one runs, which may show it and count it; what is no list is
// refused.
func TestAListIsHandedOver(t *testing.T) {
	const inner = `{"key":"choose","label":"Choose","roles":["dispatcher"],
	 "takes":[{"key":"houses","label":"Houses","type":"reference","object":"building","several":true,"required":true}],
	 "steps":[{"key":"pick","kind":"screen","title":"Pick","screen":{"bands":[{"columns":[{"parts":[
	    {"key":"building","kind":"table","label":"Building","table":{"source":"houses","columns":[{"path":"name"}],"select":"one"}}]}]}]}}],
	 "gives":[{"key":"building","label":"Building","value":"pick.building"},{"key":"n","label":"N","value":"size(houses)"}]}`
	const outer = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
	 {"key":"found","kind":"search","search":{"object":"building"}},
	 {"key":"chosen","kind":"run","title":"Choosing","run":{"walkthrough":"choose","hand":[{"to":"houses","value":"found"}]}},
	 {"key":"done","kind":"finish","finish":{"message":"{chosen.building.name} of {chosen.n}"}}]}`
	p, h := nested(t, outer, inner)
	do(t, p, h, [][3]string{
		{"chosen/pick", `{"building":{"id":2}}`, "done, 1 of 1; Pier Hall of 2"},
	})
	own, _ := nested(t, outer, inner)
	alone := own.shown[1].inner
	for given, want := range map[string]string{
		`[{"id":1}]`: "", `[]`: "", `{"id":1}`: "Houses takes a list of records", `["x"]`: "Houses takes a list of records",
	} {
		_, err := alone.Start(t.Context(), h, map[string]json.RawMessage{"houses": json.RawMessage(given)}, nil)
		got := ""
		if err != nil {
			got = said(err)
		}
		if !strings.Contains(got, want) || want == "" && got != "" {
			t.Errorf("%s: %s", given, got)
		}
	}
	if _, err := alone.Start(t.Context(), h, nil, nil); err == nil {
		t.Error("what is required was not handed over")
	}
}

const addsVisit = `,{"key":"visit","kind":"add","add":{"object":"visit","values":[
  {"field":"building","value":{"expression":"pick.building"}},{"field":"day","value":{"expression":"pick.day"}}]}}`

// Where the walkthrough inside is refused and the step says what is done then, it is left and that is done: what was
// written since somebody was last waited for is taken back, what was given in it is offered again.
func TestWhatIsDoneIfAWalkthroughInsideFails(t *testing.T) {
	const instead = `"if_fails":[{"key":"sorry","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
	 {"key":"why","kind":"text","label":"Why","text":"{failure}"}]}]}]}}],"run":{`
	outer := strings.Replace(outerSteps, `"run":{`, instead, 1)
	twice := addsVisit + `,{"key":"more","kind":"screen","screen":{"bands":[]}}` + strings.ReplaceAll(addsVisit, `"visit","kind"`, `"again","kind"`)
	steps := [][3]string{
		{"ask", `{"part":"pier"}`, "chosen/pick, 2 of 6; back to ask"},
		{"chosen/pick", picked, "chosen/confirm, 3 of 6; back to chosen/pick"},
	}
	p, h := nested(t, outer, strings.Replace(innerSteps, "%s", twice, 1))
	h.Refuses = "Visits are full."
	run := do(t, p, h, append(steps, [3]string{"chosen/confirm", "{}", "sorry, 4 of 5; back to ask"},
		[3]string{"back", "ask", "ask, 1 of 6"}, [3]string{"ask", `{"part":"pier"}`, "chosen/pick, 2 of 6; back to ask"}))
	if a := run.innermost().State.Answers["pick"]; string(a["day"]) != `"2026-03-05"` || len(h.Wrote) != 0 {
		t.Errorf("offered again is %s, with %q written", a, h.Wrote)
	}
	p, h = nested(t, outer, strings.Replace(innerSteps, "%s", twice, 1))
	run = do(t, p, h, append(steps, [3]string{"chosen/confirm", "{}", "chosen/more, 4 of 6"}))
	h.Refuses = "Visits are full."
	if err := run.Answer(t.Context(), "chosen/more", answers("{}")); err != nil {
		t.Fatal(said(err))
	}
	run = taken(t, p, run)
	v, err := run.Show(t.Context())
	if err != nil || stands(t, run) != "sorry, 5 of 6" ||
		!strings.Contains(v.Bands[0].Columns[0].Parts[0].Text.String(), "Visits are full.") {
		t.Fatalf("%v %s %+v", err, stands(t, run), v.Bands)
	}
	if len(h.Wrote) != 1 || len(run.wrote().Added) != 1 {
		t.Errorf("what it wrote before it was refused: %q, %+v", h.Wrote, run.wrote())
	}
	for _, screen := range []string{"sorry", "look"} {
		if err := run.Answer(t.Context(), screen, answers("{}")); err != nil {
			t.Fatal(said(err))
		}
	}
	if got := stands(t, taken(t, p, run)); got != "done, 6 of 6;  of : " {
		t.Errorf("at the end: %s", got)
	}
	p, h = nested(t, outer, strings.Replace(innerSteps, "%s", "", 1))
	do(t, p, h, [][3]string{{"ask", "{}", "sorry, 2 of 3; back to ask"}}) // what it takes is not there
}

// Rows that are not stored are given back; of those given back in each turn of a repeat, and of a repeat within a
// repeat, all are known together, each with what it was about.
func TestRowsAreGivenBack(t *testing.T) {
	const list = `,{"key":"list","kind":"gather","gather":{"columns":[{"key":"who","label":"Who","type":"reference","object":"building"},
	   {"key":"what","label":"What","type":"text"}],
	  "from":[{"list":"found","item":"r","values":[{"column":"who","value":{"expression":"r"}},{"column":"what","value":{"expression":"wish + r.name"}}]}]}}`
	inner := strings.Replace(strings.Replace(innerSteps, "%s", list, 1), `"gives":[`, `"gives":[{"key":"rows","label":"Rows","value":"list"},`, 1)
	outer := strings.Replace(outerSteps, `"{chosen.building.name} of {size(chosen.all)}: {chosen.words}"`,
		`"{size(chosen.rows)}: {join(chosen.rows.map(r, r.what + r.who.name))}"`, 1)
	p, h := nested(t, outer, inner)
	do(t, p, h, [][3]string{
		{"ask", `{"part":"a "}`, "chosen/pick, 2 of 4; back to ask"},
		{"chosen/pick", picked, "chosen/confirm, 3 of 4; back to chosen/pick"},
		{"chosen/confirm", `{}`, "look, 4 of 4; back to chosen/confirm"},
		{"look", `{}`, "done, 4 of 4; 2: a Mill HouseMill House, a Pier HallPier Hall"},
	})
	const rounds = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
	 {"key":"all","kind":"search","search":{"object":"building"}},
	 {"key":"each","kind":"repeat","repeat":{"for_each":"all","item":"one","steps":[
	   {"key":"chosen","kind":"run","run":{"walkthrough":"choose","hand":[{"to":"wish","value":"one.name"}]}},
	   {"key":"rows","kind":"repeat","repeat":{"for_each":"chosen.rows","item":"row","steps":[
	     {"key":"note","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
	       {"key":"said","kind":"input","label":"Said","input":{"type":"text"}}]}]}]}}]}}]}},
	 {"key":"done","kind":"finish","finish":{"message":"{join(chosen.map(c, c.one.name + \":\" + c.building.name + c.words))}; {join(note.map(n, n.one.name + n.said))}"}}]}`
	p, h = nested(t, rounds, inner)
	run, err := p.Start(t.Context(), h, nil, nil)
	for _, house := range []string{"ab", "cd"} {
		for _, a := range [][2]string{{"chosen/pick", picked}, {"chosen/confirm", "{}"},
			{"note", `{"said":" ` + house[:1] + `"}`}, {"note", `{"said":" ` + house[1:] + `"}`}} {
			if err != nil {
				t.Fatal(said(err))
			}
			run = taken(t, p, run)
			err = run.Answer(t.Context(), a[0], answers(a[1]))
		}
	}
	if err != nil {
		t.Fatal(said(err))
	}
	const want = "done, 8 of 8; Mill House:Pier HallMill House!, Pier Hall:Pier HallPier Hall!; " +
		"Mill House a, Mill House b, Pier Hall c, Pier Hall d"
	if got := stands(t, taken(t, p, run)); got != want {
		t.Errorf("at the end: %s\nwant %s", got, want)
	}
}
