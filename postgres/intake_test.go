package postgres_test

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/imports"
	"plainpath/testdb"
)

// bringer brings files into trial as the builder.
type bringer struct {
	*testing.T
	db      *postgres.DB
	intakes *imports.Intakes
	place   postgres.Caller
}

func newBringer(t *testing.T) *bringer {
	db := testdb.New(t)
	testdb.Jobs(t, db)
	return &bringer{t, db, &imports.Intakes{DB: db, Editions: documents.NewEditions(db)},
		postgres.Caller{App: demo.App, Space: postgres.Trial, Person: personID(t, db, "bo")}}
}

// until waits for an intake to come to a state.
func (b *bringer) until(id int64, state imports.IntakeState) imports.Intake {
	b.Helper()
	for end := time.Now().Add(2 * time.Minute); ; time.Sleep(20 * time.Millisecond) {
		in, err := b.intakes.Show(b.Context(), b.place, id)
		if err != nil {
			b.Fatal(err)
		}
		if in.State == state {
			return in
		}
		if in.Failure != "" || time.Now().After(end) {
			b.Fatalf("the intake is %s, not %s: %s", in.State, state, in.Failure)
		}
	}
}

// failing waits for the work on an intake to fail.
func (b *bringer) failing(id int64) imports.Intake {
	b.Helper()
	for end := time.Now().Add(2 * time.Minute); ; time.Sleep(10 * time.Millisecond) {
		in, err := b.intakes.Show(b.Context(), b.place, id)
		if err != nil || in.State == imports.Imported || time.Now().After(end) {
			b.Fatalf("the intake is %s, %v", in.State, err)
		}
		if in.Failure != "" {
			return in
		}
	}
}

// bringIn brings one file in as it is proposed.
func (b *bringer) bringIn(name, content string) imports.Intake {
	b.Helper()
	in := b.bring([]string{name}, []byte(content))
	b.try(in.ID, true)
	return b.try(in.ID, false)
}

// bring sends files and waits until they were looked at.
func (b *bringer) bring(names []string, contents ...[]byte) imports.Intake {
	b.Helper()
	files := make([]imports.UploadFile, len(names))
	for i, n := range names {
		files[i] = imports.UploadFile{Name: n, Size: int64(len(contents[i]))}
	}
	in, err := b.intakes.Begin(b.Context(), b.place, files)
	if err != nil {
		b.Fatal(err)
	}
	for i, c := range contents {
		for n, part := range slices.Collect(slices.Chunk(c, postgres.PartSize)) {
			for range 2 { // a piece sent twice counts once
				if _, err := b.intakes.Part(b.Context(), b.place, in.ID, i, n, part); err != nil {
					b.Fatal(err)
				}
			}
		}
	}
	return b.until(in.ID, imports.Ready)
}

func (b *bringer) plan(id int64, p intake.Plan) imports.Intake {
	b.Helper()
	in, err := b.intakes.SetPlan(b.Context(), b.place, id, p)
	if err != nil {
		b.Fatal(err)
	}
	return in
}

func (b *bringer) try(id int64, dry bool) imports.Intake {
	b.Helper()
	if _, err := b.intakes.Try(b.Context(), b.place, id, dry); err != nil {
		b.Fatal(err)
	}
	if dry {
		return b.until(id, imports.Checked)
	}
	return b.until(id, imports.Imported)
}

const sites = "Site;Town;Opened;Budget\nNorth Yard;Varrow;03/04/2024;€ 1.200,50\nSouth Yard;Sandholt;25/12/2023;€ 900,00\nEast Yard;Varrow;;€ 7,25\n"
const tools = "Tool no;Site;Kind;Bought on;Weight\nT-1;North Yard;Hoist;2024-01-02;12,5\nT-2;South Yard;Hoist;2024-02-30;9,0\nT-3;West Yard;Clamp;2024-03-01;1,5\nT-4;North Yard;Clamp;2024-03-02;heavy\n" +
	"T-5;East Yard;Hoist;2024-03-03;3,0\nT-5;East Yard;Hoist;2024-03-04;3,0\nT-6;North Yard;Clamp;2024-03-05;2,5\nT-7;North Yard;Clamp;2024-03-06;2,5\nT-8;South Yard;Hoist;2024-03-07;2,5\nT-9;South Yard;Hoist;2024-03-08;2,5\n" +
	"T-10;South Yard;Hoist;2024-03-08;2,5\nT-11;South Yard;Clamp;2024-03-08;2,5\nT-12;South Yard;Hoist;2024-03-08;2,5\n"

