package e2e

import (
	"fmt"
	"net/url"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A builder lets a button of a page read first customers and then contacts, and the page answer to a pressed row; what
// a reaction would write is tried and put back in Build, and done once in Use.
func TestAPageReacts(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newPage("One after the other")
	b.press("+ add")
	b.choose("A table of", "Customers")
	b.see("40 records")
	b.pressIn("label", "read only on demand")
	b.see("This is read when it is asked for.")
	b.press("Read it now")
	b.see("40 records")
	b.press("+ a band below")
	b.choose("A table of", "Contacts")
	b.see("90 records")
	b.pressIn("label", "read only on demand")
	b.press("+ a band below")
	b.press("A button")
	b.enter("Label", "Read them")
	b.press("the whole page")
	b.press("When something happens …")
	b.choose("What happens", "a button is pressed:")
	b.choose("To which part it happens", "Read them")
	b.press("and then …")
	b.choose("What it does", "read again")
	b.choose("What is read again", "search “Customers found”")
	b.press("When something happens …")
	b.see("nothing is done then")
	const more = `[{"key":"begin","when":{"event":"pressed","part":"read_them"},"do":[{"kind":"read_again","read_again":{"part":"customers_found"}},
		{"kind":"read_again","read_again":{"part":"contacts_found"}},{"kind":"say","say":{"text":"All is there."}}]},
		{"key":"row","when":{"event":"row_pressed","part":"customers"},"do":[{"kind":"confirm","confirm":{"question":"Tell about {row.name}?"}},
			{"kind":"notify","notify":{"roles":["dispatcher"],"text":"Look at {row.name}","record":"row"}},
			{"kind":"say","say":{"text":"They are told of {row.name}."}}]}]`
	if _, err := s.db.Exec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(jsonb_set(body, '{reactions}', $1::jsonb), '{roles}', '["service_manager"]')
		WHERE kind = 'page' AND key = 'one_after_the_other'`, more); err != nil {
		t.Fatal(err)
	}
	told := func() int { return s.count(t, `SELECT count(*) FROM plainpath.notice`) }
	b.open("/build/page/one_after_the_other")
	b.see("This is read when it is asked for.")
	b.pressIn(".p-button", "Read them")
	b.see("40 records")
	b.see("90 records")
	b.row("Mill Lane Properties")
	b.see("Tell about Mill Lane Properties?")
	b.press("Go on")
	b.see("They are told of Mill Lane Properties.")
	b.see("When a row of it is pressed. The records were put back.")
	b.see("told to Dana Merrowdale")
	b.see("When a row of it is pressed: ask whether to go on, then tell")
	if n := told(); n != 0 {
		t.Errorf("%d people were told by a trial", n)
	}
	b.press("Release…")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")

	b.signIn("Mara Stillwater")
	b.pressIn("main a", "One after the other")
	b.see("This is read when it is asked for.")
	b.pressIn(".p-button", "Read them")
	b.see("40 records")
	b.see("90 records")
	b.see("All is there.")
	b.row("Mill Lane Properties")
	b.see("Tell about Mill Lane Properties?")
	b.press("Leave it")
	b.gone("Tell about Mill Lane Properties?")
	if n := told(); n != 0 {
		t.Errorf("%d people were told although it was left", n)
	}
	b.row("Old Quay Estates")
	b.see("Tell about Old Quay Estates?")
	b.press("Go on")
	b.see("They are told of Old Quay Estates.")
	if n := told(); n != 1 {
		t.Errorf("%d people were told", n)
	}
}

// loses lets the answers to requests of a path be lost on their way, until they arrive again.
func (b *browser) loses(path string) {
	b.t.Helper()
	run(b, chromedp.Evaluate[any](fmt.Sprintf(`(path => { window.known = window.fetch; window.fetch = async (request) => {
	  const answer = await window.known(request)
	  if (request.url.includes(path)) throw new TypeError('lost')
	  return answer
	} })(%q)`, path)))
}

func (b *browser) finds() {
	b.t.Helper()
	run(b, chromedp.Evaluate[any](`window.fetch = window.known`))
}

// A line that may be refused has others in its place, and a web address opens beside the page: said line by line by the
// interface, tried in Build, done in Use, where the connection is lost for a while in the middle.
func TestWhatIsDoneInPlaceOfALine(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newPage("New customers")
	b.forRole("Service manager")
	b.press("+ add")
	b.press("A button")
	b.relabel("New button", "Begin")
	b.press("the whole page")
	b.press("When something happens …")
	b.choose("What happens", "a button is pressed:")
	b.choose("To which part it happens", "Begin")
	b.press("and then …")
	b.choose("What it does", "add records")
	b.choose("What is added", "Customer")
	b.enter("Name", `"Lantern Wharf"`)
	b.keys(kb.Enter)
	b.pressIn("label", "if it fails, do something else than to stop")
	b.pressIn(".instead button", "and then …")
	b.enter("What it says", "There is one: {failure}")
	b.keys(kb.Tab)
	b.see("no findings")
	b.press("and then …") // of those in its place
	b.chooseIn(2, "What it does", "open a record or a page")
	b.choose("What is opened", "a web address")
	b.enter("Web address", "https://maps.example/?of={failure}")
	b.keys(kb.Tab)
	b.see("no findings")
	b.until(`document.querySelector('input[aria-label="Web address"]').getBoundingClientRect().width > 300`,
		"the address has no room")

	// Tried, it is put back: a second try finds nothing in its way.
	added := `SELECT count(*) FROM liftcare_production.customer WHERE name = 'Lantern Wharf'`
	for range 2 {
		b.pressIn(".p-button", "Begin")
		b.see("The records were put back.")
	}
	b.press("Release…")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")

	b.signIn("Mara Stillwater")
	b.pressIn("main a", "New customers")
	b.see("Begin")
	b.loses("/react")
	b.pressIn(".p-button", "Begin")
	b.see("The server does not answer. What was begun is asked after until it does.")
	b.eventually(added, 1)
	b.finds()
	b.gone("The server does not answer.")
	b.gone("There is one")
	run(b, chromedp.Evaluate[any](`HTMLAnchorElement.prototype.click = function () { window.wentTo = this.href }`))
	b.pressIn(".p-button", "Begin")
	b.see("There is one: The customer could not be added:")
	b.until(`window.wentTo?.startsWith('https://maps.example/?of=The%20customer%20could%20not')`, "no web address opens")
	b.eventually(added, 1)
}

// A button in a row opens a page about it beside the table: what belongs to it is read only then, some of it on demand.
func TestAPageOpensBeside(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	var name string
	var contacts, buildings int
	if err := s.db.QueryRow(`SELECT c.name, (SELECT count(*) FROM liftcare_production.contact k WHERE k.customer = c.id), (SELECT count(*) FROM liftcare_production.building b WHERE b.customer = c.id)
		FROM liftcare_production.customer c ORDER BY c.name COLLATE "und-x-icu" LIMIT 1`).Scan(&name, &contacts, &buildings); err != nil {
		t.Fatal(err)
	}
	b.signIn("Mara Stillwater")
	if run(b, chromedp.Evaluate[bool](`[...document.querySelectorAll('nav a')].some((a) => a.innerText === 'Customer at a glance')`)) {
		t.Error("a page that needs something is in the menu")
	}
	b.pressIn("main a", "Customers")
	b.see("40 records")
	b.until(fmt.Sprintf(`(() => {
	  const row = [...document.querySelectorAll('tbody tr')].find((r) => r.innerText.includes(%q))
	  const button = [...(row?.querySelectorAll('button') ?? [])].find((x) => x.innerText.includes('At a glance'))
	  button?.click()
	  return !!button
	})()`, name), "there is no button in the row")
	b.see("About the customer")
	b.see(fmt.Sprintf("%d record", contacts))
	b.see("This is read when it is asked for.")
	b.press("Read it now")
	b.see(fmt.Sprintf("%d record", buildings))
	b.axe("a page beside")
	b.keys(kb.Escape)
	b.gone("About the customer")
	b.see("40 records")
	b.open("/use/page/customer_at_a_glance?customer=" + url.QueryEscape(`{"id":1}`))
	b.see("About the customer")
}
