package postgres_test

import (
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"plainpath/postgres/runs"

	"plainpath/core/walk"
	"plainpath/demo"
)

// answer is a valid one: rows among those the screen shows.
func (h *hiker) answer(g *going) answered {
	s := g.at
	a := answered{}
	if s.required || h.r.IntN(3) > 0 {
		a.t = []string{"1", "QL", "07", h.mark, "nothing is called this"}[h.r.IntN(5)]
	}
	if h.r.IntN(3) > 0 {
		n := h.r.IntN(8)
		a.n = &n
	}
	if h.r.IntN(3) > 0 {
		b := h.r.IntN(2) == 0
		a.b = &b
	}
	if s.lifts != "" {
		for _, k := range h.r.Perm(len(h.serials))[:4] {
			id := int64(k + 1)
			if s.lifts == "all" || strings.Contains(strings.ToLower(h.serials[id]),
				strings.ToLower(g.of(s.lifts).t)) {
				a.lifts = append(a.lifts, id)
			}
		}
		slices.Sort(a.lifts)
	}
	return a
}

func (h *hiker) walk() {
	h.t.Helper()
	ctx := h.t.Context()
	var err error
	if h.run, err = h.runs.Start(ctx, demo.App, h.name, nil, h.dana, h.name+h.mark); err != nil {
		h.t.Fatalf("%s: %v", h.name, err)
	}
	var before int
	for turn := 0; ; turn++ {
		g := goes(h.steps, h.given, h.path)
		h.looks(g)
		at, trail := g.at, g.trail
		name, _ := named(g.place)
		if at.finish {
			break
		}
		request := fmt.Sprint(h.mark, "-", turn)
		switch n := h.r.IntN(10); {
		case n == 0: // a mistake
			wrong := answers(h.t, "t", "x", "n", "many")
			if at.required {
				wrong = answers(h.t, "t", "", "n", 1)
			}
			var invalid *walk.InvalidError
			if _, err := h.runs.Answer(ctx, h.run.ID, h.dana, h.run.Revision, request, name, wrong); !errors.As(err,
				&invalid) || len(invalid.Problems) != 1 {
				h.t.Fatalf("%s at %s: a mistake: %v", h.name, at.key, err)
			}
		case n == 1 && turn > 0: // from an old window
			var moved *runs.ConflictError
			if _, err := h.runs.Answer(ctx, h.run.ID, h.dana, h.run.Revision-1, request, name,
				h.answer(g).sent(h.t, at)); !errors.As(err, &moved) {
				h.t.Fatalf("%s at %s: an old window: %v", h.name, at.key, err)
			}
		case n <= 3 && before < 3: // back, where there is a way
			before++
			h.goBack(request, trail)
		default:
			a := h.answer(g)
			given := a.sent(h.t, at)
			revision := h.run.Revision
			if h.run, err = h.runs.Answer(ctx, h.run.ID, h.dana, revision, request, name, given); err != nil {
				h.t.Fatalf("%s at %s (%+v of %+v): %+v: %v", h.name, at.key, at, h.given, a, err)
			}
			h.given[g.place] = a
			h.path = append(h.path, g.place)
			if h.r.IntN(3) == 0 { // the reply was lost: it is sent again
				again, err := h.runs.Answer(ctx, h.run.ID, h.dana, revision, request, name, given)
				if err != nil || sent(again) != sent(h.run) {
					h.t.Fatalf("%s at %s: sent again: %+v, %v; was %+v", h.name, at.key, again, err, h.run)
				}
			}
		}
	}
	h.rehearses()
}

func (h *hiker) goBack(request string, trail []string) {
	h.t.Helper()
	var open []string // screens behind which nothing was written
	for last := len(trail) - 1; last >= 0 && trail[last] != ""; last-- {
		open = append(open, trail[last])
	}
	to := h.steps[0].key
	if len(open) > 0 {
		to, _ = named(open[h.r.IntN(len(open))])
	}
	run, err := h.runs.Back(h.t.Context(), h.run.ID, h.dana, h.run.Revision, request, to, nil)
	if len(open) == 0 {
		var invalid *walk.InvalidError
		if !errors.As(err, &invalid) {
			h.t.Fatalf("%s: back to %s behind what was written or was never given: %v", h.name, to, err)
		}
		return
	}
	if err != nil {
		h.t.Fatalf("%s: back to %s: %v", h.name, to, err)
	}
	h.run = run
	h.backs++
	last := slices.IndexFunc(open, func(place string) bool { name, _ := named(place); return name == to })
	h.path = h.path[:slices.Index(h.path, open[last])]
}

