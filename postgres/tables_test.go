package postgres_test

import (
	"bufio"
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"slices"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"plainpath/core/definition"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/drafts"
	"plainpath/postgres/exports"
	pgtables "plainpath/postgres/tables"
)

func raw(v any) json.RawMessage {
	out, err := json.Marshal(v)
	if err != nil {
		panic(err)
	}
	return out
}

func onPage(part string, given screen.Given) pgtables.TableAt {
	return pgtables.TableAt{Page: &pgtables.PageTable{Page: "calls", Part: part, Given: given}}
}

// What is chosen in one table feeds another, and nothing is searched for before.
func TestTablesOfAPageFeedEachOther(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	tables := o.tables()
	page, err := tables.Page(t.Context(), o.place, "calls", screen.Given{}, nil)
	if err != nil {
		t.Fatal(err)
	}
	view := func(p pgtables.PageView, key string) screen.PartView {
		for _, b := range p.Bands {
			for _, c := range b.Columns {
				for _, part := range c.Parts {
					if part.Key == key {
						return part
					}
				}
			}
		}
		t.Fatalf("no part %s", key)
		return screen.PartView{}
	}
	if calls, visits := view(page, "calls").Table, view(page, "visits").Table; calls.Rows.Counted ||
		calls.Rows.Next == "" || !visits.Rows.Counted || visits.Rows.Total != 0 {
		t.Errorf("%+v and %+v", calls.Rows, visits.Rows)
	}
	if n, err := o.tables().Count(t.Context(), o.place,
		pgtables.TableAt{Page: &pgtables.PageTable{Page: "calls", Part: "calls"}}, table.Look{}); err != nil ||
		n != 650 {
		t.Errorf("%d calls, %v", n, err)
	}
	call := count(t, o.db, `SELECT min(c.id) FROM liftcare_trial.service_call c JOIN liftcare_trial.visit v ON v.lift = c.lift`)
	want := count(t, o.db, fmt.Sprintf(`SELECT count(*) FROM liftcare_trial.visit WHERE lift = (SELECT lift FROM liftcare_trial.service_call WHERE id = %d)`, call))
	given := screen.Given{Answers: screen.Answers{"calls": raw(map[string]any{"id": call})}}
	if page, err = tables.Page(t.Context(), o.place, "calls", given, []string{"calls"}); err != nil {
		t.Fatal(err)
	}
	if visits := view(page, "visits"); visits.Table == nil || int(visits.Table.Rows.Total) != want || want == 0 ||
		!view(page, "calls").Same || !view(page, "since").Same {
		t.Errorf("%+v, want %d visits", visits.Table, want)
	}
	rows, err := tables.Rows(t.Context(), o.place, onPage("visits", given), table.Look{}, nil)
	if err != nil || int(rows.Total) != want {
		t.Errorf("%d, %v", rows.Total, err)
	}
	given.Answers["since"] = raw("2999-01-01T00:00:00Z") // the call chosen is not in the list any more
	if rows, err = tables.Rows(t.Context(), o.place, onPage("visits", given), table.Look{}, nil); err != nil ||
		rows.Total != 0 {
		t.Errorf("%d, %v", rows.Total, err)
	}
	o.place.Space = postgres.Production
	o.place.Person = personID(t, o.db, "fenn")
	if _, err := tables.Page(t.Context(), o.place, "calls", screen.Given{}, nil); err == nil {
		t.Error("finance opens a page that is not theirs")
	}
}

