package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/table"
	"plainpath/core/walk"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/runs"
	"plainpath/postgres/tables"
	"plainpath/testdb"
)

// rehearsing tries walkthroughs out on trial.
type rehearsing struct {
	t    *testing.T
	db   *postgres.DB
	runs *runs.Runs
	as   int64
}

func newRehearsing(t *testing.T, as string) *rehearsing {
	t.Helper()
	db := testdb.New(t)
	return &rehearsing{t, db, &runs.Runs{DB: db, Editions: documents.NewEditions(db)}, personID(t, db, as)}
}

// add adds a walkthrough of the given steps.
func (r *rehearsing) add(key, steps string) {
	r.t.Helper()
	body := fmt.Sprintf(`{"key":%q,"label":%q,"roles":["dispatcher"],"steps":[%s]}`, key, key, steps)
	if err := drafts.AddDocument(r.t.Context(), r.db, demo.App, personID(r.t, r.db, "bo"),
		definition.Document{Kind: definition.Walkthrough, Key: key, Body: json.RawMessage(body)}); err != nil {
		r.t.Fatal(err)
	}
}

func (r *rehearsing) play(key string, keep bool, recorded ...walk.Recorded) (runs.Rehearsed, error) {
	return r.runs.Rehearse(r.t.Context(), runs.Rehearsal{App: demo.App, Walkthrough: key, As: r.as, Recorded: recorded,
		Keep: keep}, nil)
}

// message is what the closing screen says when the first one is given a name.
func (r *rehearsing) message(key, name string) string {
	r.t.Helper()
	done, err := r.play(key, false, given(r.t, "ask", "name", name))
	if err != nil || done.View == nil {
		r.t.Fatalf("%s: %v", key, err)
	}
	return done.View.Message.String()
}

func (r *rehearsing) rows(key, part string, look table.Look, recorded ...walk.Recorded) table.RowsView {
	r.t.Helper()
	at := tables.TableAt{Rehearsal: &tables.RehearsalTable{Walkthrough: key, As: r.as, Recorded: recorded, Part: part}}
	rows, err := (&tables.Tables{Runs: r.runs}).Rows(r.t.Context(), postgres.Caller{App: demo.App,
		Space:  postgres.Trial,
		Person: r.as}, at, look, nil)
	if err != nil {
		r.t.Fatal(err)
	}
	return rows
}

func given(t *testing.T, screen string, pairs ...any) walk.Recorded {
	t.Helper()
	return walk.Recorded{Screen: screen, Answers: answers(t, pairs...)}
}

func TestABranchGoesTheFirstWayThatHolds(t *testing.T) {
	r := newRehearsing(t, "dana")
	done, err := r.play("book_a_visit", false, given(t, "which", "part", "no building is called this"))
	if err != nil || !done.View.Closed || done.View.Step != "none_found" ||
		!strings.Contains(done.View.Message.String(), "no building is called this") {
		t.Fatalf("%+v, %v", done.View, err)
	}
	if note := done.Trace[2].Note; note != "None found" {
		t.Errorf("the trace says the branch went %q", note)
	}
	r.add("ways", `{"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"n","kind":"input","label":"N","input":{"type":"whole_number","required":true}}]}]}]}},
		{"key":"b","kind":"branch","branch":{"ways":[{"title":"big","when":"ask.n > 10","steps":[{"key":"big","kind":"finish","finish":{"message":"big"}}]},
		{"title":"some","when":"ask.n > 0","steps":[{"key":"some","kind":"finish","finish":{"message":"some"}}]}],"otherwise":[{"key":"none","kind":"finish","finish":{"message":"none"}}]}}`)
	for n, want := range map[int]string{11: "big", 10: "some", 1: "some", 0: "none", -4: "none"} {
		if done, err := r.play("ways", false, given(t, "ask", "n", n)); err != nil ||
			done.View.Message.String() != want {
			t.Errorf("%d goes %q, %v; want %q", n, done.View.Message, err, want)
		}
	}
}

