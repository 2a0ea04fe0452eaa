package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/predicate"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/core/walk"
	"plainpath/demo"
	pgruns "plainpath/postgres/runs"
	"plainpath/postgres/tables"
)

// A button changes all rows chosen with one statement, when it is offered for all of them.
func TestAButtonChangesTheRowsChosen(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	calls := tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}
	press := func(button string, c table.Chosen) (tables.Pressed, error) {
		return o.tables().Press(t.Context(), o.place, calls, button, c, nil, false)
	}
	refused := func(err error, says string) {
		t.Helper()
		var off *act.NotOfferedError
		if !errors.As(err, &off) || !strings.Contains(off.Text, says) {
			t.Errorf("%v, want %q", err, says)
		}
	}
	planned := count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call WHERE state = 'planned'`)
	look := &table.Look{Filter: []predicate.Condition{{Field: "state", Op: predicate.Is,
		Value: &predicate.Operand{Literal: raw("planned")}}}}
	spared := int64(count(t, o.db, `SELECT max(id) FROM liftcare_trial.service_call WHERE state = 'planned'`))
	done, err := press("done", table.Chosen{All: look, Except: []int64{spared}})
	if err != nil || int(done.Changed) != planned-1 || planned < 10 {
		t.Fatalf("%+v, %v", done, err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call WHERE state = 'planned'`); n != 1 {
		t.Errorf("%d are left planned", n)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE cause->>'button' = 'done' AND person = `+fmt.Sprint(o.place.Person)); n != planned-1 {
		t.Errorf("%d entries of the history name the button", n)
	}
	_, err = press("done", table.Chosen{All: &table.Look{}})
	refused(err, "done or cancelled already")
	_, err = press("done", table.Chosen{})
	refused(err, "Choose a row")
	_, err = press("again", table.Chosen{Keys: []int64{1, 2}})
	refused(err, "one at a time")
	_, err = press("done", table.Chosen{Keys: []int64{spared, 99999}})
	refused(err, "not in the table any more")
	off, err := o.tables().Off(t.Context(), o.place, calls, []int64{spared, spared - 1, 1})
	if err != nil || len(off["done"]) == 0 || fmt.Sprint(off["done"]) == fmt.Sprint([]int64{spared}) {
		t.Errorf("%v, %v", off, err)
	}

	again, err := press("again", table.Chosen{Keys: []int64{spared}})
	lift := count(t, o.db, fmt.Sprintf(`SELECT lift FROM liftcare_trial.service_call WHERE id = %d`, spared))
	if err != nil || len(again.Effects) != 1 || again.Effects[0].Walkthrough != "report_a_fault" ||
		!strings.Contains(string(again.Effects[0].Hand["for_lift"]), fmt.Sprintf(`"id":%d`, lift)) {
		t.Errorf("%+v, %v", again, err)
	}

	o.place.Person = personID(t, o.db, "eskil")
	_, err = press("done", table.Chosen{Keys: []int64{spared}})
	refused(err, "not for your role")
}

// A table's least and most hold for what its buttons are pressed on.
func TestAButtonIsPressedOnAsManyRowsAsMayBeChosen(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	if _, err := o.db.Exec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(body, '{bands,0,columns,0,parts,1,table}',
		(body #> '{bands,0,columns,0,parts,1,table}') || '{"least": 2, "most": 3}') WHERE kind = 'page' AND key = 'calls'`); err != nil {
		t.Fatal(err)
	}
	var planned []int64
	if err := o.db.Select(&planned,
		`SELECT id FROM liftcare_trial.service_call WHERE state = 'planned' ORDER BY id LIMIT 4`); err != nil {
		t.Fatal(err)
	}
	for n, says := range []string{1: "Choose at least 2", 2: "", 4: "At most 3 rows"} {
		if n == 0 || n == 3 {
			continue
		}
		done, err := o.tables().Press(t.Context(), o.place,
			tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}, "done",
			table.Chosen{Keys: planned[:min(n, len(planned))]}, nil, false)
		if says == "" {
			if err != nil || done.Changed != 2 {
				t.Errorf("%d: %+v, %v", n, done, err)
			}
			if err := o.db.Select(&planned,
				`SELECT id FROM liftcare_trial.service_call WHERE state = 'planned' ORDER BY id LIMIT 4`); err != nil {
				t.Fatal(err)
			}
			continue
		}
		if err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%d: %v, want %q", n, err, says)
		}
	}
}

