package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/edit"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/walk"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/repository"
	pgruns "plainpath/postgres/runs"
	pgtables "plainpath/postgres/tables"
	"plainpath/testdb"
)

// bookings are visits being booked, one for each screen it can have come to.
func bookings(t *testing.T, runs *pgruns.Runs, dana int64) []pgruns.Run {
	t.Helper()
	place, name := building(t, runs.DB)
	var out []pgruns.Run
	for stop := range 4 {
		run, err := runs.Start(t.Context(), demo.App, "book_a_visit", nil, dana, fmt.Sprint("stop", stop))
		for step := 0; step < stop && err == nil; step++ {
			run, err = runs.Answer(t.Context(), run.ID, dana, run.Revision, "", run.View.Step,
				booking(t, run, place, name))
		}
		if err != nil {
			t.Fatal(err)
		}
		out = append(out, run)
	}
	return out
}

// booking is what is answered on the screen where a booking stands.
func booking(t *testing.T, run pgruns.Run, place int64, name string) screen.Answers {
	t.Helper()
	first := func() map[string]any { return map[string]any{"id": tableOf(t, run.View).Rows.Rows[0].ID} }
	switch run.View.Step {
	case "which":
		return answers(t, "part", name)
	case "choose_building":
		return answers(t, "building", map[string]any{"id": place})
	case "choose_lifts":
		return answers(t, "lifts", []any{first()}, "certificate", "electrical")
	}
	return answers(t, "engineer", first(), "starts", "2027-01-05T09:30:00Z", "minutes", 45)
}

func release(t *testing.T, db *postgres.DB) drafts.Preview {
	t.Helper()
	bo := personID(t, db, "bo")
	p, err := drafts.PreviewRelease(t.Context(), db, demo.App, 0)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := drafts.Release(t.Context(), db, demo.App, bo, drafts.Releasing{Previewed: p.Version}); err != nil {
		t.Fatalf("%v; %+v", err, p.Obstacles)
	}
	return p
}

// A release that gives what they work with other keys lets walkthroughs in progress go on from
// wherever they stand, over the new tables.
func TestRunsGoOnOverRenamedTables(t *testing.T) {
	db := testdb.New(t)
	runs := &pgruns.Runs{DB: db, Editions: documents.NewEditions(db)}
	dana, bo := personID(t, db, "dana"), personID(t, db, "bo")
	before := count(t, db, `SELECT count(*) FROM liftcare_production.visit`)
	place, name := building(t, db)
	open := bookings(t, runs, dana)
	for _, rename := range []func() ([]string, error){
		func() ([]string, error) {
			return drafts.RenameField(t.Context(), db, demo.App, "building", "name", "called", bo)
		},
		func() ([]string, error) {
			return drafts.RenameField(t.Context(), db, demo.App, "lift", "building", "stands_in", bo)
		},
		func() ([]string, error) {
			return drafts.RenameField(t.Context(), db, demo.App, "certificate", "kind", "sort", bo)
		},
		func() ([]string, error) {
			return drafts.RenameField(t.Context(), db, demo.App, "visit", "minutes", "length", bo)
		},
		func() ([]string, error) {
			return drafts.RenameObject(t.Context(), db, demo.App, "building", "house", bo)
		},
		func() ([]string, error) {
			return drafts.RenameObject(t.Context(), db, demo.App, "visit", "call_out", bo)
		},
	} {
		if _, err := rename(); err != nil {
			t.Fatal(err)
		}
	}
	// And a field that every visit must have from now on, with what it is by default.
	if _, err := drafts.Apply(t.Context(), db, documents.Edit{App: demo.App, Kind: "object", Key: "call_out",
		Person: bo,
		Change: edit.Change{Base: 3,
			Patch: edit.Patch{{Op: "add", Path: "/fields/0",
				Value: json.RawMessage(`{"key":"paid_by","label":"Paid by","type":"text","required":true,"default":"contract"}`)}}}}); err != nil {
		t.Fatal(err)
	}
	if p := release(t, db); p.Underway.GoOn != len(open) || len(p.Underway.Stuck) != 0 {
		t.Errorf("%+v", p.Underway)
	}
	for i, run := range open {
		if shown, err := runs.Show(t.Context(), run.ID, dana); err != nil || shown.View.Step != run.View.Step {
			t.Fatalf("run %d: %+v, %v", i, shown.View, err)
		}
		for !run.View.Closed {
			next, err := runs.Answer(t.Context(), run.ID, dana, run.Revision, "", run.View.Step,
				booking(t, run, place, name))
			if err != nil {
				t.Fatalf("run %d at %s: %v", i, run.View.Step, err)
			}
			run = next
		}
	}
	if got := count(t, db, `SELECT count(*) FROM liftcare_production.call_out WHERE length = 45 AND paid_by = 'contract' AND starts = '2027-01-05T09:30:00Z'`); got != len(open) {
		t.Errorf("%d visits booked, want %d", got, len(open))
	}
	if got := count(t, db, `SELECT count(*) FROM liftcare_production.call_out`); got != before+len(open) {
		t.Errorf("%d visits, want %d", got, before+len(open))
	}
}

