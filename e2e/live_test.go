package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A table says so when somebody else changes what it shows, a record its rows are looked at
// through as well; it keeps quiet about what it does not show, and shows what was done in its
// own tab.
func TestWhatOthersChangeIsSaid(t *testing.T) {
	t.Parallel()
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use/page/calls")
	b.see("650 records")
	b.until(`window.performance.getEntriesByType('resource').length > 0`, "the page is not there")
	time.Sleep(500 * time.Millisecond) // it listens
	const said = "Records shown here were changed meanwhile"
	quiet := func(what string) {
		t.Helper()
		time.Sleep(time.Second)
		if run(b, chromedp.Evaluate[bool](fmt.Sprintf(`document.body.innerText.includes(%q)`, said))) {
			t.Errorf("it speaks up about %s", what)
		}
	}
	number := run(b, chromedp.Evaluate[string](`document.querySelector('[data-line="0"] [data-column="0"]').innerText.trim()`))
	call := fmt.Sprintf(`'SC-' || number = '%s'`, number)

	s.db.MustExec(`INSERT INTO liftcare_production.building (name, address, town, country, customer) VALUES ('Nobody''s Shed', 'x', 'y', 'z', 1)`)
	s.db.MustExec(`UPDATE liftcare_production.badge SET reason = 'x'`)
	quiet("buildings and badges that it does not show")

	s.db.MustExec(`UPDATE liftcare_production.building b SET name = 'Mill of Two' FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift WHERE b.id = l.building AND ` + call)
	b.see(said)
	b.press("Show how they are now")
	b.see("Mill of Two")
	quiet("what it shows as it is")

	// What is done here is no news, but what others do in the same second is.
	b.cell(0, 1)
	b.keys(kb.F2)
	b.keys("Hums at night" + kb.Enter)
	b.press("Save")
	b.eventually(`SELECT count(*) FROM liftcare_production.service_call WHERE problem = 'Hums at night' AND `+call, 1)
	quiet("what was done here")
	b.cell(0, 1)
	b.keys(kb.F2)
	b.keys("Hums by day" + kb.Enter)
	b.press("Save")
	b.eventually(`SELECT count(*) FROM liftcare_production.service_call WHERE problem = 'Hums by day' AND `+call, 1)
	s.db.MustExec(`UPDATE liftcare_production.service_call SET priority = 'low' WHERE ` + call)
	b.see(said)
}
