package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/edition"
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/repository"
	pgtables "plainpath/postgres/tables"
	"plainpath/testdb"
)

// Fields of the demo get another key and their old one back: everything follows both
// times, no finding comes up and no value is lost. Undoing brings the column back.
func TestANewKeyIsFollowedEverywhere(t *testing.T) {
	db := testdb.New(t)
	bo := personID(t, db, "bo")
	read := func() ([]definition.Document, *edition.Edition) {
		docs, err := documents.Documents(t.Context(), db, demo.App)
		if err != nil {
			t.Fatal(err)
		}
		e, err := edition.Compile(docs)
		if err != nil {
			t.Fatal(err)
		}
		return docs, e
	}
	original, earlier := read()
	rename := func(object, from, to string) []string {
		t.Helper()
		changed, err := drafts.RenameField(t.Context(), db, demo.App, object, from, to, bo)
		if err != nil {
			t.Fatalf("%s of %s to %s: %v", from, object, to, err)
		}
		return changed
	}
	renamed, followed := 0, 0
	for _, key := range []string{"engineer", "certificate"} {
		o := earlier.Model.Object(key)
		for i := range o.Fields {
			f := &o.Fields[i]
			held := func(name string) int {
				return count(t, db, `SELECT count(`+written(t, db, key, name)+`) FROM liftcare_trial.`+key+` t`)
			}
			before := held(f.Key)
			followed += len(rename(key, f.Key, f.Key+"_new")) - 1
			if _, e := read(); len(e.Findings) != len(earlier.Findings) {
				t.Fatalf("%s of %s: %v", f.Key, key, e.Findings)
			}
			if n := held(f.Key + "_new"); n != before {
				t.Errorf("%s of %s holds %d values, %d before", f.Key, key, n, before)
			}
			rename(key, f.Key+"_new", f.Key)
			renamed++
		}
	}
	was := regexp.MustCompile(`"was": \[[^\]]*\], |, "was": \[[^\]]*\]`)
	after, _ := read()
	for i, d := range after {
		if got := was.ReplaceAllString(string(d.Body), ""); got != string(original[i].Body) {
			t.Errorf("%s is not as it was:\n%s\n%s", d.Name(), got, original[i].Body)
		}
	}
	if renamed < 11 || followed < 10 {
		t.Errorf("%d fields were renamed, %d other documents followed", renamed, followed)
	}
	rename("customer", "web", "site")
	undone := documents.Edit{App: demo.App, Kind: definition.Object, Key: "customer", Person: bo}
	if _, err := drafts.Undo(t.Context(), db, undone); err != nil {
		t.Fatal(err)
	}
	if n := count(t, db, `SELECT count(web) FROM liftcare_trial.customer`); n == 0 {
		t.Error("undoing did not bring the column back")
	}
	// Production follows with the release, and says so before.
	rename("customer", "web", "site")
	p, err := drafts.PreviewRelease(t.Context(), db, demo.App, 0)
	if err != nil || !strings.Contains(fmt.Sprint(p.Changes), "The column web is renamed to site.") {
		t.Fatalf("%+v, %v", p.Changes, err)
	}
	if _, err := drafts.Release(t.Context(), db, demo.App, bo, drafts.Releasing{Previewed: p.Version}); err != nil {
		t.Fatal(err)
	}
	if n := count(t, db, `SELECT count(site) FROM liftcare_production.customer`); n == 0 {
		t.Error("production lost the values")
	}
}

func TestWhatUsesAField(t *testing.T) {
	db := testdb.New(t)
	uses, err := drafts.UsesOfField(t.Context(), db, demo.App, "certificate", "expires_on")
	if err != nil {
		t.Fatal(err)
	}
	var in []string
	for _, u := range uses {
		in = append(in, u.Document)
	}
	got := strings.Join(in, " ")
	for _, want := range []string{"object/certificate", "object/service_call", "walkthrough/book_a_visit"} {
		if !strings.Contains(got, want) {
			t.Errorf("%s is not among %v", want, in)
		}
	}
	unused, err := drafts.UsesOfField(t.Context(), db, demo.App, "customer", "notes")
	if err != nil || len(unused) != 0 {
		t.Errorf("the notes of a customer is used nowhere: %v, %v", unused, err)
	}
	for _, bad := range []string{"kind", "today!", "id"} {
		if _, err := drafts.RenameField(t.Context(), db, demo.App, "certificate", "expires_on", bad,
			personID(t, db, "bo")); err == nil {
			t.Errorf("the key %q was taken", bad)
		}
	}
}