// All lines of a button are about the rows that were chosen, though the first may change
// them so that they would not be found any more.
func TestTheLinesOfAButtonAreAboutTheSameRows(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	const line = `[{"kind":"change","change":{"values":[{"field":"priority","value":{"literal":"low"}}]}}]`
	if _, err := o.db.Exec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(body, '{bands,0,columns,0,parts,1,table,buttons,0,do}',
		(body #> '{bands,0,columns,0,parts,1,table,buttons,0,do}') || $1::jsonb) WHERE kind = 'page' AND key = 'calls'`, line); err != nil {
		t.Fatal(err)
	}
	const planned = `SELECT count(*) FROM liftcare_trial.service_call WHERE state = 'planned'`
	const lowly = `SELECT count(*) FROM liftcare_trial.service_call WHERE state = 'done' AND priority = 'low'`
	open, low := count(t, o.db, planned), count(t, o.db, lowly)
	look := &table.Look{Filter: []predicate.Condition{{Field: "state", Op: predicate.Is,
		Value: &predicate.Operand{Literal: raw("planned")}}}}
	done, err := o.tables().Press(t.Context(), o.place,
		tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}, "done",
		table.Chosen{All: look}, nil, false)
	if err != nil || int(done.Changed) != open || open < 10 {
		t.Fatalf("%+v, %v; want %d changed", done, err, open)
	}
	if left, n := count(t, o.db, planned), count(t, o.db, lowly); left != 0 || n != low+open {
		t.Errorf("%d are left planned, %d of %d are low", left, n-low, open)
	}
}

// What a walkthrough is handed is known from its first screen on, and checked.
func TestAWalkthroughTakesWhatItIsHanded(t *testing.T) {
	o := newOffice(t)
	runs := &pgruns.Runs{DB: o.db, Editions: o.records.Editions}
	dana := personID(t, o.db, "dana")
	start := func(taken screen.Answers) (pgruns.Run, error) {
		return runs.Start(t.Context(), demo.App, "report_a_fault", taken, dana, "")
	}
	run, err := start(screen.Answers{"for_lift": raw(map[string]any{"id": 7})})
	if err != nil || !strings.Contains(string(raw(run.View)), `"value":{"id":7,"label":"QL-`) {
		t.Errorf("%s, %v", raw(run.View), err)
	}
	if run, err = runs.Show(t.Context(), run.ID, dana); err != nil || !strings.Contains(string(raw(run.View)),
		`"id":7`) {
		t.Errorf("what was handed over is lost: %v", err)
	}
	for says, taken := range map[string]screen.Answers{
		"cannot be found":        {"for_lift": raw(map[string]any{"id": 999999})},
		"no such value is taken": {"for_boat": raw(1)},
		"does not name a record": {"for_lift": raw("x")},
	} {
		_, err := start(taken)
		var invalid *walk.InvalidError
		if !errors.As(err, &invalid) || !strings.Contains(invalid.Problems[0].Text, says) {
			t.Errorf("%v, want %q", err, says)
		}
	}
}

// A row opens to what refers to it, to any depth, as far as the person sees the way.
func TestRowsOpenToWhatBelongsToThem(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "orla")
	rows := func(inside ...int64) (table.RowsView, error) {
		return o.tables().Rows(t.Context(), o.place,
			tables.TableAt{Page: &tables.PageTable{Page: "buildings", Part: "buildings"}, Inside: inside},
			table.Look{}, nil)
	}
	var building, lift, call int64
	if err := o.db.QueryRow(`SELECT b.id, l.id, c.id FROM liftcare_trial.building b JOIN liftcare_trial.lift l ON l.building = b.id JOIN liftcare_trial.service_call c ON c.lift = l.id WHERE b.customer = 5 LIMIT 1`).Scan(&building, &lift, &call); err != nil {
		t.Fatal(err)
	}
	for want, inside := range map[string][]int64{
		fmt.Sprintf(`SELECT count(*) FROM liftcare_trial.lift WHERE building = %d`, building):  {building},
		fmt.Sprintf(`SELECT count(*) FROM liftcare_trial.service_call WHERE lift = %d`, lift):  {building, lift},
		fmt.Sprintf(`SELECT count(*) FROM liftcare_trial.visit WHERE service_call = %d`, call): {building, lift, call},
		`SELECT count(*) FROM liftcare_trial.building WHERE customer = 5`:                      nil,
	} {
		if got, err := rows(inside...); err != nil || int(got.Total) != count(t, o.db, want) {
			t.Errorf("%v: %d, %v; %s", inside, got.Total, err, want)
		}
	}
	strange := int64(count(t, o.db, `SELECT min(id) FROM liftcare_trial.building WHERE customer <> 5`))
	for _, bad := range [][]int64{{strange}, {building, 999999}, {building, lift, call, 1}} {
		if _, err := rows(bad...); err == nil {
			t.Errorf("%v opens", bad)
		}
	}
}

