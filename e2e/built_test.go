package e2e

import (
	"fmt"
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

// sets lets fields of what a step adds be known values.
func (b *browser) sets(fields ...[2]string) {
	b.t.Helper()
	for _, f := range fields {
		b.choose("Set a field", f[0])
		b.pick(f[0], f[1], f[1])
		b.see(f[0] + ": ")
	}
}

// told lets those of a role be told. The list of roles opens where it belongs; one that closes because the page moves is
// opened again.
func (b *browser) told(role string) {
	b.t.Helper()
	for range 5 {
		b.pressIn(".p-multiselect", "no role")
		b.until(`(o => !o || o.getBoundingClientRect().x > 200)(document.querySelector('.p-multiselect-overlay'))`,
			"the list of roles opens elsewhere")
		b.pressIn("[role=option]", role)
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
