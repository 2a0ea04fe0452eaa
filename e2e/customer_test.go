package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// A customer is taken on: what must hold of several inputs is said, what was typed is kept for later and on the way
// back, and the people typed in row by row become contacts.
func TestTakeOnACustomer(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Mara Stillwater")
	b.pressIn("button", "Take on a customer")
	b.see("Who is it?")
	b.enter("Name", "Brindle Court Homes")
	b.press("Next")
	b.see("is needed to reach Brindle Court Homes.")
	b.press("Save for later")
	b.see("Not finished yet")
	b.press("Take on a customer")
	b.see("Who is it?")
	b.until(`[...document.querySelectorAll('input')].some((i) => i.value === 'Brindle Court Homes')`,
		"what was typed is not there again")
	b.enter("E-mail", "desk@brindlecourt.example")
	b.press("Next")
	b.see("Whom do we talk to there?")
	b.press("Next")
	b.see("fill in at least 1")
	b.field("First name, row 1")
	b.keys("Ada")
	b.keys(kb.Tab)
	b.keys("Thornwick")
	b.field("First name, row 1")
	b.keys(kb.ArrowDown) // the row below
	b.keys("Ada")
	b.press("Next")
	b.see("row 2: Last name is required")
	b.field("Last name, row 2")
	b.keys("Marlow")
	b.press("Back")
	b.see("Who is it?")
	b.press("Next")
	b.until(`[...document.querySelectorAll('input')].some((i) => i.value === 'Marlow')`,
		"the rows typed are not there again")
	b.press("Next")
	b.see("Their papers")
	b.press("There are none")
	b.see("Brindle Court Homes is taken on")
	b.see("with 2 to talk to.")
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.contact k JOIN liftcare_production.customer c ON c.id = k.customer
		WHERE c.name = 'Brindle Court Homes' AND c.email = 'desk@brindlecourt.example' AND c.status = 'active'
		AND (k.first_name, k.last_name) IN (('Ada', 'Thornwick'), ('Ada', 'Marlow'))`); n != 2 {
		t.Errorf("%d contacts are there, want 2", n)
	}
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.document WHERE title LIKE 'Brindle%'`); n != 0 {
		t.Errorf("%d papers were added", n)
	}

	b.press("To the home page")
	b.pressIn("button", "Take on a customer")
	b.see("Who is it?")
	b.press("Cancel")
	b.see("What was entered is thrown away.")
	b.press("End it")
	b.see("What would you like to do?")
	if n := s.count(t, `SELECT count(*) FROM plainpath.run WHERE walkthrough = 'take_on_a_customer' AND NOT closed`); n != 0 {
		t.Errorf("%d runs are left", n)
	}
}
