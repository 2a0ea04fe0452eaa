package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/query"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/runs"
	pgtables "plainpath/postgres/tables"
)

// Totals of amounts are converted by the rates of a day, exactly; what has no rate stands
// by itself and is named by the proof.
func TestTotalsAreConvertedByTheRatesOfADay(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "fenn")
	contracts := pgtables.TableAt{Page: &pgtables.PageTable{Page: "customers", Part: "contracts"}}
	converted := table.LookTotal{Path: "yearly_fee", Of: query.Sum, Converted: true}
	var first, last string
	if err := o.db.QueryRow(`SELECT min(day)::text, max(day)::text FROM liftcare_trial.exchange_rate`).Scan(&first,
		&last); err != nil {
		t.Fatal(err)
	}
	expected := func(where, day string) string {
		t.Helper()
		var out string
		err := o.db.Get(&out, `SELECT trim_scale(sum(yearly_fee * CASE yearly_fee_currency WHEN 'EUR' THEN 1 ELSE (SELECT r.rate FROM liftcare_trial.exchange_rate r
			WHERE r.currency = c.yearly_fee_currency AND r.day <= $1::date ORDER BY r.day DESC, r.id DESC LIMIT 1) END))::text FROM liftcare_trial.contract c WHERE `+where, day)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	amounts := func(values []any) string {
		var out []string
		for _, v := range values {
			out = append(out, strings.NewReplacer(`{"amount":"`, "", `","currency":"`, " ", `"}`,
				"").Replace(string(raw(v))))
		}
		return strings.Join(out, " + ")
	}
	whole := func(total string) string { // without what only fills it up to cents
		amount, currency, _ := strings.Cut(total, " ")
		if strings.Contains(amount, ".") {
			amount = strings.TrimRight(strings.TrimRight(amount, "0"), ".")
		}
		return amount + " " + currency
	}
	norway := "NOK"
	// Of two rates of one day the later entered holds, in the reckoning below as in the product.
	if _, err := o.db.Exec(`INSERT INTO liftcare_trial.exchange_rate (currency, day, rate) SELECT currency, day, rate * 2 FROM liftcare_trial.exchange_rate WHERE day = $1::date`, last); err != nil {
		t.Fatal(err)
	}
	for _, day := range []string{first, last} {
		g, err := o.tables().Groups(t.Context(), o.place, contracts,
			table.Look{Group: &table.LookGroup{Path: "kind"}, Totals: []table.LookTotal{converted}, RatesOn: day})
		if err != nil {
			t.Fatal(err)
		}
		all, others, _ := strings.Cut(amounts(g.Totals[0].Values), " + ")
		if want := expected("true", day) + " EUR"; whole(all) != want || !strings.HasSuffix(others, norway) {
			t.Errorf("on %s all come to %s and %s, want %s", day, all, others, want)
		}
		for _, one := range g.Groups {
			sum, _, _ := strings.Cut(amounts(one.Totals[0].Values), " + ")
			if want := expected(fmt.Sprintf("kind = '%s'", one.Key), day) + " EUR"; whole(sum) != want {
				t.Errorf("on %s %s come to %s, want %s", day, one.Key, sum, want)
			}
		}
		if g.RatesOn != day || len(g.Rates) != 3 || g.Rates[0].Currency != "GBP" || g.Rates[0].Rate == nil ||
			g.Rates[1].Rate != nil {
			t.Errorf("%v, %+v", g.RatesOn, g.Rates)
		}
	}

	// Before there were rates nothing but the house's own currency is put together.
	g, err := o.tables().Groups(t.Context(), o.place, contracts, table.Look{Totals: []table.LookTotal{converted},
		RatesOn: "2001-01-01"})
	if err != nil || len(g.Totals[0].Values) != 4 {
		t.Errorf("%+v, %v", g.Totals, err)
	}
	p, err := o.tables().Proof(t.Context(), o.place, contracts,
		table.Look{Totals: []table.LookTotal{converted, {Path: "yearly_fee", Of: query.Greatest},
			{Path: "ends", Of: query.Count}}}, false)
	if err != nil || len(p.Figures) != 3 {
		t.Fatalf("%+v, %v", p.Figures, err)
	}
	by := map[string]table.ProofPieceView{}
	for _, piece := range p.Figures[0].Pieces {
		by[strings.Fields(amounts([]any{piece.Value}))[1]] = piece
	}
	for currency, n := range map[string]int64{"EUR": 0, "GBP": 0, "SEK": 0, norway: 0} {
		n = int64(count(t, o.db, `SELECT count(*) FROM liftcare_trial.contract WHERE yearly_fee_currency = '`+currency+`'`))
		if by[currency].Count != n || n == 0 {
			t.Errorf("%s: %+v, want %d", currency, by[currency], n)
		}
	}
	if by["EUR"].Rate != nil || by["GBP"].Rate.Rate == nil || by[norway].Rate.Rate != nil ||
		len(by[norway].Without) != int(by[norway].Count) || by["GBP"].Without != nil {
		t.Errorf("%+v", by)
	}
	if f := p.Figures[2]; int(f.Empty) != count(t, o.db,
		`SELECT count(*) FROM liftcare_trial.contract WHERE ends IS NULL`) || f.Empty == 0 ||
		f.Filled+f.Empty != p.Shown {
		t.Errorf("%+v", f)
	}

	refused := func(why string, total table.LookTotal) {
		t.Helper()
		_, err := o.tables().Groups(t.Context(), o.place, pgtables.TableAt{Object: "contract"},
			table.Look{Totals: []table.LookTotal{total}})
		var wrong *query.LookError
		if !errors.As(err, &wrong) || !strings.Contains(wrong.Text, why) {
			t.Errorf("%v, want %q", err, why)
		}
	}
	refused("no count", table.LookTotal{Path: "yearly_fee", Of: query.Count})
	refused("no amount", table.LookTotal{Path: "starts", Of: query.Greatest, Converted: true})
	o.place.Person = personID(t, o.db, "mara")
	if _, err := o.db.Exec(`UPDATE plainpath.document SET body = body #- '{objects,exchange_rate}', revision = revision + 1 WHERE kind = 'role' AND key = 'service_manager'`); err != nil {
		t.Fatal(err)
	}
	refused("may not see the rates", converted)
}

