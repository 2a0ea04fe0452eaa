package postgres_test

import (
	"bytes"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"testing"
	"time"

	"github.com/xuri/excelize/v2"

	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/imports"
	"plainpath/postgres/jobs"
	"plainpath/postgres/repository"
	"plainpath/testdb"
)

func rejected(t *testing.T, err error, says string) {
	t.Helper()
	var r *postgres.RejectedError
	if !errors.As(err, &r) || !strings.Contains(r.Text, says) {
		t.Errorf("%v, want it refused because %q", err, says)
	}
}

func TestUploadsThatAreNotWhatWasAnnounced(t *testing.T) {
	b := newBringer(t)
	_, err := b.intakes.Begin(t.Context(), b.place, nil)
	rejected(t, err, "Choose a file")
	content := bytes.Repeat([]byte("Name,Floors\nMill,3\n"), 70_000) // two pieces
	in, err := b.intakes.Begin(t.Context(), b.place, []imports.UploadFile{{Name: "a.csv", Size: int64(len(content))}})
	if err != nil {
		t.Fatal(err)
	}
	part := func(file, n int, data []byte) error {
		_, err := b.intakes.Part(t.Context(), b.place, in.ID, file, n, data)
		return err
	}
	rejected(t, part(0, 0, content[:100]), "100 bytes, but 1048576")
	rejected(t, part(0, 9, content[:100]), "no such piece")
	rejected(t, part(1, 0, content[:postgres.PartSize]), "no such piece")
	if err := part(0, 1, content[postgres.PartSize:]); err != nil { // pieces may come in any order
		t.Fatal(err)
	}
	if now, err := b.intakes.Show(t.Context(), b.place, in.ID); err != nil || now.State != imports.Uploading ||
		now.Files[0].Parts != 1 {
		t.Fatalf("%+v, %v", now, err)
	}
	_, err = b.intakes.Try(t.Context(), b.place, in.ID, true)
	rejected(t, err, "uploading")
	if err := part(0, 0, content[:postgres.PartSize]); err != nil {
		t.Fatal(err)
	}
	b.until(in.ID, imports.Ready)
	_, err = b.intakes.Try(t.Context(), b.place, in.ID, false) // not before it was tried
	rejected(t, err, "ready")
	if err := b.intakes.Discard(t.Context(), b.place, in.ID); err != nil {
		t.Fatal(err)
	}
	if n := count(t, b.db, `SELECT count(*) FROM plainpath.intake_part`); n != 0 {
		t.Errorf("%d pieces are left", n)
	}
	if _, err := b.intakes.Show(t.Context(), b.place, in.ID); !errors.Is(err, postgres.ErrNotFound) {
		t.Errorf("%v", err)
	}
}

// Of several files the one that is no table says so; the others come in.
func TestAFileThatIsNoTable(t *testing.T) {
	b := newBringer(t)
	in := b.bring([]string{"good.csv", "photo.csv", "broken.xlsx"}, []byte("Name,Size\nA,1\nB,2\n"),
		[]byte("\x89PNG\r\n\x1a\n\x00\x00\x00\x01\x02"), []byte("PK\x03\x04 nothing more"))
	if in.Files[0].Problem != "" || !strings.Contains(in.Files[1].Problem, "not a table") ||
		!strings.Contains(in.Files[2].Problem, "cannot be opened") || len(in.Found) != 1 {
		t.Errorf("%+v", in.Files)
	}
	b.try(in.ID, true)
	if r := b.try(in.ID, false).Result.Sheets; len(r) != 1 || r[0].Added != 2 {
		t.Errorf("%+v", r)
	}
}