func TestViewsComeBackAndAreOnesOwn(t *testing.T) {
	o := newOffice(t)
	tables, at := o.tables(), pgtables.TableAt{Object: "lift"}
	keep := func(name string, look table.Look) {
		t.Helper()
		if _, err := tables.KeepView(t.Context(), o.place, at, name, table.Arrangement{Look: look, Pinned: 1,
			Widths: map[string]int{"kind": 90}}); err != nil {
			t.Fatal(err)
		}
	}
	by := []table.LookOrder{{Path: "stops", Desc: true}}
	keep("", table.Look{Order: by})
	keep("By stops", table.Look{Order: by, Columns: []table.Column{{Path: "building.name"}, {Path: "stops"}},
		Group: &table.LookGroup{Path: "stops"},
		Filter: []predicate.Condition{{Field: "stops", Op: predicate.More, Value: &predicate.Operand{Literal: raw(3)}},
			{Field: "kind", Op: predicate.Is, Value: &predicate.Operand{Literal: raw("goods")}}},
		Totals: []table.LookTotal{{Path: "stops", Of: query.Sum}}})
	views, err := tables.Views(t.Context(), o.place, at)
	if err != nil || len(views.Views) != 2 || views.Views[0].Name != "By stops" ||
		views.Views[0].Body.Widths["kind"] != 90 {
		t.Fatalf("%+v, %v", views, err)
	}
	if err := tables.UseView(t.Context(), o.place, views.Views[1].ID); err != nil {
		t.Fatal(err)
	}

	// A view that needs a field which was removed opens without it and says so.
	o.define("lift", "{fields,5,key}", `"halts"`)
	views, err = tables.Views(t.Context(), o.place, at)
	if err != nil || len(views.Views) != 2 || views.Views[0].Name != "" {
		t.Fatalf("the one used last comes first: %+v, %v", views, err)
	}
	v := views.Views[1]
	if look := v.Body.Look; len(v.Problems) != 5 || !strings.Contains(v.Problems[0], `"stops"`) ||
		len(look.Columns) != 1 || len(look.Filter) != 1 || look.Group != nil || len(look.Order) > 0 ||
		len(look.Totals) > 0 {
		t.Errorf("%q %+v", v.Problems, look)
	}
	if _, err := tables.Rows(t.Context(), o.place, at, v.Body.Look, nil); err != nil {
		t.Error(err)
	}

	other := o.place
	other.Person = personID(t, o.db, "dana")
	if views, err := tables.Views(t.Context(), other, at); err != nil || len(views.Views) != 0 {
		t.Errorf("Dana sees %+v, %v", views, err)
	}
	if tables.RemoveView(t.Context(), other, v.ID) == nil || tables.RemoveView(t.Context(), o.place, v.ID) != nil {
		t.Error("views are removed by others, or not by their owner")
	}
}

// Rows are saved all together or not at all, and each says what became of it.
func TestRowsAreSavedTogether(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	tables, at := o.tables(), onPage("calls", screen.Given{})
	history := func() int {
		return count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE object = 'service_call' AND action = 'change'`)
	}
	problem := func(id int) (text string) {
		if err := o.db.Get(&text, `SELECT problem FROM liftcare_trial.service_call WHERE id = $1`, id); err != nil {
			t.Fatal(err)
		}
		return text
	}
	change := func(id int, values, seen map[string]any) records.RowSaving {
		out := records.RowSaving{ID: int64(id), Values: map[string]json.RawMessage{},
			Before: map[string]json.RawMessage{}}
		for k, v := range values {
			out.Values[k] = raw(v)
		}
		for k, v := range seen {
			out.Before[k] = raw(v)
		}
		return out
	}
	type m = map[string]any
	before := history()
	unfit := int64(count(t, o.db, `SELECT id FROM liftcare_trial.engineer WHERE NOT active LIMIT 1`))
	rows := []records.RowSaving{
		change(1, m{"problem": "Rattles"}, m{"problem": problem(1)}),
		change(2, m{"problem": "Hums", "priority": "low"}, m{"problem": problem(2)}),
		change(3, m{"problem": nil}, m{"problem": problem(3)}),
		change(4, m{"problem": "Mine"}, m{"problem": "what nobody saw"}),
		change(5, m{"engineer": m{"id": unfit}}, nil),
		change(99999, m{"problem": "x"}, nil),
		change(6, m{"number": 3}, nil),
	}
	saved, err := tables.SaveRows(t.Context(), o.place, at, rows)
	if err != nil || saved.Saved || history() != before || problem(1) == "Rattles" {
		t.Fatalf("%+v, %v", saved, err)
	}
	for i, says := range []string{"", "", "is required", "", "“Active is yes” does not hold; Active is no",
		"not in the table any more", "no field"} {
		r := saved.Rows[i]
		text := fmt.Sprint(r.Problems)
		if (says == "") != (len(r.Problems) == 0) || !strings.Contains(text, says) {
			t.Errorf("row %d: %+v", i, r)
		}
	}
	if c := saved.Rows[3].Clashes; len(c) != 1 || fmt.Sprint(c[0].Theirs) != problem(4) || c[0].Label != "Problem" {
		t.Errorf("%+v", c)
	}
	if saved, err = tables.SaveRows(t.Context(), o.place, at, rows[:2]); err != nil || !saved.Saved ||
		history() != before+2 || problem(1) != "Rattles" || problem(2) != "Hums" {
		t.Errorf("%+v, %v", saved, err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE cause->>'table' = 'page/calls/calls'`); n != 2 {
		t.Errorf("%d entries of the history name the table", n)
	}
	// Who asks again because the answer was lost clashes with nobody, nor does who wants what
	// somebody else did.
	with := count(t, o.db, `SELECT min(id) FROM liftcare_trial.service_call WHERE engineer IS NOT NULL`)
	by := count(t, o.db, `SELECT engineer FROM liftcare_trial.service_call WHERE id = $1`, with)
	again := append(rows[:2:2], change(with, m{"engineer": m{"id": by}}, m{"engineer": nil}))
	if saved, err = tables.SaveRows(t.Context(), o.place, at, again); err != nil || slices.ContainsFunc(saved.Rows,
		func(r records.RowOutcome) bool { return len(r.Clashes) > 0 }) {
		t.Errorf("%+v, %v", saved, err)
	}
	// Rows of a table that nobody may change in, and of one's own that one may not.
	if _, err := tables.SaveRows(t.Context(), o.place, onPage("visits", screen.Given{}), rows[:1]); err == nil ||
		!strings.Contains(err.Error(), "cannot be changed here") {
		t.Error(err)
	}
	o.place.Person = personID(t, o.db, "orla")
	if saved, err := tables.SaveRows(t.Context(), o.place, at, rows[:1]); err == nil && saved.Saved {
		t.Error("the owner's desk changes a call")
	}
}

