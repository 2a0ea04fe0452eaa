package walk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/memory"
	"plainpath/core/screen"
	"plainpath/core/value"
)

func program(t *testing.T, raw string) (*Program, *memory.Store) {
	t.Helper()
	var w Walkthrough
	if err := json.Unmarshal([]byte(raw), &w); err != nil {
		t.Fatal(err)
	}
	c := small()
	p, found := Compile(c, &w)
	if definition.Blocks(found.Findings()) {
		t.Fatalf("%+v", found.Findings())
	}
	h := memory.New(t, c.Model)
	h.Clock = time.Date(2026, 3, 4, 9, 0, 0, 0, time.UTC)
	h.Put("building", 1, "Mill House", map[string]value.Value{"name": value.Text("Mill House"),
		"floors": value.Whole(4)})
	return p, h
}

func answers(text string) screen.Answers {
	var a screen.Answers
	if err := json.Unmarshal([]byte(text), &a); err != nil {
		panic(err)
	}
	return a
}

// A run goes from screen to screen, takes up anywhere from what is kept of it, and writes
// once, when it is told to.
func TestARunFromStartToFinish(t *testing.T) {
	p, h := program(t, sound)
	ctx := context.Background()
	run, err := p.Start(ctx, h, nil, nil)
	if err != nil || run.State.Place != "ask" {
		t.Fatalf("%+v, %v", run, err)
	}
	for _, c := range []struct {
		screen, answers string
		says, place     string
	}{
		{"pick", `{}`, "gone on elsewhere", "ask"},
		{"ask", `{"part":"mill"}`, "Day", "ask"},
		{"ask", `{"part":"mill","day":"5 March"}`, "not a date", "ask"},
		{"ask", `{"part":"mill","day":"2026-03-05","more":1}`, "no such part", "ask"},
		{"ask", `{"part":"mill","day":"2026-03-05"}`, "", "pick"},
		{"ask", `{"part":"mill","day":"2026-03-05"}`, "gone on elsewhere", "pick"},
		{"pick", `{}`, "", "pick"},
		{"pick", `{"building":{"id":1}}`, "", "done"},
	} {
		// Between two answers nothing but the state is kept.
		raw, err := json.Marshal(run.State)
		if err != nil {
			t.Fatal(err)
		}
		var state State
		if err := json.Unmarshal(raw, &state); err != nil {
			t.Fatal(err)
		}
		h.Clock = h.Clock.Add(time.Hour)
		if run, err = p.Resume(ctx, h, state); err != nil {
			t.Fatalf("%s: %v", c.screen, err)
		}
		err = run.Answer(ctx, c.screen, answers(c.answers))
		switch {
		case c.says != "" && (err == nil || !strings.Contains(said(err), c.says)):
			t.Errorf("%s %s: %v, want %q", c.screen, c.answers, err, c.says)
		case c.says == "" && c.place != c.screen && err != nil:
			t.Errorf("%s %s: %s", c.screen, c.answers, said(err))
		case run.State.Place != c.place:
			t.Errorf("%s %s: the run is at %s, want %s", c.screen, c.answers, run.State.Place, c.place)
		}
	}
	if want := []string{"visit building=Mill House day=2026-03-05"}; !slices.Equal(h.Wrote, want) {
		t.Errorf("added %q, want %q", h.Wrote, want)
	}
	view, err := run.Show(ctx)
	if err != nil || !view.Closed || !strings.HasPrefix(view.Message.String(), "Mill House on ") || view.Back != "" {
		t.Errorf("%+v, %v", view, err)
	}
	if err := run.Back(ctx, "ask"); err == nil || !strings.Contains(err.Error(), "no going back") {
		t.Errorf("what was written was left behind: %v", err)
	}
}