func TestLookingAtATable(t *testing.T) {
	r := newRehearsing(t, "dana")
	r.add("look", `{"key":"calls","kind":"search","search":{"object":"service_call","where":{},"order":[{"path":"opened","desc":true}]}},
		{"key":"latest","kind":"search","search":{"object":"service_call","where":{},"order":[{"path":"opened","desc":true}],"limit":5}},
		{"key":"see","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
		{"key":"all","kind":"table","label":"All","table":{"source":"calls","select":"one","columns":[{"path":"number"},{"path":"problem"},{"path":"lift.building.name"},{"path":"priority"}],"keyword":["problem","lift.building.name"]}},
		{"key":"five","kind":"table","label":"Five","table":{"source":"latest","select":"several","least":2,"most":3,"columns":[{"path":"number"},{"path":"opened"}]}}]}]}]}},
		{"key":"done","kind":"finish","finish":{"message":"{size(see.five)} of {size(latest)}, {see.all.lift.building.customer.name}"}}`)
	whole := r.rows("look", "all", table.Look{})
	if whole.Counted || len(whole.Rows) != table.PageSize || whole.Next == "" {
		t.Errorf("%d records, %d on the first page, next %q", whole.Total, len(whole.Rows), whole.Next)
	}
	seen := map[int64]bool{}
	for look := (table.Look{}); ; {
		page := r.rows("look", "all", look)
		for _, row := range page.Rows {
			seen[row.ID] = true
		}
		if look.After = page.Next; page.Next == "" {
			break
		}
	}
	if len(seen) != 650 {
		t.Errorf("the pages hold %d different records", len(seen))
	}
	found := r.rows("look", "all",
		table.Look{Text: "DOOR house", Order: []table.LookOrder{{Path: "priority"}, {Path: "number", Desc: true}}})
	want := count(t, r.db, `SELECT count(*) FROM liftcare_trial.service_call c JOIN liftcare_trial.lift l ON l.id = c.lift JOIN liftcare_trial.building b ON b.id = l.building
		WHERE (c.problem ILIKE '%door%' OR b.name ILIKE '%door%') AND (c.problem ILIKE '%house%' OR b.name ILIKE '%house%')`)
	if int(found.Total) != want || want == 0 {
		t.Errorf("two words find %d, want %d", found.Total, want)
	}
	rank := map[any]int{"urgent": 1, "high": 2, "normal": 3, "low": 4}
	for i := 1; i < len(found.Rows); i++ {
		a, b := found.Rows[i-1].Cells, found.Rows[i].Cells
		if rank[fmt.Sprint(a[3])] > rank[fmt.Sprint(b[3])] {
			t.Errorf("%v stands before %v", a[3], b[3])
		}
	}
	// A limited search is a list of its own, however it is looked at.
	ids := func(v table.RowsView) map[int64]bool {
		out := map[int64]bool{}
		for _, row := range v.Rows {
			out[row.ID] = true
		}
		return out
	}
	five, turned := r.rows("look", "five", table.Look{}),
		r.rows("look", "five", table.Look{Order: []table.LookOrder{{Path: "opened"}}})
	if five.Total != 5 || fmt.Sprint(ids(five)) != fmt.Sprint(ids(turned)) || five.Rows[0].ID != turned.Rows[4].ID {
		t.Errorf("the five latest: %v, turned round %v", ids(five), ids(turned))
	}
	ref := func(n int) map[string]any { return map[string]any{"id": five.Rows[n].ID} }
	one := map[string]any{"id": whole.Rows[7].ID}
	for _, c := range []struct {
		chosen []any
		says   string
	}{
		{[]any{ref(0)}, "at least 2"},
		{[]any{ref(0), ref(0)}, "at least 2"}, // twice the same is one
		{[]any{ref(0), ref(1), ref(2), ref(3)}, "at most 3"},
		{[]any{ref(0), map[string]any{"id": whole.Rows[20].ID}}, "not in the list"},
	} {
		done, err := r.play("look", false, given(t, "see", "all", one, "five", c.chosen))
		if err != nil || len(done.Problems) != 1 || done.Problems[0].Pointer != "/five" ||
			!strings.Contains(done.Problems[0].Text, c.says) {
			t.Errorf("%v: %+v, %v", c.chosen, done.Problems, err)
		}
	}
	done, err := r.play("look", false, given(t, "see", "all", one, "five", []any{ref(4), ref(1)}))
	var owner string
	if err := r.db.Get(&owner, `SELECT k.name FROM liftcare_trial.service_call c JOIN liftcare_trial.lift l ON l.id = c.lift JOIN liftcare_trial.building b ON b.id = l.building
		JOIN liftcare_trial.customer k ON k.id = b.customer WHERE c.id = $1`, whole.Rows[7].ID); err != nil {
		t.Fatal(err)
	}
	if err != nil || done.View.Message.String() != "2 of 5, "+owner {
		t.Errorf("%q, %v; want 2 of 5, %s", done.View.Message, err, owner)
	}
}

