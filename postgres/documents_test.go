package postgres_test

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	pgruns "plainpath/postgres/runs"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/demo"
	"plainpath/testdb"
)

// editor edits one document of the demo as one person.
type editor struct {
	t      *testing.T
	db     *postgres.DB
	kind   definition.Kind
	key    string
	person int64
}

func (e editor) edit(base int, request string, ops ...definition.Op) (definition.Document, error) {
	return drafts.Apply(e.t.Context(), e.db, documents.Edit{App: demo.App, Kind: e.kind, Key: e.key,
		Change: edit.Change{Base: base, Patch: edit.Patch(ops)}, Person: e.person, Request: request})
}

func (e editor) must(base int, ops ...definition.Op) definition.Document {
	e.t.Helper()
	d, err := e.edit(base, "", ops...)
	if err != nil {
		e.t.Fatal(err)
	}
	return d
}

func (e editor) back(work func(documents.Edit) (definition.Document, error)) (definition.Document, error) {
	return work(documents.Edit{App: demo.App, Kind: e.kind, Key: e.key, Person: e.person})
}

func op(kind, path, value string) definition.Op {
	o := definition.Op{Op: kind, Path: path}
	if value != "" {
		o.Value = json.RawMessage(value)
	}
	return o
}

func at(t *testing.T, d definition.Document, path ...string) string {
	t.Helper()
	var v any
	if err := json.Unmarshal(d.Body, &v); err != nil {
		t.Fatal(err)
	}
	for _, p := range path {
		switch x := v.(type) {
		case map[string]any:
			v = x[p]
		case []any:
			v = x[p[0]-'0']
		}
	}
	s, _ := v.(string)
	return s
}

func TestTwoBuildersAtOnce(t *testing.T) {
	db := testdb.New(t)
	bo := editor{t, db, definition.Walkthrough, "book_a_visit", personID(t, db, "bo")}
	mara := bo
	mara.person = personID(t, db, "mara")
	bo.must(1, op("add", "/label", `"Plan a visit"`))
	// Mara still looks at the first revision: another value merges, the same one asks.
	d := mara.must(1, op("add", "/note", `"Hers"`))
	if at(t, d, "label") != "Plan a visit" || at(t, d, "note") != "Hers" {
		t.Errorf("the edits did not merge: %s", d.Body)
	}
	var clash *edit.ClashError
	if _, err := mara.edit(1, "", op("add", "/label", `"Arrange a visit"`)); !errors.As(err, &clash) ||
		string(clash.Theirs) != `"Plan a visit"` || string(clash.Ours) != `"Arrange a visit"` {
		t.Errorf("both changed the label: %+v", err)
	}
	// A step put in before hers moves her edit along.
	bo.must(3, op("add", "/steps/0", `{"key":"hello","kind":"screen","title":"Hello","screen":{"bands":[]}}`))
	d = mara.must(3, op("replace", "/steps/0/title", `"What is it called?"`))
	if at(t, d, "steps", "0", "title") != "Hello" || at(t, d, "steps", "1", "title") != "What is it called?" {
		t.Errorf("her edit landed elsewhere: %s", d.Body)
	}
	// A step removed under her asks.
	bo.must(5, op("remove", "/steps/1", ""))
	if _, err := mara.edit(5, "", op("replace", "/steps/1/title", `"x"`)); !errors.As(err, &clash) {
		t.Errorf("the step was removed under her: %v", err)
	}
	// Bo undoes all he did; what Mara did elsewhere stays.
	for range 3 {
		if _, err := bo.back(func(e documents.Edit) (definition.Document, error) {
			return drafts.Undo(t.Context(), db,
				e)
		}); err != nil {
			t.Fatal(err)
		}
	}
	d, err := documents.Document(t.Context(), db, demo.App, definition.Walkthrough, "book_a_visit")
	if err != nil || at(t, d, "label") != "Book a visit" || at(t, d, "note") != "Hers" || at(t, d, "steps", "0",
		"title") != "What is it called?" {
		t.Errorf("after his undos: %s, %v", d.Body, err)
	}
}