// An object gets another key: its table, what refers to it and its history follow, in
// trial at once and in production with the release; back again brings everything back.
func TestAnObjectsNewKeyMovesItsTable(t *testing.T) {
	o := newOffice(t)
	bo := o.place.Person
	rename := func(from, to string) []string {
		t.Helper()
		changed, err := drafts.RenameObject(t.Context(), o.db, demo.App, from, to, bo)
		if err != nil {
			t.Fatal(err)
		}
		docs, err := documents.Documents(t.Context(), o.db, demo.App)
		if err != nil {
			t.Fatal(err)
		}
		if e, err := edition.Compile(docs); err != nil || len(e.Findings) != 0 {
			t.Fatalf("%v, %v", e.Findings, err)
		}
		return changed
	}
	held := count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call`)
	histories := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE object = 'service_call'`)
	changed := strings.Join(rename("service_call", "call_out"), " ")
	for _, want := range []string{"object/call_out", "object/visit", "object/quote", "role/dispatcher",
		"role/owners_desk", "walkthrough/report_a_fault"} {
		if !strings.Contains(changed, want) {
			t.Errorf("%s did not follow: %s", want, changed)
		}
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.call_out`); n != held {
		t.Errorf("%d records, %d before", n, held)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE object = plainpath.history_name('liftcare_trial.call_out')`); n != histories {
		t.Errorf("%d histories, %d before", n, histories)
	}
	if n := count(t, o.db, `SELECT count(*) FROM pg_class WHERE relnamespace = 'liftcare_trial'::regnamespace AND relname LIKE 'service_call%' AND relname <> 'service_call_id_seq' AND relname <> 'service_call_pkey'`); n != 0 {
		t.Errorf("%d things are still called after the old key", n)
	}
	form, err := o.save("call_out", 0,
		`{"lift":{"id":1},"problem":"Squeaks","opened":"2026-11-25T08:00:00Z","priority":"normal"}`, "")
	if err != nil || form.ID == 0 {
		t.Fatalf("%+v, %v", form, err)
	}
	p, err := drafts.PreviewRelease(t.Context(), o.db, demo.App, 0)
	if err != nil || !strings.Contains(fmt.Sprint(p.Changes), "The table service_call is renamed to call_out.") ||
		strings.Contains(fmt.Sprint(p.Changes), "hidden, not lost") {
		t.Fatalf("%+v, %v", p.Changes, err)
	}
	if _, err := drafts.Release(t.Context(), o.db, demo.App, bo, drafts.Releasing{Previewed: p.Version}); err != nil {
		t.Fatal(err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_production.call_out`); n != held {
		t.Errorf("production has %d records", n)
	}
	undone := documents.Edit{App: demo.App, Kind: definition.Object, Key: "call_out", Person: bo}
	back, err := drafts.Undo(t.Context(), o.db, undone)
	if err != nil || back.Key != "service_call" {
		t.Fatalf("%+v, %v", back, err)
	}
	undone.Key = "service_call"
	if again, err := drafts.Redo(t.Context(), o.db, undone); err != nil || again.Key != "call_out" {
		t.Fatalf("%+v, %v", again, err)
	}
	rename("call_out", "service_call")
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call`); n != held+1 {
		t.Errorf("%d records came back", n)
	}
	for _, key := range []string{"lift", "building", "customer", "engineer"} {
		rename(key, key+"_x")
		rename(key+"_x", key)
	}
	if _, err := drafts.RenameObject(t.Context(), o.db, demo.App, "lift", "building", bo); err == nil {
		t.Error("two objects have one key")
	}
}

