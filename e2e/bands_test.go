package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A page is put together of bands: a part is moved by keyboard into the column beside and copied, a band becomes tabs
// with names and another is folded, a text has marks of its own but none of a value,
// what feeds what is drawn. Whoever uses it finds the tab in the address, and records by a search box.
func TestAPageOfBands(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	s.db.MustExec(`UPDATE liftcare_trial.lift SET serial_number = '**QL-1**' WHERE id = 3`)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newPage("Lift desk")
	b.press("+ add")
	b.choose("A table of", "Lifts")
	b.see("400 records")
	b.row("**QL-1**")
	b.press("+ add here")
	b.press("A column beside it")
	b.until(`document.querySelectorAll('.edge').length === 3`, "there is no column")
	b.pressIn(".column:nth-child(2) .edge button", "")
	b.press("A text")
	b.field("Text")
	b.keys("## To do{lifts.selected.serial_number}")
	b.keys(kb.Tab)
	b.until(`document.querySelector('.column:nth-child(2) .rich h3')?.innerText === 'To do**QL-1**'`, "the value is taken for a mark")
	b.enter("Text", "- see to {lifts.selected.serial_number}")
	b.keys(kb.Tab)
	b.until(`document.querySelector('.column:nth-child(2) .rich li')?.innerText === 'see to **QL-1**'`, "there is no list")

	b.enter("Text", "[run](javascript:alert(1)) **bold** <img src=x onerror=alert(1)> ![p](https://quillmere.example/p.png) [ring](tel:{lifts.selected.serial_number})")
	b.keys(kb.Tab)
	b.until(`(e => e?.querySelector('strong') && !e.querySelector('img') && [...e.querySelectorAll('a')].map((l) => l.getAttribute('href')).join() === 'tel:**1**' && e.innerText.includes('[run](javascript:alert(1))') && e.innerText.includes('<img'))(document.querySelector('.column:nth-child(2) .rich'))`,
		"what is no mark of ours does not stay as it was written")
	b.enter("Text", "- see to {lifts.selected.serial_number}")
	b.keys(kb.Tab)
	b.pressIn(".column:nth-child(2) .place", "see to")
	b.keys("w")
	b.until(`document.querySelectorAll('.wiring .wire').length === 1`, "nothing is drawn")
	b.see("lifts.selected.serial_number")
	run(b, chromedp.Evaluate[any](`document.querySelector('.selected > .grip').focus()`))
	b.keys("c", chromedp.KeyModifiers(2))
	b.see("“text” was copied")
	b.keys("v", chromedp.KeyModifiers(2))
	b.until(`document.querySelectorAll('.column:nth-child(2) .rich').length === 2`, "nothing is pasted")
	run(b, chromedp.Evaluate[any](`document.querySelector('.selected > .grip').focus()`))
	b.keys(kb.ArrowLeft, chromedp.KeyModifiers(1))
	b.until(`document.querySelectorAll('.column:nth-child(1) .rich').length === 1 && document.activeElement?.matches('.selected > .grip')`, "it is not moved")
	b.keys("z", chromedp.KeyModifiers(2))
	b.until(`document.querySelectorAll('.column:nth-child(2) .rich').length === 2`, "it is not taken back")

	b.pressIn(".handle button", "Band 1")
	b.choose("How the band stands", "as tabs")
	b.enter("Name of tab 1", "All lifts")
	b.keys(kb.Enter)
	b.enter("Name of tab 2", "What to do")
	b.keys(kb.Enter)
	b.see("What to do")
	b.keys(kb.Escape)
	b.press("+ a band below")
	b.press("A search box")
	b.until(`(e => { e?.click(); return !!e })(document.querySelector('.bench .p-multiselect'))`, "no objects can be chosen")
	b.pressIn("[role=option]", "Buildings")
	b.keys(kb.Escape)
	b.pressIn(".handle button", "Band 2")
	b.enter("Title of the band", "Look further")
	b.keys(kb.Enter)
	b.choose("How the band stands", "folded at first")
	b.keys(kb.Escape)
	b.forRole("Service manager")
	b.releases("Lift desk")

	b.signIn("Mara Stillwater")
	b.open("/use/page/lift_desk")
	b.see("400 records")
	b.press("What to do")
	b.until(`location.search === '?_tab=what-to-do'`, "the tab is not in the address")
	run(b, chromedp.Reload())
	b.until(`document.querySelector('[role=tab][aria-selected=true]')?.innerText === 'What to do'`, "another tab is open")
	b.keys(kb.Escape)
	b.press("Look further")
	b.enter("Find", "mill")
	b.until(`document.querySelectorAll('[role=listbox] [role=option]').length > 0`, "nothing is found")
	b.axeInBoth("bands")
	b.field("Find")
	b.keys(kb.Enter)
	b.until(`location.pathname.startsWith('/use/record/building/')`, "the record is not opened")
}

// Visits stand on their days, by week and month and on the line of who makes them; one that is pressed opens. Pages in
// a group of the menu are found below its name.
func TestADayOfThePlanner(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	s.db.MustExec(`UPDATE liftcare_production.visit SET starts = date_trunc('week', now()) + interval '2 days 10 hours'
		WHERE id IN (101, 102, 103, 104, 105, 106)`)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use")
	b.press("Places")
	b.pressIn("[role=menuitem]", "Documents")
	b.until(`location.pathname === '/use/page/documents'`, "the page is not opened")
	b.press("Planner")
	b.until(`[...document.querySelectorAll('.bars [title]')].filter((e) => e.title.includes('V-10')).length === 6`,
		"not all visits are on their lines")
	b.axeInBoth("time line")
	b.press("Month")
	b.until(`[...document.querySelectorAll('td')].some((d) => d.innerText.includes('V-101') && d.innerText.includes('more'))`,
		"they are not on their day")
	b.axeInBoth("month")
	b.pressIn("td button", "more")
	b.see("V-106")
	b.keys(kb.Escape)
	b.press("Week")
	b.until(`document.querySelectorAll('.week .entry').length >= 6`, "they are not in their week")
	b.axeInBoth("week")
	b.press("Earlier")
	b.until(`![...document.querySelectorAll('.week .entry')].some((e) => e.innerText.includes('V-101'))`,
		"the week before has them, too")
	b.press("Today")
	b.pressIn(".week .entry", "V-101")
	b.until(`location.pathname === '/use/record/visit/101'`, "the visit is not opened")

	// A row opens to cards, each with its button.
	b.open("/use/record/customer/5?_tab=buildings")
	b.until(`(e => { e?.click(); return !!e })(document.querySelector('.opens button'))`, "nothing opens")
	b.until(`document.querySelectorAll('ul.cards li').length > 0`, "there are no cards")
	lift := b.text("ul.cards li strong")
	b.axeInBoth("cards of a row")
	b.pressIn("ul.cards button", "Report a fault")
	b.see("What happens?")
	b.see(lift)
	b.enter("What happens?", "It sings")
	b.press("Report")
	b.see("The fault is reported")
	b.eventually(`SELECT count(*) FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift
		WHERE c.problem = 'It sings' AND l.serial_number = '`+lift+`'`, 1)
}