// A server that was killed in the middle leaves its work to the next.
func TestAbandonedWorkIsTakenUp(t *testing.T) {
	db := testdb.New(t)
	start := func() *jobs.Jobs {
		jobs, err := jobs.Work(t.Context(), db, slog.New(slog.DiscardHandler))
		if err != nil {
			t.Fatal(err)
		}
		return jobs
	}
	jobs := start()
	b := &bringer{t, db, &imports.Intakes{DB: db, Editions: documents.NewEditions(db)},
		postgres.Caller{App: demo.App, Space: postgres.Trial, Person: personID(t, db, "bo")}}
	in := b.bring([]string{"a.csv"}, []byte("Name,Size\nA,1\nB,2\n"))
	for _, work := range []struct{ left, done imports.IntakeState }{{imports.Checking, imports.Checked},
		{imports.Importing, imports.Imported}} {
		if err := jobs.Stop(t.Context()); err != nil {
			t.Fatal(err)
		}
		if _, err := db.Exec(`UPDATE plainpath.intake SET state = $2, changed_at = now() - interval '5 minutes' WHERE id = $1`, in.ID, work.left); err != nil {
			t.Fatal(err)
		}
		jobs = start() // another server
		b.until(in.ID, work.done)
	}
	if err := jobs.Stop(t.Context()); err != nil {
		t.Fatal(err)
	}
	if n := count(t, db, `SELECT count(*) FROM liftcare_trial.a`); n != 2 {
		t.Errorf("%d records came of it", n)
	}
}

// A workbook's refused rows come down as a workbook, every column of them.
func TestRefusedRowsOfAWorkbook(t *testing.T) {
	b := newBringer(t)
	book := excelize.NewFile()
	for i, row := range [][]any{{"Name", "Size", "Seen"}, {"A", 1, time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)},
		{"B", "x", "later"}, {"C", 3, ""}, {"D", 4, ""}, {"E", 5, ""}, {"F", 6, ""}, {"G", 7, ""}, {"H", 8, ""},
		{"I", 9, ""}, {"J", 10, ""}, {"K", 11, ""}} {
		if err := book.SetSheetRow("Sheet1", fmt.Sprintf("A%d", i+1), &row); err != nil {
			t.Fatal(err)
		}
	}
	var raw bytes.Buffer
	if err := book.Write(&raw); err != nil {
		t.Fatal(err)
	}
	in := b.bring([]string{"things.xlsx"}, raw.Bytes())
	if got := b.try(in.ID, true).Result.Sheets[0]; got.Added != 10 || got.Refused != 1 || len(got.Examples) != 1 ||
		got.Examples[0] != (imports.RefusedCell{Line: 3, Heading: "Size", Value: "x", Reason: got.Examples[0].Reason}) {
		t.Fatalf("%+v", got)
	}
	var out bytes.Buffer
	if name, err := b.intakes.RefusedFile(t.Context(), b.place, in.ID, 0, &out); err != nil ||
		name != "things refused.xlsx" {
		t.Fatal(name, err)
	}
	refused, err := excelize.OpenReader(&out)
	if err != nil {
		t.Fatal(err)
	}
	rows, err := refused.GetRows("Sheet1")
	if err != nil || len(rows) != 2 || strings.Join(rows[0], ",") != "Name,Size,Seen,Reason" || rows[1][0] != "B" ||
		rows[1][2] != "later" || !strings.Contains(rows[1][3], "Size: ") {
		t.Errorf("%q, %v", rows, err)
	}
	if _, err := b.intakes.RefusedFile(t.Context(), b.place, in.ID, 7, &out); !errors.Is(err, postgres.ErrNotFound) {
		t.Errorf("a sheet there is not: %v", err)
	}
}

