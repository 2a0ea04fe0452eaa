package postgres_test

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/walk"
	"plainpath/demo"
	"plainpath/postgres"
	pgtables "plainpath/postgres/tables"
)

// Records are changed and removed in a walkthrough as they are added: a record, a list and what a search
// finds, each with one statement; what was done is known to what follows, on a later screen, too.
func TestRecordsAreChangedAndRemovedInAWalkthrough(t *testing.T) {
	r := newRehearsing(t, "mara")
	const ask = `{"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"word","kind":"input","label":"Word","input":{"type":"text"}}]}]}]}},`
	const then = `{"key":"then","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"said","kind":"text","text":"{size(raised)} of {total}"}]}]}]}},`
	r.add("raise", ask+`{"key":"dear","kind":"search","search":{"object":"repair_package","where":{"field":"price","op":"more_or_equal","value":{"literal":{"amount":"500","currency":"EUR"}}}}},
		{"key":"total","kind":"work_out","work_out":{"value":"size(dear) * 10"}},
		{"key":"raised","kind":"change","change":{"of":"dear","item":"each","values":[{"field":"price","value":{"expression":"each.price + each.price"}},{"field":"name","value":{"expression":"each.name + ask.word"}}]}},`+then+`
		{"key":"one","kind":"change","change":{"of":"first(raised)","values":[{"field":"name","value":{"expression":"\"Only \" + text(total)"}}]}},
		{"key":"done","kind":"finish","finish":{"message":"{size(raised)} of {total}: {one.name}"}}`)
	const dear = `SELECT count(*) FROM liftcare_trial.repair_package WHERE price >= 500`
	many := count(t, r.db, dear)
	history := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`)
	before := map[int64]string{}
	names(t, r, before)
	done, err := r.play("raise", true, given(t, "ask", "word", " now"), given(t, "then"))
	if want := fmt.Sprintf("%d of %d: Only %[2]d", many, many*10); err != nil || done.View.Message.String() != want ||
		many < 3 {
		t.Fatalf("%q, %v; want %q", done.View.Message, err, want)
	}
	after := map[int64]string{}
	names(t, r, after)
	changed := 0
	for id, was := range before {
		is := after[id]
		name, price, _ := strings.Cut(was, "|")
		if is == was {
			continue
		}
		changed++
		if want := name + " now|" + price; strings.Split(is, "|")[0] != name+" now" && !strings.HasPrefix(is, "Only ") {
			t.Errorf("%s became %s, want %s and twice the price", was, is, want)
		}
	}
	if changed != many {
		t.Errorf("%d are changed, want %d", changed, many)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`) - history; n != many+1 {
		t.Errorf("the history has %d entries more, want %d", n, many+1)
	}
	for _, e := range done.Trace {
		if e.Step == "raised" && (int(e.Written) != many || e.Note != fmt.Sprintf("one set of %d", many)) {
			t.Errorf("%+v", e)
		}
	}

	// One that does not fit keeps all from being changed, and is told in words.
	r.add("same", `{"key":"all","kind":"search","search":{"object":"repair_package","where":{}}},
		{"key":"named","kind":"change","change":{"of":"all","values":[{"field":"name","value":{"literal":"Same"}}]}},{"key":"done","kind":"finish","finish":{"message":"x"}}`)
	var write *act.RefusedError
	if _, err := r.play("same", true); !errors.As(err, &write) || write.Step != "named" || !strings.Contains(write.Text,
		"could not be changed: there is a repair package with the same Name already. Nothing was written.") {
		t.Errorf("%v", err)
	}

	// What others refer to stays, and is told; the rest goes, and only so many as a search is limited to.
	r.add("away", `{"key":"two","kind":"search","search":{"object":"repair_package","where":{"field":"name","op":"contains","value":{"literal":"Spare"}},"order":[{"path":"name"}],"limit":2}},
		{"key":"gone","kind":"remove","remove":{"of":"two"}},{"key":"done","kind":"finish","finish":{"message":"{gone} gone"}}`)
	r.db.MustExec(`INSERT INTO liftcare_trial.repair_package (name, price, price_currency) SELECT 'Spare ' || n, 1, 'EUR' FROM generate_series(1, 3) n`)
	if done, err := r.play("away", true); err != nil || done.View.Message.String() != "2 gone" {
		t.Errorf("%q, %v", done.View.Message, err)
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.repair_package WHERE name IN ('Spare 1', 'Spare 2', 'Spare 3')`); n != 1 {
		t.Errorf("%d of three are left, want one", n)
	}
}

func names(t *testing.T, r *rehearsing, into map[int64]string) {
	t.Helper()
	var rows []struct {
		ID         int64
		Name, Cost string
	}
	if err := r.db.Select(&rows,
		`SELECT id, name, price::text AS cost FROM liftcare_trial.repair_package`); err != nil {
		t.Fatal(err)
	}
	for _, row := range rows {
		into[row.ID] = row.Name + "|" + row.Cost
	}
}

// A button of a table is pressed in a rehearsal as anywhere: what it writes is there for the rest of the
// rehearsal, whenever it is replayed, and is put back.
func TestAButtonIsPressedInARehearsal(t *testing.T) {
	r := newRehearsing(t, "dana")
	r.add("sort_out", `{"key":"planned","kind":"search","search":{"object":"service_call","where":{"field":"state","op":"is","value":{"literal":"planned"}}}},
		{"key":"see","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"calls","kind":"table","label":"Calls","table":{"source":"planned","select":"several","least":0,"columns":[{"path":"number"}],
			"buttons":[{"key":"off","label":"Call off","on":"some","offered_when":"row.state == \"planned\"","why":"It is not planned.","do":[{"kind":"change","change":{"values":[{"field":"state","value":{"literal":"cancelled"}}]}},{"kind":"say","say":{"text":"{n} called off"}}]}]}}]}]}]}},
		{"key":"left","kind":"search","search":{"object":"service_call","where":{"field":"state","op":"is","value":{"literal":"planned"}}}},
		{"key":"done","kind":"finish","finish":{"message":"{size(left)} are left."}}`)
	const planned = `SELECT count(*) FROM liftcare_trial.service_call WHERE state = 'planned'`
	before := count(t, r.db, planned)
	var ids []int64
	if err := r.db.Select(&ids,
		`SELECT id FROM liftcare_trial.service_call WHERE state = 'planned' ORDER BY id LIMIT 3`); err != nil ||
		len(ids) < 3 {
		t.Fatal(ids, err)
	}
	tables := &pgtables.Tables{Runs: r.runs}
	place := postgres.Caller{App: demo.App, Space: postgres.Trial, Person: r.as}
	press := func(keys []int64, recorded ...walk.Recorded) (pgtables.Pressed, error) {
		at := pgtables.TableAt{Rehearsal: &pgtables.RehearsalTable{Walkthrough: "sort_out", As: r.as,
			Recorded: recorded, Part: "calls"}}
		return tables.Press(t.Context(), place, at, "off", table.Chosen{Keys: keys}, nil, false)
	}
	here := func(keys ...int64) walk.Recorded {
		return walk.Recorded{Screen: "see",
			Pressed: []walk.Pressed{{Part: "calls", Button: "off", Chosen: table.Chosen{Keys: keys}}}}
	}
	done, err := press(ids[:2])
	if err != nil || done.Changed != 2 || !done.PutBack || len(done.Effects) != 1 ||
		done.Effects[0].Message.String() != "2 called off" {
		t.Errorf("%+v, %v", done, err)
	}
	if rows := r.rows("sort_out", "calls", table.Look{}, here(ids[:2]...)); int(rows.Total) != before-2 {
		t.Errorf("%d are planned after two were called off, of %d", rows.Total, before)
	}
	if _, err := press(ids[:1], here(ids[:2]...)); err == nil || !strings.Contains(err.Error(), "Choose") &&
		!strings.Contains(err.Error(), "not in the table any more") {
		t.Errorf("what is not planned any more is called off again: %v", err)
	}
	if done, err := press(ids[2:], here(ids[:2]...)); err != nil || done.Changed != 1 {
		t.Errorf("%+v, %v", done, err)
	}
	answered := here(ids...)
	answered.Answers = answers(t, "calls", []any{})
	out, err := r.play("sort_out", false, answered)
	if want := fmt.Sprintf("%d are left.", before-3); err != nil || out.Stopped != "" ||
		out.View.Message.String() != want {
		t.Errorf("%q %q, %v; want %q", out.View.Message, out.Stopped, err, want)
	}
	if !slices.ContainsFunc(out.Trace, func(e act.Entry) bool {
		return e.Title == "“Call off” pressed" &&
			e.Written == 3
	}) {
		t.Errorf("%+v", out.Trace)
	}
	// One that cannot be pressed any more stops the rehearsal there, and is told.
	gone := here(ids[0])
	gone.Pressed = append(gone.Pressed, gone.Pressed[0])
	if out, err := r.play("sort_out", false, gone); err != nil || out.Stopped == "" || len(out.Given) != 0 ||
		out.View.Step != "see" {
		t.Errorf("%+v, %v", out, err)
	}
	if n := count(t, r.db, planned); n != before {
		t.Errorf("%d are planned in the end, %d were", n, before)
	}
}

// A walkthrough asks and says between its screens; whoever leaves it where it asks finds the question again.
func TestAWalkthroughAsksAndSays(t *testing.T) {
	r := newRehearsing(t, "dana")
	r.add("tell", `{"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"name","kind":"input","label":"Name","input":{"type":"text","required":true}}]}]}]}},
		{"key":"told","kind":"say","say":{"text":"{ask.name} it is."}},{"key":"sure","kind":"confirm","title":"Sure?","confirm":{"question":"Is it {ask.name}?","yes":"It is"}},
		{"key":"done","kind":"finish","finish":{"message":"{ask.name}."}}`)
	name := given(t, "ask", "name", "Mill House")
	out, err := r.play("tell", false, name)
	if err != nil || out.View.Step != "sure" || out.View.Question.String() != "Is it Mill House?" ||
		out.View.Next != "It is" || out.View.Back != "ask" || len(out.View.Effects) != 1 ||
		out.View.Effects[0].Message.String() != "Mill House it is." {
		t.Errorf("%+v, %v", out.View, err)
	}
	if out, err = r.play("tell", false, name, walk.Recorded{Screen: "sure", Answers: screen.Answers{}}); err != nil ||
		!out.View.Closed || out.View.Message.String() != "Mill House." {
		t.Errorf("%+v, %v", out.View, err)
	}
}
