package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

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
	b.newWalkthrough("Keys of a building", "Dispatcher")
	b.after("", "screen: Which keys?", "Screen")
	b.known("which_keys")
	b.press("input")
	b.enter("Label", "Building")
	b.keys(kb.Enter)
	b.choose("Type of the input", "reference")
	b.choose("Which object", "Building")
	b.press("details")
	b.see("which_keys.building")
	b.choose("Add to fields", "Floors")
	b.see("no findings")
	b.press("input")
	b.until(`(e => { e?.focus(); e?.select(); return document.activeElement === e })([...document.querySelectorAll('input[aria-label=Label]')].find(e => e.value === 'New input'))`, "there is no new input")
	b.keys("Key holder" + kb.Enter)
	b.picture("/tmp/follow0.png")
	b.see("no findings")
	_ = fmt.Sprint
}
