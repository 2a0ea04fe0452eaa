package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"
)

// A page with a form that changes what is chosen and one that adds to it, built from nothing and used: the table
// follows, rules hold, and what somebody else changed meanwhile is told.
func TestFormsOnAPage(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.newPage("Houses")
	b.press("+ add")
	b.choose("A table of", "Buildings")
	b.see("records")
	b.press("+ a band below")
	b.choose("A form", "to change Buildings › the row chosen")
	b.see("Nothing is chosen yet.")
	b.choose("Columns of the form", "two columns")
	b.pressIn(".tag .name", "Town")
	b.pressIn("label", "only shown")
	b.keys(kb.Escape)
	b.press("+ a band below")
	b.choose("A form", "for a new building")
	b.enter("Label", "Another one")
	b.choose("Set a field", "Country code")
	b.chooseLast("Country code: where from", "typed in")
	b.until(`(e => { e?.focus(); return !!e })([...document.querySelectorAll('.values input')].at(-1))`, "no value can be given")
	b.keys("QM" + kb.Tab)
	b.until(`document.querySelector('.place.selected input[id$=country]')?.value === 'QM'`, "a new one does not begin so")
	b.forRole("Service manager")
	b.releases("Houses")

	b.signIn("Mara Stillwater")
	b.pressIn("main a", "Houses")
	b.row("Rose Point")
	b.see("Save")
	b.until(`!document.querySelector('[id$=building-town]') && document.querySelector('.fixed')?.innerText === 'Varrow'`,
		"the town is not only shown")
	b.field("Floors")
	b.keys("16")
	if _, err := s.db.Exec(`UPDATE liftcare_production.building SET floors = 17, revision = revision + 1 WHERE name = 'Rose Point'`); err != nil {
		t.Fatal(err)
	}
	b.press("Save")
	b.see("Theirs is “17”.")
	b.press("Save mine")
	b.see("Saved.")
	holds := func(want int, where string) {
		t.Helper()
		if n := s.count(t, `SELECT count(*) FROM liftcare_production.building WHERE `+where); n != want {
			t.Errorf("%d buildings hold %s, want %d", n, where, want)
		}
	}
	holds(1, `name = 'Rose Point' AND floors = 16 AND town = 'Varrow'`)
	another := func(field, text string) {
		t.Helper()
		b.until(fmt.Sprintf(`(e => { e?.focus(); return !!e })([...document.querySelectorAll('main form')].at(-1).querySelector('input[id$="-%s"]'))`, field), "there is no %s", field)
		b.keys(text)
	}
	another("name", "Tannery Gate"+kb.Enter)
	b.see("Town is required")
	b.see("Customer is required")
	another("town", "Varrow")
	another("customer", "Beacon")
	b.option("Beacon Stores", true)
	another("key_holder", "")
	b.option("Rosalind Jessamy", true) // one of those of the customer
	another("floors", "3"+kb.Enter)
	b.see("“Tannery Gate” was added.")
	b.see("121 records")
	holds(1, `name = 'Tannery Gate' AND town = 'Varrow' AND country = 'QM' AND floors = 3 AND key_holder = (SELECT id FROM liftcare_production.contact WHERE first_name = 'Rosalind' AND last_name = 'Jessamy')`)
	b.until(`(f => f.querySelector('[id$="-name"]').value === '' && f.querySelector('[id$="-country"]').value === 'QM')([...document.querySelectorAll('main form')].at(-1))`,
		"it does not begin anew")
}

// A record is changed and removed on its own page by whoever may; others only read it.
func TestARecordIsChangedWhereItIsRead(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	id := s.count(t, `INSERT INTO liftcare_production.building (name, town, country, customer) SELECT 'Tannery Gate', 'Varrow', 'QM', id FROM liftcare_production.customer WHERE name = 'Beacon Stores' RETURNING id`)
	record := fmt.Sprintf("/use/record/building/%d", id)
	b.signIn("Dana Merrowdale")
	b.open(record)
	b.see("Tannery Gate")
	b.see("Beacon Stores")
	for _, not := range []string{"Change", "Remove…"} {
		b.until(fmt.Sprintf(`![...document.querySelectorAll('main button')].some(e => e.innerText === %q)`, not), "she may %s", not)
	}
	b.press("Sign out")
	b.signIn("Mara Stillwater")
	b.open(record)
	b.press("Change")
	b.field("Floors")
	b.keys("x" + kb.Enter)
	b.see("is not a whole number")
	b.enter("Floors", "6")
	b.press("Cancel")
	b.see("not saved yet")
	b.press("Stay")
	b.enter("Name", "Tannery Gates")
	b.keys(kb.Enter)
	b.see("Change")
	b.see("Tannery Gates")
	b.see("changed by Mara Stillwater")
	b.open(record + "?edit=yes")
	b.field("Access notes")
	b.press("Cancel")
	b.press("Remove…")
	b.see("Remove Tannery Gates?")
	b.press("Keep it")
	b.press("Remove…")
	b.press("Remove")
	b.see("Tannery Gates was removed.")
	if n := s.count(t, `SELECT count(*) FROM liftcare_production.building WHERE id = $1`, id); n != 0 {
		t.Error("it is there still")
	}
	b.open(fmt.Sprintf("/use/record/building/%d", s.count(t, `SELECT min(building) FROM liftcare_production.lift`)))
	b.press("Remove…")
	b.press("Remove")
	b.see("refer")
}