func TestAddingRecords(t *testing.T) {
	r := newRehearsing(t, "mara")
	screen := `{"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"name","kind":"input","label":"Name","input":{"type":"text","required":true}}]}]}]}},`
	r.add("packages", screen+`{"key":"added","kind":"add","add":{"object":"repair_package","values":[{"field":"name","value":{"expression":"ask.name"}},{"field":"price","value":{"literal":{"amount":"12.345","currency":"EUR"}}}]}},
		{"key":"done","kind":"finish","finish":{"message":"{added.name} for {added.price}"}}`)
	if got := r.message("packages", "Pit light"); got != "Pit light for 12.345 EUR" {
		t.Error(got)
	}
	var write *act.RefusedError
	if _, err := r.play("packages", true, given(t, "ask", "name", "Pit pump")); !errors.As(err, &write) ||
		!strings.Contains(write.Text, "same Name already") || !strings.Contains(write.Text, "Nothing was written") {
		t.Errorf("a name that is taken: %v", err)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.repair_package`); n != 12 {
		t.Errorf("%d packages are stored", n)
	}
	// Defaults fill in what is not set, limits hold, a list adds them all at once.
	r.add("customers", screen+`{"key":"added","kind":"add","add":{"object":"customer","values":[{"field":"name","value":{"expression":"ask.name"}}]}},
		{"key":"done","kind":"finish","finish":{"message":"{added.number}: {added.status}"}}`)
	if got := r.message("customers", "Lark Homes"); !strings.HasSuffix(got, ": active") {
		t.Error(got)
	}
	if _, err := r.play("customers", false, given(t, "ask", "name", strings.Repeat("x", 121))); !errors.As(err,
		&write) || !strings.Contains(write.Text, "at most 120") {
		t.Errorf("a name too long: %v", err)
	}
	r.add("many", `{"key":"lifts","kind":"search","search":{"object":"lift","where":{}}},
		{"key":"calls","kind":"add","add":{"object":"service_call","for_each":"lifts","item":"lift","values":[{"field":"lift","value":{"expression":"lift"}},{"field":"problem","value":{"expression":"\"Check \" + lift.serial_number"}},{"field":"opened","value":{"expression":"now"}}]}},
		{"key":"done","kind":"finish","finish":{"message":"{size(calls)} calls"}}`)
	before := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`)
	if done, err := r.play("many", true); err != nil || done.View.Message.String() != "400 calls" || !done.Kept {
		t.Fatalf("%q, %v", done.View.Message, err)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.service_call c JOIN liftcare_trial.lift l ON l.id = c.lift WHERE c.problem = 'Check ' || l.serial_number AND c.priority = 'normal'`); n != 400 {
		t.Errorf("%d calls are right, want 400", n)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`) - before; n != 400 {
		t.Errorf("the history has %d entries more, want 400", n)
	}
}

func TestNobodyAddsOutsideTheirRows(t *testing.T) {
	r := newRehearsing(t, "orla")
	stranger := count(t, r.db,
		`SELECT min(l.id) FROM liftcare_trial.lift l JOIN liftcare_trial.building b ON b.id = l.building WHERE b.customer <> 5`)
	// The definition names a stranger's lift outright, past every screen.
	r.add("sly", fmt.Sprintf(`{"key":"call","kind":"add","add":{"object":"service_call","values":[{"field":"lift","value":{"literal":{"id":%d}}},{"field":"problem","value":{"literal":"x"}},{"field":"opened","value":{"expression":"now"}}]}},
		{"key":"done","kind":"finish","finish":{"message":"done"}}`, stranger))
	var write *act.RefusedError
	if _, err := r.play("sly", true); !errors.As(err, &write) || !strings.Contains(write.Text,
		"would not be among those Orla Northcape may see") {
		t.Errorf("a call for a stranger's lift: %v", err)
	}
	r.add("engineer", `{"key":"e","kind":"add","add":{"object":"engineer","values":[{"field":"first_name","value":{"literal":"A"}},{"field":"last_name","value":{"literal":"B"}},{"field":"depot","value":{"literal":"varrow"}}]}},
		{"key":"done","kind":"finish","finish":{"message":"done"}}`)
	if _, err := r.play("engineer", true); !errors.As(err, &write) || !strings.Contains(write.Text,
		"may not add engineers") {
		t.Errorf("an engineer added by the owner's desk: %v", err)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.service_call WHERE problem = 'x'`) + count(t, r.db,
		`SELECT count(*) FROM liftcare_trial.engineer WHERE first_name = 'A'`); n != 0 {
		t.Errorf("%d records were written all the same", n)
	}
}

// Everything that matches can be chosen, however many that are; further screens and steps have
// it as it was asked for.
func TestMoreRowsAreChosenThanAreKeptOneByOne(t *testing.T) {
	r := newRehearsing(t, "dana")
	r.db.MustExec(`INSERT INTO liftcare_trial.service_call (lift, problem, priority, state, opened) SELECT 1 + n % 300, 'Hums ' || n, 'low', 'done', now() FROM generate_series(1, 12000) n`)
	r.add("everything", `{"key":"calls","kind":"search","search":{"object":"service_call","where":{}}},
		{"key":"see","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"many","kind":"table","label":"Many","table":{"source":"calls","select":"several","least":0,"columns":[{"path":"number"}],"keyword":["problem"]}}]}]}]}},
		{"key":"again","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"chosen","kind":"table","label":"Chosen","table":{"source":"see.many","select":"none","columns":[{"path":"problem"}],"keyword":["problem"]}}]}]}]}},
		{"key":"done","kind":"finish","finish":{"message":"{size(see.many)} calls, the first is {first(see.many).problem}"}}`)
	first := r.rows("everything", "many", table.Look{Text: "hums"})
	all := map[string]any{"all": table.Look{Text: "hums"}, "except": []int64{first.Rows[0].ID}}
	done, err := r.play("everything", false, given(t, "see", "many", all), given(t, "again"))
	if err != nil || done.View == nil || done.View.Message.String() != "11999 calls, the first is Hums 2" {
		t.Fatalf("%+v, %v", done, err)
	}
	shown := r.rows("everything", "chosen", table.Look{Text: "hums 1199"}, given(t, "see", "many", all))
	if len(shown.Rows) != 12 {
		t.Errorf("%d of the rows chosen match, want 12", len(shown.Rows))
	}
}