// Marks hold where their condition does; views of the builder go to those of the role.
func TestMarksAndTheBuildersViews(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	page, err := o.tables().Rows(t.Context(), o.place, onPage("calls", screen.Given{}), table.Look{}, nil)
	if err != nil {
		t.Fatal(err)
	}
	late, marked := 0, 0
	for _, r := range page.Rows {
		late += count(t, o.db, fmt.Sprintf(`SELECT count(*) FROM liftcare_trial.service_call WHERE id = %d AND due < current_date AND coalesce(state, '') NOT IN ('done', 'cancelled')`, r.ID))
		for _, m := range r.Marks {
			if m.Says == "late" && m.Column == "due" && m.Colour == "bad" {
				marked++
			}
		}
	}
	if late != marked || late == 0 {
		t.Errorf("%d are late, %d are marked so", late, marked)
	}
	if _, err := o.db.Exec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(body, '{bands,0,columns,0,parts,1,table,views}', '[
		{"label":"Urgent","roles":["dispatcher"],"body":{"look":{"filter":[{"field":"priority","op":"is","value":{"literal":"urgent"}}],"columns":[{"path":"gone"},{"path":"problem"}]}}},
		{"label":"Theirs","roles":["finance"],"body":{"look":{}}}]') WHERE kind = 'page' AND key = 'calls'`); err != nil {
		t.Fatal(err)
	}
	views, err := o.tables().Views(t.Context(), o.place, onPage("calls", screen.Given{}))
	if err != nil || len(views.Views) != 1 || !views.Views[0].Shipped || len(views.Views[0].Problems) != 1 ||
		len(views.Views[0].Body.Look.Columns) != 1 {
		t.Errorf("%+v, %v", views, err)
	}
}

