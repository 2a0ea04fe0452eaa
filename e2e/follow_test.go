package e2e

import (
	"fmt"
	"testing"

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
