package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// One key goes anywhere by name, by the keyboard alone: to a page, a walkthrough, a record, and in Build to a document
// and to the object of a field. Where one went is offered again.
func TestJump(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	jump := func(text, first string) {
		t.Helper()
		run(b, chromedp.Evaluate[any](`document.activeElement.dispatchEvent(new KeyboardEvent('keydown', { key: 'k', code: 'KeyK', ctrlKey: true, bubbles: true, cancelable: true }))`))
		b.until(`document.activeElement?.getAttribute('aria-label') === 'Jump to'`, "the box is not there to type in")
		b.keys(text)
		b.until(`document.querySelector('#jump-list li[aria-selected=true]')?.innerText.replace(/\s+/g, ' ') === '`+first+`'`, "%q is not offered first", first)
	}
	go2 := func(address string) {
		t.Helper()
		b.keys(kb.Enter)
		b.until(`location.pathname.startsWith('`+address+`')`, "it does not lead to %s", address)
		b.until(`!document.querySelector('#jump-list')`, "the box is still there")
	}
	b.signIn("Dana Merrowdale")
	jump("serv calls", "Service calls page")
	go2("/use/page/calls")
	jump("QL-10000", "QL-10000 Lift")
	go2("/use/record/lift/")
	b.see("QL-10000")
	jump("", "QL-10000 record")
	b.keys(kb.ArrowDown)
	go2("/use/page/calls")
	jump("report a", "Report a fault begin")
	go2("/use/run/")
	b.see("What is wrong?")
	b.press("Sign out")
	b.signIn("Bo Lindqvale")
	jump("engineer person", "Person field of Engineer")
	go2("/build/object/engineer")
	jump("book", "Book a visit walkthrough")
	b.keys(" of the moon")
	b.see("Nothing is called so.")
	b.axeInBoth("jump")
	b.keys(kb.Escape)
	b.gone("Nothing is called so.")
}