// All that matched were chosen, then somebody looks at others: which rows are not among those
// chosen is said, and a choice is what it was when it was made.
func TestRowsApartFromThoseChosen(t *testing.T) {
	o := newOffice(t)
	calls := tables.TableAt{Object: "service_call"}
	chosen := table.Look{Text: "door"}
	rows, err := o.tables().Rows(t.Context(), o.place, calls, table.Look{}, &chosen)
	if err != nil {
		t.Fatal(err)
	}
	apart, among := 0, 0
	for _, r := range rows.Rows {
		in := count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call WHERE id = $1 AND (problem ILIKE '%door%')`, r.ID) > 0
		if in && r.Apart {
			t.Errorf("%s is among those chosen", r.Label)
		}
		if apart++; !r.Apart {
			among, apart = among+1, apart-1
		}
	}
	if apart < 10 || among < 1 {
		t.Errorf("%d apart, %d among", apart, among)
	}
	mine, err := o.tables().Rows(t.Context(), o.place, calls, chosen, &chosen)
	if err != nil || len(mine.Rows) == 0 || mine.Rows[0].Apart {
		t.Errorf("%+v, %v", mine.Rows, err)
	}
}

// A value that cannot be computed of one of the rows, or a text that would grow with every press,
// is refused in words, and none is changed.
func TestAButtonStoresNothingThatCannotBeComputed(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	line := func(what string) {
		t.Helper()
		b, err := json.Marshal([]act.Line{{Act: act.Act{Kind: act.ChangeAct,
			Change: &act.Change{Values: []act.Assignment{{Field: "problem",
				Value: predicate.Operand{Expression: what}}}}}}})
		if err == nil {
			_, err = o.db.Exec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(body, '{bands,0,columns,0,parts,1,table,buttons,0,do}', $1::jsonb) WHERE kind = 'page' AND key = 'calls'`, string(b))
		}
		if err != nil {
			t.Fatal(err)
		}
	}
	var ids []int64
	if err := o.db.Select(&ids,
		`SELECT id FROM liftcare_trial.service_call WHERE state = 'planned' ORDER BY id LIMIT 3`); err != nil ||
		len(ids) != 3 {
		t.Fatal(ids, err)
	}
	press := func() error {
		_, err := o.tables().Press(t.Context(), o.place,
			tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}, "done",
			table.Chosen{Keys: ids}, nil, false)
		return err
	}
	const written = `SELECT count(*) FROM liftcare_trial.history`
	for expression, why := range map[string]string{
		`text(date("9999-12-31") + size(row.problem))`:                 value.BeyondCalendar,
		`row.problem + row.problem + row.problem`:                      value.TooLong(value.MostText),
		strings.TrimSuffix(strings.Repeat("row.problem + ", 9), " + "): value.TooLong(value.MostText),
	} {
		line(expression)
		if _, err := o.db.Exec(`UPDATE liftcare_trial.service_call SET problem = repeat('x', 400000) WHERE id = $1`,
			ids[1]); err != nil {
			t.Fatal(err)
		}
		before := count(t, o.db, written)
		o.refused(press(), "/problem", "cannot be stored: it is "+why)
		if n := count(t, o.db, written); n != before {
			t.Errorf("%s: %d records were changed", expression, n-before)
		}
	}
}

// What a line of a button gives is known to the lines after it; a button about several rows adds a record
// for each of them, with one statement.
func TestTheLinesOfAButtonAddAndWorkOut(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	does := func(on, lines string) {
		t.Helper()
		if _, err := o.db.Exec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(jsonb_set(body, '{bands,0,columns,0,parts,1,table,buttons,0,do}', $1::jsonb), '{bands,0,columns,0,parts,1,table,buttons,0,on}', to_jsonb($2::text)) WHERE kind = 'page' AND key = 'calls'`, lines, on); err != nil {
			t.Fatal(err)
		}
	}
	press := func(keys ...int64) (tables.Pressed, error) {
		return o.tables().Press(t.Context(), o.place,
			tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}, "done", table.Chosen{Keys: keys},
			nil, false)
	}
	var ids []int64
	if err := o.db.Select(&ids,
		`SELECT id FROM liftcare_trial.service_call WHERE state = 'planned' ORDER BY id LIMIT 3`); err != nil ||
		len(ids) != 3 {
		t.Fatal(ids, err)
	}
	const remind = `{"key":"told","kind":"add","add":{"object":"reminder","values":[{"field":"person","value":{"expression":"person.record"}},{"field":"text","value":{"expression":"\"Look at \" + row.problem"}},{"field":"due","value":{"expression":"addWorkingDays(today, 2)"}}]}}`
	does("some", `[`+remind+`,{"kind":"say","say":{"text":"{n} reminders"}}]`)
	done, err := press(ids...)
	if err != nil || done.Changed != 3 || done.Effects[0].Message.String() != "3 reminders" {
		t.Errorf("%+v, %v", done, err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.reminder r JOIN liftcare_trial.service_call c ON r.text = 'Look at ' || c.problem WHERE c.id <= `+fmt.Sprint(ids[2])+` AND r.state = 'open' AND r.due > current_date AND r.person = `+fmt.Sprint(o.place.Person)); n < 3 {
		t.Errorf("%d reminders are right", n)
	}
	does("one", `[{"key":"loud","kind":"work_out","work_out":{"value":"upper(row.problem) + \"!\""}},`+remind+`,{"kind":"change","change":{"values":[{"field":"problem","value":{"expression":"loud + told.text"}}]}},
		{"key":"mine","kind":"search","search":{"object":"reminder","where":{"field":"text","op":"contains","value":{"expression":"row.problem"}}}},{"kind":"remove","remove":{"of":"told"}}]`)
	var problem string
	if err := o.db.Get(&problem, `SELECT problem FROM liftcare_trial.service_call WHERE id = $1`, ids[0]); err != nil {
		t.Fatal(err)
	}
	reminders := count(t, o.db, `SELECT count(*) FROM liftcare_trial.reminder`)
	if _, err := press(ids[0]); err != nil {
		t.Error(err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call WHERE id = `+fmt.Sprint(ids[0])+` AND problem = upper('`+problem+`') || '!Look at `+problem+`'`); n != 1 {
		t.Errorf("the call is not as it was worked out from %q", problem)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.reminder`); n != reminders {
		t.Errorf("%d reminders, %d before: the one added is not removed", n, reminders)
	}
	// The rows stay those that were chosen, though a line changes what they were found by.
	look := &table.Look{Filter: []predicate.Condition{{Field: "state", Op: predicate.Is,
		Value: &predicate.Operand{Literal: raw("planned")}}}}
	open := count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call WHERE state = 'planned'`)
	does("some", `[{"kind":"change","change":{"values":[{"field":"state","value":{"literal":"done"}}]}},`+remind+`]`)
	if _, err := o.tables().Press(t.Context(), o.place,
		tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}, "done",
		table.Chosen{All: look}, nil, false); err != nil {
		t.Error(err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.reminder`) - reminders; n != open || open < 10 {
		t.Errorf("%d reminders for %d calls", n, open)
	}
	if err := o.db.Select(&ids, `SELECT id FROM liftcare_trial.service_call ORDER BY id LIMIT 2`); err != nil {
		t.Fatal(err)
	}
	o.db.MustExec(`UPDATE liftcare_trial.service_call SET state = 'planned' WHERE id = ANY($1)`, ids)
	does("some", `[{"key":"loud","kind":"work_out","work_out":{"value":"upper(row.problem)"}}]`)
	if _, err := press(ids[1]); err == nil || !strings.Contains(err.Error(), "about one row") {
		t.Errorf("which row is not known: %v", err)
	}
}

