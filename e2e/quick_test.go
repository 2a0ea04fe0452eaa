package e2e

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"

	cdppage "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/demo"
)

// uneven lets an answer arrive later than those to later questions when it is told to, and
// knows whether any are still to come.
const uneven = `(() => {
  const sent = window.fetch
  let under = 0, since = Date.now()
  window.fetch = async (...args) => {
    const late = window.late ?? 0
    window.late = 0
    under++
    try {
      const answer = await sent(...args)
      await new Promise(done => setTimeout(done, late))
      return answer
    } finally { under--; since = Date.now() }
  }
  window.quiet = () => under === 0 && Date.now() - since > 1000
})()`

func (b *browser) unevenly() {
	b.t.Helper()
	if _, err := chromedp.Call(b.ctx, cdppage.AddScriptToEvaluateOnNewDocument,
		cdppage.AddScriptToEvaluateOnNewDocumentParams{Source: uneven}); err != nil {
		b.t.Fatal(err)
	}
}

// late lets the answer to the next question come late.
func (b *browser) late() {
	b.t.Helper()
	run(b, chromedp.Evaluate[bool](`!!(window.late = 1500)`))
}

// act does things to the table of a page, each so soon after the other as it is told.
const act = `async (steps) => {
  const some = (selector, n) => (all => all.length ? all[n % all.length] : null)([...document.querySelectorAll(selector)])
  const key = (e, key) => e?.dispatchEvent(new KeyboardEvent('keydown', { key, altKey: true, bubbles: true }))
  const drawn = () => new Promise(done => requestAnimationFrame(() => requestAnimationFrame(done)))
  for (const { does, n, m, pause } of steps) {
    if (does === 'order') some('th[data-column] button.name', n)?.dispatchEvent(new MouseEvent('click', { shiftKey: m % 2 === 0, bubbles: true }))
    if (does === 'move') key(some('th[data-column]', n), m % 2 ? 'ArrowLeft' : 'ArrowRight')
    if (does === 'late') window.late = 500
    if (does === 'without') some('.sentence .x', n)?.click()
    if (does === 'search') {
      const words = document.querySelector('input.words')
      words.value = ['', 'do', 'a', 'oil'][m % 4]
      words.dispatchEvent(new Event('input', { bubbles: true }))
    }
    if (does === 'menu') {
      some('[aria-label^="What to do with"]', n)?.click()
      await drawn()
      const items = [...document.querySelectorAll('[role=menuitem]')].filter(e => !e.innerText.startsWith('Filter'))
      items[m % Math.max(items.length, 1)]?.querySelector('a, .p-menu-item-content')?.click()
      await drawn()
    }
    await new Promise(done => setTimeout(done, pause))
  }
  return true
}`

// shows is what a person sees of the table.
const shows = `JSON.stringify({
  heads: [...document.querySelectorAll('th[data-column]')].map(e => e.innerText.trim()),
  sentence: document.querySelector('.sentence')?.innerText ?? '',
  count: document.querySelector('.count')?.innerText ?? '',
  totals: document.querySelector('.totals')?.innerText ?? '',
  lines: [...document.querySelectorAll('tbody [data-line]')].filter(e => e.dataset.line < 10).map(e => e.innerText),
}, null, 1)`

// However quickly a table is arranged, what it comes to is what comes back: no answer to an
// earlier question is shown for a later one.
func TestATableArrangedInAHurry(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.unevenly()
	b.signIn("Dana Merrowdale")
	random := rand.New(rand.NewPCG(11, 25))
	type step struct {
		Does  string `json:"does"`
		N     int    `json:"n"`
		M     int    `json:"m"`
		Pause int    `json:"pause"`
	}
	for round := range 3 {
		b.open("/use/page/calls")
		b.see("650 records")
		var steps []step
		for range 30 {
			does := []string{"order", "order", "move", "move", "menu", "menu", "without", "search", "late",
				"late"}[random.IntN(10)]
			steps = append(steps, step{does, random.IntN(40), random.IntN(40), []int{0, 0, 5, 40}[random.IntN(4)]})
		}
		// Words are not kept. The answer to the first order comes after that to the second.
		last := random.IntN(40)
		steps = append(steps, step{Does: "search", Pause: 300}, step{Does: "late"}, step{"order", last, 1, 30},
			step{"order", last, 1, 0})
		raw, err := json.Marshal(steps)
		if err != nil {
			t.Fatal(err)
		}
		run(b, chromedp.Evaluate[bool](fmt.Sprintf("(%s)(%s)", act, raw), chromedp.EvalAwaitPromise))
		b.keys(kb.Escape)
		b.until(`window.quiet()`, "the table does not come to rest")
		came := run(b, chromedp.Evaluate[string](shows))
		b.open("/use/page/calls")
		b.until(`window.quiet()`, "the table does not come to rest")
		if again := run(b, chromedp.Evaluate[string](shows)); again != came {
			t.Fatalf("round %d: after %s\nit shows %s\nand when it comes back %s", round, raw, came, again)
		}
	}
}

