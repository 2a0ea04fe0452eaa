package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Cards of three objects that have nothing to do with each other are made from nothing: in one order, read on, one list
// alone, with a face for some, and a press that does what the face says.
func TestCardsAreBuiltFromNothing(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newPage("All that comes")
	b.press("+ add")
	b.press("Cards of several lists")
	b.choose("In which order", "latest or greatest first")
	for _, of := range []string{"Reminders", "Service calls", "Visits"} {
		b.choose("Cards of all records of", of)
		b.until(fmt.Sprintf(`[...document.querySelectorAll('.source .name input, .source input.name')].some(e => e.value === %q)`, of), "%s are no list", of)
	}
	in := func(list int, label string) string {
		return fmt.Sprintf(`[...document.querySelectorAll('.source')][%d].querySelector('[aria-label="%s"], [aria-label="%s"] input')`, list, label, label)
	}
	fill := func(list int, label, text string) {
		t.Helper()
		b.until(`(e => { e?.scrollIntoView({ block: 'center' }); e?.focus(); e?.select?.(); return document.activeElement === e })(`+in(list, label)+`)`, "%s is not there", label)
		b.keys(text)
	}
	fill(1, "What puts them in order", "opened")
	b.option("Opened", true)
	fill(1, "Add to: marks", "priority")
	b.option("Priority", true)
	b.until(`(e => { e?.click(); return !!e })([...document.querySelectorAll('.source')][1].querySelectorAll('button')[0] && [...[...document.querySelectorAll('.source')][1].querySelectorAll('button')].find(e => e.innerText === 'Another face for some'))`, "there is no other face")
	fill(1, "The card looks so when", `row.priority == "urgent"`+kb.Enter)
	b.until(`[...document.querySelectorAll('.source')][1].querySelectorAll('.face').length === 2`, "there is one face")
	fill(1, "At the head of the card", "problem")
	b.option("Problem", true)
	b.until(`(e => { e?.click(); return !!e })([...[...document.querySelectorAll('.source')][0].querySelectorAll('button')].find(e => e.innerText === 'and then …'))`, "a press does nothing")
	b.enter("What it says", "Think of {row.text}")
	b.keys(kb.Tab)
	b.forRole("Dispatcher")
	b.releases("All that comes")

	b.signIn("Dana Merrowdale")
	b.pressIn("nav a", "All that comes")
	shown := func(want int) {
		t.Helper()
		b.until(fmt.Sprintf(`document.querySelectorAll('ul.cards li').length === %d`, want), "there are not %d cards", want)
	}
	shown(50)
	b.axeInBoth("cards")
	b.press("Read on")
	shown(100)
	var last string
	if err := s.db.Get(&last, `SELECT problem FROM liftcare_production.service_call WHERE priority = 'urgent' ORDER BY opened DESC LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	b.pressIn(".lists button", "Service calls")
	shown(50)
	b.until(fmt.Sprintf(`[...document.querySelectorAll('ul.cards .head')].some(e => e.innerText === %q)`, last), "the urgent one has another face")
	b.until(`[...document.querySelectorAll('ul.cards .head')].some(e => /^SC-\d+$/.test(e.innerText))`, "none has the usual face")
	b.press("Where they come from")
	b.see("service calls there are")
	b.keys(kb.Escape)
	b.pressIn(".lists button", "Reminders")
	shown(s.count(t, `SELECT count(*) FROM liftcare_production.reminder`))
	text := run(b, chromedp.Evaluate[string](`document.querySelector('ul.cards .head').innerText`))
	b.press(text)
	b.see("Think of " + text)
	if _, err := s.db.Exec(`INSERT INTO liftcare_production.reminder (text, due, person, state) SELECT 'Look out of the window', '2030-01-01', person, 'open' FROM liftcare_production.reminder LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	b.see("Look out of the window")
	b.pressIn(".lists button", "All")
	shown(50)
	b.until(`document.querySelector('ul.cards .head').innerText === 'Look out of the window'`, "the latest does not come first")
}