// Two rows that are only wrong together are both named.
func TestRowsThatAreOnlyWrongTogether(t *testing.T) {
	o := newOffice(t)
	rows := []records.RowSaving{{ID: 1, Values: map[string]json.RawMessage{"serial_number": raw("TWIN")}},
		{ID: 2, Values: map[string]json.RawMessage{"serial_number": raw("TWIN")}}}
	saved, err := o.tables().SaveRows(t.Context(), o.place, pgtables.TableAt{Object: "lift"}, rows)
	if err != nil || saved.Saved || len(saved.Rows[0].Problems)+len(saved.Rows[1].Problems) == 0 {
		t.Errorf("%+v, %v", saved, err)
	}
}

func TestPastedTextIsRead(t *testing.T) {
	o := newOffice(t)
	cells := map[pgtables.CellText]string{
		{Path: "priority", Text: " urgent "}:       `"urgent"`,
		{Path: "priority", Text: "Nosuch"}:         "no value",
		{Path: "due", Text: "7 Dec 2026"}:          `"2026-12-07"`,
		{Path: "due", Text: "13/12/2026"}:          `"2026-12-13"`,
		{Path: "due", Text: "03/04/2026"}:          "only be read in one way",
		{Path: "due", Text: ""}:                    `null`,
		{Path: "problem", Text: ""}:                "is required",
		{Path: "problem", Text: "'=1+1"}:           `"=1+1"`,
		{Path: "lift", Text: "QL-10000"}:           `"label":"QL-10000"`,
		{Path: "lift", Text: "QL-1"}:               "no lift called",
		{Path: "opened", Text: "2026-03-01 09:30"}: `"2026-03-01T09:30:00Z"`,
	}
	for cell, want := range cells {
		got, err := o.tables().ReadCells(t.Context(), o.place, pgtables.TableAt{Object: "service_call"},
			[]pgtables.CellText{cell})
		if err != nil || len(got) != 1 || !strings.Contains(got[0].Problem+string(raw(got[0].Value)), want) ||
			(got[0].Problem != "") == (want[0] == '"' || want == "null") {
			t.Errorf("%+v: %+v, %v; want %s", cell, got, err, want)
		}
	}
}

