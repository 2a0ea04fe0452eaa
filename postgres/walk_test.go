package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/walk"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	pgruns "plainpath/postgres/runs"
	"plainpath/testdb"
)

// personID is the key of somebody in the demo.
func personID(t testing.TB, db *postgres.DB, name string) int64 {
	t.Helper()
	var id int64
	if err := db.Get(&id, `SELECT id FROM plainpath.person WHERE email LIKE $1 || '@%'`, name); err != nil {
		t.Fatal(err)
	}
	return id
}

func count(t testing.TB, db *postgres.DB, sql string, args ...any) int {
	t.Helper()
	var n int
	if err := db.Get(&n, sql, args...); err != nil {
		t.Fatalf("%s: %v", sql, err)
	}
	return n
}

func answers(t testing.TB, pairs ...any) screen.Answers {
	t.Helper()
	out := screen.Answers{}
	for i := 0; i < len(pairs); i += 2 {
		raw, err := json.Marshal(pairs[i+1])
		if err != nil {
			t.Fatal(err)
		}
		out[pairs[i].(string)] = raw
	}
	return out
}

func tableOf(t testing.TB, v *walk.View) *table.View {
	t.Helper()
	for _, b := range v.Bands {
		for _, c := range b.Columns {
			for _, p := range c.Parts {
				if p.Table != nil {
					return p.Table
				}
			}
		}
	}
	t.Fatalf("the screen %q has no table", v.Step)
	return nil
}

// building is one with several lifts, and part of its name.
func building(t testing.TB, db *postgres.DB) (id int64, name string) {
	t.Helper()
	if err := db.QueryRow(`SELECT b.id, b.name FROM liftcare_production.building b JOIN liftcare_production.lift l ON l.building = b.id
		WHERE l.state <> 'retired' GROUP BY b.id HAVING count(*) >= 3 ORDER BY b.id LIMIT 1`).Scan(&id, &name); err != nil {
		t.Fatal(err)
	}
	return id, name
}

func TestBookingAVisit(t *testing.T) {
	db := testdb.New(t)
	runs := &pgruns.Runs{DB: db, Editions: documents.NewEditions(db)}
	dana := personID(t, db, "dana")
	ctx := t.Context()
	before := count(t, db, `SELECT count(*) FROM liftcare_production.visit`)
	place, name := building(t, db)

	run, err := runs.Start(ctx, demo.App, "book_a_visit", nil, dana, "k1")
	if err != nil {
		t.Fatal(err)
	}
	again, err := runs.Start(ctx, demo.App, "book_a_visit", nil, dana, "k1")
	if err != nil || again.ID != run.ID {
		t.Errorf("starting twice with one key gave %s and %s, %v", run.ID, again.ID, err)
	}
	step := func(screen, request string, a screen.Answers) {
		t.Helper()
		next, err := runs.Answer(ctx, run.ID, dana, run.Revision, request, screen, a)
		if err != nil {
			t.Fatalf("answering %s: %v", screen, err)
		}
		run = next
	}
	step("which", "r1", answers(t, "part", strings.ToUpper(name)))
	wanted := count(t, db, `SELECT count(*) FROM liftcare_production.building WHERE name ILIKE '%' || $1 || '%'`, name)
	if got := tableOf(t, run.View); int(got.Rows.Total) != wanted {
		t.Errorf("%d buildings, want %d", got.Rows.Total, wanted)
	}
	step("choose_building", "r2", answers(t, "building", map[string]any{"id": place}))
	lifts := tableOf(t, run.View)
	chosen := []map[string]any{{"id": lifts.Rows.Rows[0].ID}, {"id": lifts.Rows.Rows[2].ID}}

	var invalid *walk.InvalidError
	_, err = runs.Answer(ctx, run.ID, dana, run.Revision, "r3x", "choose_lifts",
		answers(t, "lifts", []any{}, "certificate", "juggling"))
	if !errors.As(err, &invalid) || len(invalid.Problems) != 2 {
		t.Errorf("no lift and no such certificate: %v", err)
	}
	stranger := count(t, db, `SELECT min(id) FROM liftcare_production.lift WHERE building <> $1`, place)
	_, err = runs.Answer(ctx, run.ID, dana, run.Revision, "r3y", "choose_lifts",
		answers(t, "lifts", []map[string]any{{"id": stranger}}, "certificate", "electrical"))
	if !errors.As(err, &invalid) {
		t.Errorf("a lift of another building was taken: %v", err)
	}
	step("choose_lifts", "r3", answers(t, "lifts", chosen, "certificate", "electrical"))
	engineers := tableOf(t, run.View)
	wanted = count(t, db, `SELECT count(*) FROM liftcare_production.engineer e WHERE active AND EXISTS
		(SELECT 1 FROM liftcare_production.certificate c WHERE c.engineer = e.id AND c.kind = 'electrical' AND c.expires_on >= current_date)`)
	if int(engineers.Rows.Total) != wanted || wanted == 0 {
		t.Errorf("%d suitable engineers, want %d", engineers.Rows.Total, wanted)
	}

	run, err = runs.Back(ctx, run.ID, dana, run.Revision, "b1", "choose_building", nil)
	if err != nil || run.View.Step != "choose_building" || len(tableOf(t, run.View).Chosen) != 1 {
		t.Fatalf("back: %+v, %v", run.View, err)
	}
	step("choose_building", "r4", answers(t, "building", map[string]any{"id": place}))
	if len(tableOf(t, run.View).Chosen) != 2 {
		t.Errorf("the lifts chosen before going back are not offered again")
	}
	step("choose_lifts", "r5", answers(t, "lifts", chosen, "certificate", "electrical"))
	last := answers(t, "engineer", map[string]any{"id": engineers.Rows.Rows[0].ID}, "starts", "2027-01-05T09:30:00Z",
		"minutes", 45)
	revision := run.Revision
	step("choose_engineer", "r6", last)
	if !run.View.Closed || !strings.HasPrefix(run.View.Message.String(), "2 visits to "+name) {
		t.Errorf("closing screen: %+v", run.View)
	}
	twice, err := runs.Answer(ctx, run.ID, dana, revision, "r6", "choose_engineer", last)
	if err != nil || !twice.View.Closed {
		t.Errorf("the same request again: %v", err)
	}
	var conflict *pgruns.ConflictError
	if _, err := runs.Answer(ctx, run.ID, dana, revision, "r7", "choose_engineer", last); !errors.As(err, &conflict) {
		t.Errorf("a late answer of another tab: %v", err)
	}
	if got := count(t, db, `SELECT count(*) FROM liftcare_production.visit`); got != before+2 {
		t.Errorf("%d visits were added, want 2", got-before)
	}
	got := count(t, db, `SELECT count(*) FROM liftcare_production.history h JOIN liftcare_production.visit v ON v.id = h.record
		WHERE h.object = 'visit' AND h.action = 'add' AND h.person = $1 AND h.cause->>'step' = 'visits' AND h.cause->>'run' = $2
		AND h.after->>'minutes' = '45' AND v.starts = '2027-01-05T09:30:00Z'`, dana, run.ID)
	if got != 2 {
		t.Errorf("the history tells of %d visits, want 2", got)
	}
	eskil := personID(t, db, "eskil")
	if _, err := runs.Start(ctx, demo.App, "book_a_visit", nil, eskil, ""); !errors.Is(err, postgres.ErrNotFound) {
		t.Errorf("an engineer could start it: %v", err)
	}
	if _, err := runs.Show(ctx, run.ID, eskil); !errors.Is(err, postgres.ErrNotFound) {
		t.Errorf("a stranger could see the run: %v", err)
	}
}