// looks holds what is shown and what is stored against what the walkthrough says.
func (h *hiker) looks(g *going) {
	h.t.Helper()
	v, at, calls := h.run.View, g.at, g.calls
	if name, _ := named(g.place); v.Step != cmp.Or(name, at.key) || v.Closed != at.finish {
		h.t.Fatalf("%s after %v with %+v: it is at %s, want %s", h.name, h.path, h.given, v.Step, at.key)
	}
	again, err := h.runs.Show(h.t.Context(), h.run.ID, h.dana)
	if err != nil || sent(again) != sent(h.run) {
		h.t.Fatalf("%s at %s: shown anew it is %s, %v; was %s", h.name, at.key, sent(again), err, sent(h.run))
	}
	var stored []string
	if err := h.runs.DB.Select(&stored, `SELECT c.lift || ' ' || c.problem FROM liftcare_production.service_call c
		WHERE c.id IN (SELECT h.record FROM liftcare_production.history h WHERE h.cause->>'run' = $1) ORDER BY c.id`, h.run.ID); err != nil {
		h.t.Fatal(err)
	}
	if !slices.Equal(stored, calls) {
		h.t.Fatalf("%s after %v: stored are %q, want %q", h.name, h.path, stored, calls)
	}
	if at.finish {
		h.added += len(calls)
		var want []string
		for _, k := range at.shows {
			want = append(want, k+":"+g.of(k).shown())
		}
		for _, k := range at.counts {
			many := 0
			for _, place := range g.turns[k] {
				if n := h.given[place].n; n != nil && *n > 3 {
					many++
				}
			}
			want = append(want, fmt.Sprintf("%s:%d/%d", k, len(g.turns[k]), many))
		}
		if got := v.Message.String(); got != strings.Join(want, " ")+"." {
			h.t.Fatalf("%s: it ends with %q, want %q", h.name, got, want)
		}
		return
	}
	back := ""
	if len(g.trail) > 0 {
		back, _ = named(g.trail[len(g.trail)-1])
	}
	if v.Back != back {
		h.t.Fatalf("%s at %s: back leads to %q, want %q", h.name, at.key, v.Back, back)
	}
	// What was given there before is there again.
	if a, before := h.given[g.place]; before {
		parts := v.Bands[0].Columns[0].Parts
		raw, err := json.Marshal([]any{parts[0].Value, parts[1].Value, parts[2].Value})
		want, _ := json.Marshal([]any{a.t, a.n, a.b})
		if got := strings.Replace(string(raw), "[null", `[""`, 1); err != nil || got != string(want) {
			h.t.Fatalf("%s at %s: it begins with %s, want %s", h.name, at.key, got, want)
		}
	}
}

// rehearses plays the same answers on trial, which has the same lifts.
func (h *hiker) rehearses() {
	h.t.Helper()
	var recorded []walk.Recorded
	for n, place := range h.path {
		screen, turns := named(place)
		at := goes(h.steps, h.given, h.path[:n]).at
		recorded = append(recorded, walk.Recorded{Screen: screen, Turns: turns, Answers: h.given[place].sent(h.t, at)})
	}
	before := count(h.t, h.runs.DB, `SELECT count(*) FROM liftcare_trial.service_call`)
	done, err := h.runs.Rehearse(h.t.Context(), runs.Rehearsal{App: demo.App, Walkthrough: h.name, As: h.dana,
		Recorded: recorded}, nil)
	if err != nil || done.View == nil || done.View.Step != h.run.View.Step ||
		done.View.Message.String() != h.run.View.Message.String() || len(done.Given) != len(recorded) {
		h.t.Fatalf("%s rehearsed with %v comes to %+v, %v; want %+v", h.name, h.path, done.View, err, h.run.View)
	}
	if after := count(h.t, h.runs.DB, `SELECT count(*) FROM liftcare_trial.service_call`); after != before {
		h.t.Fatalf("%s: a rehearsal kept %d calls", h.name, after-before)
	}
}

// sent is a run as it is sent to the browser.
func sent(run runs.Run) string {
	raw, err := json.Marshal(run)
	if err != nil {
		panic(err)
	}
	return string(raw)
}
