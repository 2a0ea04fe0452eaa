package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// Behind a brace a text offers what is known, by its words, with the keyboard alone; what is no value is left as it is.
func TestAValueIsPickedInAText(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/walkthrough/report_a_fault")
	b.see("What is wrong?")
	b.focusRow("reported")
	b.keys(kb.Enter)
	b.field("Closing message")
	b.keys("It is {problem")
	b.until(`document.querySelector('[role=listbox] .active')`, "nothing is offered")
	b.keys(kb.Tab)
	b.keys(", {{ is a brace, on {number")
	b.until(`document.querySelector('[role=listbox] .active')`, "nothing is offered")
	b.keys(kb.ArrowDown)
	b.keys(kb.ArrowUp)
	b.keys(kb.Tab)
	b.keys(" and {nothing of the kind}.")
	b.keys(kb.Escape)
	b.field("Title")
	b.until(`document.body.innerText.includes('1 finding')`, "the unknown value is not found")
	if n := s.count(t, `SELECT count(*) FROM plainpath.document WHERE key = 'report_a_fault' AND body::text LIKE '%It is {call.problem}, {{ is a brace, on {call.number} and {nothing of the kind}.%'`); n != 1 {
		t.Error("the values picked are not in the text")
	}
	b.field("Closing message")
	b.keys("{problem")
	b.keys(kb.Escape)
	b.keys("}!")
	b.field("Title")
	b.see("{problem}!")
	b.eventually(`SELECT count(*) FROM plainpath.document WHERE key = 'report_a_fault' AND body::text LIKE '%"{problem}!"%'`, 1)
}
