package e2e

import (
	"encoding/csv"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"plainpath/testdb"
)

// On one screen, built from nothing, a building is chosen, then one of the lifts that are searched for with it, then
// its calls are read when they are asked for, and downloaded by a button of the screen.
func TestAScreenSearches(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	var building, lift string
	var lifts, calls, call int
	if err := s.db.QueryRow(`SELECT b.name, l.serial_number, (SELECT count(*) FROM liftcare_production.lift o WHERE o.building = b.id), count(c.id), min(c.number)
		FROM liftcare_production.building b JOIN liftcare_production.lift l ON l.building = b.id JOIN liftcare_production.service_call c ON c.lift = l.id
		WHERE b.id < 12 GROUP BY b.id, l.id ORDER BY count(c.id) DESC, l.id LIMIT 1`).Scan(&building, &lift, &lifts, &calls, &call); err != nil {
		t.Fatal(err)
	}
	b.signIn("Bo Lindqvale")
	b.newWalkthrough("Calls of a lift", "Service manager")
	b.after("", "screen: Which lift?", "Screen")
	b.known("which_lift")
	b.pressIn("summary", "What is searched for on it")
	show := func(object string) {
		t.Helper()
		b.choose("Records to search for on this screen", object)
	}
	conditionOf := func(n int, field, words, value string) {
		t.Helper()
		b.until(fmt.Sprintf(`(e => { e?.click(); return !!e })([...document.querySelectorAll('.search')][%d]?.querySelectorAll('button')
			&& [...[...document.querySelectorAll('.search')][%d].querySelectorAll('button')].find(e => e.innerText === 'Condition'))`, n, n), "search %d takes no condition", n)
		for _, typed := range [][3]string{{"Field", field, field}, {"Value", words, value}} {
			b.until(fmt.Sprintf(`(e => { e?.focus(); return !!e && document.activeElement === e })(document.querySelectorAll('.search')[%d].querySelector('input[aria-label=%q]'))`,
				n, typed[0]), "nothing is called %s", typed[0])
			b.keys(typed[1])
			b.pressIn("[role=option]", typed[2])
		}
	}
	show("Buildings")
	b.see("120 records")
	show("Lifts")
	b.known("which_lift.lifts_found")
	conditionOf(1, "Building", "buildings", "Which lift? › Buildings")
	b.see("0 records")
	show("Service calls")
	b.known("which_lift.service_calls_found")
	conditionOf(2, "Lift", "lifts", "Which lift? › Lifts")
	b.until(`(e => { e?.click(); return !!e })([...document.querySelectorAll('.search')][2].querySelector('input[type=checkbox]'))`,
		"it cannot be read on demand")
	b.see("This is read when it is asked for.")
	b.until(`(e => { e?.focus(); e?.select(); return !!e })([...document.querySelectorAll('.search')][2].querySelector('.key-slot input'))`,
		"the search has no key")
	b.keys("of_the_lift" + kb.Enter)
	b.known("which_lift.of_the_lift")
	b.press("button")
	b.relabel("New button", "Take them along")
	b.pressIn("summary", "What it does by itself")
	b.press("When something happens …")
	b.choose("What happens", "a button is pressed:")
	b.choose("To which part it happens", "Take them along")
	b.press("and then …")
	b.choose("What it does", "read again")
	b.choose("What is read again", "search “Service calls found”")
	b.press("and then …")
	b.chooseIn(1, "What it does", "download a file or rows")
	b.see("which table's rows are downloaded")
	b.choose("What is downloaded", "the rows of Service calls")
	b.after("which_lift", "finish", "Finish")
	b.enter("Closing message", "So: {which_lift.lifts.serial_number}")
	b.keys(kb.Tab)
	b.see("no findings")
	b.row(building) // rehearsed
	b.see(fmt.Sprintf("%d record", lifts))
	b.row(lift)
	b.press("Read it now")
	b.see(fmt.Sprintf("%d record", calls))
	b.releases("Calls of a lift")

	b.signIn("Mara Stillwater")
	b.pressIn("button", "Calls of a lift")
	b.row(building)
	b.see(fmt.Sprintf("%d record", lifts))
	b.row(lift)
	b.see("This is read when it is asked for.")
	run(b, chromedp.Evaluate[any](`window.taken = ''; HTMLAnchorElement.prototype.click = function () { window.taken = this.href }`))
	b.pressIn(".p-button", "Take them along") // which reads them first
	b.until(`!!window.taken`, "nothing is downloaded")
	b.see(fmt.Sprintf("%d record", calls))
	address := run(b, chromedp.Evaluate[string](`new URL(window.taken).pathname`))
	var file string
	if status, err := testdb.SignIn(t, s.address, "mara@quillmere.example").Do("GET", address, nil, "",
		&file); err != nil || status != 200 {
		t.Fatal(status, err)
	}
	got, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(file, "\ufeff"))).ReadAll()
	if err != nil || len(got) != calls+1 {
		t.Errorf("%d lines, %v; there are %d calls", len(got), err, calls)
	}
	b.row(fmt.Sprint("SC-", call))
	b.press("Next")
	b.see("So: " + lift)
}
