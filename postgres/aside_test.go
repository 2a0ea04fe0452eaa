package postgres_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/repository"
	"plainpath/postgres/schema"
)

// engineers makes very many of them in trial, with a note that no other has and the depot by name.
func engineers(t *testing.T) (*office, editor) {
	t.Helper()
	o := newOffice(t)
	bo := editor{t, o.db, "object", "engineer", personID(t, o.db, "bo")}
	bo.must(1, op("add", "/fields/-", `{"key":"note","label":"Note","type":"text"}`),
		op("add", "/fields/-", `{"key":"chief","label":"Chief","type":"text"}`))
	o.db.MustExec(`INSERT INTO liftcare_trial.engineer (first_name, last_name, depot, active, note) SELECT 'A', 'B' || n, 'varrow', true, 'N' || n FROM generate_series(1, 25000) n`)
	o.db.MustExec(`UPDATE liftcare_trial.engineer SET chief = (SELECT min(name) FROM liftcare_trial.customer) WHERE id % 3 = 0`)
	return o, bo
}

// place is where a field of the engineer stands in its definition.
func place(t *testing.T, db *postgres.DB, field string) string {
	t.Helper()
	return fmt.Sprintf("/fields/%d", count(t, db, `SELECT n - 1 FROM plainpath.document, jsonb_array_elements(body -> 'fields') WITH ORDINALITY f (field, n)
		WHERE kind = 'object' AND plainpath.document.key = 'engineer' AND field ->> 'key' = $1`, field))
}

// left is what is left of what was made ready.
func left(t *testing.T, db *postgres.DB) int {
	t.Helper()
	return count(t, db, `SELECT (SELECT count(*) FROM plainpath.readying) + (SELECT count(*) FROM pg_attribute WHERE attrelid = 'liftcare_trial.engineer'::regclass AND NOT attisdropped AND attname LIKE '.%')
		+ (SELECT count(*) FROM pg_trigger WHERE tgname LIKE '.%') + (SELECT count(*) FROM pg_class WHERE relname LIKE '.%') + (SELECT count(*) FROM pg_constraint WHERE conname LIKE '.%')
		+ (SELECT count(*) FROM pg_index i WHERE indisunique AND indrelid = 'liftcare_trial.engineer'::regclass AND NOT EXISTS (SELECT FROM pg_constraint WHERE conindid = indexrelid))
		+ (SELECT count(*) FROM pg_description WHERE description LIKE 'plainpath ready%')`)
}

