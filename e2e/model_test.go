package e2e

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"net/http"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/xuri/excelize/v2"

	"plainpath/core/intake"
	"plainpath/demo"
	"plainpath/testdb"
)

// workbook makes a workbook of two sheets: depots, and the vans that stand at them. Three
// vans are bad.
func workbook(t *testing.T) string {
	t.Helper()
	b := excelize.NewFile()
	if err := b.SetSheetName("Sheet1", "Depots"); err != nil {
		t.Fatal(err)
	}
	if _, err := b.NewSheet("Vans"); err != nil {
		t.Fatal(err)
	}
	rows := map[string][][]any{
		"Depots": {{"Depot", "Town"}, {"Quillmere yard", "Quillmere"}, {"Varrow yard", "Varrow"},
			{"Bay yard", "Ester Bay"}},
		"Vans": {{"Plate", "Depot", "Seats", "Code"}},
	}
	for i := range 20 {
		depot, seats := []string{"Quillmere yard", "Varrow yard", "Bay yard"}[i%3], any(2+i%4)
		switch i {
		case 4:
			depot = "Lost yard"
		case 9:
			seats = "some"
		case 14:
			seats = "many"
		}
		rows["Vans"] = append(rows["Vans"], []any{fmt.Sprintf("QV-%02d", i), depot, seats, fmt.Sprintf("%d", 100+i)})
	}
	for sheet, all := range rows {
		for i, row := range all {
			if err := b.SetSheetRow(sheet, fmt.Sprintf("A%d", i+1), &row); err != nil {
				t.Fatal(err)
			}
		}
	}
	path := filepath.Join(t.TempDir(), "fleet.xlsx")
	if err := b.SaveAs(path); err != nil {
		t.Fatal(err)
	}
	return path
}

// bring gives files to the page that waits for them.
func (b *browser) bring(path string) {
	b.t.Helper()
	b.open("/build/intake")
	b.see("Drop files here")
	run(b, chromedp.SetUploadFiles(`input[type=file]`, []string{path}))
	b.see("The rows go into")
}

