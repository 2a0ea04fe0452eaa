package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	repository "plainpath/postgres/repository"
	"plainpath/postgres/schema"
	"plainpath/postgres/sqlgen"
	"plainpath/testdb"
)

// lifts edits the object of lifts; the first two lifts hold what the cases say.
func lifts(t *testing.T) (editor, *postgres.DB) {
	t.Helper()
	db := testdb.New(t)
	bo := editor{t, db, "object", "lift", personID(t, db, "bo")}
	bo.must(1, op("add", "/fields/-", `{"key":"note","label":"Note","type":"text"}`))
	return bo, db
}

func obstacles(t *testing.T, err error) []schema.Obstacle {
	t.Helper()
	var e *schema.ObstacleError
	if !errors.As(err, &e) {
		t.Fatalf("%v, want records in the way", err)
	}
	return e.Obstacles
}

func TestStoredRecordsInTheWayAreListed(t *testing.T) {
	bo, db := lifts(t)
	for _, c := range []struct {
		name, first, second string
		ops                 []definition.Op
		rule                string
		count               int64
		value, reason       string
	}{
		{"required with empties", "'a'", "NULL", []definition.Op{op("add", "/fields/9/required", "true")}, "required",
			399, "null", ""},
		{"unique with doubles", "'a'", "'a'", []definition.Op{op("add", "/fields/9/unique", "true")}, "unique", 2,
			`"a"`, ""},
		{"shorter text", "'abcdef'", "'ab'", []definition.Op{op("add", "/fields/9/most", "3")}, "value", 1, `"abcdef"`,
			"at most 3"},
		{"text that is no number", "'12'", "'twelve'",
			[]definition.Op{op("replace", "/fields/9/type", `"whole_number"`)}, "value", 1, `"twelve"`,
			"would not come back"},
		{"text that is no address", "'a@b.example'", "'nobody'",
			[]definition.Op{op("replace", "/fields/9/type", `"email"`)}, "value", 1, `"nobody"`, "not an e-mail"},
		{"a new field that must be filled", "NULL", "NULL",
			[]definition.Op{op("add", "/fields/-",
				`{"key":"load","label":"Load","type":"whole_number","required":true}`)}, "required", 400, "null", ""},
		{"a choice that records hold", "NULL", "NULL", []definition.Op{op("remove", "/fields/7/choices/1", "")},
			"value", 0, "", "choose one"},
	} {
		t.Run(c.name, func(t *testing.T) {
			bo.t = t
			if _, err := db.Exec(fmt.Sprintf(`UPDATE liftcare_trial.lift SET note = CASE id WHEN 1 THEN %s WHEN 2 THEN %s END`, c.first, c.second)); err != nil {
				t.Fatal(err)
			}
			d, err := documents.Document(t.Context(), db, demo.App, "object", "lift")
			if err != nil {
				t.Fatal(err)
			}
			_, err = bo.edit(d.Revision, "", c.ops...)
			found := obstacles(t, err)
			if len(found) != 1 || found[0].Rule != c.rule || c.count > 0 && found[0].Count != c.count {
				t.Fatalf("%+v", found)
			}
			first := found[0].Records[0]
			if c.value != "" && first.Value != c.value || !strings.Contains(first.Reason, c.reason) ||
				first.Label == "" || first.ID == 0 {
				t.Errorf("the first record in the way is %+v", first)
			}
			if after, err := documents.Document(t.Context(), db, demo.App, "object", "lift"); err != nil ||
				after.Revision != d.Revision {
				t.Errorf("the draft moved to revision %d, %v", after.Revision, err)
			}
		})
	}
	// In production the same is said before a release, and there is none until it is mended.
	if _, err := db.Exec(`UPDATE liftcare_trial.lift SET label = 'L' WHERE label IS NULL`); err != nil {
		t.Fatal(err)
	}
	bo.t = t
	d := bo.must(2, op("add", "/fields/1/required", "true"))
	p, err := drafts.PreviewRelease(t.Context(), db, demo.App, 0)
	if err != nil || len(p.Obstacles) != 1 || p.Obstacles[0].Field != "label" || int(p.Obstacles[0].Count) != count(t,
		db, `SELECT count(*) FROM liftcare_production.lift WHERE label IS NULL`) {
		t.Fatalf("preview %+v, %v", p.Obstacles, err)
	}
	_, err = drafts.Release(t.Context(), db, demo.App, bo.person, drafts.Releasing{Previewed: p.Version})
	obstacles(t, err)
	if _, err := db.Exec(`UPDATE liftcare_production.lift SET label = 'L' WHERE label IS NULL`); err != nil {
		t.Fatal(err)
	}
	if _, err := drafts.Release(t.Context(), db, demo.App, bo.person,
		drafts.Releasing{Previewed: p.Version}); err != nil {
		t.Errorf("after mending revision %d: %v", d.Revision, err)
	}
}

