package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// fill gives something in a row of a table that asks.
func (b *browser) fill(asked, row, text string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(() => {
	  const tr = [...document.querySelectorAll('tbody tr')].find((r) => r.innerText.includes(%q))
	  const input = tr?.querySelector('[data-asked=%s] input')
	  input?.focus(); input?.select()
	  return !!input && document.activeElement === input
	})()`, row, asked), fmt.Sprintf("there is nothing to fill in for %s of %s", asked, row))
	b.keys(text)
}

// A quote is made of ticked packages and of parts with quantities, over searching and going back: what is read over is
// what is saved, to the cent.
func TestPrepareARepairQuote(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	var parts []struct {
		Name  string
		Price string
	}
	if err := s.db.Select(&parts, `SELECT name, price FROM liftcare_production.spare_part ORDER BY name COLLATE "und-x-icu" LIMIT 2`); err != nil {
		t.Fatal(err)
	}
	var far string
	if err := s.db.Get(&far, `SELECT name FROM liftcare_production.spare_part ORDER BY name COLLATE "und-x-icu" DESC LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	before := s.count(t, `SELECT count(*) FROM liftcare_production.quote`)
	b.signIn("Mara Stillwater")
	b.pressIn("button", "Prepare a repair quote")
	b.see("What is it for?")
	b.pick("Service call", "SC-645", "SC-645")
	b.press("Next")
	b.see("Which repair packages?")
	b.row("Brake service")
	b.see("1 chosen")
	b.press("Next")
	b.see("Which spare parts, and how many?")
	b.fill("quantity", parts[0].Name, "3")
	b.keys(kb.ArrowDown) // the same input of the row below
	b.keys("2")
	b.keys(kb.Tab)
	b.keys("grey")
	b.see("2 filled in")
	b.enter("Search in Spare parts", far)
	b.gone(parts[0].Name)
	b.fill("quantity", far, "0")
	b.see("3 filled in, 2 not in view")
	b.press("Read it over")
	b.see(far + ": Quantity is 0, but at least 1 is wanted")
	b.fill("quantity", far, "1")
	b.press("Back") // what was filled in stays
	b.see("Which repair packages?")
	b.see("1 chosen")
	b.press("Next")
	b.see("3 filled in")
	b.press("Read it over")
	b.see("This is what you chose")
	b.see("Brake service")
	b.see(parts[1].Name + " (grey)")
	var total string
	if err := s.db.Get(&total, `SELECT to_char((SELECT price FROM liftcare_production.repair_package WHERE name = 'Brake service') +
		3 * $1::numeric + 2 * $2::numeric + (SELECT price FROM liftcare_production.spare_part WHERE name = $3), 'FM999,999.00')`,
		parts[0].Price, parts[1].Price, far); err != nil {
		t.Fatal(err)
	}
	b.see("4 lines, which come to €" + total)
	b.press("Make the quote")
	b.see("has 4 lines and comes to €" + total)
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.quote`); n != before+1 {
		t.Errorf("%d quotes were added", n-before)
	}
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.quote_line l JOIN liftcare_production.quote q ON q.id = l.quote
		JOIN liftcare_production.service_call c ON c.id = q.service_call
		WHERE q.id = (SELECT max(id) FROM liftcare_production.quote) AND c.number = 645 AND
		(l.what, l.quantity, l.unit_price) IN (('Brake service', 1, (SELECT price FROM liftcare_production.repair_package WHERE name = 'Brake service')),
			($1, 3, $2::numeric), ($3 || ' (grey)', 2, $4::numeric), ($5, 1, (SELECT price FROM liftcare_production.spare_part WHERE name = $5)))`,
		parts[0].Name, parts[0].Price, parts[1].Name, parts[1].Price, far); n != 4 {
		t.Errorf("%d of four lines are as they were read over", n)
	}
}

// Badges of all engineers who match are suspended at once, and given back.
func TestSuspendBadges(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	free := s.count(t, `SELECT count(*) FROM liftcare_production.badge WHERE NOT suspended`)
	b.signIn("Mara Stillwater")
	b.pressIn("button", "Suspend badges")
	b.see("Suspend or give back?")
	b.press("Next")
	b.see("Whose badges?")
	run(b, chromedp.Evaluate[any](`document.querySelector('[aria-label="Choose all that match"]').click()`))
	b.see(fmt.Sprintf("%d chosen", free))
	b.enter("Suspended until", "31 dec 2031")
	b.enter("Reason", "Stocktaking")
	b.press("Change the badges")
	b.see(fmt.Sprintf("%d badges are suspended.", free))
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.badge WHERE suspended AND suspended_until = '2031-12-31' AND reason = 'Stocktaking'`); n != free {
		t.Errorf("%d badges are suspended, want %d", n, free)
	}
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.history WHERE object = 'badge' AND cause->>'walkthrough' = 'suspend_badges'`); n != free {
		t.Errorf("the history tells of %d badges, want %d", n, free)
	}
	b.press("To the home page")
	b.pressIn("button", "Suspend badges")
	b.see("Suspend or give back?")
	b.pressIn("label", "Give back")
	b.press("Next")
	b.see("Whose badges?")
	if run(b, chromedp.Evaluate[bool](`document.body.innerText.includes('Suspended until')`)) {
		t.Error("who gives badges back is asked until when they are suspended")
	}
	b.row("")
	b.see("1 chosen")
	b.press("Change the badges")
	b.see("1 badges are given back.")
}