// mended downloads the refused rows of a sheet and mends every one.
func (s site) mended(t *testing.T, intakeID, sheet int, mend func(row []string)) string {
	t.Helper()
	bo := testdb.SignIn(t, s.address, demo.People[0].Email)
	res, err := bo.HTTP.Get(fmt.Sprintf("%s/api/build/intakes/%d/refused/%d/file", s.address, intakeID, sheet))
	if err != nil || res.StatusCode != http.StatusOK {
		t.Fatal(res, err)
	}
	defer func() { _ = res.Body.Close() }()
	f, err := excelize.OpenReader(res.Body)
	if err != nil {
		t.Fatal(err)
	}
	rows, err := f.GetRows("Vans")
	if err != nil || len(rows) != 4 || rows[0][4] != "Reason" {
		t.Fatalf("%q, %v", rows, err)
	}
	for _, row := range rows[1:] {
		mend(row)
	}
	var out bytes.Buffer
	if err := intake.WriteCSV(&out, ',', rows); err != nil {
		t.Fatal(err)
	}
	if _, err := csv.NewReader(bytes.NewReader(out.Bytes())).ReadAll(); err != nil {
		t.Fatal(err)
	}
	path := filepath.Join(t.TempDir(), "vans mended.csv")
	if err := os.WriteFile(path, out.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

// A workbook of two sheets becomes two objects with a reference; a type is corrected; three
// bad rows are mended and brought in; then a walkthrough asks for one of the new records.
func TestAWorkbookBecomesObjects(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.bring(workbook(t))
	b.see("19 match Depots › Depot")
	b.see("18 fit, 2 do not: “some” in line 11, “many” in line 16")
	// The code is a number only by chance.
	b.choose("How Code is read", "text — all fit")
	b.press("Try it")
	b.see("17 would be added, 3 would be refused")
	b.press("Bring it in")
	b.see("17 added, 3 refused")
	if n := s.count(t, `SELECT count(*) FROM liftcare_trial.van v JOIN liftcare_trial.depot d ON d.id = v.depot WHERE v.code LIKE '1__' AND v.seats BETWEEN 2 AND 5`); n != 17 {
		t.Errorf("%d vans stand at a depot", n)
	}
	id := s.count(t, `SELECT max(id) FROM plainpath.intake`)
	b.bring(s.mended(t, id, 1, func(row []string) {
		if row[1] == "Lost yard" {
			row[1] = "Bay yard"
		}
		if row[2] == "some" || row[2] == "many" {
			row[2] = "3"
		}
	}))
	b.choose("What happens to records", "are added")
	b.choose("Field by which Depot names a record", "Depot")
	b.press("Try it")
	b.see("of 3 rows 3 would be added.")
	b.press("Bring it in")
	b.see("3 added.")
	if n := s.count(t, `SELECT count(*) FROM liftcare_trial.van`); n != 20 {
		t.Errorf("%d vans in the end", n)
	}

	// A visit gets a van, from the object editor; the list of records shows it.
	b.open("/build/object/visit")
	b.enter("Name of a new field", "Van")
	b.choose("Its type", "reference")
	b.press("Add the field")
	b.choose("Object it refers to", "Van")
	b.see("20 of 20 vans can be chosen")
	b.press("Condition")
	b.pick("Field", "seats", "Seats")
	b.choose("Comparison", "is at least")
	b.choose("Value: where from", "typed in")
	b.enter("Value", "4")
	b.press("Add a rule") // leaves the field, so that it is taken
	b.see(fmt.Sprintf("%d of 20 vans can be chosen",
		s.count(t, `SELECT count(*) FROM liftcare_trial.van WHERE seats >= 4`)))

	// Book a visit asks for it.
	b.open("/build/walkthrough/book_a_visit")
	b.see("no findings")
	b.pressIn("[data-row=visits]", "Add")
	b.choose("Set a field", "Van")
	b.choose("Van: where from", "typed in")
	b.pick("Van", "QV-03", "QV-03")
	b.eventually(`SELECT count(*) FROM plainpath.document d, jsonb_path_query(d.body, '$.steps[*].add.values[*] ? (@.field == "van")') v WHERE d.key = 'book_a_visit'`, 1)
	b.see("no findings")
}

// What the owner's desk and a dispatcher see is what SQL counts, also through a builder's
// eyes.
func TestWhatEachRoleSees(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	own := s.count(t, `SELECT count(*) FROM liftcare_trial.lift l JOIN liftcare_trial.building b ON b.id = l.building WHERE b.customer = 5`)
	b.signIn("Bo Lindqvale")
	b.open("/build/people")
	b.see(fmt.Sprintf("%d of 400", own))
	b.open("/build/object/lift/records")
	b.see("400 records")
	b.choose("See it as", "Orla Northcape")
	b.see("You see this as Orla Northcape does")
	b.see(fmt.Sprintf("%d records", own))
	b.pressIn("nav a", "Use")
	b.see("Report a fault")
	b.gone("Book a visit")
	b.pressIn("button", "Report a fault")
	b.see("nothing was done")
	b.press("Stop")
	b.see("Nothing has been released for your role")
	b.press("Sign out")

	// The rule changes; the count follows.
	b.signIn("Bo Lindqvale")
	b.open("/build/role/dispatcher")
	b.see("all 400")
	b.find("tr", "Lifts", false)
	run(b, chromedp.Click(`[data-e2e] button.link`))
	b.press("Condition")
	b.pick("Field", "state", "State")
	b.choose("Comparison", "is not")
	b.choose("Value: where from", "typed in")
	b.pressIn("label", "Retired")
	b.see(fmt.Sprintf("%d of 400", s.count(t, `SELECT count(*) FROM liftcare_trial.lift WHERE state <> 'retired'`)))
}
