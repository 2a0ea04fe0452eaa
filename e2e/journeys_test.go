package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

func (s site) count(t *testing.T, sql string, args ...any) int {
	t.Helper()
	var n int
	if err := s.db.Get(&n, sql, args...); err != nil {
		t.Fatalf("%s: %v", sql, err)
	}
	return n
}

// The whole job: a builder changes and releases Book a visit, a dispatcher books, and
// the records and their history are in the database.
func TestBookAVisitThroughBothSides(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	visits := s.count(t, `SELECT count(*) FROM liftcare_production.visit`)
	trial := s.count(t, `SELECT count(*) FROM liftcare_trial.visit`)
	var name, town string
	if err := s.db.QueryRow(`SELECT b.name, b.town FROM liftcare_production.building b JOIN liftcare_production.lift l ON l.building = b.id
		WHERE l.state <> 'retired' GROUP BY b.id HAVING count(*) >= 3 ORDER BY b.id DESC LIMIT 1`).Scan(&name, &town); err != nil {
		t.Fatal(err)
	}
	part := strings.ToUpper(name[:len(name)-2])

	b.signIn("Bo Lindqvale")
	b.pressIn("nav a", "Book a visit")
	b.see("no findings")
	// The builder asks for something else on the closing screen.
	b.pressIn("[data-row=booked]", "Booked")
	b.enter("Closing message", "{size(visits)} visits to {choose_building.building.nam} are booked.")
	b.keys(kb.Tab)
	b.see("there is no field")
	b.see("Rehearse as")
	b.press("Use {size(visits)} visits to {choose_building.building.name} are booked.")
	b.see("no findings")

	// Rehearsed as Dana, to the end, with the records put back.
	b.enter("Part of the building’s name", part)
	b.press("Find buildings")
	b.row(name)
	b.press("Next")
	b.see("Choose the lifts")
	b.row("QL-")
	b.press("Next")
	b.see("Day and time")
	b.row("+44")
	b.enter("Day and time", "2 mar 2027 9:30")
	b.press("Book")
	b.see("1 visits to " + name + " are booked.")
	b.see("1 written")
	if n := s.count(t, `SELECT count(*) FROM liftcare_trial.visit`); n != trial {
		t.Fatalf("the rehearsal left %d visits in trial", n-trial)
	}
	b.press("Release…")
	b.see("step “Booked” changed")
	b.enter("Note", "A shorter closing message")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")

	// Dana books two visits, closing the browser tab on the way.
	b.signIn("Dana Merrowdale")
	b.pressIn("button", "Book a visit")
	b.enter("Part of the building’s name", part)
	b.keys(kb.Enter)
	b.see("Choose the building")
	b.open("/use")
	b.see("Not finished yet")
	b.pressIn("main a", "Book a visit")
	b.row(name)
	b.press("Next")
	b.see("Choose the lifts")
	b.press("Next")
	b.see("choose at least 1")
	b.row("QL-")
	b.keys(kb.ArrowDown)
	b.keys(" ")
	b.see("2 chosen")
	b.press("Next")
	b.see("Day and time")
	b.press("Book")
	b.see("Day and time is required")
	b.row("+44")
	b.enter("Day and time", "2 mar 2027 9:30")
	b.press("Book")
	b.see("2 visits to " + name + " are booked.")
	b.see("Finished")
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.visit`); n != visits+2 {
		t.Errorf("%d visits were added, want 2", n-visits)
	}
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.history h JOIN plainpath.person p ON p.id = h.person
		WHERE h.object = 'visit' AND p.name = 'Dana Merrowdale' AND h.cause->>'walkthrough' = 'book_a_visit' AND h.cause->>'step' = 'visits'`); n != 2 {
		t.Errorf("the history tells of %d visits by Dana through the step, want 2", n)
	}
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.visit v JOIN liftcare_production.lift l ON l.id = v.lift JOIN liftcare_production.building b ON b.id = l.building
		JOIN liftcare_production.certificate c ON c.engineer = v.engineer WHERE v.number > 900 AND b.name = $1 AND b.town = $2 AND c.kind = 'electrical' AND c.expires_on >= current_date`, name, town); n < 2 {
		t.Errorf("the visits are not to %s by an engineer with the certificate", name)
	}
}

// A builder makes a walkthrough of two screens from nothing, rehearses, releases and
// walks it.
func TestAWalkthroughFromNothing(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.press("New…")
	b.enter("What is it called?", "Who works there?")
	b.pressIn(".p-multiselect", "Choose roles")
	b.pressIn("[role=option]", "Dispatcher")
	b.keys(kb.Escape)
	b.press("Make it")
	b.see("This walkthrough has no steps yet")

	b.press("Add the first step")
	b.pick("New step: type its verb", "search customers", "Search customers")
	b.known("customers")
	step := func(words, option string) {
		t.Helper()
		b.keys(kb.Enter, chromedp.KeyModifiers(8)) // Shift Enter: a step after this one
		b.pick("New step: type its verb", words, option)
	}
	step("screen: Which customer?", "Screen")
	b.see("this screen is empty")
	b.press("table")
	b.known("which_customer.customer")
	b.focusRow("which_customer")
	step("search contacts", "Search contacts")
	b.known("contacts")
	b.press("Condition")
	b.pick("Field", "customer", "Customer")
	b.pick("Value", "which customer", "which_customer.customer")
	b.see("Customer is the chosen customer")
	b.focusRow("contacts")
	step("screen: Their contacts", "Screen")
	b.known("their_contacts")
	b.press("table")
	b.known("their_contacts.contact")
	b.choose("one row is chosen", "no row can be chosen")
	b.focusRow("their_contacts")
	step("finish", "Finish")
	b.see("no findings")

	b.see("Screen 1 of 2")
	b.row("Homes")
	b.press("Next")
	b.see("Screen 2 of 2")
	b.press("Release…")
	b.see("“Who works there?” is added")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")

	b.signIn("Dana Merrowdale")
	b.pressIn("button", "Who works there?")
	b.see("Which customer?")
	var customer string
	var contacts int
	if err := s.db.QueryRow(`SELECT c.name, count(*) FROM liftcare_production.customer c JOIN liftcare_production.contact k ON k.customer = c.id
		GROUP BY c.id ORDER BY c.name COLLATE "und-x-icu" LIMIT 1`).Scan(&customer, &contacts); err != nil {
		t.Fatal(err)
	}
	b.row(customer)
	b.press("Next")
	b.see("Their contacts")
	rows := run(b, chromedp.Evaluate[int](`document.querySelectorAll('tbody tr').length`))
	if rows != contacts {
		t.Errorf("%d contacts of %s are shown, want %d", rows, customer, contacts)
	}
	b.press("Next")
	b.see("Finished")
}

// Undo survives a reload, and what one builder did stays when another undoes.
func TestUndoSurvivesReloading(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	title := func() string {
		var title string
		if err := s.db.Get(&title,
			`SELECT body->>'label' FROM plainpath.document WHERE kind = 'walkthrough' AND key = 'book_a_visit'`); err != nil {
			t.Fatal(err)
		}
		return title
	}
	b.signIn("Bo Lindqvale")
	b.open("/build/walkthrough/book_a_visit")
	for _, name := range []string{"Plan a visit", "Arrange a visit"} {
		b.enter("Name of the walkthrough", name)
		b.keys(kb.Enter)
		b.see("draft, saved")
		b.pressIn("nav a", name) // the contents follow
	}
	b.open("/build/walkthrough/book_a_visit")
	b.see("Arrange a visit")
	b.press("Undo")
	b.pressIn("nav a", "Plan a visit")
	b.press("Undo")
	b.pressIn("nav a", "Book a visit")
	b.press("Undo")
	b.see("There is nothing to undo")
	b.press("Redo")
	b.pressIn("nav a", "Plan a visit")
	if got := title(); got != "Plan a visit" {
		t.Errorf("the document says %q", got)
	}
}
