package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// relabel gives the part that has one label another.
func (b *browser) relabel(was, label string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(e => { e?.focus(); e?.select(); return document.activeElement === e })([...document.querySelectorAll('input[aria-label=Label]')].find(e => e.value === %q))`, was), "nothing is called %s", was)
	b.keys(label + kb.Enter)
}

// chooseIn takes an option of the list of that label, of which there are several.
func (b *browser) chooseIn(n int, label, option string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(e => { e?.click(); return !!e })([...document.querySelectorAll('[role=combobox][aria-label=%q]')][%d])`, label, n), "no list %s", label)
	b.pressIn("[role=option]", option)
}

// chooseLast takes an option of the last list of that label.
func (b *browser) chooseLast(label, option string) {
	b.t.Helper()
	b.until(fmt.Sprintf(`(e => { e?.click(); return !!e })([...document.querySelectorAll('[role=combobox][aria-label=%q]')].at(-1))`, label), "no list %s", label)
	b.pressIn("[role=option]", option)
}

// On a screen built from nothing the parts follow each other: details of the building just chosen, only the contacts
// that may hold its keys, an input that tall buildings alone ask for. What does not fit any more is said and asked for
// again; in the rehearsal as in Use.
func TestPartsOfAScreenFollowEachOther(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	type place struct {
		building, contact string
		id, holder        int64
	}
	var low, tall place
	for to, floors := range map[*place]string{&low: "b.floors < 6", &tall: "b.floors > 7"} {
		if err := s.db.QueryRow(`SELECT b.id, b.name, c.id, c.first_name || ' ' || c.last_name
			FROM liftcare_production.building b JOIN liftcare_production.contact c ON c.customer = b.customer WHERE `+floors+`
			AND NOT EXISTS (SELECT FROM liftcare_production.building o WHERE o.id <> b.id AND o.name LIKE b.name || '%')
			ORDER BY b.id, c.id LIMIT 1`).Scan(&to.id, &to.building, &to.holder, &to.contact); err != nil {
			t.Fatal(err)
		}
	}
	b.signIn("Bo Lindqvale")
	b.newWalkthrough("Keys of a building", "Service manager")
	b.after("", "screen: Which keys?", "Screen")
	b.known("which_keys")
	b.press("input")
	b.enter("Label", "Building")
	b.keys(kb.Enter)
	b.choose("Type of the input", "reference")
	b.choose("Which object", "Building")
	b.press("details")
	b.see("which_keys.building")
	b.pick("Add to: fields", "floors", "Floors")
	b.press("input")
	b.relabel("New input", "Key holder")
	b.known("which_keys.key_holder")
	b.chooseIn(1, "Type of the input", "reference")
	b.chooseIn(1, "Which object", "Contact")
	b.chooseIn(1, "Which records are offered", "what fits as Key holder of Building")
	b.pick("The record being edited", "building", "which_keys.building")
	b.press("input")
	b.relabel("New input", "Who else has keys?")
	b.known("which_keys.who_else_has_keys")
	b.until(`(e => { e?.focus(); return !!e })([...document.querySelectorAll('input[aria-label="Offered when"]')].at(-1))`, "no condition")
	b.keys("which_keys.building.floors > 7" + kb.Enter)
	b.after("which_keys", "change", "Change records")
	b.pick("What is changed", "building", "which_keys.building")
	b.choose("Set a field", "Key holder")
	b.enter("Key holder", "which_keys.key_holder")
	b.keys(kb.Enter)
	b.after("change_records", "finish", "Finish")
	b.enter("Closing message", "Also: {which_keys.who_else_has_keys}")
	b.keys(kb.Tab)
	b.see("no findings")

	// Rehearsed: what follows is there as soon as something is chosen.
	b.pick("Building", low.building, low.building)
	b.see("Floors")
	b.pick("Key holder", low.contact, low.contact)
	b.pick("Building", tall.building, tall.building)
	b.see(low.contact + " does not fit any more. Please choose again.")
	b.see("Who else has keys?")
	b.press("Release…")
	b.see("“Keys of a building” is added")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")

	b.signIn("Mara Stillwater")
	b.pressIn("button", "Keys of a building")
	b.see("Which keys?")
	b.gone("Who else has keys?")
	b.pick("Building", tall.building, tall.building)
	b.see("Who else has keys?")
	b.enter("Who else has keys?", "The porter")
	b.pick("Building", low.building, low.building)
	b.gone("Who else has keys?")
	b.enter("Key holder", tall.contact)
	b.see("Nothing of that name")
	b.pick("Key holder", low.contact, low.contact)
	b.pick("Building", tall.building, tall.building)
	b.see(low.contact + " does not fit any more. Please choose again.")
	b.until(`[...document.querySelectorAll('label')].find(e => e.innerText.startsWith('Who else')).parentElement.querySelector('input').value === 'The porter'`, "what was typed is gone")
	b.press("Next")
	b.see("cannot be chosen as Key holder")
	b.pick("Key holder", tall.contact, tall.contact)
	b.press("Next")
	b.see("Also: The porter")
	b.eventually(fmt.Sprintf(`SELECT count(*) FROM liftcare_production.building WHERE id = %d AND key_holder = %d`, tall.id, tall.holder), 1)
}