func TestUndoAndRedoInAnyOrder(t *testing.T) {
	db := testdb.New(t)
	bo := editor{t, db, definition.Walkthrough, "book_a_visit", personID(t, db, "bo")}
	undo := func(e documents.Edit) (definition.Document, error) { return drafts.Undo(t.Context(), db, e) }
	redo := func(e documents.Edit) (definition.Document, error) { return drafts.Redo(t.Context(), db, e) }
	label := func() string {
		d, err := documents.Document(t.Context(), db, demo.App, bo.kind, bo.key)
		if err != nil {
			t.Fatal(err)
		}
		return at(t, d, "label")
	}
	for i, name := range []string{`"A"`, `"B"`, `"C"`} {
		bo.must(i+1, op("add", "/label", name))
	}
	for i, step := range []struct {
		do      func(documents.Edit) (definition.Document, error)
		want    string
		refused bool
	}{
		{undo, "B", false}, {undo, "A", false}, {redo, "B", false}, {undo, "A", false}, {redo, "B", false},
		{redo, "C", false},
		{redo, "C", true}, {undo, "B", false}, {undo, "A", false}, {undo, "Book a visit", false},
		{undo, "Book a visit", true},
		{redo, "A", false}, {redo, "B", false},
	} {
		_, err := bo.back(step.do)
		var rejected *postgres.RejectedError
		if errors.As(err, &rejected) != step.refused || err != nil && !step.refused || label() != step.want {
			t.Fatalf("step %d gives %q, %v; want %q", i, label(), err, step.want)
		}
	}
	d, err := bo.edit(100, "once", op("add", "/label", `"D"`))
	if err != nil {
		t.Fatal(err)
	}
	again, err := bo.edit(100, "once", op("add", "/label", `"D"`))
	if err != nil || again.Revision != d.Revision {
		t.Errorf("the same request made revision %d of %d, %v", again.Revision, d.Revision, err)
	}
	if _, err := bo.back(redo); err == nil {
		t.Error("a new edit leaves nothing to redo")
	}
	if _, err := bo.edit(d.Revision, "", op("replace", "/key", `"other"`)); err == nil || !strings.Contains(err.Error(),
		"calls itself") {
		t.Errorf("the key of a document was changed: %v", err)
	}
}

func TestTablesFollowTheDraftAndTheRelease(t *testing.T) {
	db := testdb.New(t)
	bo := editor{t, db, definition.Object, "lift", personID(t, db, "bo")}
	columns := func(schema, column string) int {
		return count(t, db, `SELECT count(*) FROM information_schema.columns WHERE table_schema = $1 AND table_name = 'lift' AND column_name = $2`, schema, column)
	}
	bo.must(1, op("add", "/fields/-", `{"key":"load","label":"Load","type":"whole_number","least":100}`))
	if columns("liftcare_trial", "load") != 1 || columns("liftcare_production", "load") != 0 {
		t.Error("trial follows the draft at once, production does not")
	}
	if _, err := db.Exec(`UPDATE liftcare_trial.lift SET load = 50 WHERE id = 1`); err == nil {
		t.Error("the limit of the field does not hold in the database")
	}
	if _, err := db.Exec(`UPDATE liftcare_trial.lift SET load = 630 WHERE id = 1`); err != nil {
		t.Fatal(err)
	}
	// What is removed is hidden: undo brings the values back.
	bo.must(2, op("remove", "/fields/9", ""))
	if _, err := bo.back(func(e documents.Edit) (definition.Document, error) {
		return drafts.Undo(t.Context(), db,
			e)
	}); err != nil {
		t.Fatal(err)
	}
	if n := count(t, db, `SELECT load FROM liftcare_trial.lift WHERE id = 1`); n != 630 {
		t.Errorf("after removing the field and undoing it the value is %d", n)
	}
	// A rule that stored records break is refused, and nothing is half done.
	var rejected *postgres.RejectedError
	_, err := bo.edit(4, "", op("add", "/fields/9/required", `true`))
	obstacles(t, err)
	var findings *documents.FindingsError
	if _, err := bo.edit(4, "", op("replace", "/label_field", `"nope"`)); !errors.As(err, &findings) ||
		!strings.Contains(err.Error(), "not a field") {
		t.Errorf("a label that is no field: %v", err)
	}
	// Worked out when it is read, in an index of its own, which is made anew when the expression changes.
	bo.must(4, op("add", "/fields/-",
		`{"key":"shown","label":"Shown","type":"worked_out","result":"text","expression":"serial_number + \"!\""}`))
	bo.must(5, op("replace", "/fields/10/expression", `"serial_number + \" (\" + either(label, \"no label\") + \")\""`))
	if n := count(t, db, `SELECT count(*) FROM liftcare_trial.lift t WHERE `+written(t, db, "lift",
		"shown")+` = serial_number || ' (' || coalesce(label, 'no label') || ')'`); n != 400 {
		t.Errorf("the worked-out field is right for %d of 400", n)
	}
	if n := count(t, db, `SELECT count(*) FROM pg_indexes WHERE indexname = 'lift.shown.folded' AND indexdef LIKE '%no label%'`); n != 1 {
		t.Errorf("%d indexes have it", n)
	}

	p, err := drafts.PreviewRelease(t.Context(), db, demo.App, 0)
	if err != nil || len(p.Changes) != 1 || len(p.Changes[0].Stored) != 2 || p.Number != 2 {
		t.Fatalf("preview: %+v, %v", p, err)
	}
	if columns("liftcare_production", "load") != 0 {
		t.Error("looking at a release changed production")
	}
	bo.must(6, op("replace", "/label", `"Elevator"`))
	if _, err := drafts.Release(t.Context(), db, demo.App, bo.person,
		drafts.Releasing{Previewed: p.Version}); !errors.As(err, &rejected) ||
		!strings.Contains(err.Error(), "has changed since") {
		t.Errorf("the draft changed after the preview: %v", err)
	}
	if p, err = drafts.PreviewRelease(t.Context(), db, demo.App, 0); err != nil {
		t.Fatal(err)
	}
	if number, err := drafts.Release(t.Context(), db, demo.App, bo.person,
		drafts.Releasing{Previewed: p.Version, Note: "Loads"}); err != nil ||
		number != 2 || columns("liftcare_production", "load") != 1 {
		t.Errorf("release %d, %v", number, err)
	}
	if _, err := drafts.Release(t.Context(), db, demo.App, bo.person,
		drafts.Releasing{Previewed: p.Version}); !errors.As(err, &rejected) {
		t.Errorf("released twice: %v", err)
	}
}

