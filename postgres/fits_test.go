package postgres_test

import (
	"slices"
	"strings"
	"testing"

	"plainpath/core/walk"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	repository "plainpath/postgres/repository"
	"plainpath/postgres/runs"
)

// A reference input offers what a field of a record would, as if the record were being edited,
// and refuses others with the condition and what it saw.
func TestAnInputOffersWhatFitsARecord(t *testing.T) {
	r := newRehearsing(t, "dana")
	r.add("assign", `{"key":"pick","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"call","kind":"input","label":"Call","input":{"type":"reference","object":"service_call","required":true}},
			{"key":"lift","kind":"input","label":"Lift","input":{"type":"reference","object":"lift"}}]}]}]}},
		{"key":"who","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"of_call","kind":"input","label":"Of the call","input":{"type":"reference","object":"engineer","fits":{"object":"service_call","field":"engineer","record":"pick.call"}}},
			{"key":"of_lift","kind":"input","label":"Of the lift","input":{"type":"reference","object":"engineer","fits":{"object":"service_call","field":"engineer","values":[{"field":"lift","value":{"expression":"pick.lift"}}]}}}]}]}]}},
		{"key":"done","kind":"finish","finish":{"message":"{who.of_call} and {who.of_lift}"}}`)
	repositories := &repository.Repositories{DB: r.db, Editions: documents.NewEditions(r.db)}
	place := postgres.Caller{App: demo.App, Space: postgres.Trial, Person: r.as}
	var lifts []struct{ ID, Call int64 }
	if err := r.db.Select(&lifts,
		`SELECT DISTINCT ON (l.kind) l.id, s.id AS call FROM liftcare_trial.lift l JOIN liftcare_trial.service_call s ON s.lift = l.id ORDER BY l.kind, l.id`); err != nil || len(lifts) < 2 {
		t.Fatal(lifts, err)
	}
	pick := given(t, "pick", "call", map[string]any{"id": lifts[0].Call}, "lift", map[string]any{"id": lifts[1].ID})
	ask := runs.Rehearsal{App: demo.App, Walkthrough: "assign", As: r.as, Recorded: []walk.Recorded{pick}}
	labels := func(part string) []string {
		t.Helper()
		found, err := r.runs.RehearseOptions(t.Context(), ask, part, "")
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, f := range found {
			out = append(out, f.Label)
		}
		return out
	}
	offered := func(in repository.Editing) []string {
		t.Helper()
		found, err := repositories.Options(t.Context(), place, "service_call", "engineer", in, "")
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, f := range found {
			out = append(out, f.Label)
		}
		return out
	}
	ofCall, ofLift := offered(repository.Editing{ID: lifts[0].Call}),
		offered(repository.Editing{Values: answers(t, "lift", map[string]any{"id": lifts[1].ID})})
	if got := labels("of_call"); !slices.Equal(got, ofCall) || len(got) == 0 {
		t.Errorf("%q are offered for the call, want %q", got, ofCall)
	}
	if got := labels("of_lift"); !slices.Equal(got, ofLift) || slices.Equal(got, ofCall) {
		t.Errorf("%q are offered for the lift, want %q", got, ofLift)
	}
	var idle int64
	if err := r.db.Get(&idle, `SELECT min(id) FROM liftcare_trial.engineer WHERE NOT active`); err != nil {
		t.Fatal(err)
	}
	done, err := r.play("assign", false, pick, given(t, "who", "of_call", map[string]any{"id": idle}))
	if err != nil || len(done.Problems) != 1 || done.Problems[0].Pointer != "/of_call" ||
		!strings.Contains(done.Problems[0].Text, "“Active is yes” does not hold; Active is no") {
		t.Errorf("%+v, %v", done.Problems, err)
	}
	// What it fits follows new names.
	if _, err := drafts.RenameField(t.Context(), r.db, demo.App, "service_call", "engineer", "mechanic",
		personID(t, r.db, "bo")); err != nil {
		t.Fatal(err)
	}
	if n := count(t, r.db, `SELECT count(*) FROM plainpath.document WHERE key = 'assign' AND body::text LIKE '%"field": "mechanic"%' AND body::text NOT LIKE '%"field": "engineer"%'`); n != 1 {
		t.Error("the input does not follow the new name")
	}
}
