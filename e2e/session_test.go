package e2e

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// another is one more tab of the same browser.
func (b *browser) another() *browser {
	b.t.Helper()
	ctx, cancel := chromedp.NewContext(b.ctx)
	b.t.Cleanup(cancel)
	if _, err := chromedp.Run(ctx, chromedp.EmulateViewport(1280, 800)); err != nil {
		b.t.Fatal(err)
	}
	tab := &browser{b.t, ctx, b.site}
	tab.focused()
	tab.listen()
	return tab
}

func (b *browser) signInAgain(email string) {
	b.t.Helper()
	b.see("Your session has ended")
	time.Sleep(1500 * time.Millisecond) // once it is open, the dialog takes the focus a second time
	b.enter("E-mail address", email)
	b.enter("Password", "quillmere")
	b.keys(kb.Enter)
}

// Wherever a session ends, its person signs in on the spot, nothing typed is lost and what was
// asked for is asked again. A new session reaches all tabs; nobody's work goes on as another's.
func TestASessionEndsAnywhere(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	end := func() {
		t.Helper()
		if _, err := s.db.Exec(`DELETE FROM plainpath.session`); err != nil {
			t.Fatal(err)
		}
	}
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build/walkthrough/book_a_visit")
	b.see("draft, saved")
	table := b.another()
	table.open("/build/object/service_call/records")
	table.see("650 records")

	end()
	b.enter("Name of the walkthrough", "Plan a visit")
	b.keys(kb.Enter)
	b.signInAgain("bo@quillmere.example")
	b.gone("Your session has ended")
	b.see("draft, saved")
	if n := s.count(t, `SELECT count(*) FROM plainpath.document WHERE body->>'label' = 'Plan a visit'`); n != 1 {
		b.fail("the edit was not made")
	}

	// The other tab goes on with the new session, though it was not told of anything.
	table.row("SC-")
	table.enter("Problem", "Hums at night")
	table.press("Save")
	table.until(`!document.body.innerText.includes('Save') || document.body.innerText.includes('Hums at night')`,
		"it is not saved")
	for deadline := time.Now().Add(patience); s.count(t,
		`SELECT count(*) FROM liftcare_trial.service_call WHERE problem = 'Hums at night'`) != 1; time.Sleep(50 * time.Millisecond) {
		if time.Now().After(deadline) {
			table.fail("the other tab's change was not saved")
		}
	}

	// Somebody else who signs in there begins afresh: nothing is sent as them.
	end()
	b.enter("Name of the walkthrough", "Not Dana's")
	b.keys(kb.Enter)
	b.signInAgain("dana@quillmere.example")
	b.until(`location.pathname === '/use'`, "Dana stands where Bo was")
	if n := s.count(t, `SELECT count(*) FROM plainpath.document WHERE body->>'label' = 'Not Dana''s'`); n != 0 {
		t.Error("Bo's edit was made as Dana")
	}

	// Who signs out comes to the page to sign in, also when there was no session any more.
	b.see("Report a fault")
	end()
	b.pressIn("button", "Report a fault")
	b.see("Your session has ended")
	b.press("Leave it and sign in anew")
	b.until(`location.pathname === '/sign-in'`, "it is not left")
	b.pressIn("li button", "Mara Stillwater") // the page is not loaded anew
	b.press("Sign in")
	b.see("Report a fault")
	if n := s.count(t, `SELECT count(*) FROM plainpath.run`); n != 0 {
		t.Errorf("what Dana asked for was asked for as Mara: %d runs", n)
	}

	// Edits that wait are their builder's: who signs out leaves none to be made as another builder.
	if _, err := s.db.Exec(`UPDATE plainpath.person SET builder = true WHERE email LIKE 'dana@%'`); err != nil {
		t.Fatal(err)
	}
	b.press("Sign out")
	b.signIn("Bo Lindqvale")
	b.open("/build/walkthrough/book_a_visit")
	b.see("draft, saved")
	run(b, chromedp.Evaluate[bool](`(known => { window.known = known; window.fetch = (url, how) => (url.url ?? String(url)).includes('/build/documents') ? Promise.reject(new TypeError('lost')) : known(url, how); return true })(window.fetch)`))
	b.enter("Name of the walkthrough", "Bo's own")
	b.keys(kb.Enter)
	b.see("1 change waits")
	b.press("Sign out")
	b.press("Leave without saving")
	run(b, chromedp.Evaluate[bool](`(window.fetch = window.known, true)`))
	b.pressIn("li button", "Dana Merrowdale")
	b.press("Sign in")
	b.see("What you change saves itself")
	b.open("/build/walkthrough/book_a_visit")
	b.see("draft, saved")
	time.Sleep(3 * time.Second) // longer than what waits rests between two tries
	if n := s.count(t, `SELECT count(*) FROM plainpath.edit e JOIN plainpath.person p ON p.id = e.person WHERE p.email LIKE 'dana@%'`); n != 0 {
		t.Errorf("%d of Bo's edits were made as Dana", n)
	}
}

// Many tabs of one browser hear of changes over one connection; when the tab that holds it is
// closed, another takes over.
func TestManyTabsHearOfChanges(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.open("/use/page/calls")
	b.see("650 records")
	var tabs []*browser
	for range 6 {
		tab := b.another()
		tab.open("/use/page/calls")
		tab.see("650 records")
		tabs = append(tabs, tab)
	}
	change := func(problem string) {
		t.Helper()
		if _, err := s.db.Exec(`UPDATE liftcare_production.service_call SET problem = $1 WHERE id = (SELECT id FROM liftcare_production.service_call ORDER BY opened DESC LIMIT 1)`, problem); err != nil {
			t.Fatal(err)
		}
	}
	change("Hums")
	for _, tab := range append(tabs, b) {
		tab.see("Records shown here were changed meanwhile.")
	}
	run(b, chromedp.Navigate("about:blank")) // it held the connection
	for _, tab := range tabs {
		tab.press("Show how they are now")
		tab.gone("Records shown here were changed meanwhile.")
	}
	change("Hums again")
	for _, tab := range tabs {
		tab.see("Records shown here were changed meanwhile.")
	}
}

// What was typed to change one's own password is still there when it is refused, and gone when it was taken.
func TestOnesOwnPassword(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Dana Merrowdale")
	b.pressIn("button", "Dana Merrowdale")
	b.press("Password and sessions …")
	b.see("Where you are signed in")
	time.Sleep(500 * time.Millisecond) // the dialog opens and takes the focus
	typed := func() int {
		return run(b, chromedp.Evaluate[int](`[...document.querySelectorAll('.p-dialog input')].filter((i) => i.value).length`))
	}
	for _, c := range []struct {
		now   string
		taken bool
	}{{"not quite", false}, {"quillmere", true}} {
		b.enter("Your password", c.now)
		b.enter("A new one, at least 15 characters; a few words will do", "seven ropes and a bell")
		b.press("Change it")
		if c.taken {
			b.see("Your password is changed")
		} else {
			b.until(`!!document.querySelector('.p-dialog .bad, .p-dialog .p-invalid')`, "nothing is wrong with it")
		}
		if left := typed(); (left == 0) != c.taken {
			t.Errorf("with %q as the password now %d inputs are filled", c.now, left)
		}
	}
}