// An act whose condition does not hold is left out, and what it gives is empty then, also when the run is taken up
// again where things have changed; a question that is left out is not asked.
func TestActsAreLeftOut(t *testing.T) {
	raw := strings.Replace(sound, `{"key":"visit","kind":"add"`, `{"key":"sure","kind":"confirm",`+
		`"only_when":"day(ask.day) < 7","confirm":{"question":"Sure?"}},{"key":"visit","only_when":"n > 3","kind":"add"`, 1)
	raw = strings.Replace(raw, `{"key":"found"`, `{"key":"n","kind":"work_out",`+
		`"only_when":"day(ask.day) == 5","work_out":{"value":"size(ask.part)"}},{"key":"found"`, 1)
	for day, want := range map[string]struct {
		asked       bool
		wrote, says string
	}{
		"2026-03-05": {true, "visit building=Mill House day=2026-03-05", "Mill House on 2026-03-05"},
		"2026-03-06": {true, "", "Mill House on "},
		"2026-03-07": {false, "", "Mill House on "},
	} {
		p, h := program(t, raw)
		run, err := p.Start(t.Context(), h, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		places := []string{}
		for _, given := range []string{`{"part":"mill","day":"` + day + `"}`, `{"building":{"id":1}}`, `{}`} {
			at := run.State.Place
			if run.State.Closed || at == "done" {
				break
			}
			places = append(places, at)
			if err := run.Answer(t.Context(), at, answers(given)); err != nil {
				t.Fatalf("%s at %s: %s", day, at, said(err))
			}
			if run, err = p.Resume(t.Context(), h, run.State); err != nil {
				t.Fatalf("%s after %s: %v", day, at, err)
			}
		}
		if asked := slices.Contains(places, "sure"); asked != want.asked {
			t.Errorf("%s: it went by %v", day, places)
		}
		if got := strings.Join(h.Wrote, "; "); got != want.wrote {
			t.Errorf("%s: added %q, want %q", day, got, want.wrote)
		}
		if view, err := run.Show(t.Context()); err != nil || view.Message.String() != want.says {
			t.Errorf("%s: %q, %v", day, view.Message.String(), err)
		}
	}
}

// said is an error with the problems it lists.
// Where the builder lets none be chosen, a run goes on without; what is taken up later is the same.
func TestNoRowsNeedBeChosen(t *testing.T) {
	const finish = `{"key":"done","kind":"finish","finish":{"message":"%s"}}`
	for selects, c := range map[string]struct{ message, says, three string }{
		"one":     {"<{pick.building.name}>", "<>", "choose one row"},
		"several": {"{size(pick.building)} chosen", "0 chosen", "choose at most 2; 3 are chosen"},
	} {
		steps := sound[:strings.Index(sound, `{"key":"visit"`)]
		steps = strings.Replace(steps, `"select":"one"`, `"select":"`+selects+`","least":0,"most":2`, 1)
		p, h := program(t, steps+strings.Replace(finish, "%s", c.message, 1)+"]}")
		run, err := p.Start(t.Context(), h, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		if err := run.Answer(t.Context(), "ask", answers(`{"part":"mill","day":"2026-03-05"}`)); err != nil {
			t.Fatal(said(err))
		}
		err = run.Answer(t.Context(), "pick", answers(`{"building":[{"id":1},{"id":2},{"id":3}]}`))
		if err == nil || !strings.Contains(said(err), c.three) {
			t.Errorf("%s: %v", selects, err)
		}
		if err := run.Answer(t.Context(), "pick", answers(`{}`)); err != nil {
			t.Fatalf("%s: %s", selects, said(err))
		}
		again, err := p.Resume(t.Context(), h, run.State)
		if err != nil {
			t.Fatal(err)
		}
		if view, err := again.Show(t.Context()); err != nil || view.Message.String() != c.says {
			t.Errorf("%s: %q, %v", selects, view.Message, err)
		}
	}
}

func said(err error) string {
	var invalid *InvalidError
	if errors.As(err, &invalid) {
		return fmt.Sprint(invalid.Problems)
	}
	return err.Error()
}

func TestGoingBackKeepsWhatWasGiven(t *testing.T) {
	p, h := program(t, sound)
	ctx := context.Background()
	run, err := p.Start(ctx, h, nil, nil)
	if err == nil {
		err = run.Answer(ctx, "ask", answers(`{"part":"mill","day":"2026-03-05"}`))
	}
	if err != nil {
		t.Fatal(err)
	}
	view, err := run.Show(ctx)
	if err != nil || view.Back != "ask" || view.Screen != 2 || view.Of != 2 {
		t.Fatalf("%+v, %v", view, err)
	}
	if err := run.Back(ctx, "ask"); err != nil || run.State.Place != "ask" || len(run.State.Trail) != 0 {
		t.Fatalf("%+v, %v", run.State, err)
	}
	if view, err = run.Show(ctx); err != nil {
		t.Fatal(err)
	}
	parts := view.Bands[0].Columns[0].Parts
	if raw, _ := json.Marshal([]any{parts[0].Value, parts[1].Value}); string(raw) != `["mill","2026-03-05"]` {
		t.Errorf("the screen begins with %s", raw)
	}
	if err := run.Back(ctx, "pick"); err == nil {
		t.Error("it went back to a screen that was not answered")
	}
}

// What may not be written stops the run in words, and nothing of the answer is kept.
func TestARefusedRecordStopsTheRun(t *testing.T) {
	p, h := program(t, sound)
	ctx := context.Background()
	run, err := p.Start(ctx, h, nil, nil)
	if err == nil {
		err = run.Answer(ctx, "ask", answers(`{"part":"mill","day":"2026-03-05"}`))
	}
	if err != nil {
		t.Fatal(err)
	}
	h.Refuses = "Visits are full that day."
	err = run.Answer(ctx, "pick", answers(`{"building":{"id":1}}`))
	var wrong *act.RefusedError
	if !errors.As(err, &wrong) || wrong.Step != "visit" || !strings.Contains(wrong.Text, "full that day. Nothing") {
		t.Errorf("%v", err)
	}
	if len(h.Wrote) != 0 {
		t.Errorf("added %q", h.Wrote)
	}
}

// A rehearsal replays as far as answers fit and says what did not.
func TestRehearsingAsFarAsItGoes(t *testing.T) {
	p, h := program(t, sound)
	first := Recorded{"ask", "", nil, answers(`{"part":"mill","day":"2026-03-05"}`)}
	second := Recorded{"pick", "", nil, answers(`{"building":{"id":1}}`)}
	for _, c := range []struct {
		name     string
		recorded []Recorded
		upto     string
		taken    int
		place    string
		stopped  string
		traced   string
	}{
		{"nothing yet", nil, "", 0, "ask", "", "ask"},
		{"one answer", []Recorded{first}, "", 1, "pick", "", "ask found pick"},
		{"all of it", []Recorded{first, second}, "", 2, "done", "", "ask found pick visit done"},
		{"up to a screen", []Recorded{first, second}, "pick", 1, "pick", "", "ask found pick"},
		{"an answer that does not fit", []Recorded{{"ask", "", nil, answers(`{"day":true}`)}, second}, "", 0, "ask",
			"not a date", "ask"},
		{"a screen that is not next", []Recorded{second}, "", 0, "ask", "gone on elsewhere", "ask"},
	} {
		out, err := p.Rehearse(context.Background(), h, Replay{Recorded: c.recorded, Upto: c.upto})
		if err != nil {
			t.Errorf("%s: %v", c.name, err)
			continue
		}
		var traced []string
		for _, e := range out.Trace {
			traced = append(traced, e.Step)
		}
		if len(out.Given) != c.taken || out.Run.State.Place != c.place || strings.Join(traced, " ") != c.traced {
			t.Errorf("%s: %d taken, at %s, traced %v", c.name, len(out.Given), out.Run.State.Place, traced)
		}
		if c.stopped == "" && out.Stopped != nil || c.stopped != "" &&
			(out.Stopped == nil || !strings.Contains(out.Stopped.Error(), c.stopped)) {
			t.Errorf("%s: stopped by %v", c.name, out.Stopped)
		}
	}
	entry := func(step string) act.Entry {
		out, err := p.Rehearse(context.Background(), h, Replay{Recorded: []Recorded{first, second}})
		if err != nil {
			t.Fatal(err)
		}
		return out.Trace[slices.IndexFunc(out.Trace, func(e act.Entry) bool { return e.Step == step })]
	}
	if e := entry("found"); e.Looked != 1 || e.Found != 1 || e.Object != "building" {
		t.Errorf("%+v", e)
	}
}

// What a person typed is left alone when the keys of rehearsed records become real ones.
func TestOnlyKeysOfRecordsBecomeReal(t *testing.T) {
	r := &Run{State: State{Trail: []act.Visit{{Step: "visits", Kept: act.Kept{Added: []int64{41, 42}}}}}}
	got, err := r.real(screen.Answers{
		"one":     json.RawMessage(`{"id":9000000000000002}`),
		"several": json.RawMessage(`[{"id":9000000000000001},{"id":7}]`),
		"rows":    json.RawMessage(`{"keys":[9000000000000001,5],"except":[9000000000000002]}`),
		"typed":   json.RawMessage(`"call 9000000000000001"`),
		"number":  json.RawMessage(`9000000000000001`),
		"amount":  json.RawMessage(`{"amount":"9000000000000001","currency":"EUR"}`)})
	if err != nil {
		t.Fatal(err)
	}
	for part, want := range map[string]string{"one": `{"id":42}`, "several": `[{"id":41},{"id":7}]`,
		"rows":  `{"except":[42],"keys":[41,5]}`,
		"typed": `"call 9000000000000001"`, "number": `9000000000000001`,
		"amount": `{"amount":"9000000000000001","currency":"EUR"}`} {
		if string(got[part]) != want {
			t.Errorf("%s: %s, want %s", part, got[part], want)
		}
	}
}

// Branches that follow each other are counted once each, however many there are.
func TestScreensAreCountedOnce(t *testing.T) {
	var steps []string
	for n := range 60 {
		steps = append(steps, fmt.Sprintf(`{"key":"b%d","kind":"branch","branch":{"ways":[{"title":"A","when":"person.name == \"x\"","steps":[{"key":"s%d","kind":"screen","screen":{"bands":[]}}]}],"otherwise":[]}}`, n, n))
	}
	p, _ := program(t, `{"key":"w","label":"W","roles":["dispatcher"],"steps":[`+strings.Join(steps, ",")+`]}`)
	if p.ahead[0] != (ahead{screens: 60}) {
		t.Errorf("%+v from the first step on, want 60 screens", p.ahead[0])
	}
}