// A file brings a new field along, records refer to those there are, and production takes
// records only into what was released.
func TestIntoWhatIsThere(t *testing.T) {
	b := newBringer(t)
	var buildings []string
	if err := b.db.Select(&buildings,
		`SELECT name FROM liftcare_trial.building GROUP BY name HAVING count(*) = 1 ORDER BY 1 LIMIT 3`); err != nil {
		t.Fatal(err)
	}
	file := "Serial number,Building,Kind,State,Stops,Load\nNEW-1," + buildings[0] + ",Goods,Running,4,630\nNEW-2," +
		buildings[1] + ",Passenger,Running,,1000\nNEW-3,Nowhere House,Goods,Running,4,5\nNEW-4," + buildings[2] +
		",Submarine,Running,4,5\n"
	in := b.bring([]string{"lifts.csv"}, []byte(file))
	p := *in.Plan
	s := &p.Sheets[0]
	if s.Object != "lift" || s.Key != "serial_number" || !s.Columns[5].Skip {
		t.Fatalf("%+v", s)
	}
	if in = b.plan(in.ID, p); len(in.Wrong) != 1 || !strings.Contains(in.Wrong[0].Text,
		"Choose by which field of Building") {
		t.Fatalf("%+v", in.Wrong)
	}
	s.Columns[1].Match = "name"
	s.Columns[5] = intake.ColumnPlan{New: true, Field: "load", Label: "Load", Reading: intake.Reading{Type: model.Whole,
		Form: intake.Point}}
	if in = b.plan(in.ID, p); len(in.Wrong) != 0 {
		t.Fatal(in.Wrong)
	}
	b.try(in.ID, true)
	if r := b.try(in.ID, false).Result.Sheets[0]; r.Added != 2 || r.Refused != 2 ||
		r.Examples[0].Reason != "there is no building with this Name" &&
			r.Examples[1].Reason != "there is no building with this Name" {
		t.Errorf("%+v", r)
	}
	if n := count(t, b.db, `SELECT sum(load) FROM liftcare_trial.lift WHERE serial_number LIKE 'NEW-%'`); n != 1630 {
		t.Errorf("the new field holds %d", n)
	}
	doc, err := documents.Document(t.Context(), b.db, demo.App, "object", "lift")
	if err != nil || !strings.Contains(string(doc.Body), `"load"`) {
		t.Errorf("the draft does not have the field: %v", err)
	}

	b.place.Space = postgres.Production
	begun, err := b.intakes.Begin(t.Context(), b.place,
		[]imports.UploadFile{{Name: "lifts.csv", Size: int64(len(file))}})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := b.intakes.Part(t.Context(), b.place, begun.ID, 0, 0, []byte(file)); err != nil {
		t.Fatal(err)
	}
	in = b.until(begun.ID, imports.Ready)
	p = *in.Plan
	p.Sheets[0].Columns[1].Match = "name"
	kept := p.Sheets[0].Columns[5]
	p.Sheets[0].Columns[5] = intake.ColumnPlan{New: true, Field: "load", Label: "Load",
		Reading: intake.Reading{Type: model.Whole}}
	if in = b.plan(in.ID, p); len(in.Wrong) != 1 || !strings.Contains(in.Wrong[0].Text, "only be made in trial") {
		t.Errorf("%+v", in.Wrong)
	}
	p.Sheets[0].Columns[5] = kept
	b.plan(in.ID, p)
	b.try(in.ID, true)
	b.try(in.ID, false)
	if n := count(t, b.db, `SELECT count(*) FROM liftcare_production.lift WHERE serial_number LIKE 'NEW-%'`); n != 2 {
		t.Errorf("production has %d of them", n)
	}
}

// A plan that cannot be carried out is kept, says why, and is not tried.
func TestPlansThatCannotBeCarriedOut(t *testing.T) {
	b := newBringer(t)
	in := b.bring([]string{"sites.csv", "tools.csv"}, []byte(sites), []byte(tools))
	p := *in.Plan
	p.Sheets[1].Mode = intake.ModeBoth
	got := b.plan(in.ID, p)
	if len(got.Wrong) != 1 || got.Wrong[0].Sheet != 1 || !strings.Contains(got.Wrong[0].Text, "recognised by") {
		t.Errorf("%+v", got.Wrong)
	}
	_, err := b.intakes.Try(t.Context(), b.place, in.ID, true)
	rejected(t, err, "recognised by")
}

// A sheet and a column are planned anew for another object or field.
func TestPlansAreMadeAnew(t *testing.T) {
	b := newBringer(t)
	in := b.bring([]string{"sites.csv", "tools.csv"}, []byte(sites), []byte(tools))
	got, err := b.intakes.IntoObject(t.Context(), b.place, in.ID, 0, "building")
	if err != nil || got.Plan.Sheets[0].New || got.Plan.Sheets[0].Object != "building" || len(got.Wrong) == 0 {
		t.Fatalf("%+v, %v", got.Plan, err)
	}
	if got, err = b.intakes.IntoField(t.Context(), b.place, in.ID, 0, 0, "name"); err != nil ||
		got.Plan.Sheets[0].Columns[0].Field != "name" {
		t.Errorf("%+v, %v", got.Plan.Sheets[0].Columns[0], err)
	}
	if got, err = b.intakes.ReadAs(t.Context(), b.place, in.ID, 1, 2, intake.Reading{Type: model.Text}); err != nil ||
		got.Plan.Sheets[1].Columns[2].Choices != nil {
		t.Errorf("%+v, %v", got.Plan.Sheets[1].Columns[2], err)
	}
	_, err = b.intakes.IntoObject(t.Context(), b.place, in.ID, 0, "boat")
	rejected(t, err, `no object "boat"`)
	if _, err = b.intakes.IntoField(t.Context(), b.place, in.ID, 0, 9, ""); !errors.Is(err, postgres.ErrNotFound) {
		t.Error(err)
	}
	if now, err := b.intakes.Show(t.Context(), b.place, in.ID); err != nil || now.Plan.Sheets[0].Object != "building" {
		t.Errorf("%+v, %v", now.Plan, err)
	}
}