// The form of a record is never filled from another that was asked for before, and what is
// entered while a record is being saved stays entered.
func TestALateAnswerIsNotTakenForALaterOne(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.unevenly()
	b.signIn("Bo Lindqvale")
	b.open("/build/object/lift/records")
	b.see("400 records")
	heading := func(serial string) string {
		return fmt.Sprintf(`document.querySelector('aside h2')?.innerText === %q`, serial)
	}
	serials := run(b, chromedp.Evaluate[[]string](`[0, 1].map(i => document.querySelector('[data-line="' + i + '"] [data-column="0"]').innerText.trim())`))
	b.late()
	b.row(serials[0])
	b.row(serials[1])
	b.until(heading(serials[1]), "the form is not that of %s", serials[1])
	b.until(`window.quiet()`, "the page does not come to rest")
	b.until(heading(serials[1]), "the form is that of %s again", serials[0])

	b.enter("Model", "Tarn 900")
	b.late()
	b.press("Save")
	b.enter("Stops", "17")
	b.until(`window.quiet()`, "the page does not come to rest")
	saved := func(stops int) string {
		return fmt.Sprintf(`SELECT count(*) FROM liftcare_trial.lift WHERE serial_number = '%s' AND model = 'Tarn 900' AND coalesce(stops = 17, FALSE)::int = %d`, serials[1], stops)
	}
	b.eventually(saved(0), 1)
	b.see("17")
	b.press("Save")
	b.eventually(saved(1), 1)
}

// Two quick edits of one person, the second made on what the first leaves, both mean what
// they meant when somebody else's edit arrives between them.
func TestSomebodyElsesEditArrivesBetweenTwoQuickOnes(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.unevenly()
	b.signIn("Bo Lindqvale")
	keys := func() string {
		d, err := documents.Document(t.Context(), s.db, demo.App, definition.Walkthrough, "book_a_visit")
		if err != nil {
			t.Fatal(err)
		}
		var w struct{ Steps []struct{ Key string } }
		if err := json.Unmarshal(d.Body, &w); err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(w.Steps)
	}
	b.open("/build/walkthrough/book_a_visit")
	b.until(`!!document.querySelector('[data-row=visits]')`, "the sheet is not there")
	run(b, chromedp.Evaluate[bool](`document.querySelector('[data-row=visits]').focus() ?? true`))
	b.late()
	for range 2 {
		run(b, chromedp.Evaluate[bool](`document.querySelector('[data-row=visits]').dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', altKey: true, bubbles: true }))`))
	}
	b.eventually(`SELECT count(*) FROM plainpath.edit WHERE key = 'book_a_visit'`, 1)
	first := []byte(`{"key":"towns","kind":"search","search":{"object":"building"}}`)
	if _, err := drafts.Apply(t.Context(), s.db, documents.Edit{App: demo.App, Kind: definition.Walkthrough,
		Key: "book_a_visit", Person: 1,
		Change: edit.Change{Base: 1, Patch: edit.Patch{{Op: "add", Path: "/steps/0", Value: first}}}}); err != nil {
		t.Fatal(err)
	}
	b.eventually(`SELECT count(*) FROM plainpath.edit WHERE key = 'book_a_visit'`, 3)
	want := "[{towns} {which} {buildings} {any_building} {choose_building} {lifts} {choose_lifts} {visits} {engineers} {choose_engineer} {booked}]"
	if got := keys(); got != want {
		t.Errorf("the steps are\n%s\nwant\n%s", got, want)
	}
	b.until(`document.querySelector('[data-row]').dataset.row === 'towns'`, "the sheet does not show the other's step")
}