// A draft with a stop is not released, and a run goes on by the release it began on.
func TestReleasesAndRunsUnderWay(t *testing.T) {
	db := testdb.New(t)
	runs := &pgruns.Runs{DB: db, Editions: documents.NewEditions(db)}
	bo := editor{t, db, definition.Walkthrough, "report_a_fault", personID(t, db, "bo")}
	dana := personID(t, db, "dana")
	run, err := runs.Start(t.Context(), demo.App, "report_a_fault", nil, dana, "")
	if err != nil {
		t.Fatal(err)
	}
	bo.must(1, op("replace", "/steps/3/finish/message", `"Thanks, {nobody}."`))
	p, err := drafts.PreviewRelease(t.Context(), db, demo.App, 0)
	if err != nil {
		t.Fatal(err)
	}
	var rejected *postgres.RejectedError
	if _, err := drafts.Release(t.Context(), db, demo.App, bo.person,
		drafts.Releasing{Previewed: p.Version}); !errors.As(err, &rejected) ||
		!strings.Contains(err.Error(), "findings") {
		t.Errorf("a draft with a stop: %v", err)
	}
	bo.must(2, op("replace", "/steps/3/finish/message", `"Reported by {person.name}."`))
	if p, err = drafts.PreviewRelease(t.Context(), db, demo.App, 0); err != nil {
		t.Fatal(err)
	}
	if _, err := drafts.Release(t.Context(), db, demo.App, bo.person,
		drafts.Releasing{Previewed: p.Version}); err != nil {
		t.Fatal(err)
	}
	finish := func(run pgruns.Run) string {
		t.Helper()
		done, err := runs.Answer(t.Context(), run.ID, dana, run.Revision, "", "fault",
			answers(t, "lift", map[string]any{"id": 9}, "problem", "Hums", "priority", "low"))
		if err != nil {
			t.Fatal(err)
		}
		return done.View.Message.String()
	}
	if got := finish(run); !strings.HasPrefix(got, "Thank you") {
		t.Errorf("the run begun before the release says %q", got)
	}
	later, err := runs.Start(t.Context(), demo.App, "report_a_fault", nil, dana, "")
	if err != nil {
		t.Fatal(err)
	}
	if got := finish(later); got != "Reported by Dana Merrowdale." {
		t.Errorf("the run begun after it says %q", got)
	}
	_, err = runs.Back(t.Context(), later.ID, dana, 2, "", "fault", nil)
	if err == nil || !strings.Contains(err.Error(),
		"records were written") {
		t.Errorf("back behind what was written: %v", err)
	}
}
