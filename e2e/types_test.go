package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"testing"
	"time"

	"plainpath/postgres/drafts"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"plainpath/testdb"
)

// paper writes a file for the browser to give.
func paper(t *testing.T, name string, content []byte) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	if err := os.WriteFile(path, content, 0o600); err != nil {
		t.Fatal(err)
	}
	return path
}

func drawn(t *testing.T, side int) []byte {
	t.Helper()
	var out bytes.Buffer
	if err := png.Encode(&out, image.NewGray(image.Rect(0, 0, side, side))); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

// give gives a file to the field with an id.
func (b *browser) give(id, path string) {
	b.t.Helper()
	run(b, chromedp.SetUploadFiles("input[type=file]#"+id, []string{path}))
}

// loaded waits until pictures are shown.
func (b *browser) loaded(least int) {
	b.t.Helper()
	js := fmt.Sprintf(`[...document.querySelectorAll('main img')].filter(i => i.complete && i.naturalWidth > 0).length >= %d`, least)
	for deadline := time.Now().Add(patience); !run(b, chromedp.Evaluate[bool](js)); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(deadline) {
			b.fail("%d pictures are not shown", least)
		}
	}
}

// at waits until the page has an address.
func (b *browser) at(path string) {
	b.t.Helper()
	js := fmt.Sprintf(`location.pathname === %q && !!document.querySelector('[data-field]')`, path)
	for deadline := time.Now().Add(patience); !run(b, chromedp.Evaluate[bool](js)); time.Sleep(50 * time.Millisecond) {
		if time.Now().After(deadline) {
			b.fail("the page is not at %s", path)
		}
	}
}

// A builder gives a customer a logo, an address and, in a new field, several choices; the
// owner's desk sees the logo where she sees the customer.
func TestFieldsOfSeveralThings(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/object/customer")
	b.enter("Name of a new field", "Wants")
	b.choose("Its type", "several choices")
	b.press("Add the field")
	b.enter("More values, one a line", "Monthly report")
	b.keys(kb.Enter)
	b.keys("Night service")
	b.press("Add the lines")
	b.see("Night service")
	b.open("/build/object/customer/records?record=5")
	b.see("Customer number")
	b.pressIn("label", "Night service")
	b.pressIn("label", "Monthly report")
	b.enter("Town", "Ester Bay")
	b.give("rf-logo", paper(t, "words.png", []byte("no picture at all")))
	b.see("words.png is no picture")
	b.give("rf-logo", paper(t, "new-logo.png", drawn(t, 300)))
	b.gone("is no picture")
	// What stands between thousands is left out; a comma that may mean either is no guess.
	b.enter("Credit limit", "12,5")
	b.press("Save")
	b.see("12,5")
	b.see("is not a")
	b.field("Credit limit")
	b.keys("1,234,567.5")
	b.press("Save")
	b.eventually(`SELECT count(*) FROM liftcare_trial.customer WHERE id = 5 AND credit_limit = 1234567.5`, 1)
	b.eventually(`SELECT count(*) FROM liftcare_trial.customer c JOIN plainpath.file f ON f.id = c.logo WHERE c.id = 5 AND f.name = 'new-logo.png' AND f.kept
		AND (c.address).town = 'Ester Bay' AND (c.address).lines <> '' AND c.wants = ARRAY['monthly_report', 'night_service']`, 1)
	b.loaded(1)

	// A search asks for it, from the list of operators that suits.
	b.open("/build/role/dispatcher")
	b.see("all 40")
	b.find("tr", "Customers", false)
	run(b, chromedp.Click(`[data-e2e] button.link`))
	b.press("Condition")
	b.pick("Field", "wants", "Wants")
	b.choose("Value: where from", "typed in")
	b.pressIn("label", "Night service")
	b.see("1 of 40")

	// In Use the owner's desk sees her own customer's logo.
	b.open("/build")
	b.press("Sign out")
	b.signIn("Orla Northcape")
	b.open("/use/record/customer/5")
	b.see("Lantern Hotels")
	b.loaded(1)
}