func TestTwoFilesBecomeTwoObjects(t *testing.T) {
	b := newBringer(t)
	in := b.bring([]string{"sites.csv", "tools.csv"}, []byte(sites), []byte(tools))
	plan := *in.Plan
	tool := &plan.Sheets[1]
	var shown []string
	for _, c := range append(plan.Sheets[0].Columns, tool.Columns...) {
		shown = append(shown, fmt.Sprintf("%s %s %s%s", c.Field, c.Reading.Type, c.Reading.Form, c.Refers))
	}
	if got := strings.Join(shown,
		", "); got != "site text , town text , opened date dmy, budget money comma, tool_no text , site reference site, kind choice , bought_on date ymd, weight decimal comma" {
		t.Fatalf("proposed: %s", got)
	}
	if plan.Sheets[0].Key != "site" || tool.Key != "" || len(in.Wrong) != 0 {
		t.Fatalf("keys %q and %q, wrong %v", plan.Sheets[0].Key, tool.Key, in.Wrong)
	}
	tool.Columns[0].Unique, tool.LabelField = true, "tool_no"
	b.plan(in.ID, plan)

	tried := b.try(in.ID, true)
	if r := tried.Result.Sheets; !tried.Result.Dry || r[0].Added != 3 || r[1].Added != 9 || r[1].Refused != 4 ||
		r[1].Rows != 13 {
		t.Fatalf("the dry run: %+v", r)
	}
	if n := count(t, b.db, `SELECT count(*) FROM information_schema.tables WHERE table_name = 'tool'`); n != 0 {
		t.Fatal("the dry run made a table")
	}
	done := b.try(in.ID, false)
	if r := done.Result.Sheets; done.Result.Dry || r[0].Added != 3 || r[1].Added != 9 || r[1].Refused != 4 {
		t.Fatalf("the import: %+v", r)
	}
	if n := count(t, b.db, `SELECT count(*) FROM liftcare_trial.tool t JOIN liftcare_trial.site s ON s.id = t.site WHERE t.kind IN ('hoist', 'clamp')`); n != 9 {
		t.Errorf("%d tools belong to a site", n)
	}
	if n := count(t, b.db, `SELECT count(*) FROM liftcare_trial.site WHERE opened = '2024-04-03' AND budget = 1200.50 AND budget_currency = 'EUR'`); n != 1 {
		t.Error("day first and decimal comma were not read so")
	}
	if n := count(t, b.db, `SELECT count(*) FROM liftcare_trial.history WHERE object = 'tool' AND cause->>'intake' IS NOT NULL AND person = $1`, b.place.Person); n != 9 {
		t.Errorf("the history tells of %d tools", n)
	}

	// What was refused comes down with the reasons, is mended, and comes in again.
	var raw bytes.Buffer
	name, err := b.intakes.RefusedFile(t.Context(), b.place, in.ID, 1, &raw)
	if err != nil || name != "tools refused.csv" {
		t.Fatalf("%q, %v", name, err)
	}
	r := csv.NewReader(&raw)
	r.Comma = ';'
	rows, err := r.ReadAll()
	if err != nil || len(rows) != 5 {
		t.Fatalf("%q, %v", rows, err)
	}
	for i, says := range []string{"Reason", "2024-02-30", "no site with this Site", "heavy", "line 6 has the same"} {
		if !strings.Contains(rows[i][5], says) {
			t.Errorf("row %d says %q, want %q", i, rows[i][5], says)
		}
	}
	rows[1][3], rows[2][1], rows[3][4], rows[4][0] = "2024-02-28", "East Yard", "40,0", "T-13"
	var mended bytes.Buffer
	if err := intake.WriteCSV(&mended, ';', rows); err != nil {
		t.Fatal(err)
	}
	again := b.bring([]string{"tools refused.csv"}, mended.Bytes())
	if p := again.Plan.Sheets[0]; p.New || p.Object != "tool" || !p.Columns[5].Skip {
		t.Fatalf("the mended file goes into %+v", p)
	}
	was, is := done.Plan.Sheets[1], again.Plan.Sheets[0]
	for i, c := range was.Columns {
		c.New = false
		if !reflect.DeepEqual(is.Columns[i], c) {
			t.Errorf("what was chosen for column %d is %+v, was %+v", i, is.Columns[i], c)
		}
	}
	if is.Mode != was.Mode || is.Key != was.Key {
		t.Errorf("the mended rows are brought in %s by %q", is.Mode, is.Key)
	}
	b.try(again.ID, true)
	if r := b.try(again.ID, false).Result.Sheets[0]; r.Added != 4 || r.Refused != 0 {
		t.Errorf("the mended rows: %+v", r)
	}
	if n := count(t, b.db, `SELECT count(*) FROM liftcare_trial.tool`); n != 13 {
		t.Errorf("%d tools in the end", n)
	}
}

