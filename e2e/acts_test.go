package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A builder makes a walkthrough in which chosen records are changed together, sees in the rehearsal what
// it would do, and a colleague walks it.
func TestChosenRecordsAreChangedInAWalkthrough(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.press("New…")
	b.enter("What is it called?", "Put calls first")
	b.pressIn(".p-multiselect", "Choose roles")
	b.pressIn("[role=option]", "Dispatcher")
	b.keys(kb.Escape)
	b.press("Make it")
	b.press("Add the first step")
	b.pick("New step: type its verb", "search service calls", "Search service calls")
	b.known("service_calls")
	step := func(words, option string) {
		t.Helper()
		b.keys(kb.Enter, chromedp.KeyModifiers(8))
		b.pick("New step: type its verb", words, option)
	}
	step("screen: Which calls?", "Screen")
	b.see("this screen is empty")
	b.press("table")
	b.known("which_calls.service_call")
	b.choose("one row is chosen", "several rows are chosen")
	b.focusRow("which_calls")
	step("change: Raised", "Change records")
	b.see("Say which records")
	b.pick("What is changed", "which_calls", "which_calls.service_call")
	b.see("each is known as “each_service_call”")
	b.choose("Set a field", "Priority")
	b.pressIn("label", "High")
	b.see("Priority: High")
	b.focusRow("raised")
	step("work: How many", "Work out a value")
	b.pick("What is worked out", "rounded down", "floor(x)") // found by what it does, and to be filled in
	b.enter("What is worked out", "size(raised)")
	b.keys(kb.Enter)
	b.see("draft, saved")
	b.see("Work out How many")
	b.focusRow("how_many")
	step("finish", "Finish")
	b.enter("Closing message", "{how_many} calls come first now.")
	b.see("no findings")
	b.see("Screen 1 of 1")
	b.row("SC-3")
	b.press("Next")
	b.see("1 calls come first now.")
	b.see("1 written")
	b.see("one set of 1")
}