// An object and a choice get other keys, a change is hindered by records that are mended
// together, and what is taken away comes back: all by a builder in the object's page.
func TestAnObjectIsRearranged(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/object/lift")
	b.enter("Key of the object", "hoist")
	b.keys(kb.Enter)
	b.see("lift is hoist now")
	b.eventually(`SELECT count(*) FROM liftcare_trial.hoist`, 400)
	b.at("/build/object/hoist")
	b.fieldRow("kind")
	b.enter("Key of Goods", "freight")
	b.keys(kb.Enter)
	b.eventually(`SELECT (count(*) > 0)::int FROM liftcare_trial.hoist WHERE kind = 'freight'`, 1)
	b.enter("Key of the object", "building")
	b.keys(kb.Enter)
	b.see("already")
	b.see("hoist")

	bare := s.count(t, `SELECT count(*) FROM liftcare_trial.hoist WHERE stops IS NULL`)
	b.fieldRow("stops")
	b.pressIn("label", "required")
	b.see(fmt.Sprintf("%d records are without it", bare))
	b.enter("Value for Stops", "3")
	b.keys(kb.Enter)
	b.see(fmt.Sprintf("%d records were changed", bare))
	b.eventually(`SELECT count(*) FROM liftcare_trial.history WHERE object = plainpath.history_name('liftcare_trial.hoist') AND cause->>'mending' = 'required'`, bare)
	b.eventually(`SELECT count(*) FROM pg_attribute WHERE attrelid = 'liftcare_trial.hoist'::regclass AND attname = 'stops' AND attnotnull`, 1)

	b.press("Remove…")
	b.see("This would break")
	b.press("Keep it")
	b.open("/build/object/reminder")
	b.press("Remove…")
	b.see("It can be brought back.")
	b.press("Remove it")
	b.see("Removed")
	b.eventually(`SELECT count(*) FROM plainpath.document WHERE removed`, 1)
	b.press("bring back")
	b.see("Reminder")
	b.eventually(`SELECT count(*) FROM plainpath.document WHERE removed`, 0)
}

// What the owner's desk and a dispatcher see when they sign in is what SQL counts for them.
func TestEachSeesTheirOwn(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	bo := testdb.SignIn(t, s.address, "bo@quillmere.example")
	walk := `{"key":"all_lifts","label":"Look at the lifts","roles":["dispatcher","owners_desk"],"steps":[
		{"key":"lifts","kind":"search","search":{"object":"lift","where":{}}},
		{"key":"look","kind":"screen","title":"Lifts","screen":{"bands":[{"columns":[{"parts":[
			{"key":"table","kind":"table","label":"Lifts","table":{"source":"lifts","columns":[{"path":"serial_number"},{"path":"building.name"},{"path":"building.customer.logo"}],"select":"none"}}]}]}]}},
		{"key":"done","kind":"finish","finish":{"message":"That was all."}}]}`
	var p drafts.Preview
	for _, step := range []struct {
		method, path string
		body, out    any
	}{
		{"POST", "/api/build/documents", map[string]any{"kind": "walkthrough", "key": "all_lifts",
			"body": json.RawMessage(walk)}, nil},
		{"GET", "/api/build/release", nil, &p},
	} {
		if status, err := bo.Do(step.method, step.path, step.body, "", step.out); err != nil || status >= 300 {
			t.Fatal(step.path, status, err)
		}
	}
	if status, err := bo.Do("POST", "/api/build/release", map[string]any{"version": p.Version, "note": ""}, "",
		nil); err != nil || status != 201 {
		t.Fatal(status, err)
	}
	own := s.count(t, `SELECT count(*) FROM liftcare_production.lift l JOIN liftcare_production.building b ON b.id = l.building WHERE b.customer = 5`)
	strange := s.count(t, `SELECT min(l.id) FROM liftcare_production.lift l JOIN liftcare_production.building b ON b.id = l.building WHERE b.customer <> 5`)
	for _, who := range []struct {
		name string
		sees int
		all  bool
	}{{"Orla Northcape", own, false}, {"Dana Merrowdale", 400, true}} {
		b := s.browser(t)
		b.signIn(who.name)
		b.press("Look at the lifts")
		b.see(fmt.Sprintf("%d records", who.sees))
		b.loaded(1)
		b.open(fmt.Sprintf("/use/record/lift/%d", strange))
		if who.all {
			b.see("Serial number")
		} else {
			b.see("not here")
		}
	}
}