func TestUpdatingByKeyUnderRules(t *testing.T) {
	b := newBringer(t)
	if _, err := b.db.Exec(`UPDATE plainpath.document SET body = jsonb_set(body, '{rules}', '[{"expression":"empty(credit_limit) || credit_limit >= money(\"100\", \"EUR\")","message":"a credit limit under 100 is not worth it"}]'), revision = revision + 1 WHERE kind = 'object' AND key = 'customer'`); err != nil {
		t.Fatal(err)
	}
	var names []string
	if err := b.db.Select(&names, `SELECT name FROM liftcare_trial.customer ORDER BY id LIMIT 3`); err != nil {
		t.Fatal(err)
	}
	before := count(t, b.db, `SELECT count(*) FROM liftcare_trial.customer`)
	file := "Name,Credit limit,Status\n" + names[0] + ",250 EUR,Paused\n" + names[1] + ",20 EUR,Active\n" +
		"Quite New Homes,900 EUR,Active\n" + "Odd Homes,5 EUR,Sleeping\n"
	in := b.bring([]string{"customers.csv"}, []byte(file))
	p := *in.Plan
	if s := p.Sheets[0]; s.Object != "customer" || s.Key != "name" || s.Mode != intake.ModeBoth {
		t.Fatalf("proposed: %+v", s)
	}
	b.try(in.ID, true)
	if r := b.try(in.ID, false).Result.Sheets[0]; r.Added != 1 || r.Changed != 1 || r.Refused != 2 || r.Unchanged != 0 {
		t.Errorf("%+v", r)
	}
	if n := count(t, b.db, `SELECT count(*) FROM liftcare_trial.customer WHERE name = $1 AND credit_limit = 250 AND status = 'paused' AND revision = 2`, names[0]); n != 1 {
		t.Error("the first was not updated")
	}
	if n := count(t, b.db, `SELECT count(*) FROM liftcare_trial.customer WHERE name = 'Quite New Homes' AND number > 0`); n != 1 {
		t.Error("the new one was not added")
	}
	if n := count(t, b.db, `SELECT count(*) FROM liftcare_trial.customer`); n != before+1 {
		t.Errorf("%d customers, %d before", n, before)
	}
	refused, err := b.intakes.Refused(t.Context(), b.place, in.ID, 0)
	if err != nil || len(refused) != 2 || refused[0].Line != 3 || !strings.Contains(refused[0].Reason,
		"not worth it") || refused[1].Heading != "Status" {
		t.Errorf("refused: %+v, %v", refused, err)
	}
	// A plan that cannot be carried out says why and changes nothing.
	p.Sheets[0].Columns[0].Skip = true
	wrong := b.plan(b.bring([]string{"customers.csv"}, []byte(file)).ID, p)
	if len(wrong.Wrong) == 0 || !strings.Contains(wrong.Wrong[0].Text, "recognised by") {
		t.Errorf("%+v", wrong.Wrong)
	}
	if _, err := b.intakes.Try(t.Context(), b.place, wrong.ID, true); err == nil {
		t.Error("it was tried all the same")
	}
}

// An import can be stopped; nothing of it is kept. Others see nothing of it.
func TestAnImportIsStopped(t *testing.T) {
	b := newBringer(t)
	var file strings.Builder
	file.WriteString("Name,Floors\n")
	for i := range 60_000 {
		fmt.Fprintf(&file, "Tower %d,%d\n", i, i%40)
	}
	in := b.bring([]string{"towers.csv"}, []byte(file.String()))
	if in.Plan.Sheets[0].Columns[1].Reading.Type != model.Whole {
		t.Fatalf("%+v", in.Plan)
	}
	b.try(in.ID, true)
	if _, err := b.intakes.Try(t.Context(), b.place, in.ID, false); err != nil {
		t.Fatal(err)
	}
	if err := b.intakes.Stop(t.Context(), b.place, in.ID); err != nil {
		t.Fatal(err)
	}
	if now := b.failing(in.ID); now.State != imports.Ready || !strings.Contains(now.Failure, "stopped") {
		t.Errorf("%s: %q", now.State, now.Failure)
	}
	if n := count(t, b.db, `SELECT count(*) FROM information_schema.tables WHERE table_schema = 'liftcare_trial' AND table_name = 'tower'`); n != 0 {
		t.Error("a table was left behind")
	}
	stranger := b.place
	stranger.Person = personID(t, b.db, "dana")
	if _, err := b.intakes.Show(t.Context(), stranger, in.ID); err == nil {
		t.Error("somebody else can see the intake")
	}
}

