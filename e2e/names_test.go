package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Steps and parts are renamed where they are edited, and everything follows, the answers of the
// rehearsal too; a new part is known by its label until something names it. Who a walkthrough is
// for can be changed at any time, and steps go from way to way of a branch.
func TestStepsAndPartsAreRenamed(t *testing.T) {
	t.Parallel()
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/walkthrough/book_a_visit")
	b.enter("Part of the building’s name", "mill")
	b.press("Find buildings")
	b.see("Choose the building")
	holds := func(path string, want int) {
		t.Helper()
		b.eventually(`SELECT count(*) FROM plainpath.document d, jsonb_path_query(d.body, '`+path+`') v WHERE d.key = 'book_a_visit' AND d.kind = 'walkthrough'`, want)
	}
	b.pressIn("[data-row=which]", "")
	b.enter("Key of the step", "asked")
	b.keys(kb.Enter)
	holds(`$.steps[*] ? (@.key == "asked" && @.was[*] == "which")`, 1)
	holds(`$.**.expression ? (@ like_regex "^asked\\.")`, 1)
	b.see("no findings")
	b.see("Choose the building") // the rehearsal is where it was

	b.pressIn("[data-row=asked]", "")
	b.pressIn("button", "input")
	b.known("asked.input")
	holds(`$.steps[0].screen.bands[*].columns[*].parts[*] ? (@.key == "input")`, 1)
	b.see("draft, saved")
	edits := s.count(t, `SELECT count(*) FROM plainpath.edit WHERE key = 'book_a_visit'`)
	b.relabel("New input", "Floor it is on")
	b.known("asked.floor_it_is_on")
	holds(`$.steps[0].screen.bands[*].columns[*].parts[*] ? (@.key == "floor_it_is_on" && @.label == "Floor it is on")`,
		1)
	b.see("draft, saved")
	b.eventually(`SELECT count(*) FROM plainpath.edit WHERE key = 'book_a_visit'`, edits+1)

	b.press("For Dispatcher, Service manager")
	b.see("For people who are")
	b.enter("What it is for", "For the desk and its leader.")
	b.keys(kb.Escape)
	holds(`$ ? (@.note == "For the desk and its leader.")`, 1)

	b.focusRow("choose_building")
	for _, m := range []struct{ key, path string }{
		{kb.ArrowRight, `$.steps[2].branch.otherwise[0] ? (@.key == "choose_building")`},
		{kb.ArrowUp, `$.steps[2].branch.ways[0].steps[1] ? (@.key == "choose_building")`},
		{kb.ArrowDown, `$.steps[2].branch.otherwise[0] ? (@.key == "choose_building")`},
		{kb.ArrowLeft, `$.steps[3] ? (@.key == "choose_building")`},
	} {
		b.keys(m.key, chromedp.KeyModifiers(1)) // Alt
		holds(m.path, 1)
		b.until(`document.activeElement?.dataset.row === 'choose_building'`, "the keyboard does not go with the step")
	}
	b.see("no findings")

	// What others need is not removed without a word, what nobody needs is.
	b.focusRow("choose_lifts")
	b.keys(kb.Delete)
	b.see("Remove “Choose the lifts”?")
	b.see("This would break: Book a visit")
	b.press("Keep it")
	b.gone("This would break")
	holds(`$.steps[*] ? (@.key == "choose_lifts")`, 1)
	b.focusRow("booked")
	b.keys(kb.Delete)
	holds(`$.steps[*] ? (@.key == "booked")`, 0)
	holds(`$.steps[0].screen.bands[*].columns[*].parts[*] ? (@.key == "floor_it_is_on")`, 1)
}

// known waits for the editor of what is known by a key.
func (b *browser) known(key string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`[...document.querySelectorAll('.key-slot')].some(e => e.querySelector('.muted').innerText.replace('known as', '').trim() + e.querySelector('input').value === %q)`, key), "nothing is known as %s", key)
}