// A button asks before it changes anything, as often as it is told to, sets inputs and says what it did.
func TestAButtonThatAsks(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	if _, err := o.db.Exec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(body, '{bands,0,columns,0,parts,1,table,buttons,0,do}', $1::jsonb) WHERE kind = 'page' AND key = 'calls'`,
		`[{"key":"same","kind":"search","search":{"object":"service_call","where":{"field":"state","op":"is","value":{"literal":"planned"}}}},
		{"kind":"hold","hold":{"text":"One moment …"}},{"kind":"confirm","confirm":{"question":"{size(same)} are planned. Go on?","yes":"Yes"}},
		{"kind":"confirm","confirm":{"question":"Really?"}},{"kind":"change","change":{"values":[{"field":"state","value":{"literal":"done"}}]}},
		{"kind":"set","set":{"part":"since","value":"now"}},{"kind":"read_again","read_again":{"part":"visits"}},{"kind":"say","say":{"text":"{n} done"}}]`); err != nil {
		t.Fatal(err)
	}
	const planned = `SELECT count(*) FROM liftcare_trial.service_call WHERE state = 'planned'`
	before := count(t, o.db, planned)
	var ids []int64
	if err := o.db.Select(&ids,
		`SELECT id FROM liftcare_trial.service_call WHERE state = 'planned' ORDER BY id LIMIT 2`); err != nil {
		t.Fatal(err)
	}
	var confirmed []int
	for answers, want := range []string{fmt.Sprintf("confirm:%d are planned. Go on?", before),
		"confirm:Really?", "set: read_again: say:2 done"} {
		done, err := o.tables().Press(t.Context(), o.place,
			tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}, "done", table.Chosen{Keys: ids},
			confirmed, false)
		var got []string
		for _, e := range done.Effects {
			got = append(got, string(e.Kind)+":"+e.Message.String())
			if e.Kind == act.ConfirmAct {
				confirmed = append(confirmed, e.Line)
			}
		}
		if err != nil || strings.Join(got, " ") != want {
			t.Errorf("%d: %q, %v; want %q", answers, got, err, want)
		}
		if left := count(t, o.db, planned); left != before-2*(answers/2) {
			t.Errorf("after %d answers %d are planned, before %d", answers, left, before)
		}
	}
}
