package e2e

import (
	"encoding/json"
	"testing"

	"github.com/chromedp/chromedp"

	"plainpath/testdb"
)

// A button asks, shows that it is at work, sets an input of its page and says what it did, in the words of
// its builder.
func TestAButtonAsksSetsAndSays(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	if _, err := s.db.Exec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(body, '{bands,0,columns,0,parts,1,table,buttons,0}', $1::jsonb) WHERE kind = 'page' AND key = 'calls'`,
		`{"key":"done","label":"Mark as done","on":"one","do":[{"kind":"hold","hold":{"text":"One moment …"}},
		{"kind":"confirm","confirm":{"question":"{row.number} is done, is it?","yes":"It is done"}},
		{"kind":"change","change":{"values":[{"field":"state","value":{"literal":"done"}}]}},
		{"kind":"set","set":{"part":"since","value":"now"}},{"kind":"say","only_when":"row.problem == \"\"","say":{"text":"Nobody hears this."}},
		{"kind":"say","say":{"text":"{n} done."}}]}`); err != nil {
		t.Fatal(err)
	}
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/page/calls")
	b.tap("tbody tr", "SC-645", false, " td:nth-child(2)")
	b.press("Mark as done")
	b.see("SC-645 is done, is it?")
	b.press("It is done")
	b.see("1 done.")
	if run(b, chromedp.Evaluate[bool](`document.body.innerText.includes("Nobody hears this")`)) {
		t.Error("what was to be said only under a condition is said without it")
	}
	b.until(`[...document.querySelectorAll("#in-since, #in-since input")].some((i) => /\d/.test(i.value ?? ""))`,
		"the input was not set")
}

// What a walkthrough says before its first screen is said to whoever begins it, and told in its rehearsal.
func TestAWalkthroughSaysBeforeItsFirstScreen(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	if _, err := s.db.Exec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(body, '{steps}', $1::jsonb || (body->'steps')) WHERE kind = 'walkthrough' AND key = 'report_a_fault'`,
		`[{"key":"hello","kind":"say","say":{"text":"Good day, {person.name}."}}]`); err != nil {
		t.Fatal(err)
	}
	bo := testdb.SignIn(t, s.address, "bo@quillmere.example")
	var preview struct {
		Version json.RawMessage `json:"version"`
	}
	if status, err := bo.Do("GET", "/api/build/release", nil, "", &preview); err != nil || status != 200 {
		t.Fatal(status, err)
	}
	if status, err := bo.Do("POST", "/api/build/release", map[string]any{"version": preview.Version,
		"note": "It greets"},
		"greets", nil); err != nil || status >= 300 {
		t.Fatal(status, err)
	}
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	// What is said goes by itself, on a busy machine before anybody looks.
	run(b, chromedp.Evaluate[any](`window.said = ''; new MutationObserver(() => document.querySelectorAll('.p-toast-message')
		.forEach((m) => window.said += m.innerText)).observe(document.body, { childList: true, subtree: true })`))
	b.pressIn("button", "Report a fault")
	b.until(`window.said.includes("Good day, Dana Merrowdale.")`, "nothing was said")
	b.see("What is wrong?")
	builder := s.browser(t)
	builder.signIn("Bo Lindqvale")
	builder.open("/build/walkthrough/report_a_fault")
	builder.see("It says “Good day, Dana Merrowdale.”")
}
