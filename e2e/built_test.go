package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// input adds an input to the screen that is open, of a type unless it is text.
func (b *browser) input(label, kind string) {
	b.t.Helper()
	b.press("input")
	b.relabel("New input", label)
	if kind != "" {
		b.chooseLast("Type of the input", kind)
	}
}

// optional lets the input added last be empty.
func (b *browser) optional() {
	b.t.Helper()
	last := `[...[...document.querySelectorAll('.part')].at(-1).querySelectorAll('label')].find(l => l.innerText.includes('required'))?.querySelector('input')`
	b.until(fmt.Sprintf(`(e => { if (e?.checked) e.click(); return e && !e.checked })(%s)`, last), "it stays required")
}

// sets lets fields of what a step adds be known values. Those that need one stand there already.
func (b *browser) sets(fields ...[2]string) {
	b.t.Helper()
	b.find(".values [role=combobox]", "Set a field", false)
	for _, f := range fields {
		if !run(b, chromedp.Evaluate[bool](fmt.Sprintf(`[...document.querySelectorAll('.values .open .field')].some(e => e.innerText === %q)`, f[0]))) {
			b.choose("Set a field", f[0])
		}
		b.pressIn(".values input", f[0])
		b.keys(f[1])
		b.until(fmt.Sprintf(`document.querySelector('[role=option].p-focus')?.innerText.includes(%q)`, f[1]), "%s is not offered", f[1])
		b.keys(kb.Enter) // the keyboard goes on to the next that is needed
		b.see(f[0] + ": ")
	}
}

// told lets those of a role be told. The list of roles opens where it belongs; one that closes because the page moves
// is opened again.
func (b *browser) told(role string) {
	b.t.Helper()
	for range 5 {
		b.pressIn(".p-multiselect", "no role")
		b.until(`(o => !o || o.getBoundingClientRect().x > 200)(document.querySelector('.p-multiselect-overlay'))`,
			"the list of roles opens elsewhere")
		// The list may still move to where it belongs, and a click would miss.
		b.until(fmt.Sprintf(`(o => { o?.click(); return !!o })([...document.querySelectorAll('[role=option]')].find(o => o.innerText.trim() === %q))`, role),
			"%s is no role", role)
		b.keys(kb.Escape)
		for range 10 {
			if run(b, chromedp.Evaluate[bool](fmt.Sprintf(`document.querySelector('.settings .p-multiselect').innerText === %q`, role))) {
				return
			}
			time.Sleep(50 * time.Millisecond)
		}
	}
	b.fail("%s are not told", role)
}

// upload gives files, made here of a few words.
func (b *browser) upload(input string, names ...string) {
	b.t.Helper()
	paths := make([]string, len(names))
	for n, name := range names {
		paths[n] = filepath.Join(b.t.TempDir(), name)
		if err := os.WriteFile(paths[n], []byte("Words of "+name), 0o600); err != nil {
			b.t.Fatal(err)
		}
	}
	run(b, chromedp.SetUploadFiles(input, paths))
}

// releases puts everything into force and goes.
func (b *browser) releases(added string) {
	b.t.Helper()
	b.press("Release…")
	b.see(fmt.Sprintf("“%s” is added", added))
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")
}