// A group's proof counts the group, condition by condition.
func TestAGroupHasAProofOfItsOwn(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	look := table.Look{Group: &table.LookGroup{Path: "opened", Span: query.Month}, Text: "door",
		Totals: []table.LookTotal{{Path: "lift.stops", Of: query.Average}}}
	at := onPage("calls", screen.Given{})
	g, err := o.tables().Groups(t.Context(), o.place, at, look)
	if err != nil || len(g.Groups) < 3 {
		t.Fatal(len(g.Groups), err)
	}
	for _, one := range g.Groups {
		look.Within = raw(one.Key)
		p, err := o.tables().Proof(t.Context(), o.place, at, look, true)
		if err != nil || p.Shown != one.Count || len(p.Steps) < 2 || p.Steps[len(p.Steps)-1].Left != one.Count {
			t.Errorf("%v has %d: %+v, %v", one.Key, one.Count, p, err)
			continue
		}
		if got, want := string(raw(p.Figures[0].Total.Values)), string(raw(one.Totals[0].Values)); got != want ||
			p.Figures[0].Filled+p.Figures[0].Empty != one.Count {
			t.Errorf("the proof of %v comes to %s, the group to %s", one.Key, got, want)
		}
	}
}

// A table shows other objects where the builder lets it, to those who may see them, each
// with views of its own.
func TestATableIsSwitchedToAnotherObject(t *testing.T) {
	o := newOffice(t)
	as := func(person, object string) (pgtables.TableAt, table.RowsView, error) {
		o.place.Person = personID(t, o.db, person)
		at := pgtables.TableAt{Page: &pgtables.PageTable{Page: "buildings", Part: "buildings"}}
		at.As = object
		rows, err := o.tables().Rows(t.Context(), o.place, at, table.Look{}, nil)
		return at, rows, err
	}
	lifts, rows, err := as("dana", "lift")
	if err != nil || rows.Counted {
		t.Fatalf("%+v, %v", rows, err)
	}
	if n, err := o.tables().Count(t.Context(), o.place, lifts, table.Look{}); err != nil || int(n) != count(t, o.db,
		`SELECT count(*) FROM liftcare_trial.lift`) {
		t.Fatalf("%d, %v", n, err)
	}
	if _, err := o.tables().KeepView(t.Context(), o.place, lifts, "By stops",
		table.Arrangement{Look: table.Look{Order: []table.LookOrder{{Path: "stops"}}}}); err != nil {
		t.Fatal(err)
	}
	for object, want := range map[string]int{"lift": 1, "customer": 0, "": 0} {
		at, _, err := as("dana", object)
		if err != nil {
			t.Fatal(err)
		}
		if kept, err := o.tables().Views(t.Context(), o.place, at); err != nil || len(kept.Views) != want {
			t.Errorf("%q has %+v, %v", object, kept.Views, err)
		}
	}
	if _, rows, err := as("orla", "lift"); err != nil || int(rows.Total) != count(t, o.db,
		`SELECT count(*) FROM liftcare_trial.lift l JOIN liftcare_trial.building b ON b.id = l.building WHERE b.customer = 5`) {
		t.Errorf("the owner's desk sees %d lifts, %v", rows.Total, err)
	}
	if _, _, err := as("dana", "contract"); !errors.Is(err, postgres.ErrNotFound) {
		t.Errorf("the builder does not let it show contracts: %v", err)
	}
	page, err := o.tables().Page(t.Context(), o.place, "buildings", screen.Given{}, nil)
	if err != nil || len(page.Bands[0].Columns[0].Parts[0].Table.Others) != 3 {
		t.Errorf("%+v, %v", page, err)
	}
}

