package e2e

import (
	"strings"
	"testing"

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
