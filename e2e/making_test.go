package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Pages are made in one step of ordinary parts. How some lifts are seen by some people is made so: they find what
// belongs to the lift and what happened to it, and the page does something by itself; others see lifts as before.
func TestPagesAreMadeInOneStep(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	// The demo has pages of its own for lifts.
	s.db.MustExec(`UPDATE plainpath.document SET removed = true WHERE kind = 'page' AND key IN ('a_lift', 'a_lift_that_stands')`)
	var lift, other int64
	var serial string
	var calls int
	if err := s.db.QueryRow(`SELECT l.id, l.serial_number, count(c.id), (SELECT min(o.id) FROM liftcare_production.lift o WHERE o.state <> l.state)
		FROM liftcare_production.lift l JOIN liftcare_production.service_call c ON c.lift = l.id WHERE l.state = 'stopped'
		GROUP BY l.id ORDER BY count(c.id) DESC, l.id LIMIT 1`).Scan(&lift, &serial, &calls, &other); err != nil {
		t.Fatal(err)
	}
	b.signIn("Bo Lindqvale")
	b.open("/build/object/lift")
	b.press("Make a page…")
	b.see("how one of them is seen")
	b.pressIn(".p-multiselect", "Choose roles")
	b.pressIn("[role=option]", "Service manager")
	b.keys(kb.Escape)
	b.press("Make it")
	b.see("no findings")
	b.see("Service calls")
	b.see("added by")
	b.enter("Those where", `record.state == "stopped"`)
	b.keys(kb.Enter)
	b.press("When something happens …")
	b.see("nothing is done then")
	b.press("and then …")
	b.enter("What it says", "{record.serial_number} has stopped")
	b.keys(kb.Tab)
	b.see("no findings")
	b.open("/build/page/lift")
	b.see("has stopped")
	b.releases("Lift")

	b.signIn("Mara Stillwater")
	b.open(fmt.Sprint("/use/record/lift/", lift))
	b.see(serial + " has stopped")
	b.see(fmt.Sprintf("%d record", calls))
	b.see("Change")
	b.press("Change")
	b.enter("Label", "Yard lift")
	b.press("Save")
	b.see("Yard lift")
	b.see("changed by Mara Stillwater")
	b.see(fmt.Sprintf("%d record", calls))
	b.see("has stopped")
	b.choose("What is shown of the history", "Stops")
	b.see("It was never changed.")
	b.open(fmt.Sprint("/use/record/lift/", other))
	b.see("History")
	b.gone("has stopped")
	b.press("Sign out")
	b.signIn("Dana Merrowdale")
	b.open(fmt.Sprint("/use/record/lift/", lift))
	b.see("Yard lift")
	b.see("changed by Mara Stillwater")
	b.gone("has stopped")
}

// Lists and forms of contracts are made in one step, and a page with figures with which people begin: released, used.
func TestAListAndFormsAreMadeInOneStep(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	make := func(begins, label string) {
		t.Helper()
		run(b, chromedp.Evaluate[any](`[...document.querySelectorAll('nav section')].find(s => s.innerText.startsWith('Pages')).querySelector('button').click()`))
		b.choose("What the page begins with", begins)
		b.choose("What the page is about", "Contracts")
		b.pressIn(".p-multiselect", "Choose roles")
		b.pressIn("[role=option]", "Finance")
		b.keys(kb.Escape)
		b.press("Make it")
		b.until(fmt.Sprintf(`document.querySelector('.build-page input')?.value === %q`, label), "it is not called %s", label)
		b.see("no findings")
	}
	make("a list, and a form that changes the one chosen", "Change contracts")
	make("a form that adds one", "New contract")
	make("figures over them, a chart, and the latest of them", "Contracts at a glance")
	b.see("Starts: this month")
	make("a list of them", "Contracts")
	b.press("+ a band below")
	b.choose("A figure over", "Contracts")
	b.see("compared with")
	b.choose("What the figure says", "sum of yearly fee")
	b.pressIn("label", "converted to EUR")
	b.pick("What the figure is compared with", "contracts_found", "contracts_found")
	b.see("it does not say what the figure is compared with")
	b.enter("What it is compared with is called", "itself")
	b.keys(kb.Tab)
	b.see("no findings")
	b.press("the whole page")
	b.until(`(e => { e?.click(); return !!e })(document.querySelector('.bench .p-multiselect'))`, "nobody can begin with it")
	b.pressIn("[role=option]", "Finance")
	b.keys(kb.Escape)
	b.press("+ a band below")
	b.press("A menu of what can be done")
	b.see("no findings")
	b.releases("New contract")

	b.signIn("Fenn Oakenrow")
	var sum string
	if err := s.db.Get(&sum, `SELECT to_char(round(sum(yearly_fee * CASE yearly_fee_currency WHEN 'EUR' THEN 1 ELSE (SELECT r.rate FROM liftcare_production.exchange_rate r
		WHERE r.currency = c.yearly_fee_currency AND r.day <= current_date ORDER BY r.day DESC, r.id DESC LIMIT 1) END), 2), 'FM999,999,999.00') FROM liftcare_production.contract c`); err != nil {
		t.Fatal(err)
	}
	b.see(sum)
	b.see("against itself")
	b.until(`(e => { e?.click(); return !!e })(document.querySelector('.figure .number'))`, "the figure has no proof")
	b.see("shown, each of them once")
	b.see("the rate of")
}