// From nothing: somebody reports a fault in a dialog of a page, whose table then shows it; a dispatcher is told.
func TestReportAFaultFromNothing(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newWalkthrough("Something is broken", "Service manager")
	b.after("", "screen: What is wrong?", "Screen")
	b.known("what_is_wrong")
	b.input("Lift", "reference")
	b.chooseLast("Which object", "Lift")
	b.input("What happens?", "")
	b.input("How urgent is it?", "choice")
	b.enter("Choices, one a line", "Urgent\nNormal")
	b.keys(kb.Tab)
	b.after("what_is_wrong", "add service call", "Add service call")
	b.known("new_service_call")
	b.sets([2]string{"Lift", "what_is_wrong.lift"}, [2]string{"Problem", "what_is_wrong.what_happens"},
		[2]string{"Opened", "now"})
	b.choose("Set a field", "Priority")
	b.chooseLast("Priority: where from", "known value")
	b.enter("Priority", "what_is_wrong.how_urgent_is_it")
	b.keys(kb.Enter)
	b.after("new_service_call", "notify", "Notify people")
	b.known("notify_people")
	b.told("Dispatcher")
	b.enter("What they are told", "A lift stands still: {new_service_call.problem}")
	b.pick("What it leads to", "new_service_call", "new_service_call")
	b.after("notify_people", "finish: Thank you", "Finish")
	b.known("thank_you")
	b.enter("Closing message", "Thank you. It is call {new_service_call.number}.")
	b.press("details")
	b.see("no findings")
	b.pick("Lift", "QL-10", "QL-10")
	b.enter("What happens?", "It groans")
	b.pressIn("label", "Urgent")
	b.press("Next")
	b.see("Thank you. It is call SC-")
	b.see("It says: A lift stands still: It groans")
	b.see("told to Dana Merrowdale")

	b.newPage("Faults")
	b.press("+ add")
	b.choose("A table of", "Service calls")
	b.see("records")
	b.press("+ a band below")
	b.press("A button")
	b.relabel("New button", "Report one")
	b.press("the whole page")
	b.press("When something happens …")
	b.choose("What happens", "a button is pressed:")
	b.choose("To which part it happens", "Report one")
	b.press("and then …")
	b.choose("What it does", "run a walkthrough")
	b.choose("Which walkthrough", "Something is broken")
	b.pressIn("label", "in a dialog")
	b.press("When something happens …")
	b.until(`document.querySelectorAll('.reaction').length === 2`, "there is no second reaction")
	b.chooseLast("What happens", "a dialog is over")
	b.until(`(all => { all.at(-1)?.click(); return all.length > 1 })([...document.querySelectorAll('.reaction button')].filter(x => x.innerText === 'and then …'))`,
		"nothing can be done then")
	b.until(`document.querySelectorAll('[role=combobox][aria-label="What it does"]').length === 2`, "no line is there")
	b.chooseLast("What it does", "read again")
	b.choose("What is read again", "search “Service calls found”")
	b.forRole("Service manager")
	b.releases("Something is broken")

	told := s.count(t, `SELECT count(*) FROM plainpath.notice WHERE person = (SELECT id FROM plainpath.person WHERE name = 'Dana Merrowdale')`)
	b.signIn("Mara Stillwater")
	b.pressIn("main a", "Faults")
	b.see("650 records")
	b.pressIn(".p-button", "Report one")
	b.see("What is wrong?")
	b.press("Next")
	b.see("Lift is required")
	b.until(`document.activeElement?.id === 'in-lift'`, "the keyboard is not where something is wrong")
	b.pick("Lift", "QL-10", "QL-10")
	b.enter("What happens?", "It groans")
	b.pressIn("label", "Urgent")
	b.press("Next")
	b.see("Thank you. It is call SC-")
	b.press("Close")
	b.see("651 records")
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.service_call WHERE problem = 'It groans' AND priority = 'urgent' AND opened > now() - interval '5 minutes'`); n != 1 {
		t.Errorf("%d calls are added", n)
	}
	if n := s.count(t, `SELECT count(*) FROM plainpath.notice WHERE person = (SELECT id FROM plainpath.person WHERE name = 'Dana Merrowdale')`); n != told+1 {
		t.Errorf("the dispatcher is told %d times", n-told)
	}
}

// From nothing: who a new customer is, whom to talk to there row by row, and their papers, of which there may be none.
func TestTakeOnACustomerFromNothing(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newWalkthrough("A new customer", "Service manager")
	b.after("", "screen: Who is it?", "Screen")
	b.known("who_is_it")
	b.input("Name", "")
	b.input("E-mail", "e-mail")
	b.optional()
	b.input("Address", "address")
	b.optional()
	b.press("Add a check of what is given")
	b.enter("What must hold 1", `!empty(who_is_it.e_mail) || !empty(who_is_it.address)`)
	b.keys(kb.Enter)
	b.enter("What is said 1", "How can {who_is_it.name} be reached?")
	b.keys(kb.Tab)
	b.after("who_is_it", "screen: Whom do we talk to?", "Screen")
	b.known("whom_do_we_talk_to")
	b.press("entries")
	b.relabel("Rows", "People")
	b.enter("What each row asks for", "First name")
	b.keys(kb.Enter)
	for asked, key := range map[string]string{"Last name": "last_name", "Position": "position"} {
		b.enter("What each row asks for besides", asked)
		b.keys(kb.Enter)
		b.see(key)
	}
	b.after("whom_do_we_talk_to", "screen: Their papers", "Screen")
	b.known("their_papers")
	b.input("Papers", "file")
	b.optional()
	b.pressIn("label", "several")
	b.see("at least")
	b.press("Other buttons")
	b.pressIn("label", "a second way on")
	b.enter("Label of the second way on", "There are none")
	b.keys(kb.Enter)
	b.after("their_papers", "add customer", "Add customer")
	b.known("new_customer")
	b.sets([2]string{"Name", "who_is_it.name"}, [2]string{"E-mail", "who_is_it.e_mail"},
		[2]string{"Address", "who_is_it.address"})
	b.after("new_customer", "add contact", "Add contact")
	b.known("new_contact")
	b.pick("For each of", "people", "whom_do_we_talk_to.people")
	b.see("known inside as “each_row”")
	b.press("Set Customer to new_customer")
	b.see("Customer: ")
	b.press("Say what is needed where it is empty")
	b.see(`needed(each_row.last_name, "Last name is needed.")`)
	b.after("new_contact", "add document", "Add document")
	b.known("new_document")
	b.pick("For each of", "papers", "their_papers.papers")
	b.see("known inside as “file”")
	b.see("File: ")
	b.pressIn(".values input", "Title")
	b.keys(`who_is_it.name + ": " + file.name` + kb.Enter)
	b.see("Title: ")
	b.pressIn(".values label", "Drawing")
	b.after("new_document", "work: How many", "Work out a value")
	b.pick("What is worked out", "rounded down", "floor(x)") // found by what it does, and to be filled in
	b.enter("What is worked out", "size(new_contact)")
	b.keys(kb.Enter)
	b.see("Work out How many")
	b.after("how_many", "finish: Taken on", "Finish")
	b.known("taken_on")
	b.enter("Closing message", "{new_customer.name} is {new_customer.number}, with {how_many} to talk to.")
	b.press("details")
	b.see("no findings")

	b.enter("Name", "Brindle Court Homes")
	b.press("Next")
	b.see("How can Brindle Court Homes be reached?")
	b.releases("A new customer")

	b.signIn("Mara Stillwater")
	b.pressIn("button", "A new customer")
	b.see("Who is it?")
	b.enter("Name", "Brindle Court Homes")
	b.enter("E-mail", "desk@brindlecourt.example")
	b.press("Next")
	b.see("Whom do we talk to?")
	b.field("First name, row 1")
	b.keys("Ada" + kb.Tab + kb.Tab + "Owner")
	b.press("Next")
	b.see("Their papers")
	b.press("There are none")
	b.see("Last name cannot be stored: it is empty. Last name is needed.")
	b.press("Back")
	b.field("Last name, row 1")
	b.keys("Thornwick")
	b.press("Next")
	b.see("Their papers")
	b.upload("#in-papers", "drawing.txt", "plan.txt")
	b.see("drawing.txt")
	b.see("plan.txt")
	b.pressIn("button", "Without drawing.txt")
	b.gone("drawing.txt")
	b.upload("#in-papers", "photo.txt")
	b.see("photo.txt")
	b.press("Next")
	b.see("Brindle Court Homes is C-")
	b.see("with 1 to talk to.")
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.contact k JOIN liftcare_production.customer c ON c.id = k.customer
		WHERE c.name = 'Brindle Court Homes' AND c.email = 'desk@brindlecourt.example' AND c.address IS NULL
		AND (k.first_name, k.last_name, k.position) = ('Ada', 'Thornwick', 'Owner')`); n != 1 {
		t.Errorf("%d contacts are there", n)
	}
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.document d JOIN plainpath.file f ON f.id = d.file WHERE f.kept
		AND (d.title, f.name) IN (('Brindle Court Homes: plan.txt', 'plan.txt'), ('Brindle Court Homes: photo.txt', 'photo.txt'))`); n != 2 {
		t.Errorf("%d of two papers are there", n)
	}
}
