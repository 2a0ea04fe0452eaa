package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// panel opens one of the panels of the first table with the keyboard, which goes into it.
func (b *browser) panel(tool string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(e => { e?.focus(); return !!e })([...document.querySelectorAll('button.tool')].find(e => e.innerText.trim().startsWith(%q)))`, tool), "there is no %q", tool)
	b.keys(kb.Enter)
	b.until(`!!document.activeElement.closest('.p-popover')`, "the keyboard is not in the panel of %q", tool)
}

// leave closes a panel; the keyboard is where it was before.
func (b *browser) leave(tool string) {
	b.t.Helper()
	b.keys(kb.Escape)
	b.until(fmt.Sprintf(`document.activeElement.innerText?.trim().startsWith(%q)`, tool),
		"the keyboard does not come back to %q", tool)
}

// Columns, conditions, views and files are had without a mouse, and the keyboard comes back
// to where it was.
func TestPanelsByKeyboard(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use/page/calls")
	b.see("650 records")
	heads := func(want string) {
		t.Helper()
		b.until(fmt.Sprintf(`[...document.querySelectorAll('table')[0].querySelectorAll('th[data-column]')].map(e => e.innerText.trim()).join(', ') === %q`, want), "the columns are not %s", want)
	}
	b.panel("Columns")
	b.tabTo(`e.getAttribute('aria-label') === 'Priority further left'`)
	b.keys(kb.Enter)
	b.tabTo(`e.closest('label')?.innerText.trim() === 'Due'`)
	b.keys(" ")
	b.leave("Columns")
	heads("Number, Problem, Lift · building, Priority, Lift, State, Opened, Engineer")

	// From a head to its menu, into the form for a condition on it, and back to the head.
	b.tabTo(`e.closest('[data-line]')`)
	b.keys(kb.ArrowUp)
	b.step(kb.ArrowRight, `document.activeElement.innerText.startsWith('Priority')`)
	// Two presses before the table has answered the first.
	twice := func(key string) {
		run(b, chromedp.Evaluate[bool](fmt.Sprintf(`[1, 2].forEach(() => document.activeElement.dispatchEvent(new KeyboardEvent('keydown', {key: %q, altKey: true, bubbles: true}))); true`, key)))
	}
	twice("ArrowRight")
	heads("Number, Problem, Lift · building, Lift, State, Priority, Opened, Engineer")
	b.until(`document.activeElement.innerText.startsWith('Priority') && document.activeElement.dataset.column === '5'`,
		"the keyboard has not moved with the column")
	twice("ArrowLeft")
	heads("Number, Problem, Lift · building, Priority, Lift, State, Opened, Engineer")
	b.until(`document.activeElement.innerText.startsWith('Priority') && document.activeElement.dataset.column === '3'`,
		"the keyboard has not moved back with the column")
	b.keys(kb.ArrowDown, chromedp.KeyModifiers(1))
	b.step(kb.ArrowDown, `document.querySelector('[role=menu] .p-focus')?.innerText.trim() === 'Filter …'`)
	b.keys(kb.Enter)
	b.until(`document.activeElement.closest('form.condition') && document.activeElement.type === 'radio'`,
		"the value has not got the keyboard")
	b.keys(kb.ArrowRight) // from the first to the second, High
	b.tabTo(`e.innerText === 'Show those'`)
	b.keys(kb.Enter)
	high := s.count(t, `SELECT count(*) FROM liftcare_production.service_call WHERE priority = 'high'`)
	b.see(fmt.Sprintf("%d records", high))
	b.until(`document.activeElement.tagName === 'TH' && document.activeElement.innerText.startsWith('Priority')`,
		"the keyboard is not on the head again")

	b.panel("Views")
	b.tabTo(`e.getAttribute('aria-label') === 'Name of the view'`)
	b.keys("Urgent" + kb.Enter)
	b.see("View: Urgent")
	b.panel("Download")
	b.keys(kb.Enter)
	b.see(fmt.Sprintf("%d rows written.", high))
	b.leave("Download")

	b.panel("View: Urgent")
	b.tabTo(`e.innerText === 'As it came'`)
	b.keys(kb.Enter)
	heads("Number, Problem, Lift · building, Lift, Priority, State, Opened, Due, Engineer")
	b.see("650 records")
	b.panel("Views")
	b.tabTo(`e.innerText === 'Urgent'`)
	b.keys(kb.Enter)
	b.see(fmt.Sprintf("%d records", high))
	b.open("/use/page/calls")
	b.see("View: Urgent")
	heads("Number, Problem, Lift · building, Priority, Lift, State, Opened, Engineer")

	// What a view names that is gone is said, when it comes back and when it is opened.
	if _, err := s.db.Exec(`UPDATE plainpath.view SET body = jsonb_set(body, '{look,order}', '[{"path":"colour"}]') WHERE name = 'Urgent'`); err != nil {
		t.Fatal(err)
	}
	b.open("/use/page/calls")
	b.see(`The table cannot show "colour"`)
	b.see(fmt.Sprintf("%d records", high))
	b.panel("View: Urgent")
	b.tabTo(`e.innerText === 'As it came'`)
	b.keys(kb.Enter)
	b.gone(`cannot show "colour"`)
	b.panel("Views")
	b.tabTo(`e.innerText === 'Urgent'`)
	b.keys(kb.Enter)
	b.see(`The table cannot show "colour"`)
	b.see(fmt.Sprintf("%d records", high))
}
