package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// A stray letter on a cell and then a key or a press elsewhere changes nothing, whatever the
// cell holds; a letter on a choice or a reference begins its search, and what is picked counts.
// What cannot be computed says why in its cell, and the rest of the table stands.
func TestAStrayLetterChangesNothing(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	for _, sql := range []string{
		`UPDATE liftcare_trial.service_call SET due = current_date, engineer = (SELECT min(engineer) FROM liftcare_trial.visit WHERE lift = service_call.lift) WHERE id = 1`,
		`INSERT INTO liftcare_trial.quote_line (quote, what, quantity, unit_price, unit_price_currency) SELECT min(id), 'Rope from abroad', 1, 5, 'SEK' FROM liftcare_trial.quote`,
	} {
		if _, err := s.db.Exec(sql); err != nil {
			t.Fatal(err)
		}
	}
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/object/service_call/records")
	b.see("650 records")
	columns := run(b, chromedp.Evaluate[[]string](`[...document.querySelectorAll('th[data-column]')].map(h => h.innerText.trim())`))
	tried := 0
	for at, column := range columns {
		switch column {
		case "Lift", "Reported by", "Priority", "State", "Opened", "Due", "Engineer":
		default:
			continue
		}
		tried++
		for _, key := range []string{kb.Enter, kb.Tab, "elsewhere"} {
			b.cell(0, at)
			b.keys("w")
			b.until(`!!document.querySelector('.editor')`, "no editor opens on %s", column)
			time.Sleep(300 * time.Millisecond) // what was begun may have found something by now
			switch key {
			case "elsewhere":
				run(b, chromedp.Click(`h1, .head h2`))
				run(b, chromedp.Evaluate[any](`document.querySelector('.veil')?.dispatchEvent(new MouseEvent('mousedown', {bubbles: true, cancelable: true}))`))
			case kb.Enter: // a list that is open has the first say about it
				if column == "State" { // where W leads to a value, Enter takes it
					b.keys(kb.Tab)
				}
				for range 4 {
					if run(b, chromedp.Evaluate[bool](`!!document.querySelector('.editor')`)) {
						b.keys(kb.Enter)
						time.Sleep(400 * time.Millisecond)
					}
				}
			default:
				b.keys(key)
			}
			b.until(`!document.querySelector('.editor')`, "the editor of %s stays open", column)
			if run(b, chromedp.Evaluate[bool](`document.body.innerText.includes('not saved yet')`)) {
				t.Fatalf("a letter and then %q changed %s: %s", key, column, b.text(".save"))
			}
		}
	}
	if tried != 7 {
		t.Errorf("%d columns tried of %v", tried, columns)
	}

	// A letter begins the search of a choice; what it leads to is picked with Enter.
	for at, column := range columns {
		if column == "State" {
			b.cell(0, at)
			b.keys("w")
			b.until(`document.querySelector('[role=option].p-focus')?.innerText.trim() === 'Waiting for parts'`,
				"W does not lead to Waiting for parts")
			b.keys(kb.Enter)
			b.see("1 row changed, not saved yet")
			b.keys("s", chromedp.KeyModifiers(2))
			b.eventually(`SELECT count(*) FROM liftcare_trial.history WHERE object = 'service_call' AND action = 'change' AND after->>'state' = 'waiting_for_parts'`, 1)
		}
	}

	b.open("/build/object/quote/records")
	b.see("cannot be added: EUR and SEK")
	if rows := run(b, chromedp.Evaluate[int](`document.querySelectorAll('tbody tr[aria-rowindex]').length`)); rows < 10 {
		t.Errorf("%d rows stand beside what cannot be computed", rows)
	}
}