func TestARehearsalPutsRecordsBack(t *testing.T) {
	db := testdb.New(t)
	runs := &pgruns.Runs{DB: db, Editions: documents.NewEditions(db)}
	dana := personID(t, db, "dana")
	state := func() string {
		return fmt.Sprint(count(t, db, `SELECT count(*) FROM liftcare_trial.visit`),
			count(t, db, `SELECT count(*) FROM liftcare_trial.history`))
	}
	before := state()
	place, name := building(t, db)
	lift := count(t, db, `SELECT min(id) FROM liftcare_trial.lift WHERE building = $1 AND state <> 'retired'`, place)
	engineer := count(t, db, `SELECT min(e.id) FROM liftcare_trial.engineer e JOIN liftcare_trial.certificate c ON c.engineer = e.id
		WHERE e.active AND c.kind = 'electrical' AND c.expires_on >= current_date`)
	ask := pgruns.Rehearsal{App: demo.App, Walkthrough: "book_a_visit", As: dana, Recorded: []walk.Recorded{
		{Screen: "which", Answers: answers(t, "part", name)},
		{Screen: "choose_building", Answers: answers(t, "building", map[string]any{"id": place})},
		{Screen: "choose_lifts", Answers: answers(t, "lifts", []map[string]any{{"id": lift}}, "certificate",
			"electrical")},
		{Screen: "choose_engineer", Answers: answers(t, "engineer", map[string]any{"id": engineer}, "starts",
			"2027-01-05T09:30:00Z", "minutes", 45)},
	}}
	for range 2 {
		done, err := runs.Rehearse(t.Context(), ask, nil)
		if err != nil || len(done.Given) != 4 || !done.View.Closed || done.Kept {
			t.Fatalf("%+v, %v", done, err)
		}
		if id := tableOf(t, done.View).Rows.Rows[0].ID; id != walk.RehearsedKeys+1 {
			t.Errorf("the record added has the key %d at a replay", id)
		}
		entry := done.Trace[1]
		if entry.Step != "buildings" || entry.Looked != 120 || entry.Found < 1 || len(entry.Values) != 1 ||
			entry.Values[0].Value != name {
			t.Errorf("the trace of the search: %+v", entry)
		}
		if after := state(); after != before {
			t.Errorf("the rehearsal left something behind: %s, was %s", after, before)
		}
	}
	ask.Keep = true
	if done, err := runs.Rehearse(t.Context(), ask, nil); err != nil || !done.Kept {
		t.Fatalf("%+v, %v", done, err)
	}
	if after := state(); after == before {
		t.Error("a rehearsal whose records are to be kept kept nothing")
	}
	ask.Recorded[1].Answers = answers(t, "building", map[string]any{"id": place + 100000})
	done, err := runs.Rehearse(t.Context(), ask, nil)
	if err != nil || len(done.Given) != 1 || done.Stopped == "" || done.View.Step != "choose_building" || done.Kept {
		t.Errorf("an answer that no longer fits: %+v, %v", done, err)
	}
}
