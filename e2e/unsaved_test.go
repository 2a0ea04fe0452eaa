package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// What was entered in cells is not lost by a press on something else, nor by scrolling or
// looking at another object; only who says so leaves it behind.
func TestWhatIsNotSavedIsNotLost(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use/page/calls")
	b.see("650 records")
	b.cell(0, 1)
	b.keys("Rattles")
	b.keys(kb.Enter)
	b.see("1 row changed, not saved yet")
	b.press("Home")
	b.see("1 change is not saved yet.")
	b.press("Stay")
	b.gone("1 change is not saved yet.")
	b.see("1 row changed, not saved yet")
	b.press("Sign out")
	b.see("1 change is not saved yet.")
	b.press("Stay")
	b.gone("1 change is not saved yet.")
	b.press("Home")
	b.press("Leave without saving")
	b.until(`location.pathname === '/use'`, "it is not left")
	b.open("/use/page/calls")
	b.see("650 records")
	b.gone("not saved yet")
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.service_call WHERE problem = 'Rattles'`); n != 0 {
		t.Error("it was saved")
	}

	// A table in a row goes out of the document when it is scrolled out of sight.
	b.press("Sign out")
	b.signIn("Mara Stillwater")
	b.open("/use/page/buildings")
	b.see("120 records")
	run(b, chromedp.Evaluate[bool](`(e => { e.click(); return true })([...document.querySelectorAll('.opens button')].find(e => e.closest('tr').innerText.includes('Amber Gate')))`))
	b.see("5 records")
	b.until(`(e => { e?.focus(); return !!e })(document.querySelector('.inside [data-line="0"] [data-column="1"]'))`,
		"no row opens")
	b.keys("Back shaft")
	b.keys(kb.Enter)
	b.see("1 row changed, not saved yet")
	scroll := func(to int) {
		run(b, chromedp.Evaluate[bool](`(e => { e.scrollTop = e.scrollHeight * `+[]string{"0",
			"0.5"}[to]+`; return true })(document.querySelector('.scroll'))`))
	}
	scroll(1)
	b.until(`!document.querySelector('.inside')`, "the table in the row is still there")
	scroll(0)
	b.see("1 row changed, not saved yet")
	b.see("Back shaft")
	b.choose("What the table shows", "Lifts")
	b.see("400 records")
	b.choose("What the table shows", "Buildings")
	b.see("120 records")
	b.press("Home")
	b.see("1 change is not saved yet.")
	b.press("Stay")
	b.gone("1 change is not saved yet.")
}

// What is edited in Build while the connection is lost waits in sight, is sent when it is back,
// and outlasts that the page is left and loaded anew.
func TestEditsWaitForTheConnection(t *testing.T) {
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/walkthrough/book_a_visit")
	b.see("draft, saved")
	offline := func(is bool) {
		run(b, chromedp.Evaluate[bool](`(off => { window.known ??= window.fetch; window.fetch = off ? () => Promise.reject(new TypeError('lost')) : window.known; return true })(`+map[bool]string{true: "true", false: "false"}[is]+`)`))
	}
	stored := func(label, title string) int {
		return s.count(t, `SELECT count(*) FROM plainpath.document WHERE kind = 'walkthrough' AND key = 'book_a_visit' AND body->>'label' = $1 AND body->'steps'->0->>'title' = $2`, label, title)
	}
	offline(true)
	b.enter("Name of the walkthrough", "Plan a visit")
	b.keys(kb.Enter)
	b.see("1 change waits: the server does not answer")
	b.pressIn("[data-row=which]", "Which building?")
	b.enter("Title", "Where to?")
	b.keys(kb.Tab)
	b.see("2 changes wait")
	b.see("Where to?") // the sheet stays in sight, with what was entered
	if stored("Plan a visit", "Where to?") != 0 {
		t.Error("it was stored all the same")
	}
	b.pressIn("nav a", "Settings") // it goes on waiting elsewhere
	offline(false)
	for deadline := time.Now().Add(patience); stored("Plan a visit",
		"Where to?") != 1; time.Sleep(50 * time.Millisecond) {
		if time.Now().After(deadline) {
			b.fail("it is not sent")
		}
	}

	// A page that is loaded anew sends what it finds waiting.
	b.open("/build/walkthrough/book_a_visit")
	b.see("draft, saved")
	offline(true)
	b.enter("Name of the walkthrough", "Arrange a visit")
	b.keys(kb.Enter)
	b.see("1 change waits")
	b.open("/build/walkthrough/book_a_visit")
	b.see("draft, saved")
	b.pressIn("nav a", "Arrange a visit")
	if stored("Arrange a visit", "Where to?") != 1 {
		b.fail("what waited is not stored")
	}
	if n := s.count(t, `SELECT count(*) FROM plainpath.edit WHERE key = 'book_a_visit'`); n != 3 {
		t.Errorf("%d edits were made, want 3", n)
	}
}