// A screen does things by itself, too: a button sets an input, what is entered is answered, and what a reaction writes
// stands in the rehearsal's trace, is put back there, and is done once in Use.
func TestAScreenReacts(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newWalkthrough("Note something", "Service manager")
	b.after("", "screen: What is it?", "Screen")
	b.known("what_is_it")
	b.press("input")
	b.relabel("New input", "Words")
	b.known("what_is_it.words")
	b.pressIn(".row button", "button")
	b.relabel("New button", "The usual")
	b.known("what_is_it.the_usual")
	b.pressIn("summary", "What it does by itself")
	for _, part := range []struct{ event, part, act string }{
		{"a button is pressed:", "The usual", "set an input"}, {"something is entered or chosen in", "Words", "notify people"},
	} {
		b.press("When something happens …")
		b.chooseLast("What happens", part.event)
		b.chooseLast("To which part it happens", part.part)
		b.until(`(e => { e?.click(); return !!e })([...document.querySelectorAll('.reaction')].at(-1)?.querySelector('button:has(.p-button-label)'))`, "no line can be added")
		b.chooseLast("What it does", part.act)
	}
	b.choose("The input that is set", "Words")
	b.enter("What it is set to", `"Door scrapes"`)
	b.keys(kb.Enter)
	b.told("Dispatcher")
	b.enter("What they are told", "{what_is_it.words}, says somebody")
	b.keys(kb.Tab)
	b.after("what_is_it", "finish", "Finish")
	b.enter("Closing message", "So: {what_is_it.words}")
	b.keys(kb.Tab)
	b.see("no findings")
	told := func() int { return s.count(t, `SELECT count(*) FROM plainpath.notice`) }
	b.pressIn(".p-button", "The usual")
	b.see("told to Dana Merrowdale")
	if n := told(); n != 0 {
		t.Errorf("%d people were told by a rehearsal", n)
	}
	b.press("Next")
	b.see("So: Door scrapes")
	b.press("Release…")
	b.press("Release 2")
	b.see("Release 2 is in force")
	b.press("Sign out")

	b.signIn("Mara Stillwater")
	b.pressIn("button", "Note something")
	b.see("What is it?")
	b.pressIn(".p-button", "The usual")
	b.eventually(`SELECT count(*) FROM plainpath.notice WHERE text::text LIKE '%Door scrapes%'`, 1)
	b.press("Next")
	b.see("So: Door scrapes")
	if n := told(); n != 1 {
		t.Errorf("%d people were told", n)
	}
}

// The demo does both: what is known of a lift appears as it is chosen, an urgent fault asks who is inside; and the
// contacts are read after the customers, when a button says so.
func TestTheDemoFollowsAndReacts(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.pressIn("button", "Report a fault")
	b.see("What is wrong?")
	b.gone("About the lift")
	b.gone("Is anybody inside?")
	b.pick("Lift", "QL-10000", "QL-10000")
	b.see("About the lift")
	b.enter("What happens?", "Stuck between floors")
	b.pressIn("[role=radio], .p-radiobutton, label", "Urgent")
	b.see("Is anybody inside?")
	b.enter("Is anybody inside?", "Two people")
	b.pressIn("label", "Low")
	b.gone("Is anybody inside?")
	b.pressIn("label", "Urgent")
	b.see("Two people")
	b.press("Report")
	b.see("Thank you.")
	b.eventually(`SELECT count(*) FROM plainpath.notice WHERE text::text LIKE '%inside: Two people%'`, 1)

	b.pressIn("nav a", "Whom to call")
	b.see("This is read when it is asked for.")
	b.pressIn(".p-button", "Read customers, then their contacts")
	b.see("40 records")
	b.see("90 records")
	b.see("All is there.")

	// What takes long says what it reads and can be stopped; what was to follow is not done then.
	b.open("/use/page/whom_to_call")
	b.see("This is read when it is asked for.")
	b.holdsBack("/pages/whom_to_call")
	b.pressIn(".p-button", "Read customers, then their contacts")
	b.see("Still reading Customers, Contacts.")
	b.press("Stop")
	b.see("Stopped before all was read.")
	b.see("It was not read to the end; what was to follow is not done.")
	b.gone("All is there.")
	b.finds()
	b.press("Try again")
	b.see("40 records")
	b.gone("90 records")
}

// holdsBack lets requests of a path go unanswered until they are given up.
func (b *browser) holdsBack(path string) {
	b.t.Helper()
	run(b, chromedp.Evaluate[any](fmt.Sprintf(`(path => { window.known = window.fetch; window.fetch = (request) =>
	  !request.url.includes(path) ? window.known(request) : new Promise((_, no) =>
	    request.signal.addEventListener('abort', () => no(request.signal.reason)))
	})(%q)`, path)))
}