// The records and the word that they came in are stored together or not at all.
func TestAnImportIsStoredWithItsResult(t *testing.T) {
	b := newBringer(t)
	in := b.bring([]string{"a.csv"}, []byte("Name,Size\nA,1\nB,2\n"))
	b.try(in.ID, true)
	if _, err := b.db.Exec(`CREATE FUNCTION refuse_it() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN RAISE EXCEPTION 'the disk is full'; END $$;
		CREATE TRIGGER fail BEFORE UPDATE ON plainpath.intake FOR EACH ROW WHEN (new.state = 'imported') EXECUTE FUNCTION refuse_it()`); err != nil {
		t.Fatal(err)
	}
	if _, err := b.intakes.Try(t.Context(), b.place, in.ID, false); err != nil {
		t.Fatal(err)
	}
	if now := b.failing(in.ID); now.State != imports.Ready || !strings.Contains(now.Failure, "the disk is full") {
		t.Errorf("%s: %q", now.State, now.Failure)
	}
	if n := count(t, b.db, `SELECT count(*) FROM information_schema.tables WHERE table_schema = 'liftcare_trial' AND table_name = 'a'`); n != 0 {
		t.Error("records came in without a word of it")
	}
}

// A reference that is unique is no reason for the whole import to fail.
func TestDoublesInUniqueReferences(t *testing.T) {
	b := newBringer(t)
	in := b.bring([]string{"sites.csv", "keys.csv"}, []byte(sites),
		[]byte("Site,Holder\nNorth Yard,Mira\nNorth Yard,Pia\nSouth Yard,Jon\n"))
	p := *in.Plan
	keys := &p.Sheets[1]
	if keys.Columns[0].Refers != "site" {
		t.Fatalf("%+v", keys)
	}
	keys.Columns[0].Unique, keys.LabelField = true, "holder"
	b.plan(in.ID, p)
	b.try(in.ID, true)
	if r := b.try(in.ID, false).Result.Sheets[1]; r.Added != 2 || r.Refused != 1 ||
		!strings.Contains(r.Examples[0].Reason, "line 2 has the same") {
		t.Fatalf("%+v", r)
	}
	again := b.bring([]string{"keys.csv"}, []byte("Site,Holder\nSouth Yard,Ida\nEast Yard,Ove\n"))
	p = *again.Plan
	if p.Sheets[0].Object != "key" {
		t.Fatalf("%+v", p.Sheets[0])
	}
	p.Sheets[0].Mode, p.Sheets[0].Columns[0].Match = intake.ModeAdd, "site"
	b.plan(again.ID, p)
	b.try(again.ID, true)
	if r := b.try(again.ID, false).Result.Sheets[0]; r.Added != 1 || r.Refused != 1 ||
		!strings.Contains(r.Examples[0].Reason, "with the same Site already") {
		t.Errorf("%+v", r)
	}
}

// Records are recognised by one name each; where several have it, none is taken.
func TestRecognisingByWhatSeveralHave(t *testing.T) {
	b := newBringer(t)
	b.bringIn("towns.csv", "Town,Yards,Note\nVarrow,1,a\nVarrow,2,b\nSandholt,3,c\n")
	in := b.bring([]string{"towns.csv"}, []byte("Town,Yards,Note\nVarrow,9,z\nSandholt,9,z\nElsewhere,9,z\n"))
	p := *in.Plan
	p.Sheets[0].Mode, p.Sheets[0].Key = intake.ModeUpdate, "town"
	b.plan(in.ID, p)
	b.try(in.ID, true)
	r := b.try(in.ID, false).Result.Sheets[0]
	if r.Changed != 1 || r.Refused != 2 || !strings.Contains(r.Examples[0].Reason, "several towns with this Town") ||
		!strings.Contains(r.Examples[1].Reason, "no town with this Town") {
		t.Errorf("%+v", r)
	}
}

