package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// scrollers counts, for the table that has most of them, what would scroll down under the pointer.
const scrollers = `Math.max(0, ...[...document.querySelectorAll('[role=grid] tbody')].filter(e => e.checkVisibility()).map(e => {
	let n = 0
	for (let at = e; at; at = at.parentElement) {
		const root = at === document.documentElement
		if (at.scrollHeight > at.clientHeight + 1 && (root || /auto|scroll/.test(getComputedStyle(at).overflowY))) n++
	}
	return n
}))`

// Under the pointer one thing scrolls down: tables that share a page show their first rows and
// scroll with it, one of them can be looked at alone, and what was chosen and fed stays.
func TestOneThingScrollsUnderThePointer(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	once := func(where string) {
		t.Helper()
		b.until(scrollers+` <= 1`, "two things scroll under the pointer on %s", where)
	}
	b.open("/use/page/calls")
	b.see("650 records")
	once("a page of two tables")
	b.until(`[...document.querySelectorAll('[data-line]')].filter(e => +e.dataset.line >= 0 && e.querySelector('[data-column="1"]')).length === 8`, "not the first eight rows are shown")
	b.cell(2, 1)
	b.keys(" ")
	b.see("1 chosen")
	visits := b.text(`.band:nth-of-type(2) .count`)

	// The keyboard goes on to the rest, and back to the page.
	for range 6 {
		b.keys(kb.ArrowDown)
	}
	b.keys(kb.Enter)
	b.see("Show everything again")
	b.gone("Visits to its lift")
	once("a table alone")
	b.until(`document.activeElement.closest('[data-line]')?.dataset.line === '8'`,
		"the keyboard is not in the first row that was kept back")
	b.until(`document.documentElement.scrollHeight <= innerHeight`, "the page scrolls beside the table")
	b.keys(kb.End, chromedp.KeyModifiers(2))
	b.until(`+document.activeElement.closest('[data-line]')?.dataset.line > 40`,
		"the keyboard does not reach the end of what is read")
	// Who comes back from a record finds it so.
	b.until(`(e => { e?.click(); return !!e })(document.activeElement.closest('[data-line]')?.querySelector('a'))`,
		"its building cannot be opened")
	b.see("History")
	once("a record")
	run(b, chromedp.NavigateBack())
	b.see("Show everything again")
	b.see("1 chosen")
	b.until(`(e => { e?.focus(); return !!e })([...document.querySelectorAll('[data-line]')].find(e => +e.dataset.line >= 0)?.querySelector('[data-column="1"]'))`, "there are no rows")
	b.keys(kb.Escape)
	b.gone("Show everything again")
	b.see("Visits to its lift")
	b.see("1 chosen")
	if now := b.text(`.band:nth-of-type(2) .count`); now != visits {
		t.Errorf("%s of the chosen row were shown before, %s now", visits, now)
	}

	b.open("/use/page/buildings")
	b.see("120 records")
	once("a page of one table")
	b.open(fmt.Sprintf("/use/record/engineer/%d",
		s.count(t, `SELECT engineer FROM liftcare_production.service_call WHERE engineer IS NOT NULL GROUP BY 1 ORDER BY count(*) DESC LIMIT 1`)))
	b.see("Show all")
	once("a record of much")
	b.pressIn("button", "Show all")
	b.see("Show everything again")
	b.gone("History")
	once("one list of a record")
	b.press("Show everything again")
	b.see("History")

	b.press("Sign out")
	b.signIn("Bo Lindqvale")
	for _, page := range []string{"/build/page/calls", "/build/page/buildings", "/build/walkthrough/book_a_visit"} {
		b.open(page)
		b.until(`!!document.querySelector('[role=grid] tbody tr, .pane input')`, "nothing is shown on %s", page)
		once(page)
	}
}
