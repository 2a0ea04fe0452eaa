package postgres_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/schema"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/demo"
	"plainpath/testdb"
)

// An earlier release is put in force again in one step, whatever got other keys since: the
// tables go back, and no value is lost.
func TestGoingBackToAnEarlierRelease(t *testing.T) {
	db := testdb.New(t)
	bo := personID(t, db, "bo")
	const sum = `SELECT md5(string_agg(%[2]s || ' ' || coalesce(%[3]s, ''), ',' ORDER BY id)) FROM liftcare_production.%[1]s`
	digest := func(table, serial, model string) string {
		t.Helper()
		var out string
		if err := db.Get(&out, fmt.Sprintf(sum, table, serial, model)); err != nil {
			t.Fatal(err)
		}
		return out
	}
	before := digest("lift", "serial_number", "model")
	for _, err := range []error{
		func() error {
			_, err := drafts.RenameField(t.Context(), db, demo.App, "lift", "model", "make", bo)
			return err
		}(),
		func() error {
			_, err := drafts.RenameObject(t.Context(), db, demo.App, "lift", "hoist", bo)
			return err
		}(),
	} {
		if err != nil {
			t.Fatal(err)
		}
	}
	release := func(of int) drafts.Preview {
		t.Helper()
		p, err := drafts.PreviewRelease(t.Context(), db, demo.App, of)
		if err != nil || len(p.Obstacles) > 0 {
			t.Fatalf("%+v, %v", p.Obstacles, err)
		}
		if _, err := drafts.Release(t.Context(), db, demo.App, bo,
			drafts.Releasing{Of: of, Previewed: p.Version}); err != nil {
			t.Fatal(err)
		}
		return p
	}
	p := release(0)
	for _, c := range p.Changes {
		if strings.HasPrefix(c.Document, "object/") && len(c.Roles) == 0 {
			t.Errorf("%s changes for nobody", c.Label)
		}
	}
	if digest("hoist", "serial_number", "make") != before {
		t.Error("values were lost on the way")
	}
	back := release(1)
	if back.Number != 3 || len(back.Changes) == 0 || digest("lift", "serial_number", "model") != before {
		t.Errorf("going back: %+v", back)
	}
	if n := count(t, db, `SELECT count(*) FROM information_schema.tables WHERE table_schema = 'liftcare_production' AND table_name = 'hoist'`); n != 0 {
		t.Error("the newer table is still there")
	}
	release(0)
	if digest("hoist", "serial_number", "make") != before {
		t.Error("values were lost on the way forward again")
	}
}

// What was taken away is hidden with its values, and dropped for good only by a release in which
// that was confirmed; then the key is free.
func TestDroppingForGood(t *testing.T) {
	db := testdb.New(t)
	bo := personID(t, db, "bo")
	d, err := documents.Document(t.Context(), db, demo.App, definition.Object, "customer")
	if err != nil {
		t.Fatal(err)
	}
	var o struct{ Fields []struct{ Key string } }
	if err := json.Unmarshal(d.Body, &o); err != nil {
		t.Fatal(err)
	}
	n := slices.IndexFunc(o.Fields, func(f struct{ Key string }) bool { return f.Key == "notes" })
	if _, err := drafts.Apply(t.Context(), db, documents.Edit{App: demo.App, Kind: d.Kind, Key: d.Key, Person: bo,
		Change: edit.Change{Base: d.Revision,
			Patch: edit.Patch{{Op: "remove", Path: fmt.Sprintf("/fields/%d", n)}}}}); err != nil {
		t.Fatal(err)
	}
	for kind, key := range map[definition.Kind]string{definition.Page: "my_day", definition.Object: "reminder"} {
		if err := drafts.RemoveDocument(t.Context(), db, demo.App, kind, key, bo); err != nil {
			t.Fatal(err)
		}
	}
	db.MustExec(`UPDATE liftcare_trial.customer SET notes = 'Call' WHERE id < 4`)
	db.MustExec(`UPDATE liftcare_production.customer SET notes = 'Call first' WHERE id < 8`)
	limits := int64(count(t, db, `SELECT count(notes) FROM liftcare_production.customer`))
	reminders := int64(count(t, db, `SELECT count(*) FROM liftcare_production.reminder`))
	now, err := schema.ListHidden(t.Context(), db, demo.App)
	if err != nil || len(now) != 2 || now[0].Field != "notes" || now[0].Trial == 0 || now[0].Production != 0 ||
		now[1].Object != "reminder" {
		t.Fatalf("before the release: %+v, %v", now, err)
	}
	// Many may ask at once, with fewer connections.
	soon, done := context.WithTimeout(t.Context(), 2*time.Minute)
	defer done()
	answers := make(chan error, 16)
	for range cap(answers) {
		go func() {
			_, err := schema.ListHidden(soon, db, demo.App)
			answers <- err
		}()
	}
	for range cap(answers) {
		if err := <-answers; err != nil {
			t.Fatal(err)
		}
	}
	p, err := drafts.PreviewRelease(t.Context(), db, demo.App, 0)
	if err != nil || len(p.Hidden) != 2 || p.Hidden[0].Production != limits || p.Hidden[1].Production != reminders ||
		p.Hidden[1].Label != "Reminders" || limits == 0 {
		t.Fatalf("the preview: %+v, %v", p.Hidden, err)
	}
	if _, err := drafts.Release(t.Context(), db, demo.App, bo, drafts.Releasing{Previewed: p.Version}); err != nil {
		t.Fatal(err)
	}
	if int64(count(t, db, `SELECT count(notes) FROM liftcare_production.customer`)) != limits {
		t.Error("a release that confirmed nothing dropped values")
	}
	fresh := definition.Document{Kind: definition.Object, Key: "reminder",
		Body: json.RawMessage(`{"key":"reminder","label":"Nudge","plural":"Nudges","label_field":"text","fields":[{"key":"text","label":"Text","type":"text","required":true}]}`)}
	if err := drafts.AddDocument(t.Context(), db, demo.App, bo, fresh); err == nil {
		t.Error("the key of what is hidden was given away")
	}
	var rejected *postgres.RejectedError
	p, err = drafts.PreviewRelease(t.Context(), db, demo.App, 0)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := drafts.Release(t.Context(), db, demo.App, bo,
		drafts.Releasing{Previewed: p.Version, Drops: []schema.Drop{{Object: "lift"}}}); !errors.As(err, &rejected) {
		t.Errorf("what is shown was dropped: %v", err)
	}
	if _, err := drafts.Release(t.Context(), db, demo.App, bo, drafts.Releasing{Previewed: p.Version, Note: "Gone",
		Drops: []schema.Drop{{Object: "customer", Field: "notes"}, {Object: "reminder"}}}); err != nil {
		t.Fatal(err)
	}
	if n := count(t, db, `SELECT count(*) FROM information_schema.columns WHERE table_schema LIKE 'liftcare%' AND (table_name = 'reminder' OR table_name = 'customer' AND column_name = 'notes')`); n != 0 {
		t.Errorf("%d columns are left", n)
	}
	if now, err := schema.ListHidden(t.Context(), db, demo.App); err != nil || len(now) != 0 {
		t.Errorf("afterwards: %+v, %v", now, err)
	}
	if err := drafts.AddDocument(t.Context(), db, demo.App, bo, fresh); err != nil {
		t.Errorf("the key is not free: %v", err)
	}
}
