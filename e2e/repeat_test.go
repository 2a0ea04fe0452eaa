package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A builder repeats steps for each of a list, with a branch inside; the rehearsal says that it is done all at once.
func TestStepsAreRepeated(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.press("New…")
	b.enter("What is it called?", "Renew certificates")
	b.pressIn(".p-multiselect", "Choose roles")
	b.pressIn("[role=option]", "Service manager")
	b.keys(kb.Escape)
	b.press("Make it")
	b.see("This walkthrough has no steps yet")
	b.press("Add the first step")
	b.pick("New step: type its verb", "search engineers", "Search engineers")
	b.known("engineers")
	next := func(after, words, option string) {
		t.Helper()
		b.focusRow(after)
		b.keys(kb.Enter, chromedp.KeyModifiers(8)) // Shift Enter: a step after this one
		b.pick("New step: type its verb", words, option)
	}
	next("engineers", "repeat: For each engineer", "Repeat")
	b.pick("For each of", "engineers", "engineers")
	b.see("known inside as “each_engineer”")
	next("/steps/1/repeat", "change", "Change records")
	b.pick("What is changed", "each_engineer", "each_engineer")
	b.choose("They themselves, or what refers to them", "their badges")
	b.see("26 of all 26 engineers have 26")
	b.choose("Set a field", "Reason")
	b.enter("Reason", "each_badge.badge_number")
	b.keys(kb.Enter)
	b.see("all at once")
	next("for_each_engineer", "finish", "Finish")
	b.see("no findings")
	b.see("26 written")
}