// Buttons in a table that lies in rows of others are about its rows alone.
func TestAButtonInARowOfARow(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	var building, lift, call, elsewhere int64
	if err := o.db.QueryRow(`SELECT l.building, l.id, c.id, (SELECT min(x.id) FROM liftcare_trial.service_call x WHERE x.lift <> l.id AND x.state = 'planned') FROM liftcare_trial.lift l
		JOIN liftcare_trial.service_call c ON c.lift = l.id WHERE c.state = 'planned' ORDER BY c.id LIMIT 1`).Scan(&building, &lift, &call, &elsewhere); err != nil {
		t.Fatal(err)
	}
	at := pgtables.TableAt{Page: &pgtables.PageTable{Page: "buildings", Part: "buildings"}}
	at.Inside = []int64{building, lift}
	press := func(row int64) (pgtables.Pressed, error) {
		return o.tables().Press(t.Context(), o.place, at, "done", table.Chosen{Keys: []int64{row}}, nil, false)
	}
	var off *act.NotOfferedError
	if _, err := press(elsewhere); !errors.As(err, &off) {
		t.Errorf("a row of another lift: %v", err)
	}
	if done, err := press(call); err != nil || done.Changed != 1 {
		t.Fatalf("%+v, %v", done, err)
	}
	if n := count(t, o.db, fmt.Sprintf(`SELECT count(*) FROM liftcare_trial.service_call WHERE id IN (%d, %d) AND state = 'done'`, call, elsewhere)); n != 1 {
		t.Errorf("%d calls are done", n)
	}
	if rows, err := o.tables().Off(t.Context(), o.place, at, []int64{call}); err != nil || len(rows["done"]) != 1 {
		t.Errorf("%v, %v", rows, err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE cause->>'table' = 'page/buildings/buildings/inside/inside' AND cause->>'button' = 'done'`); n != 1 {
		t.Errorf("the history has %d entries of it", n)
	}
	o.place.Person = personID(t, o.db, "orla")
	if _, err := press(call); err == nil {
		t.Error("the owner's desk pressed it")
	}
}

// A table on a screen has buttons like one on a page. In a rehearsal they are not pressed.
func TestAButtonOnAScreen(t *testing.T) {
	o := newOffice(t)
	dana, bo := personID(t, o.db, "dana"), personID(t, o.db, "bo")
	button := `[{"key":"note","label":"Note it","on":"each","offered_when":"row.name.contains(which.part)","why":"It is called otherwise.","do":[{"kind":"change","change":{"values":[{"field":"access_notes","value":{"expression":"\"Asked for as \" + which.part"}}]}}]}]`
	edited := documents.Edit{App: demo.App, Kind: definition.Walkthrough, Key: "book_a_visit", Person: bo,
		Change: edit.Change{Base: 1,
			Patch: edit.Patch{{Op: "add", Path: "/steps/3/screen/bands/0/columns/0/parts/1/table/buttons",
				Value: []byte(button)}}}}
	if _, err := drafts.Apply(t.Context(), o.db, edited); err != nil {
		t.Fatal(err)
	}
	edited.Kind, edited.Key, edited.Patch = definition.Role, "dispatcher",
		edit.Patch{{Op: "add", Path: "/objects/building/change", Value: raw(true)}}
	if _, err := drafts.Apply(t.Context(), o.db, edited); err != nil {
		t.Fatal(err)
	}
	p, err := drafts.PreviewRelease(t.Context(), o.db, demo.App, 0)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := drafts.Release(t.Context(), o.db, demo.App, bo, drafts.Releasing{Previewed: p.Version}); err != nil {
		t.Fatal(err)
	}
	runs := &runs.Runs{DB: o.db, Editions: o.records.Editions}
	tables := &pgtables.Tables{Repositories: o.records, Runs: runs}
	run, err := runs.Start(t.Context(), demo.App, "book_a_visit", nil, dana, "")
	if err == nil {
		run, err = runs.Answer(t.Context(), run.ID, dana, run.Revision, "", "which",
			screen.Answers{"part": raw("Mill")})
	}
	if err != nil {
		t.Fatal(err)
	}
	mill := int64(count(t, o.db, `SELECT min(id) FROM liftcare_production.building WHERE name LIKE '%Mill%'`))
	at := pgtables.TableAt{Run: &pgtables.RunTable{Run: run.ID, Part: "building"}}
	place := postgres.Caller{App: demo.App, Space: postgres.Production, Person: dana}
	if done, err := tables.Press(t.Context(), place, at, "note",
		table.Chosen{Keys: []int64{mill}}, nil, false); err != nil ||
		done.Changed != 1 {
		t.Fatalf("%+v, %v", done, err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_production.building WHERE access_notes = 'Asked for as Mill'`); n != 1 {
		t.Errorf("%d buildings have the note", n)
	}
	other := int64(count(t, o.db, `SELECT min(id) FROM liftcare_production.building WHERE name NOT ILIKE '%mill%'`))
	if _, err := tables.Press(t.Context(), place, at, "note",
		table.Chosen{Keys: []int64{other}}, nil, false); err == nil {
		t.Error("a row that is not on the screen was changed")
	}
}

// What figures of a page say equals SQL over what the person may see, beside what they are compared with.
func TestFiguresOnAPage(t *testing.T) {
	o := newOffice(t)
	const body = `{"key":"p","label":"P","roles":["dispatcher","owners_desk"],"searches":[
		{"key":"open_calls","label":"Open","search":{"object":"service_call","where":{"field":"state","op":"is_not","value":{"literal":"done"}}}},
		{"key":"done_calls","label":"Done","search":{"object":"service_call","where":{"field":"state","op":"is","value":{"literal":"done"}}}},
		{"key":"none","label":"None","search":{"object":"service_call","where":{"field":"number","op":"is","value":{"literal":0}}}},
		{"key":"lifts","label":"Lifts","search":{"object":"lift","where":{}}}],
		"bands":[{"columns":[{"parts":[
		{"key":"calls","kind":"figure","figure":{"source":"open_calls","against":"done_calls","called":"those done","good":"less"}},
		{"key":"never","kind":"figure","figure":{"source":"open_calls","against":"none","called":"none"}},
		{"key":"newest","kind":"figure","figure":{"source":"done_calls","path":"opened","of":"greatest","against":"open_calls","called":"open"}},
		{"key":"stops","kind":"figure","figure":{"source":"lifts","path":"stops","of":"sum"}},
		{"key":"nothing","kind":"figure","figure":{"source":"none","path":"opened","of":"least"}}]}]}]}`
	if err := drafts.AddDocument(t.Context(), o.db, demo.App, o.place.Person,
		definition.Document{Kind: definition.Page, Key: "p", Body: json.RawMessage(body)}); err != nil {
		t.Fatal(err)
	}
	for who, rule := range map[string]string{"dana": "TRUE", "orla": "b.customer = 5"} {
		o.place.Person = personID(t, o.db, who)
		view, err := o.tables().Page(t.Context(), o.place, "p", screen.Given{}, nil)
		if err != nil {
			t.Fatal(err)
		}
		var open, done int64
		var newest time.Time
		var stops int64
		from := ` FROM liftcare_trial.service_call c JOIN liftcare_trial.lift l ON l.id = c.lift JOIN liftcare_trial.building b ON b.id = l.building WHERE ` + rule
		if err := errors.Join(o.db.Get(&open, `SELECT count(*)`+from+` AND c.state IS DISTINCT FROM 'done'`),
			o.db.Get(&done, `SELECT count(*)`+from+` AND c.state = 'done'`),
			o.db.Get(&newest, `SELECT max(c.opened)`+from+` AND c.state = 'done'`),
			o.db.Get(&stops, `SELECT sum(l.stops) FROM liftcare_trial.lift l JOIN liftcare_trial.building b ON b.id = l.building WHERE `+rule)); err != nil {
			t.Fatal(err)
		}
		parts := view.Bands[0].Columns[0].Parts
		change := decimal.NewFromInt(open-done).Mul(decimal.NewFromInt(100)).DivRound(decimal.NewFromInt(done), 1)
		if f := parts[0].Figure; f.Count != open || f.Against.Count != done || f.Change != change.String() {
			t.Errorf("%s: %s; want %d against %d, %s %%", who, raw(f), open, done, change)
		}
		if f := parts[1].Figure; f.Count != open || f.Against.Count != 0 || f.Change != "" {
			t.Errorf("%s: against none: %s", who, raw(f))
		}
		if f := parts[2].Figure; len(f.Total.Values) != 1 || !strings.HasPrefix(fmt.Sprint(f.Total.Values[0]),
			newest.UTC().Format("2006-01-02T15:04:05")) || f.Change != "" {
			t.Errorf("%s: %s; want %s", who, raw(f), newest)
		}
		if f := parts[3].Figure; fmt.Sprint(f.Total.Values) != fmt.Sprintf("[%d]", stops) || f.Against != nil {
			t.Errorf("%s: %s; want %d stops", who, raw(f), stops)
		}
		if f := parts[4].Figure; f.Count != 0 || len(f.Total.Values) != 0 {
			t.Errorf("%s: of nothing: %s", who, raw(f))
		}
	}
}