// A value of a choice gets another key: stored records and everything that names it
// follow, undone and done again.
func TestAChoicesNewKeyMovesItsRecords(t *testing.T) {
	o := newOffice(t)
	held := count(t, o.db, `SELECT count(*) FROM liftcare_trial.certificate WHERE kind = 'hydraulics'`)
	changed, err := drafts.RenameChoice(t.Context(), o.db, demo.App, "certificate", "kind", "hydraulics", "oil_work",
		o.place.Person)
	if err != nil || held == 0 {
		t.Fatal(held, err)
	}
	if !strings.Contains(strings.Join(changed, " "), "object/certificate") {
		t.Error(changed)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.certificate WHERE kind = 'oil_work'`); n != held {
		t.Errorf("%d records, %d before", n, held)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE object = 'certificate' AND action = 'change'`); n != 0 {
		t.Errorf("the history has %d changes that nobody made", n)
	}
	// One undo takes all of it back, in the candidate rule of the service call too; not
	// when somebody wrote the new name meanwhile where it would be left behind.
	mine := documents.Edit{App: demo.App, Kind: definition.Object, Key: "certificate", Person: o.place.Person}
	rule := func(body string) {
		t.Helper()
		d, err := documents.Document(t.Context(), o.db, demo.App, definition.Object, "certificate")
		if err != nil {
			t.Fatal(err)
		}
		ask := documents.Edit{App: demo.App, Kind: d.Kind, Key: d.Key, Person: personID(t, o.db, "dana"),
			Change: edit.Change{Base: d.Revision,
				Patch: edit.Patch{{Op: "add", Path: "/rules", Value: json.RawMessage(body)}}}}
		if _, err := drafts.Apply(t.Context(), o.db, ask); err != nil {
			t.Fatal(err)
		}
	}
	rule(`[{"expression":"kind == \"oil_work\" || kind != \"oil_work\"","message":"never"}]`)
	if _, err := drafts.Undo(t.Context(), o.db, mine); err == nil || !strings.Contains(err.Error(), "oil_work") {
		t.Errorf("somebody's rule was left behind: %v", err)
	}
	rule(`[{"expression":"expires_on > issued_on","message":"a certificate expires after it is issued"}]`)
	if _, err := drafts.Undo(t.Context(), o.db, mine); err != nil {
		t.Fatal(err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.certificate WHERE kind = 'hydraulics'`); n != held {
		t.Errorf("%d records after taking it back, %d before", n, held)
	}
	if _, err := drafts.Redo(t.Context(), o.db, mine); err != nil {
		t.Fatal(err)
	}
	p, err := drafts.PreviewRelease(t.Context(), o.db, demo.App, 0)
	if err != nil || !strings.Contains(fmt.Sprint(p.Changes), "Stored values of Kind get their new keys.") {
		t.Fatalf("%+v, %v", p.Changes, err)
	}
	if _, err := drafts.Release(t.Context(), o.db, demo.App, o.place.Person,
		drafts.Releasing{Previewed: p.Version}); err != nil {
		t.Fatal(err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_production.certificate WHERE kind = 'oil_work'`); n != held {
		t.Errorf("production has %d records of the kind, want %d", n, held)
	}
}

// A document that is taken away can be brought back with its records; one that objects
// cannot do without stays.
func TestTakingDocumentsAwayAndBringingThemBack(t *testing.T) {
	o := newOffice(t)
	held := count(t, o.db, `SELECT count(*) FROM liftcare_trial.reminder`)
	rights := func() string {
		t.Helper()
		var out string
		if err := o.db.Get(&out, `SELECT coalesce(string_agg(key || (body->'objects'->'reminder')::text, ' ' ORDER BY key), '') FROM plainpath.document WHERE kind = 'role'`); err != nil {
			t.Fatal(err)
		}
		return out
	}
	before := rights()
	for kind, key := range map[definition.Kind]string{definition.Page: "my_day", definition.Object: "reminder"} {
		if err := drafts.RemoveDocument(t.Context(), o.db, demo.App, kind, key, o.place.Person); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := o.records.Form(t.Context(), o.place, "reminder", 1); err == nil {
		t.Error("its records are still there")
	}
	// Nothing is left that would keep a release back, and no right for the next of that key.
	if p, err := drafts.PreviewRelease(t.Context(), o.db, demo.App, 0); err != nil || len(p.Findings) > 0 ||
		rights() != "" || before == "" {
		t.Errorf("%+v, %v; rights %q, before %q", p.Findings, err, rights(), before)
	}
	gone, err := documents.RemovedDocuments(t.Context(), o.db, demo.App)
	if err != nil || len(gone) != 2 {
		t.Fatalf("%+v, %v", gone, err)
	}
	gone = slices.DeleteFunc(gone, func(d definition.Document) bool { return d.Key != "reminder" })
	err = drafts.AddDocument(t.Context(), o.db, demo.App, o.place.Person, definition.Document{Kind: definition.Object,
		Key: "reminder", Body: gone[0].Body})
	if err == nil || !strings.Contains(err.Error(), "bring it back") {
		t.Error(err)
	}
	if err := drafts.RestoreDocument(t.Context(), o.db, demo.App, definition.Object, "reminder",
		o.place.Person); err != nil {
		t.Fatal(err)
	}
	if _, err := o.records.Form(t.Context(), o.place, "reminder", 1); err != nil ||
		count(t, o.db, `SELECT count(*) FROM liftcare_trial.reminder`) != held {
		t.Errorf("not all of it came back: %v", err)
	}
	if now := rights(); now != before {
		t.Errorf("rights %s, before %s", now, before)
	}
	if err := drafts.RemoveDocument(t.Context(), o.db, demo.App, definition.Object, "lift",
		o.place.Person); err == nil {
		t.Error("what others refer to was taken away")
	}
	if err := drafts.RemoveDocument(t.Context(), o.db, demo.App, definition.App, demo.App, o.place.Person); err == nil {
		t.Error("the app was taken away")
	}
	if err := drafts.RestoreDocument(t.Context(), o.db, demo.App, definition.Object, "reminder",
		o.place.Person); err == nil {
		t.Error("what is there was brought back")
	}
}

// The keys that an object and its fields had before go on to lead to it, in addresses and in
// what is sent by those who opened it before.
func TestEarlierKeysLeadOn(t *testing.T) {
	db := testdb.New(t)
	bo := personID(t, db, "bo")
	place := postgres.Caller{App: demo.App, Space: postgres.Trial, Person: bo}
	repositories := &repository.Repositories{DB: db, Editions: documents.NewEditions(db)}
	tables := &pgtables.Tables{Repositories: repositories}
	before, err := documents.Document(t.Context(), db, demo.App, definition.Object, "lift")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := drafts.RenameField(t.Context(), db, demo.App, "lift", "model", "make", bo); err != nil {
		t.Fatal(err)
	}
	if _, err := drafts.RenameObject(t.Context(), db, demo.App, "lift", "hoist", bo); err != nil {
		t.Fatal(err)
	}
	if v, err := repositories.Record(t.Context(), place, "lift", 5); err != nil || v.Object != "hoist" {
		t.Errorf("the record: %s, %v", v.Object, err)
	}
	saving := records.Saving{Values: map[string]json.RawMessage{"model": json.RawMessage(`"Tarn 7"`)}}
	if _, err := repositories.Save(t.Context(), place, "lift", 5, saving); err != nil ||
		count(t, db, `SELECT count(*) FROM liftcare_trial.hoist WHERE id = 5 AND make = 'Tarn 7'`) != 1 {
		t.Errorf("saving by the earlier keys: %v", err)
	}
	saving.Before = map[string]json.RawMessage{"model": json.RawMessage(`"another"`)}
	var meanwhile *records.MeanwhileError
	saving.Values["model"] = json.RawMessage(`"Tarn 8"`)
	if _, err := repositories.Save(t.Context(), place, "lift", 5, saving); !errors.As(err, &meanwhile) {
		t.Errorf("what somebody saw by the earlier key is not compared: %v", err)
	}
	look := table.Look{Columns: []table.Column{{Path: "model"}}, Order: []table.LookOrder{{Path: "model"}},
		Filter: []predicate.Condition{{Field: "model", Op: predicate.Is,
			Value: &predicate.Operand{Literal: json.RawMessage(`"Tarn 7"`)}}}}
	if rows, err := tables.Rows(t.Context(), place, pgtables.TableAt{Object: "lift"}, look, nil); err != nil ||
		len(rows.Rows) != 1 || rows.Rows[0].ID != 5 {
		t.Errorf("the table: %+v, %v", rows, err)
	}
	d, err := drafts.Apply(t.Context(), db, documents.Edit{App: demo.App, Kind: definition.Object, Key: "lift",
		Person: bo,
		Change: edit.Change{Base: before.Revision,
			Patch: edit.Patch{{Op: "replace", Path: "/label", Value: json.RawMessage(`"Hoist"`)}}}})
	if err != nil || d.Key != "hoist" || !strings.Contains(string(d.Body), `"Hoist"`) {
		t.Errorf("an edit sent to the earlier key: %s %v", d.Key, err)
	}
	if _, err := drafts.Undo(t.Context(), db, documents.Edit{App: demo.App, Kind: definition.Object, Key: "lift",
		Person: bo}); err != nil {
		t.Errorf("undoing it: %v", err)
	}
}