func (o *office) file(ask exports.OutAsk) []byte {
	o.Helper()
	out, err := exports.AskOut(o.Context(), o.tables(), o.place, ask)
	if err != nil {
		o.Fatal(err)
	}
	_, write, err := exports.OpenOut(o.Context(), o.tables(), o.place, out.ID)
	if err != nil {
		o.Fatal(err)
	}
	var b bytes.Buffer
	if err := write(o.Context(), &b); err != nil {
		o.Fatal(err)
	}
	if told, err := exports.Outgoing(o.Context(), o.tables(), o.place, out.ID); err != nil || told.State != "done" ||
		told.Done == 0 {
		o.Errorf("%+v, %v", told, err)
	}
	if _, _, err := exports.OpenOut(o.Context(), o.tables(), o.place, out.ID); err == nil {
		o.Error("a file is fetched twice")
	}
	return b.Bytes()
}

// A table that is taken out is what SQL gives, and a spreadsheet runs nothing in it.
func TestATableIsTakenOut(t *testing.T) {
	o := newOffice(t)
	if _, err := o.db.Exec(`UPDATE liftcare_trial.service_call SET problem = '=HYPERLINK("x")' WHERE id = 1; UPDATE liftcare_trial.service_call SET problem = E'a "quoted", word\nand a line' WHERE id = 2`); err != nil {
		t.Fatal(err)
	}
	look := table.Look{Columns: []table.Column{{Path: "number"}, {Path: "problem", Label: "What"},
		{Path: "lift.building"}, {Path: "state"}, {Path: "due"}, {Path: "opened"}},
		Order: []table.LookOrder{{Path: "number"}}}
	ask := exports.OutAsk{At: pgtables.TableAt{Object: "service_call"}, Look: look, Format: "csv", Name: "Calls: all"}
	if ask.FileName() != "Calls- all.csv" {
		t.Error(ask.FileName())
	}
	var want []string
	err := o.db.Select(&want, `SELECT concat_ws('|', 'SC-' || number, problem, b.name, `+
		`CASE c.state WHEN 'on_site' THEN 'On site' WHEN 'waiting_for_parts' THEN 'Waiting for parts' ELSE initcap(c.state) END, due::text, to_char(opened AT TIME ZONE 'Europe/Dublin', 'YYYY-MM-DD"T"HH24:MI')) `+
		`FROM liftcare_trial.service_call c JOIN liftcare_trial.lift l ON l.id = c.lift JOIN liftcare_trial.building b ON b.id = l.building ORDER BY number`)
	if err != nil {
		t.Fatal(err)
	}
	got, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(o.file(ask), []byte("\ufeff")))).ReadAll()
	if err != nil || len(got) != len(want)+1 || !slices.Equal(got[0], []string{"Number", "What", "Lift · building",
		"State", "Due", "Opened"}) {
		t.Fatalf("%d lines, want %d, %v", len(got), len(want)+1, err)
	}
	if got[1][1] != `'=HYPERLINK("x")` || got[2][1] != "a \"quoted\", word\nand a line" {
		t.Errorf("%q %q", got[1][1], got[2][1])
	}
	for i, row := range got[1:] {
		row = slices.DeleteFunc(append(slices.Clone(row[:5]), row[5][:16]), func(s string) bool { return s == "" })
		if line := strings.Join(row, "|"); i > 0 && line != want[i] {
			t.Fatalf("line %d is %q, want %q", i, line, want[i])
		}
	}

	ask.Format, ask.Chosen = "xlsx", &table.Chosen{Keys: []int64{3, 1, 2}}
	book, err := excelize.OpenReader(bytes.NewReader(o.file(ask)))
	if err != nil {
		t.Fatal(err)
	}
	rows, err := book.GetRows("Sheet1")
	if err != nil || len(rows) != 4 || rows[1][1] != `=HYPERLINK("x")` || rows[1][0] != "SC-1" {
		t.Errorf("%q, %v", rows, err)
	}
	if formula, err := book.GetCellFormula("Sheet1", "B2"); err != nil || formula != "" {
		t.Errorf("%q, %v", formula, err)
	}
	o.place.Person = personID(t, o.db, "orla")
	ask.Format, ask.Chosen = "csv", nil
	own := count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call c JOIN liftcare_trial.lift l ON l.id = c.lift JOIN liftcare_trial.building b ON b.id = l.building WHERE b.customer = 5`)
	if lines, err := csv.NewReader(bytes.NewReader(o.file(ask))).ReadAll(); err != nil || len(lines) != own+1 {
		t.Errorf("the owner's desk takes out %d lines, want %d, %v", len(lines), own+1, err)
	}
}

// The proof counts condition by condition, and says of a record which keeps it out.
func TestAProofSaysWhereRowsComeFrom(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "orla")
	look := table.Look{Text: "door",
		Filter: []predicate.Condition{{Field: "state", Op: predicate.Is,
			Value: &predicate.Operand{Literal: raw("done")}}}}
	since := screen.Given{Answers: screen.Answers{"since": raw("2026-01-01T00:00:00Z")}}
	proof, err := o.tables().Proof(t.Context(), o.place, onPage("calls", since), look, true)
	if err != nil {
		t.Fatal(err)
	}
	const mine = `FROM liftcare_trial.service_call c JOIN liftcare_trial.lift l ON l.id = c.lift JOIN liftcare_trial.building b ON b.id = l.building WHERE b.customer = 5`
	queries := []string{`SELECT count(*) ` + mine, `SELECT count(*) ` + mine + ` AND opened >= '2026-01-01'`,
		`SELECT count(*) ` + mine +
			` AND opened >= '2026-01-01' AND (problem ILIKE '%door%' OR b.name ILIKE '%door%' OR l.serial_number ILIKE '%door%')`,
		`SELECT count(*) ` + mine +
			` AND opened >= '2026-01-01' AND (problem ILIKE '%door%' OR b.name ILIKE '%door%' OR l.serial_number ILIKE '%door%') AND c.state = 'done'`}
	if proof.All != 650 || len(proof.Steps) != len(queries) || !strings.Contains(proof.SQL, "LIKE '%door%'") ||
		proof.Shown != proof.Steps[3].Left {
		t.Fatalf("%+v", proof)
	}
	for i, q := range queries {
		if want := count(t, o.db, q); int(proof.Steps[i].Left) != want {
			t.Errorf("after “%s” %d, want %d", proof.Steps[i].Words, proof.Steps[i].Left, want)
		}
	}
	if w := proof.Steps[3]; w.Words != "State is Done" || w.By != "look" {
		t.Errorf("%+v", w)
	}
	// She is not told how many there are of others.
	if proof, err = o.tables().Proof(t.Context(), o.place, onPage("calls", since), look, false); err != nil ||
		proof.All != int64(count(t, o.db, queries[0])) || proof.SQL != "" || len(proof.Steps) != 3 {
		t.Errorf("%+v, %v", proof, err)
	}
	strange := int64(count(t, o.db,
		`SELECT max(c.id) FROM liftcare_trial.service_call c JOIN liftcare_trial.lift l ON l.id = c.lift JOIN liftcare_trial.building b ON b.id = l.building WHERE b.customer <> 5 AND c.state = 'done'`))
	if _, err := o.tables().ProofOf(t.Context(), o.place, onPage("calls", since), look, strange,
		o.place.Person); err == nil {
		t.Error("she is told about a stranger's call")
	}
	why, err := o.tables().ProofOf(t.Context(), o.place, onPage("calls", since), look, strange, personID(t, o.db, "bo"))
	if err != nil || why.In || why.Steps[0].Holds || why.Steps[0].By != "rights" || !why.Steps[3].Holds ||
		why.Steps[3].Saw[0].Value != "Done" {
		t.Errorf("%+v, %v", why, err)
	}
}

// What is typed over a table, how it is ordered and what is being changed in it feed other
// parts too, even each other's tables: that is no circle of values.
func TestATableGivesOutHowItIsLookedAt(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	body := `{"key":"both","label":"Both","roles":["dispatcher"],"searches":[
		{"key":"lifts_found","label":"L","search":{"object":"lift","where":{"field":"building.name","op":"contains","value":{"expression":"houses.words"},"empty":"skip"},"order":[{"path":"serial_number"}]}},
		{"key":"houses_found","label":"H","search":{"object":"building","where":{"related":{"object":"lift","field":"building","where":{"field":"serial_number","op":"contains","value":{"expression":"lifts.words"},"empty":"skip"}}},"order":[{"path":"name"}]}}],
		"bands":[{"columns":[{"parts":[
		{"key":"houses","kind":"table","label":"H","table":{"source":"houses_found","select":"none","keyword":["name"],"edit":true,"columns":[{"path":"name"}]}},
		{"key":"lifts","kind":"table","label":"L","table":{"source":"lifts_found","select":"none","keyword":["serial_number"],"columns":[{"path":"serial_number"}]}},
		{"key":"says","kind":"text","text":"by {houses.order}, {houses.edited.size()} changed"}]}]}]}`
	if err := drafts.AddDocument(t.Context(), o.db, demo.App, o.place.Person, definition.Document{Kind: definition.Page,
		Key: "both", Body: []byte(body)}); err != nil {
		t.Fatal(err)
	}
	page, err := o.tables().Page(t.Context(), o.place, "both", screen.Given{}, nil)
	if err != nil || fmt.Sprint(page.Looked) != "[houses lifts]" {
		t.Fatalf("%v, %v", page.Looked, err)
	}
	var some []int64
	if err := o.db.Select(&some,
		`SELECT DISTINCT building FROM liftcare_trial.lift WHERE serial_number LIKE 'QL-1%' ORDER BY building LIMIT 2`); err != nil {
		t.Fatal(err)
	}
	given := screen.Given{Looks: map[string]table.Look{"houses": {Text: "mill",
		Order: []table.LookOrder{{Path: "town", Desc: true}}}, "lifts": {Text: "QL-1"}},
		Edited: map[string][]int64{"houses": append(some, 999999)}}
	page, err = o.tables().Page(t.Context(), o.place, "both", given, []string{"houses"})
	if err != nil {
		t.Fatal(err)
	}
	parts := page.Bands[0].Columns[0].Parts
	if !parts[0].Same || parts[1].Same || int(parts[1].Table.Rows.Total) != count(t, o.db,
		`SELECT count(*) FROM liftcare_trial.lift l JOIN liftcare_trial.building b ON b.id = l.building WHERE b.name ILIKE '%mill%' AND l.serial_number ILIKE '%QL-1%'`) {
		t.Errorf("%+v, %+v", parts[0], parts[1])
	}
	if parts[2].Text.String() != "by Town downwards, 2 changed" {
		t.Errorf("%q", parts[2].Text)
	}
	page, err = o.tables().Page(t.Context(), o.place, "both", given, []string{"lifts"})
	if err != nil || page.Bands[0].Columns[0].Parts[0].Same || !page.Bands[0].Columns[0].Parts[1].Same {
		t.Errorf("%+v, %v", page, err)
	}
}

// A file begins when it is asked for, whatever it takes to find its rows: here they cannot be
// read before the headings have come.
func TestAFileBeginsAtOnce(t *testing.T) {
	o := newOffice(t)
	for _, format := range []string{"csv", "xlsx"} {
		tx, err := o.db.Beginx()
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = tx.Rollback() }()
		if _, err := tx.Exec(`LOCK TABLE liftcare_trial.service_call IN ACCESS EXCLUSIVE MODE`); err != nil {
			t.Fatal(err)
		}
		out, err := exports.AskOut(t.Context(), o.tables(), o.place,
			exports.OutAsk{At: pgtables.TableAt{Object: "service_call"}, Format: format,
				Look: table.Look{Columns: []table.Column{{Path: "number"}, {Path: "problem"}}}})
		if err != nil {
			t.Fatal(err)
		}
		_, write, err := exports.OpenOut(t.Context(), o.tables(), o.place, out.ID)
		if err != nil {
			t.Fatal(err)
		}
		file, to := io.Pipe()
		go func() { to.CloseWithError(write(t.Context(), bufio.NewWriter(to))) }()
		first := make([]byte, 4)
		if _, err := io.ReadFull(file, first); err != nil || !strings.Contains("\ufeffNumber PK\x03\x04",
			string(first)) {
			t.Errorf("%s begins with %q, %v", format, first, err)
		}
		if err := tx.Rollback(); err != nil {
			t.Fatal(err)
		}
		if _, err := io.Copy(io.Discard, file); err != nil {
			t.Errorf("%s: %v", format, err)
		}
	}
}