// Large objects are looked at in the background, and what was found last is given
// meanwhile.
func TestProfilesOfLargeObjects(t *testing.T) {
	o := newOffice(t)
	if _, err := o.db.Exec(`INSERT INTO liftcare_trial.spare_part (part_number, name, price, price_currency) SELECT 'L-' || i, 'Part ' || i % 100, i, 'EUR' FROM generate_series(1, 50000) i`); err != nil {
		t.Fatal(err)
	}
	testdb.Jobs(t, o.db)
	p, err := o.records.Profile(t.Context(), o.place, "spare_part", false)
	if err != nil || !p.Working || p.At != nil {
		t.Fatalf("%+v, %v", p, err)
	}
	wait := func() repository.ProfileView {
		t.Helper()
		for end := time.Now().Add(2 * time.Minute); ; time.Sleep(50 * time.Millisecond) {
			p, err := o.records.Profile(t.Context(), o.place, "spare_part", false)
			if err != nil || time.Now().After(end) {
				t.Fatalf("%+v, %v", p, err)
			}
			if !p.Working {
				return p
			}
		}
	}
	first := wait()
	if first.Records != 50_150 || first.At == nil || len(first.Fields) != first.Of ||
		first.Fields[0].Distinct != 50_150 || first.Fields[1].Distinct < 100 {
		t.Errorf("%+v", first)
	}
	if _, err := o.db.Exec(`DELETE FROM liftcare_trial.spare_part WHERE part_number = 'L-1'`); err != nil {
		t.Fatal(err)
	}
	if again, err := o.records.Profile(t.Context(), o.place, "spare_part", true); err != nil || !again.Working ||
		again.At == nil || len(again.Fields) == 0 {
		t.Errorf("%+v, %v", again, err)
	}
	if second := wait(); second.Records != 50_149 || !second.At.After(*first.At) {
		t.Errorf("%+v", second)
	}
}

// An empty cell leaves what a record has, unless it is to empty it; new records need what they
// need all the same. Both are counted.
func TestEmptyCellsOfAnUpdate(t *testing.T) {
	b := newBringer(t)
	b.bringIn("pumps.csv", "Pump,Site,Price,Made\nP-1,North,€ 5.00,2024-01-02\nP-2,South,€ 6.00,2024-01-03\n")
	in := b.bring([]string{"pumps.csv"},
		[]byte("Pump,Site,Price,Made\nP-1,,,\nP-2,East,,2025-05-05\nP-3,West,,\n,West,,\n"))
	plan := *in.Plan
	if s := plan.Sheets[0]; s.New || s.Key != "pump" || s.Mode != intake.ModeBoth {
		t.Fatalf("%+v", s)
	}
	b.plan(in.ID, plan)
	if r := b.try(in.ID, true).Result.Sheets[0]; r.Added != 1 || r.Changed != 1 || r.Unchanged != 1 || r.Refused != 1 ||
		r.Left != 4 || r.Emptied != 0 {
		t.Errorf("leaving: %+v", r)
	}
	plan.Sheets[0].Columns[2].Empties = true
	b.plan(in.ID, plan)
	b.try(in.ID, true)
	if r := b.try(in.ID, false).Result.Sheets[0]; r.Added != 1 || r.Changed != 2 || r.Left != 2 || r.Emptied != 2 {
		t.Errorf("emptying the price: %+v", r)
	}
	var rows []string
	if err := b.db.Select(&rows,
		`SELECT concat_ws('|', pump, coalesce(site, '-'), coalesce(price::text, '-'), coalesce(price_currency, '-'), coalesce(made::text, '-')) FROM liftcare_trial.pump ORDER BY pump`); err != nil {
		t.Fatal(err)
	}
	if got, want := strings.Join(rows, " "),
		"P-1|North|-|-|2024-01-02 P-2|East|-|-|2025-05-05 P-3|West|-|-|-"; got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
}