// A field changes its type where nothing is lost, what is worked out from it follows,
// and undo brings everything back.
func TestTypesConvert(t *testing.T) {
	bo, db := lifts(t)
	if _, err := db.Exec(`UPDATE liftcare_trial.lift SET note = CASE id % 3 WHEN 0 THEN (id * 2)::text WHEN 1 THEN '0' END`); err != nil {
		t.Fatal(err)
	}
	before := count(t, db, `SELECT count(*) FROM liftcare_trial.history`)
	bo.must(2, op("add", "/fields/-",
		`{"key":"shown","label":"Shown","type":"worked_out","result":"text","expression":"note + \"!\""}`))
	bo.must(3, op("replace", "/fields/9/type", `"whole_number"`), op("replace", "/fields/10/result", `"whole_number"`),
		op("replace", "/fields/10/expression", `"note + 1"`))
	shown := written(t, db, "lift", "shown")
	if n := count(t, db, `SELECT count(*) FROM liftcare_trial.lift t WHERE (id % 3 = 0 AND note = id * 2 AND `+shown+` = id * 2 + 1) OR (id % 3 = 1 AND note = 0) OR (id % 3 = 2 AND note IS NULL AND `+shown+` IS NULL)`); n != 400 {
		t.Errorf("%d of 400 lifts converted rightly", n)
	}
	bo.must(4, op("replace", "/fields/9/type", `"money"`), op("remove", "/fields/10", ""))
	if n := count(t, db, `SELECT count(*) FROM liftcare_trial.lift WHERE note = id * 2 AND note_currency = 'EUR'`); n != 133 {
		t.Errorf("%d of 133 lifts hold an amount", n)
	}
	for range 2 {
		if _, err := bo.back(func(e documents.Edit) (definition.Document, error) {
			return drafts.Undo(t.Context(), db,
				e)
		}); err != nil {
			t.Fatal(err)
		}
	}
	if n := count(t, db, `SELECT count(*) FROM liftcare_trial.lift t WHERE (id % 3 = 0 AND note = (id * 2)::text AND `+written(t, db, "lift", "shown")+` = note || '!') OR (id % 3 = 1 AND note = '0') OR (id % 3 = 2 AND note IS NULL)`); n != 400 {
		t.Errorf("after undoing both %d of 400 lifts are as they were", n)
	}
	if after := count(t, db, `SELECT count(*) FROM liftcare_trial.history`); after != before {
		t.Errorf("converting wrote %d lines of history", after-before)
	}
	// A new required field gives its default to the records there are.
	bo.must(7, op("add", "/fields/-",
		`{"key":"load","label":"Load","type":"whole_number","required":true,"default":630}`))
	if n := count(t, db, `SELECT count(*) FROM liftcare_trial.lift WHERE load = 630`); n != 400 {
		t.Errorf("%d of 400 lifts have the default", n)
	}
}

// A record rule that stored records break is refused with them; one they keep holds from
// then on. The demo's own records keep the demo's rules.
func TestRecordRulesOfStoredRecords(t *testing.T) {
	bo, db := lifts(t)
	short := count(t, db, `SELECT count(*) FROM liftcare_trial.lift WHERE NOT coalesce(stops > 5, false)`)
	_, err := bo.edit(2, "", op("add", "/rules", `[{"expression":"stops > 5","message":"too low"}]`))
	if o := obstacles(t, err); len(o) != 1 || o[0].Rule != "rule" || o[0].Count != int64(short) ||
		o[0].Records[0].Reason != "too low" || !strings.HasPrefix(o[0].Records[0].Label, "QL-") {
		t.Errorf("%+v", o)
	}
	bo.must(2, op("add", "/rules", `[{"expression":"empty(stops) || stops > 1","message":"too low"}]`))
	for object, revision := range map[string]int{"contract": 1, "certificate": 1, "badge": 1} {
		if _, err := db.Exec(`COMMENT ON TABLE liftcare_trial.` + object + ` IS NULL`); err != nil {
			t.Fatal(err)
		}
		e := editor{t, db, "object", object, bo.person}
		e.must(revision, op("replace", "/plural", `"Papers"`))
	}
}

