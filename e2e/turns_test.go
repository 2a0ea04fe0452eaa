package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// newWalkthrough makes a walkthrough that dispatchers may start, and stands before its first step.
func (b *browser) newWalkthrough(label, role string) {
	b.t.Helper()
	b.press("New…")
	b.enter("What is it called?", label)
	b.pressIn(".p-multiselect", "Choose roles")
	b.pressIn("[role=option]", role)
	b.keys(kb.Escape)
	b.press("Make it")
	b.see("This walkthrough has no steps yet")
}

// after makes a step behind the row of another one.
func (b *browser) after(row, words, option string) {
	b.t.Helper()
	if row == "" {
		b.press("Add the first step")
	} else {
		b.focusRow(row)
		b.keys(kb.Enter, chromedp.KeyModifiers(8)) // Shift Enter: a step after this one
	}
	b.pick("New step: type its verb", words, option)
}

// A builder lets people be led through the lifts of a building one by one, and another walkthrough run that; both are
// rehearsed, released and walked through.
func TestLedThroughOneByOne(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	var building string
	var lifts int
	if err := s.db.QueryRow(`SELECT b.name, count(*) FROM liftcare_production.building b JOIN liftcare_production.lift l ON l.building = b.id
		GROUP BY b.id HAVING count(*) = 3 ORDER BY b.name COLLATE "und-x-icu" LIMIT 1`).Scan(&building, &lifts); err != nil {
		t.Fatal(err)
	}
	b.signIn("Bo Lindqvale")
	b.newWalkthrough("Inspect lifts", "Service manager")
	b.choose("Opened with", "Building")
	b.see("required")
	b.after("", "search lifts", "Search lifts")
	b.known("lifts")
	b.press("Condition")
	b.pick("Field", "building", "Building")
	b.pick("Value", "building", "building")
	b.see("Building is building")
	b.after("lifts", "repeat: For each lift", "Repeat")
	b.pick("For each of", "lifts", "lifts")
	b.see("known inside as “each_lift”")
	b.after("/steps/1/repeat", "screen: Is it in order?", "Screen")
	b.known("is_it_in_order")
	b.press("input")
	b.enter("Label", "Inspected on")
	b.choose("Type of the input", "date")
	b.after("is_it_in_order", "change", "Change records")
	b.pick("What is changed", "each_lift", "each_lift")
	b.choose("Set a field", "Last inspected on")
	b.enter("Last inspected on", "is_it_in_order.inspected_on")
	b.keys(kb.Enter)
	b.after("for_each_lift", "finish", "Finish")
	b.known("done")
	b.see("no findings")
	b.pick("Gives back", "change", "Change records")
	b.pick("Building", building, building)
	b.see("Lift 1 of 3")
	b.enter("Inspected on", "5 mar 2026")
	b.press("Next")
	b.see("Lift 2 of 3")
	b.see("turn 1")

	b.newWalkthrough("Go round", "Service manager")
	b.after("", "screen: Where are you?", "Screen")
	b.known("where_are_you")
	b.press("input")
	b.enter("Label", "House")
	b.choose("Type of the input", "reference")
	b.choose("Which object", "Building")
	b.after("where_are_you", "run inspect", "Run Inspect lifts")
	b.see("building is the chosen building") // the only one that is known
	b.after("inspect_lifts", "finish: Round", "Finish")
	b.known("round")
	b.enter("Closing message", "{size(inspect_lifts.change_records)} lifts of {where_are_you.house.name}")
	b.see("no findings")
	b.pick("House", building, building)
	b.press("Next")
	b.see("Lift 1 of 3")
	b.press("Release…")
	b.see("“Go round” is added")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")

	b.signIn("Mara Stillwater")
	b.pressIn("button", "Go round")
	b.see("Where are you?")
	b.pick("House", building, building)
	b.press("Next")
	b.see("Lift 1 of 3")
	b.press("Back")
	b.see("Where are you?")
	b.press("Next")
	for n, day := range []string{"1 mar 2026", "2 mar 2026", "3 mar 2026"} {
		b.see(fmt.Sprintf("Lift %d of 3", n+1))
		if n > 0 && run(b, chromedp.Evaluate[bool](`[...document.querySelectorAll('button')].some((x) => x.innerText === 'Back')`)) {
			t.Error("there is a way back behind what was written")
		}
		b.enter("Inspected on", day)
		if n == 1 { // taken up where it was left
			b.open("/use")
			b.press("Go round")
			b.see("Lift 2 of 3")
			b.enter("Inspected on", day)
		}
		b.press("Next")
	}
	b.see("3 lifts of " + building)
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.lift l JOIN liftcare_production.building b ON b.id = l.building
		WHERE b.name = $1 AND l.last_inspected_on BETWEEN '2026-03-01' AND '2026-03-03'`, building); n != 3 {
		t.Errorf("%d lifts are inspected", n)
	}
}

// A builder says what is done where a record is refused: the person reads why, and it goes on.
func TestWhatIsDoneIfItFails(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	name := ""
	if err := s.db.Get(&name, `SELECT name FROM liftcare_production.customer ORDER BY id LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	b.signIn("Bo Lindqvale")
	b.newWalkthrough("Take a name", "Service manager")
	b.after("", "screen: Who?", "Screen")
	b.press("input")
	b.enter("Label", "Name")
	b.see("Name")
	b.after("who", "add customer", "Add customer")
	b.enter("Name", "who.name")
	b.keys(kb.Enter)
	b.pressIn("label", "if it fails, do other steps")
	b.see("nothing is done if it fails")
	b.after("/steps/1/if_fails", "say", "Say a message")
	b.enter("What it says", "No: {failure}")
	b.after("new_customer", "finish", "Finish")
	b.known("done")
	b.see("no findings")
	b.enter("Name", name)
	b.press("Next")
	b.see("failed: The customer could not be added")
	b.see("It says “No: The customer could not be added")
}