// A sheet may refer to itself, to rows that come later too; a row that is refused takes those
// with it that name it, and nobody else. A column whose cells are all different may still be a
// reference to another sheet.
func TestRowsThatNameEachOther(t *testing.T) {
	b := newBringer(t)
	in := b.bring([]string{"units.csv", "plates.csv"},
		[]byte("Unit,Part of,Weight\nArm,Boom,1\nHook,Arm,2\nBoom,Crane,3\nCrane,,4\nJib,Crane,x\nPin,Jib,5\nBolt,Pin,6\nNut,Arm,7\nCog,Arm,8\nRod,Boom,9\nCap,Boom,10\nRing,Crane,11\n"),
		[]byte("Unit,Plate\nArm,A-1\nHook,A-2\nBoom,A-3\nCrane,A-4\n"))
	plan := *in.Plan
	if c := plan.Sheets[0].Columns[1]; c.Refers != "unit" || c.Match != "unit" {
		t.Fatalf("part of: %+v", c)
	}
	if s := plan.Sheets[1]; s.Columns[0].Refers != "unit" || s.Key != "plate" {
		t.Fatalf("plates: %+v", s)
	}
	plan.Sheets[0].Columns[2].Reading = intake.Reading{Type: model.Whole, Form: intake.Point}
	b.plan(in.ID, plan)
	b.try(in.ID, true)
	done := b.try(in.ID, false).Result.Sheets
	if done[0].Added != 9 || done[0].Refused != 3 || done[1].Added != 4 {
		t.Errorf("%+v", done)
	}
	var rows []string
	if err := b.db.Select(&rows,
		`SELECT u.unit || ' < ' || coalesce(p.unit, '-') || coalesce(' ' || l.plate, '') FROM liftcare_trial.unit u LEFT JOIN liftcare_trial.unit p ON p.id = u.part_of LEFT JOIN liftcare_trial.plate l ON l.unit = u.id ORDER BY 1`); err != nil {
		t.Fatal(err)
	}
	if got, want := strings.Join(rows, ", "),
		"Arm < Boom A-1, Boom < Crane A-3, Cap < Boom, Cog < Arm, Crane < - A-4, Hook < Arm A-2, Nut < Arm, Ring < Crane, Rod < Boom"; got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
	// Brought in again, with what is there: nothing changes.
	again := b.bring([]string{"units.csv"}, []byte("Unit,Part of,Weight\nArm,Boom,1\nCrane,,4\nBoom,Crane,3\n"))
	if r := b.try(again.ID, true).Result.Sheets[0]; r.Unchanged != 3 || r.Changed+r.Added+r.Refused != 0 {
		t.Errorf("again: %+v, %+v", r, again.Plan.Sheets[0])
	}
}

// A file is read anew as somebody says; what was chosen for the sheets of other files stays.
func TestAFileIsReadAnew(t *testing.T) {
	b := newBringer(t)
	in := b.bring([]string{"yards.csv", "odd.csv"}, []byte(sites),
		[]byte("Pier;x|Berth;y\nA;1|B;2\nC;3|D;4\nE;5|F;6\n"))
	plan := *in.Plan
	plan.Sheets[0].Label, plan.Sheets[0].Plural = "Depot yard", "Depot yards"
	b.plan(in.ID, plan)
	if len(plan.Sheets[1].Columns) != 3 {
		t.Fatalf("%+v", plan.Sheets[1])
	}
	if _, err := b.intakes.Reread(t.Context(), b.place, in.ID, 1,
		intake.Settings{Delimiter: "|", Headings: map[int]intake.Headings{0: {Line: 2, Rows: 0}}}); err != nil {
		t.Fatal(err)
	}
	again := b.until(in.ID, imports.Ready)
	if s := again.Plan.Sheets; s[0].Label != "Depot yard" || len(s[1].Columns) != 2 ||
		s[1].Columns[0].Label != "Column A" || again.Found[1].Analysis.Rows != 3 {
		t.Errorf("%+v, %+v", s, again.Found[1].Analysis)
	}
	var rejected *postgres.RejectedError
	if _, err := b.intakes.Reread(t.Context(), b.place, in.ID, 1, intake.Settings{Encoding: "Klingon"}); !errors.As(err,
		&rejected) {
		t.Errorf("a wrong encoding: %v", err)
	}
	b.try(in.ID, true)
	if r := b.try(in.ID, false).Result.Sheets; r[0].Added != 3 || r[1].Added != 3 {
		t.Errorf("%+v", r)
	}
}