// All records in the way get one value together, with their history; then the change is
// made.
func TestRecordsInTheWayAreMendedTogether(t *testing.T) {
	bo, db := lifts(t)
	repositories := &repository.Repositories{DB: db, Editions: documents.NewEditions(db)}
	place := postgres.Caller{App: demo.App, Space: postgres.Trial, Person: personID(t, db, "bo")}
	if _, err := db.Exec(`UPDATE liftcare_trial.lift SET note = CASE WHEN id <= 3 THEN 'twelve' WHEN id <= 10 THEN '12' END`); err != nil {
		t.Fatal(err)
	}
	before := count(t, db, `SELECT count(*) FROM liftcare_trial.history WHERE cause->>'mending' IS NOT NULL`)
	revision := func() int {
		t.Helper()
		d, err := documents.Document(t.Context(), db, demo.App, "object", "lift")
		if err != nil {
			t.Fatal(err)
		}
		return d.Revision
	}
	mend := func(rule, value string, ops ...definition.Op) (int64, error) {
		return repositories.Mend(t.Context(), place,
			repository.Mending{Object: "lift", Change: edit.Change{Base: revision(), Patch: ops}, Field: "note",
				Rule: rule, Value: json.RawMessage(value)})
	}
	whole := op("replace", "/fields/9/type", `"whole_number"`)
	if n, err := mend("value", `"0"`, whole); err != nil || n != 3 {
		t.Fatalf("%d, %v", n, err)
	}
	bo.must(revision(), whole)
	needed := op("add", "/fields/9/required", "true")
	if n, err := mend("required", `7`, needed); err != nil || n != 390 {
		t.Fatalf("%d, %v", n, err)
	}
	bo.must(revision(), needed)
	for sql, want := range map[string]int{
		`SELECT count(*) FROM liftcare_trial.lift WHERE note = 0`:                         3,
		`SELECT count(*) FROM liftcare_trial.lift WHERE note = 12`:                        7,
		`SELECT count(*) FROM liftcare_trial.lift WHERE note = 7`:                         390,
		`SELECT count(*) FROM liftcare_trial.history WHERE cause->>'mending' IS NOT NULL`: before + 393,
	} {
		if n := count(t, db, sql); n != want {
			t.Errorf("%s: %d, want %d", sql, n, want)
		}
	}
	if _, err := mend("required", `7`, needed); err == nil || !strings.Contains(err.Error(), "any more") {
		t.Errorf("nothing is in the way: %v", err)
	}
	few := op("add", "/fields/9/most", "10")
	if _, err := mend("value", `"many"`, few); err == nil {
		t.Error("a value of another type was taken")
	}
	if _, err := repositories.Mend(t.Context(), place, repository.Mending{Object: "lift", Field: "serial_number",
		Rule:  "unique",
		Value: json.RawMessage(`"x"`)}); err == nil {
		t.Error("all got the same unique value")
	}
	place.Person = personID(t, db, "eskil")
	if _, err := mend("value", `1`, few); err == nil {
		t.Error("somebody without the right changed records")
	}
}

// A text becomes a reference to the records it names, where it names each of them alone; what
// does not is listed. Back again, the text is what it was.
func TestATextBecomesAReference(t *testing.T) {
	bo, db := lifts(t)
	if _, err := db.Exec(`UPDATE liftcare_trial.lift l SET note = (SELECT name FROM liftcare_trial.building WHERE id = 1 + l.id % 50) WHERE id > 10; UPDATE liftcare_trial.lift SET note = NULL WHERE id <= 10`); err != nil {
		t.Fatal(err)
	}
	const names = `SELECT coalesce(string_agg(id || ' ' || note, ',' ORDER BY id), '') FROM liftcare_trial.lift`
	var before, after string
	if err := db.Get(&before, names); err != nil {
		t.Fatal(err)
	}
	refer := []definition.Op{op("replace", "/fields/9/type", `"reference"`),
		op("add", "/fields/9/object", `"building"`)}
	if _, err := db.Exec(`UPDATE liftcare_trial.lift SET note = 'Nowhere House' WHERE id = 7`); err != nil {
		t.Fatal(err)
	}
	_, err := bo.edit(2, "", refer...)
	if found := obstacles(t, err); len(found) != 1 || found[0].Count != 1 || !strings.Contains(fmt.Sprint(found[0]),
		"Nowhere House") {
		t.Fatalf("%+v", found)
	}
	if _, err := db.Exec(`UPDATE liftcare_trial.lift SET note = NULL WHERE id = 7`); err != nil {
		t.Fatal(err)
	}
	bo.must(2, refer...)
	if n := count(t, db, `SELECT count(*) FROM liftcare_trial.lift WHERE note = 1 + id % 50`); n != 390 {
		t.Errorf("%d lifts refer to the building their text named", n)
	}
	if n := count(t, db, `SELECT count(*) FROM pg_constraint WHERE conname = 'lift.note.reference'`); n != 1 {
		t.Error("the database does not know it for a reference")
	}
	bo.must(3, op("replace", "/fields/9/type", `"text"`), definition.Op{Op: "remove", Path: "/fields/9/object"})
	if err := db.Get(&after, names); err != nil || after != before {
		t.Errorf("the texts are not what they were: %v\n%.300s\n%.300s", err, before, after)
	}
}

// written is the SQL of a field of the draft, of a record t.
func written(t *testing.T, db *postgres.DB, object, field string) string {
	t.Helper()
	e, err := documents.NewEditions(db).Draft(t.Context(), demo.App)
	if err != nil {
		t.Fatal(err)
	}
	o := e.Model.Object(object)
	sql, err := sqlgen.Space{Model: e.Model, Schema: demo.App + "_trial", Worked: e.WorkedOut}.Written(o,
		o.Field(field), "t")
	if err != nil {
		t.Fatal(err)
	}
	return sql
}