// A step that is asked for while the job before it has not let go of the intake is done right after it, and not
// when somebody looks for what was abandoned.
func TestAnIntakeGoesOnWhenTheJobBeforeLetsGo(t *testing.T) {
	b := newBringer(t)
	in := b.bring([]string{"towers.csv"}, []byte("Name,Floors\nEast Tower,4\n"))
	conn, err := b.db.Connx(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close() }()
	if _, err := conn.ExecContext(t.Context(), `SELECT pg_advisory_lock(7101, $1::integer)`, in.ID); err != nil {
		t.Fatal(err)
	}
	if _, err := b.intakes.Try(t.Context(), b.place, in.ID, true); err != nil {
		t.Fatal(err)
	}
	time.Sleep(500 * time.Millisecond) // the job finds that somebody is at it
	let := time.Now()
	if _, err := conn.ExecContext(t.Context(), `SELECT pg_advisory_unlock(7101, $1::integer)`, in.ID); err != nil {
		t.Fatal(err)
	}
	b.until(in.ID, imports.Checked)
	if took := time.Since(let); took > postgres.AbandonedAfter/2 {
		t.Errorf("it went on after %v", took)
	}
}

// While rows are tried or brought in, nobody who changes records, objects or roles waits for
// it: neither for the tables of new objects nor for what they refer to.
func TestNobodyWaitsForAnImport(t *testing.T) {
	b := newBringer(t)
	lifts := []string{}
	if err := b.db.Select(&lifts, `SELECT serial_number FROM liftcare_trial.lift ORDER BY id LIMIT 50`); err != nil {
		t.Fatal(err)
	}
	var file strings.Builder
	file.WriteString("Part,Lift,Weight\n")
	for i := range 30_000 {
		fmt.Fprintf(&file, "Pulley %d,%s,%d\n", i, lifts[i%len(lifts)], i%90)
	}
	in := b.bring([]string{"pulleys.csv"}, []byte(file.String()))
	if c := in.Plan.Sheets[0].Columns[1]; c.Refers != "lift" {
		t.Fatalf("the lifts are not proposed as a reference: %+v", c)
	}
	for _, dry := range []bool{true, false} {
		if _, err := b.intakes.Try(t.Context(), b.place, in.ID, dry); err != nil {
			t.Fatal(err)
		}
		held := b.holdAt(in.ID, "Finding Lift")
		for _, sql := range []string{
			`UPDATE liftcare_trial.lift SET stops = stops WHERE id = 1`,
			`INSERT INTO liftcare_trial.history (object, record, action) VALUES ('lift', 1, 'change')`,
			`UPDATE plainpath.person SET name = name`,
			`UPDATE plainpath.document SET revision = revision`,
			`LOCK TABLE liftcare_trial.building IN SHARE ROW EXCLUSIVE MODE`,
		} {
			tx := b.db.MustBegin()
			if _, err := tx.Exec(`SET LOCAL lock_timeout = '500ms'`); err != nil {
				t.Fatal(err)
			}
			if _, err := tx.Exec(sql); err != nil {
				t.Errorf("dry %t: %s: %v", dry, sql, err)
			}
			_ = tx.Rollback()
		}
		if err := held.Rollback(); err != nil {
			t.Fatal(err)
		}
		if dry {
			b.until(in.ID, imports.Checked)
		} else if done := b.until(in.ID, imports.Imported); done.Result.Sheets[0].Added != 30_000 {
			t.Errorf("%+v", done.Result.Sheets)
		}
	}
}

// holdAt keeps the work on an intake from going on once it has come to something.
func (b *bringer) holdAt(id int64, doing string) *sqlx.Tx {
	b.Helper()
	for end := time.Now().Add(2 * time.Minute); time.Now().Before(end); {
		tx := b.db.MustBegin()
		var at string
		if err := tx.Get(&at, `SELECT doing FROM plainpath.intake WHERE id = $1 FOR UPDATE`, id); err != nil {
			b.Fatal(err)
		}
		if at == doing {
			return tx
		}
		_ = tx.Rollback()
	}
	b.Fatalf("the intake does not come to %q", doing)
	return nil
}
