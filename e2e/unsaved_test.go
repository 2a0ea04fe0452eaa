package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// What was entered in cells is not lost by a press on something else, nor by scrolling or
// looking at another object; only who says so leaves it behind.
func TestWhatIsNotSavedIsNotLost(t *testing.T) {
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
	b.gone("1 record is changed here")
	b.see("1 row changed, not saved yet")
	b.press("Sign out")
	b.see("1 change is not saved yet.")
	b.press("Stay")
	b.gone("1 record is changed here")
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
	b.until(`(e => { e?.focus(); return !!e })(document.querySelector('.inside [data-line="0"] [data-column="1"]'))`, "no row opens")
	b.keys("Back shaft")
	b.keys(kb.Enter)
	b.see("1 row changed, not saved yet")
	scroll := func(to int) {
		run(b, chromedp.Evaluate[bool](`(e => { e.scrollTop = e.scrollHeight * `+[]string{"0", "0.5"}[to]+`; return true })(document.querySelector('.scroll'))`))
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
	b.gone("1 record is changed here")
}
