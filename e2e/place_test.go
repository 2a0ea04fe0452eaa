package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Whoever looks at a record and comes back finds the table as it was left: the words, the rows
// read, the place, what was chosen and entered. Whoever goes there by a link begins anew.
func TestTheTableIsThereAgain(t *testing.T) {
	t.Parallel()
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use/page/calls")
	b.see("650 records")
	b.press("Show all 650")
	b.cell(0, 0)
	far := func() bool {
		return run(b, chromedp.Evaluate[bool](`Number(document.activeElement?.closest('[data-line]')?.dataset.line) > 200`))
	}
	for end := time.Now().Add(2 * patience); !far(); { // what is not read yet cannot be reached
		if b.keys(kb.PageDown); time.Now().After(end) {
			t.Fatal("the keyboard does not come far")
		}
	}
	time.Sleep(time.Second) // the table comes to rest
	b.until(`!!document.activeElement?.closest('[data-line]')`, "the keyboard is nowhere")
	place := func() string {
		return run(b, chromedp.Evaluate[string](`JSON.stringify([document.activeElement?.closest('[data-line]')?.dataset.line, document.querySelector('.count')?.innerText])`))
	}
	was := place()
	run(b, chromedp.Evaluate[bool](`document.activeElement.closest('[data-line]').querySelector('a').click() ?? true`))
	b.see("History")
	run(b, chromedp.Evaluate[bool](`history.back() ?? true`))
	b.until(fmt.Sprintf(`JSON.stringify([document.activeElement?.closest('[data-line]')?.dataset.line, document.querySelector('.count')?.innerText]) === %q`, was), "coming back, the table is not where it was: %s", was)

	b.enter("Search in Calls", "door")
	b.until(`document.querySelector('.count')?.innerText !== '650 records'`, "the words are not looked for")
	b.until(`!!document.querySelector('[data-line="3"]')`, "there are no rows")
	b.cell(2, 0)
	b.keys(" ")
	b.see("1 chosen")
	found := run(b, chromedp.Evaluate[string](`document.querySelector('.count').innerText`))
	run(b, chromedp.Evaluate[bool](`document.querySelector('[data-line="1"] a').click() ?? true`))
	b.see("History")
	run(b, chromedp.Evaluate[bool](`history.back() ?? true`))
	b.until(fmt.Sprintf(`document.querySelector('input.words')?.value === 'door' && document.querySelector('.count')?.innerText === %q`, found), "the words are gone")
	b.see("1 chosen")

	b.pressIn("header a, nav a", "Planner")
	b.see("Who is where")
	b.pressIn("header a, nav a", "Service calls")
	b.see("650 records")
	b.gone("1 chosen")
}
