package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// widen keeps a view with all texts and references that can be reached from a call, and
// gives how many there are; what its first row says is in window.says.
const widen = `(async () => {
  const csrf = (await (await fetch('/api/session')).json()).csrf
  const ask = async (tail, body, method = 'POST') =>
    (await fetch('/api/use/tables/' + tail, { method, headers: { 'Content-Type': 'application/json', 'X-CSRF-Token': csrf }, body: JSON.stringify(body) })).json()
  const at = { page: { page: 'calls', part: 'calls' } }
  const columns = []
  for (const through of ['', 'lift', 'engineer', 'reported_by', 'lift.building', 'lift.building.customer', 'lift.building.key_holder'])
    for (const f of (await ask('fields', { at, through })).fields)
      if (['text', 'reference'].includes(f.type)) columns.push({ path: f.path })
  await ask('views', { at, name: 'Wide', body: { look: { columns } } }, 'PUT')
  sessionStorage.says = JSON.stringify((await ask('rows', { at, look: { columns } })).rows[0].cells.map(c => c?.label ?? c ?? ''))
  return columns.length
})()`

// right says whether all cells drawn of the first row say what they should, and how many
// there are.
const right = `(says => {
  const cells = [...document.querySelectorAll('[data-line="0"] td[data-column]')]
  return cells.every(c => c.innerText.trim() === says[c.dataset.column].trim()) ? cells.length : 0
})(JSON.parse(sessionStorage.says))`

// Of a very wide table only the columns in sight are in the document; by keyboard and by
// scrolling all of them are reached, each with its own values.
func TestAVeryWideTable(t *testing.T) {
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	n := run(b, chromedp.Evaluate[int](widen, chromedp.EvalAwaitPromise))
	if n < 25 {
		t.Fatalf("only %d columns", n)
	}
	b.open("/use/page/calls")
	b.see("View: Wide")
	b.until(fmt.Sprintf(`document.querySelectorAll('table')[0].querySelectorAll('th[data-column]').length === %d`, n),
		"there are not %d columns", n)
	some := fmt.Sprintf(`(n => n > 5 && n < %d - 5)(%s)`, n, right)
	b.until(some, "the columns at the left are wrong")
	b.cell(0, 0)
	b.keys(kb.End)
	b.until(fmt.Sprintf(`document.activeElement.dataset.column === '%d' && document.activeElement.getBoundingClientRect().right <= innerWidth`, n-1), "the last column is not reached")
	b.until(some, "the columns at the right are wrong")
	for column := n - 2; column > n/2; column-- {
		b.keys(kb.ArrowLeft)
		b.until(fmt.Sprintf(`document.activeElement.dataset.column === '%d'`, column), "column %d is not reached",
			column)
	}
	b.until(some, "the columns in the middle are wrong")
	run(b, chromedp.Evaluate[bool](`(e => { e.scrollLeft = 0; return true })(document.querySelector('.scroll'))`))
	b.until(some+` && !!document.querySelector('[data-line="0"] [data-column="1"]') && !!document.querySelector('[data-line="0"] [data-column="'+document.activeElement.dataset.column+'"]')`,
		"the cell with the keyboard is gone, or the first ones are")
}

// ctrl is the modifier as the browser counts it.
const ctrl = 2

// The keyboard stays in the grid however far it goes at once, and a failure to read stands in
// sight beside what was read before.
func TestTheKeyboardGoesToBothEnds(t *testing.T) {
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/object/service_call/records")
	b.see("650 records")
	b.cell(0, 2)
	line := func() int {
		return run(b, chromedp.Evaluate[int](`Number(document.activeElement?.closest('[data-line]')?.dataset.line ?? (document.activeElement?.matches('.scroll') ? -1 : -2))`))
	}
	for end := time.Now().Add(2 * patience); line() < 649; { // what is not read yet cannot be reached
		b.keys(kb.End, chromedp.KeyModifiers(ctrl))
		if at := line(); at < -1 || time.Now().After(end) {
			t.Fatalf("Ctrl+End leads to line %d", at)
		}
	}
	b.keys(kb.ArrowUp)
	b.until(`document.activeElement?.closest('[data-line]')?.dataset.line === '648'`,
		"the line above the last is not reached")
	b.keys(kb.Home, chromedp.KeyModifiers(ctrl))
	b.until(`document.activeElement?.closest('[data-line]')?.dataset.line === '0'`, "Ctrl+Home leads nowhere")

	if _, err := s.db.Exec(`ALTER TABLE liftcare_trial.service_call RENAME TO away`); err != nil {
		t.Fatal(err)
	}
	run(b, chromedp.Click(`th[data-column="2"] button.name`))
	b.see("as it was read before")
	seen := `(r => r.top > 0 && r.bottom < innerHeight)(document.querySelector('[role=alert]').getBoundingClientRect())`
	b.until(seen, "the failure is out of sight")
}
