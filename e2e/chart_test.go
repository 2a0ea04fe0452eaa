package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A chart is built from nothing and tells a table what is pressed in it, by its figures and in the drawing.
func TestAChartIsBuiltAndNarrowsATable(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newPage("Calls in states")
	b.press("+ add")
	b.choose("A chart of", "Service calls")
	b.until(`!!document.querySelector('.place canvas')`, "nothing is drawn")
	b.choose("A bar for each", "State")
	b.choose("And in it one for each", "Priority")
	b.see("how many by state and priority")
	b.press("+ a band below")
	b.choose("A table of", "Service calls")
	b.see("650 records")
	b.pick("What the table shows", "service_calls_drawn.matching", "service_calls_drawn.matching")
	b.see("650 records")
	b.forRole("Dispatcher")
	b.releases("Calls in states")

	b.signIn("Dana Merrowdale")
	b.pressIn("nav a", "Calls in states")
	b.see("650 records")
	b.axeInBoth("chart")
	b.press("As a table")
	b.axeInBoth("figures of a chart")
	n := s.count(t, `SELECT count(*) FROM liftcare_production.service_call WHERE state = 'planned' AND priority = 'urgent'`)
	all := s.count(t, `SELECT count(*) FROM liftcare_production.service_call WHERE state = 'planned'`)
	row := `[...document.querySelectorAll('.roll tr')].find(r => r.querySelector('th')?.innerText === 'Planned')`
	says := func() []int {
		return run(b, chromedp.Evaluate[[]int](`[...`+row+`.querySelectorAll('.says')].map(e => Number(e.innerText))`))
	}
	var sum int
	for _, one := range says() {
		sum += one
	}
	if got := says(); len(got) != 4 || got[0] != n || sum != all {
		t.Errorf("planned are %v, want %d urgent of %d", got, n, all)
	}
	b.until(`(e => { e?.click(); return !!e })(`+row+`.querySelector('.says'))`, "there is no proof")
	b.see("shown, each of them once")
	b.keys(kb.Escape)
	b.until(`(e => { e?.click(); return !!e })(`+row+`.querySelector('.pick'))`, "nothing can be pressed")
	b.see(fmt.Sprintf("%d record", n))
	b.see("these alone")
	b.press("Show all")
	b.see("650 records")
	b.press("As a drawing")
	b.until(`(c => { if (!c) return false; const r = c.getBoundingClientRect(); return r.width > 400 && r.height > 200 })(document.querySelector('.drawing canvas'))`, "nothing is drawn")
	// The column of those that are done is high, and the fifth of seven.
	press := `(c => { if (document.body.innerText.includes('Show all')) return true
		const r = c.getBoundingClientRect()
		c.dispatchEvent(new MouseEvent('click', { bubbles: true, clientX: r.x + 38 + (r.width - 38) * 4.5 / 7, clientY: r.y + r.height / 2 })) })`
	b.until(press+`(document.querySelector('.drawing canvas'))`, "a column cannot be pressed")
	b.gone("650 records")
}