// A walkthrough that cannot go on after a release is named before, with how many are in the
// middle of it and who; afterwards it says so, and others go on.
func TestRunsThatCannotGoOnAreNamedBefore(t *testing.T) {
	db := testdb.New(t)
	runs := &pgruns.Runs{DB: db, Editions: documents.NewEditions(db)}
	dana, bo := personID(t, db, "dana"), personID(t, db, "bo")
	open := bookings(t, runs, dana)
	fault, err := runs.Start(t.Context(), demo.App, "report_a_fault", nil, dana, "fault")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := drafts.Apply(t.Context(), db, documents.Edit{App: demo.App, Kind: "object", Key: "visit", Person: bo,
		Change: edit.Change{Base: 1,
			Patch: edit.Patch{{Op: "replace", Path: "/fields/5/type",
				Value: json.RawMessage(`"decimal"`)}}}}); err != nil {
		t.Fatal(err)
	}
	p := release(t, db)
	if len(p.Underway.Stuck) != 1 || p.Underway.GoOn != 1 {
		t.Fatalf("%+v", p.Underway)
	}
	if s := p.Underway.Stuck[0]; s.Label != "Book a visit" || s.Count != len(open) || strings.Join(s.People,
		", ") != "Dana Merrowdale" || !strings.Contains(s.Why, "Minutes holds something else now") {
		t.Errorf("%+v", s)
	}
	var stuck *pgruns.StuckError
	if _, err := runs.Show(t.Context(), open[2].ID, dana); !errors.As(err, &stuck) || !strings.Contains(err.Error(),
		"Minutes holds something else now") {
		t.Errorf("%v", err)
	}
	if err := runs.Discard(t.Context(), open[2].ID, dana); err != nil {
		t.Error(err)
	}
	if _, err := runs.Show(t.Context(), fault.ID, dana); err != nil {
		t.Error(err)
	}
	if left, err := runs.Open(t.Context(), demo.App, dana); err != nil || len(left) != len(open) {
		t.Errorf("%+v, %v", left, err)
	}
}

// What is saved in a table while rehearsing is put back with the rest. Records that are kept
// say who rehearsed, and as whom.
func TestWhoeverRehearsesIsNamed(t *testing.T) {
	o := newOffice(t)
	dana := personID(t, o.db, "dana")
	// The table of lifts may be edited.
	if _, err := o.db.Exec(`UPDATE plainpath.document SET body = jsonb_set(body, '{steps,5,screen,bands,0,columns,0,parts,0,table,edit}', 'true'), revision = revision + 1 WHERE key = 'book_a_visit'`); err != nil {
		t.Fatal(err)
	}
	if _, err := o.db.Exec(`UPDATE plainpath.document SET body = jsonb_set(body, '{objects,lift,change}', 'true'), revision = revision + 1 WHERE kind = 'role' AND key = 'dispatcher'`); err != nil {
		t.Fatal(err)
	}
	place, name := building(t, o.db)
	at := &pgtables.RehearsalTable{Walkthrough: "book_a_visit", As: dana, Part: "lifts", Recorded: []walk.Recorded{
		{Screen: "which", Answers: answers(t, "part", name)},
		{Screen: "choose_building", Answers: answers(t, "building", map[string]any{"id": place})}}}
	tables := &pgtables.Tables{Repositories: o.records, Runs: &pgruns.Runs{DB: o.db, Editions: o.records.Editions}}
	var lift int64
	var label string
	if err := o.db.QueryRow(`SELECT id, coalesce(label, '') FROM liftcare_trial.lift WHERE building = $1 AND state <> 'retired' ORDER BY id LIMIT 1`, place).Scan(&lift, &label); err != nil {
		t.Fatal(err)
	}
	saved, err := tables.SaveRows(t.Context(), o.place, pgtables.TableAt{Rehearsal: at}, []records.RowSaving{{ID: lift,
		Values: map[string]json.RawMessage{"label": json.RawMessage(`"Changed"`)},
		Before: map[string]json.RawMessage{"label": raw(label)}}})
	if err != nil || !saved.Saved || !saved.PutBack {
		t.Fatalf("%+v, %v", saved, err)
	}
	if got := count(t, o.db, `SELECT count(*) FROM liftcare_trial.lift WHERE label = 'Changed'`) + count(t, o.db,
		`SELECT count(*) FROM liftcare_trial.history WHERE action = 'change'`); got != 0 {
		t.Errorf("%d things stay of what was saved while rehearsing", got)
	}
	lifts := map[string]any{"id": lift}
	engineer := count(t, o.db,
		`SELECT min(e.id) FROM liftcare_trial.engineer e JOIN liftcare_trial.certificate c ON c.engineer = e.id WHERE e.active AND c.kind = 'electrical' AND c.expires_on >= current_date`)
	done, err := tables.Runs.Rehearse(t.Context(), pgruns.Rehearsal{App: demo.App, Walkthrough: "book_a_visit",
		As: dana, By: o.place.Person, Keep: true, Recorded: append(at.Recorded,
			walk.Recorded{Screen: "choose_lifts", Answers: answers(t, "lifts", []any{lifts}, "certificate",
				"electrical")},
			walk.Recorded{Screen: "choose_engineer", Answers: answers(t, "engineer", map[string]any{"id": engineer},
				"starts", "2027-01-05T09:30:00Z", "minutes", 45)})}, nil)
	if err != nil || !done.Kept {
		t.Fatalf("%+v, %v", done, err)
	}
	visit := count(t, o.db, `SELECT max(id) FROM liftcare_trial.visit`)
	view, err := o.records.History(t.Context(), o.place, "visit", int64(visit), repository.HistoryAsk{})
	if err != nil || len(view.Entries) != 1 || view.Entries[0].Person != "Bo Lindqvale, as Dana Merrowdale" {
		t.Errorf("%+v, %v", view, err)
	}
}