// What must be looked through in many records is looked through before the table is changed: the
// change itself takes over an index, a reference and numbers that others made.
func TestRulesOverManyRecordsAreMadeReadyBefore(t *testing.T) {
	o, bo := engineers(t)
	bo.must(2, op("add", place(t, o.db, "note")+"/unique", "true"), op("replace", place(t, o.db, "chief")+"/type",
		`"reference"`), op("add", place(t, o.db, "chief")+"/object", `"customer"`),
		op("add", "/fields/-", `{"key":"badge","label":"Badge","type":"running_number","prefix":"B-"}`))
	// Made in transactions of their own, before that of the change, which made the column's comment.
	if n := count(t, o.db, `SELECT count(*) FROM pg_constraint k JOIN pg_index i ON i.indexrelid = k.conindid WHERE k.conname IN ('engineer.note.unique', 'engineer.badge.unique') AND k.xmin <> i.xmin`); n != 2 {
		t.Errorf("%d of 2 indexes were made before", n)
	}
	if n := count(t, o.db, `SELECT count(*) FROM pg_trigger g JOIN pg_constraint k ON k.oid = g.tgconstraint WHERE k.conname = 'engineer.chief.reference' AND k.convalidated AND g.xmin <> k.xmin`); n == 0 {
		t.Error("the reference was not made before")
	}
	if n := count(t, o.db, `SELECT count(DISTINCT badge) FROM liftcare_trial.engineer WHERE badge BETWEEN 1 AND (SELECT count(*) FROM liftcare_trial.engineer)`); n != count(t, o.db, `SELECT count(*) FROM liftcare_trial.engineer`) {
		t.Errorf("only %d badges are distinct", n)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.engineer e JOIN liftcare_trial.customer c ON c.id = e.chief WHERE c.name = (SELECT min(name) FROM liftcare_trial.customer)`); n != count(t, o.db, `SELECT count(*) FROM liftcare_trial.engineer WHERE id % 3 = 0`) {
		t.Errorf("%d references lead to the customer", n)
	}
	if n := left(t, o.db); n != 0 {
		t.Errorf("%d things are left of it", n)
	}
	// New records go on with the numbers.
	var badge int
	if err := o.db.Get(&badge,
		`INSERT INTO liftcare_trial.engineer (first_name, last_name, depot, active) VALUES ('C', 'D', 'varrow', true) RETURNING badge`); err != nil || badge != count(t, o.db, `SELECT count(*) FROM liftcare_trial.engineer`) {
		t.Errorf("the next badge is %d, %v", badge, err)
	}
	// They hold, and are told in words.
	_, err := o.save("engineer", 0, `{"first_name":"A","last_name":"B","depot":"varrow","note":"N7"}`, "")
	o.refused(err, "/note", "the same Note already")
	// A double is found before anything is made.
	bo.must(3, op("remove", place(t, o.db, "note")+"/unique", ""))
	o.db.MustExec(`UPDATE liftcare_trial.engineer SET note = 'N8' WHERE note = 'N7'`)
	_, err = bo.edit(4, "", op("add", place(t, o.db, "note")+"/unique", "true"))
	if found := obstacles(t, err); len(found) != 1 || found[0].Count != 2 {
		t.Errorf("in the way: %+v", found)
	}
	if n := left(t, o.db); n != 0 {
		t.Errorf("%d things are left of what was refused", n)
	}
}

// A change that is given up while it is made ready leaves nothing behind, and can be made again.
func TestAChangeGivenUpLeavesNothingReady(t *testing.T) {
	o, bo := engineers(t)
	ctx, giveUp := context.WithCancel(t.Context())
	go func() {
		for ctx.Err() == nil {
			if n, err := schema.Progress(ctx, o.db, demo.App); err == nil && len(n) > 0 {
				giveUp()
			}
		}
	}()
	patch := edit.Patch{op("replace", place(t, o.db, "chief")+"/type", `"reference"`),
		op("add", place(t, o.db, "chief")+"/object", `"customer"`)}
	_, err := drafts.Apply(ctx, o.db, documents.Edit{App: demo.App, Kind: "object", Key: "engineer", Person: bo.person,
		Change: edit.Change{Base: 2, Patch: patch}})
	// Whichever is first to say so: the client, or the server whose statement was ended.
	if code, _, _ := postgres.Violated(err); !errors.Is(err, context.Canceled) && code != "57014" {
		t.Fatalf("it was not given up: %v", err)
	}
	if n := left(t, o.db); n != 0 {
		t.Errorf("%d things are left of it", n)
	}
	// As a server leaves it that is killed; nothing of it holds anybody up for long.
	o.db.MustExec(`ALTER TABLE liftcare_trial.engineer ADD COLUMN ".chief.new" bigint, ADD CONSTRAINT ".chief.new reference" FOREIGN KEY (".chief.new") REFERENCES liftcare_trial.customer (id) NOT VALID`)
	o.db.MustExec(`CREATE TRIGGER ".chief.new" BEFORE UPDATE ON liftcare_trial.engineer FOR EACH ROW EXECUTE FUNCTION plainpath.not_ready('.chief.new'); CREATE UNIQUE INDEX "engineer.note.unique" ON liftcare_trial.engineer (note)`)
	if err := schema.DropLeftReady(t.Context(), o.db); err != nil || left(t, o.db) != 0 {
		t.Errorf("%d things are left of what was killed, %v", left(t, o.db), err)
	}
	bo.must(2, patch...)
	if n := count(t, o.db, `SELECT count(chief) FROM liftcare_trial.engineer WHERE pg_typeof(chief) = 'bigint'::regtype`); n < 8000 {
		t.Errorf("%d chiefs are references", n)
	}
}

// Looking what a release would do, and what is in the way of a change, waits for nobody and keeps
// nobody waiting, names that change included.
func TestLookingAheadLocksNothing(t *testing.T) {
	o := newOffice(t)
	bo := personID(t, o.db, "bo")
	lift := editor{t, o.db, "object", "lift", bo}
	_, object := drafts.RenameObject(t.Context(), o.db, demo.App, "customer", "client", bo)
	_, field := drafts.RenameField(t.Context(), o.db, demo.App, "lift", "installed_on", "stands_since", bo)
	if err := errors.Join(object, field); err != nil {
		t.Fatal(err)
	}
	d, err := documents.Document(t.Context(), o.db, demo.App, "object", "lift")
	if err != nil {
		t.Fatal(err)
	}
	tx, err := o.db.Beginx()
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = tx.Rollback() }()
	// somebody is in the middle of writing
	for _, table := range []string{"production.lift", "production.customer", "trial.lift", "trial.client"} {
		if _, err := tx.Exec(`UPDATE liftcare_` + table + ` SET changed_at = now() WHERE id = 5`); err != nil {
			t.Fatal(err)
		}
	}
	soon, done := context.WithTimeout(t.Context(), 20*time.Second)
	defer done()
	p, err := drafts.PreviewRelease(soon, o.db, demo.App, 0)
	if err != nil || len(p.Obstacles) != 0 || len(p.Changes) == 0 || len(p.Hidden) != 0 {
		t.Errorf("the preview: %+v, %v", p, err)
	}
	// One patch renames a field and makes it a rule that records break.
	_, err = drafts.Apply(soon, o.db, documents.Edit{App: demo.App, Kind: "object", Key: "lift", Person: bo,
		Change: edit.Change{Base: d.Revision, Patch: edit.Patch{
			op("replace", "/fields/3/key", `"make"`), op("add", "/fields/3/was", `["model"]`),
			op("add", "/fields/3/most", "2")}}})
	if err == nil || soon.Err() != nil {
		t.Fatalf("what is in the way was not said: %v", err)
	}
	found := obstacles(t, err)
	if len(found) != 1 || found[0].Field != "make" || found[0].Count != 347 || found[0].Records[0].Label == "" ||
		!strings.Contains(found[0].Records[0].Reason, "at most 2") {
		t.Errorf("%d are in the way: %+v", len(found), found[0].Records[0])
	}
	if err := tx.Rollback(); err != nil {
		t.Fatal(err)
	}
	lift.must(d.Revision, op("add", "/fields/3/most", "200"))
}

// A new name changes no line of the history, a record keeps its own, and the next object of a key
// begins with none.
func TestTheHistoryFollowsNewNames(t *testing.T) {
	o := newOffice(t)
	bo := personID(t, o.db, "bo")
	o.db.MustExec(`UPDATE liftcare_trial.customer SET notes = 'Call' WHERE id = 3`)
	lines := func() string {
		var out string
		if err := o.db.Get(&out, `SELECT md5(string_agg(h::text || xmin, ' ' ORDER BY id)) FROM liftcare_trial.history h`); err != nil {
			t.Fatal(err)
		}
		return out
	}
	history := func(object string, id int64) int {
		t.Helper()
		v, err := o.records.History(t.Context(), o.place, object, id, repository.HistoryAsk{})
		if err != nil {
			t.Fatal(err)
		}
		return len(v.Entries)
	}
	before, had := lines(), history("customer", 3)
	if _, err := drafts.RenameObject(t.Context(), o.db, demo.App, "customer", "client", bo); err != nil {
		t.Fatal(err)
	}
	if lines() != before {
		t.Error("a new name changed the history")
	}
	if n := history("client", 3); n != had || n < 2 {
		t.Errorf("%d of %d lines are there", n, had)
	}
	fresh := definition.Document{Kind: definition.Object, Key: "customer",
		Body: json.RawMessage(`{"key":"customer","label":"Customer","plural":"Customers","label_field":"name","fields":[{"key":"name","label":"Name","type":"text"}]}`)}
	if err := drafts.AddDocument(t.Context(), o.db, demo.App, bo, fresh); err != nil {
		t.Fatal(err)
	}
	o.db.MustExec(`UPDATE plainpath.document SET body = jsonb_set(body, '{objects,customer}', '{"see":true,"change":true}'), revision = revision + 1 WHERE kind = 'role' AND key = 'builder'`)
	o.db.MustExec(`INSERT INTO liftcare_trial.customer (id, name) VALUES (3, 'New')`)
	o.db.MustExec(`UPDATE liftcare_trial.client SET notes = 'Call twice' WHERE id = 3`)
	var names []string
	if err := o.db.Select(&names,
		`SELECT DISTINCT object FROM liftcare_trial.history WHERE object LIKE 'cust%' OR object LIKE 'cli%' ORDER BY 1`); err != nil || fmt.Sprint(names) != "[customer customer~2]" {
		t.Errorf("the history knows %v, %v", names, err)
	}
	if n := history("client", 3); n != had+1 {
		t.Errorf("%d lines of %d", n, had+1)
	}
	if n := history("customer", 3); n != 1 {
		t.Errorf("%d lines of the new object", n)
	}
}

// What others write while a change waits for its table is found by looking once more, and said in
// words.
func TestWhatIsWrittenMeanwhileIsFound(t *testing.T) {
	o := newOffice(t)
	bo := editor{t, o.db, "object", "engineer", personID(t, o.db, "bo")}
	bo.must(1, op("add", "/fields/-", `{"key":"note","label":"Note","type":"text"}`))
	tx, err := o.db.Beginx()
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = tx.Rollback() }()
	// nobody sees it yet
	if _, err := tx.Exec(`UPDATE liftcare_trial.engineer SET note = 'same' WHERE id < 4`); err != nil {
		t.Fatal(err)
	}
	refused := make(chan error, 1)
	go func() {
		_, err := bo.edit(2, "", op("add", place(t, o.db, "note")+"/unique", "true"))
		refused <- err
	}()
	for waits, deadline := false, time.Now().Add(time.Minute); !waits; time.Sleep(20 * time.Millisecond) {
		err := tx.Get(&waits, `SELECT count(*) > 0 FROM pg_locks WHERE NOT granted AND relation = 'liftcare_trial.engineer'::regclass AND database = (SELECT oid FROM pg_database WHERE datname = current_database())`)
		if err != nil || time.Now().After(deadline) {
			t.Fatalf("the change does not wait for the table: %v", err)
		}
	}
	if err := tx.Commit(); err != nil {
		t.Fatal(err)
	}
	if found := obstacles(t, <-refused); len(found) != 1 || found[0].Rule != "unique" || found[0].Count != 3 {
		t.Errorf("in the way: %+v", found)
	}
}

// Who changes a table gives way to those who are at it, and nobody waits behind: neither behind
// somebody who takes long to write, nor behind the change.
func TestNobodyWaitsBehindAChange(t *testing.T) {
	o := newOffice(t)
	o.db.SetMaxOpenConns(6)
	bo := editor{t, o.db, "object", "engineer", personID(t, o.db, "bo")}
	tx, err := o.db.Beginx()
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = tx.Rollback() }()
	// and goes on for long
	if _, err := tx.Exec(`UPDATE liftcare_trial.engineer SET phone = NULL WHERE id = 1`); err != nil {
		t.Fatal(err)
	}
	changed := make(chan error, 1)
	go func() {
		_, err := bo.edit(1, "", op("add", "/fields/-", `{"key":"note","label":"Note","type":"text","most":20}`))
		changed <- err
	}()
	soon, done := context.WithTimeout(t.Context(), 30*time.Second)
	defer done()
	for range 40 {
		var n int
		if err := o.db.GetContext(soon, &n, `SELECT count(*) FROM liftcare_trial.engineer`); err != nil {
			t.Fatalf("somebody who reads waits behind the change: %v", err)
		}
		if _, err := o.db.ExecContext(soon,
			`UPDATE liftcare_trial.engineer SET active = active WHERE id = 2`); err != nil {
			t.Fatalf("somebody who writes waits behind the change: %v", err)
		}
		time.Sleep(30 * time.Millisecond)
	}
	select {
	case err := <-changed:
		t.Fatalf("the change did not wait: %v", err)
	default:
	}
	if err := tx.Commit(); err != nil {
		t.Fatal(err)
	}
	if err := <-changed; err != nil {
		t.Errorf("the change was given up: %v", err)
	}
}
