package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
)

// TestPictures makes the pictures in docs/screenshots: make pictures.
func TestPictures(t *testing.T) {
	dir := os.Getenv("PLAINPATH_PICTURES")
	if dir == "" {
		t.Skip("pictures are made by make pictures")
	}
	if err := os.MkdirAll(dir, 0o755); err != nil {
		t.Fatal(err)
	}
	s := newSite(t)
	b := s.browser(t)
	shot := func(name string) { t.Helper(); b.picture(filepath.Join(dir, name+".png")) }

	b.signIn("Bo Lindqvale")
	b.open("/build/walkthrough/book_a_visit")
	b.enter("Part of the building’s name", "mill")
	b.press("Find buildings")
	b.see("Choose the building")
	shot("sheet")
	b.pressIn("[data-row=engineers]", "")
	b.see("has a")
	shot("sheet-step-open")
	b.open("/build/object/service_call")
	b.see("records in trial, looked at")
	shot("object")
	b.open("/build/object/lift/records")
	b.row("QL-10000")
	b.see("Why may")
	b.choose("Whose rights", "Orla Northcape")
	b.see("Does not see it")
	shot("records")
	b.bring(workbook(t))
	b.press("Try it")
	b.see("would be refused")
	shot("intake")
	b.open("/build/people")
	b.see("What each role may do")
	shot("people")
	b.open("/build/page/calls")
	b.see("650 records")
	b.row("SC-649")
	b.see("What is chosen here goes to")
	shot("page-build")
	walkToEngineer(b)
	shot("walkthrough")
	b.open("/use/page/calls")
	b.see("650 records")
	b.head("Due", "Show the latest")
	b.head("State", "Group by it")
	b.see("n groups of State")
	b.until(`[...document.querySelectorAll('tr.group td')].some(e => e.innerText.includes('Planned'))`,
		"there are no groups")
	run(b, chromedp.Evaluate[any](`[...document.querySelectorAll('tr.group td')].find(e => e.innerText.includes('Planned')).click()`))
	b.see("SC-650")
	shot("table")
	b.enter("Search in Calls", "door")
	b.press("115 records")
	b.see("service calls there are")
	b.pick("Why is this one here, or not?", "SC-12", "SC-12")
	b.see("is not in the list")
	run(b, chromedp.Evaluate[any](`document.activeElement.blur()`))
	b.see("Lift › Building › Name is")
	shot("proof")
	b.open("/use/page/buildings")
	b.see("120 records")
	for _, rows := range []string{"", ".nested ", ".nested .nested "} {
		b.until(`(e => { e?.click(); return !!e })(document.querySelectorAll('`+rows+`.opens button')[`+map[bool]string{true: "1", false: "0"}[rows == ""]+`])`, "nothing opens")
		b.until(`!!document.querySelector('`+rows+`.nested table')`, "nothing opened")
	}
	shot("nested")
	b.open("/use/record/customer/3")
	b.see("Contacts")
	b.loaded(1)
	shot("record")
	b.open("/use/page/planner")
	b.until(`document.querySelectorAll('.bars li').length > 3`, "nobody is anywhere")
	shot("planner")
	b.open("/use")
	b.see("Not finished yet")
	shot("home")
	b.open("/use/page/documents")
	b.row("Inspection report 2106")
	b.until(`document.querySelector('.viewer .text')?.innerText.includes('2106')`, "the file is not shown")
	shot("documents")
	b.press("Sign out")
	b.signIn("Eskil Marlowe")
	b.until(`document.querySelectorAll('ul.cards li').length > 5`, "there are no cards")
	b.loaded(1)
	shot("my-day")
	b.press("Sign out")
	b.signIn("Fenn Oakenrow")
	b.open("/use/page/fleet_figures")
	b.until(`document.querySelectorAll('canvas').length === 4`, "nothing is drawn")
	shot("fleet-figures")
	b.open("/use/page/customers")
	b.see("40 records")
	b.until(`(e => { e?.click(); return !!e })(document.querySelectorAll('.opens button')[2])`, "nothing opens")
	b.see("how many by town")
	b.head("Yearly fee", "Show the sum in EUR")
	b.head("Kind", "Group by it")
	b.see("not all has a rate")
	b.pressIn(".totals .value", "€")
	b.see("there is no rate of NOK")
	shot("totals")
	for _, change := range []string{
		`SET body = jsonb_set(body, '{plural}', '"Calls for service"') WHERE kind = 'object' AND key = 'service_call'`,
		`SET body = body #- '{objects,certificate}' WHERE kind = 'role' AND key = 'dispatcher'`,
	} {
		if _, err := s.db.Exec(`UPDATE plainpath.document ` + strings.Replace(change, "WHERE",
			", revision = revision + 1 WHERE", 1)); err != nil {
			t.Fatal(err)
		}
	}
	b.press("Sign out")
	b.signIn("Bo Lindqvale")
	b.open("/build/walkthrough/book_a_visit")
	b.press("Release…")
	b.see("Calls for service")
	b.see("concerns")
	shot("release")
}

// walkToEngineer goes through Book a visit as the dispatcher up to its last screen.
func walkToEngineer(b *browser) {
	b.t.Helper()
	b.press("Sign out")
	b.see("Sign in")
	b.signIn("Dana Merrowdale")
	b.pressIn("button", "Book a visit")
	b.enter("Part of the building’s name", "mill")
	b.press("Find buildings")
	b.see("Choose the building")
	b.row("Mill Place")
	b.press("Next")
	b.see("Choose the lifts")
	b.row("QL-")
	b.press("Next")
	b.see("Choose the engineer")
}
