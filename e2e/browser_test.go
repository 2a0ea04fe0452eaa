// Package e2e drives the real interface in a headless Chromium, as a person would,
// and checks what is in the database afterwards.
package e2e

import (
	"context"
	"fmt"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"plainpath/postgres"

	"github.com/chromedp/cdproto/emulation"
	cdplog "github.com/chromedp/cdproto/log"
	cdppage "github.com/chromedp/cdproto/page"
	cdpruntime "github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/gofiber/fiber/v3"

	"plainpath/demo"
	"plainpath/server"
	"plainpath/testdb"
)

// site is a running server with the demo in its database.
type site struct {
	db      *postgres.DB
	address string
}

func newSite(t *testing.T) site {
	t.Helper()
	if testing.Short() {
		t.Skip("browser tests take their time")
	}
	db := testdb.New(t)
	var signIns []server.SignIn
	for _, p := range demo.People {
		signIns = append(signIns, server.SignIn{Name: p.Name, Email: p.Email, Task: p.Task, Password: demo.Password})
	}
	testdb.Jobs(t, db)
	app := server.New(server.Config{DB: db, App: demo.App, SignIns: signIns,
		Log: slog.New(slog.NewTextHandler(testWriter{t}, &slog.HandlerOptions{Level: slog.LevelWarn}))})
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go func() { _ = app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = app.ShutdownWithTimeout(2 * time.Second) })
	return site{db, "http://" + ln.Addr().String()}
}

type testWriter struct{ t *testing.T }

func (w testWriter) Write(p []byte) (int, error) {
	w.t.Log(strings.TrimSpace(string(p)))
	return len(p), nil
}

// browser is one person's browser.
type browser struct {
	t    *testing.T
	ctx  context.Context
	site site
}

// program is the one Chromium that all tests share; each browser of a test is a profile of its own in
// it, with its own sessions and storage.
var program = sync.OnceValues(func() (context.Context, error) {
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.Flag("no-sandbox", true), chromedp.Flag("disable-gpu", true), chromedp.Flag("disable-quic", true),
		chromedp.Flag("force-prefers-reduced-motion", true),                     // nothing is waited for that only moves
		chromedp.Flag("lang", "en-GB"), chromedp.Flag("hide-scrollbars", false), // as people have them
		chromedp.WindowSize(1280, 800))
	allocator, _ := chromedp.NewExecAllocator(context.Background(), options...)
	ctx, _ := chromedp.NewContext(allocator) // until the tests end, which ends it
	_, err := chromedp.Run(ctx, chromedp.EmulateViewport(1280, 800))
	return ctx, err
})

func (s site) browser(t *testing.T) *browser {
	t.Helper()
	chromium, err := program()
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := chromedp.NewContext(chromium, chromedp.WithNewBrowserContext())
	t.Cleanup(cancel)
	if _, err := chromedp.Run(ctx, chromedp.EmulateViewport(1280, 800)); err != nil {
		t.Fatal(err)
	}
	b := &browser{t, ctx, s}
	b.focused()
	b.listen()
	return b
}

// focused lets a page be as if somebody were at it, whatever other tests do meanwhile.
func (b *browser) focused() {
	b.t.Helper()
	if _, err := chromedp.Call(b.ctx, emulation.SetFocusEmulationEnabled,
		emulation.SetFocusEmulationEnabledParams{Enabled: true}); err != nil {
		b.t.Fatal(err)
	}
}

// listen writes to the test's log what the page complains of.
func (b *browser) listen() {
	_ = chromedp.Listen(b.ctx, func(event any) {
		switch e := event.(type) {
		case *cdpruntime.EventExceptionThrown:
			says := e.ExceptionDetails.Text
			if of := e.ExceptionDetails.Exception; of != nil {
				says += " " + of.Description
			}
			b.t.Logf("exception in the page: %s", says)
		case *cdplog.EventEntryAdded:
			b.t.Logf("the page: %s %s", e.Entry.Text, e.Entry.URL)
		case *cdppage.EventJavascriptDialogOpening: // what is not saved may be left
			go func() {
				_, _ = chromedp.Call(b.ctx, cdppage.HandleJavaScriptDialog,
					cdppage.HandleJavaScriptDialogParams{Accept: true})
			}()
		}
	})
}

// patience is how long a test waits for something to appear.
const patience = 40 * time.Second

func run[T any](b *browser, a chromedp.Action[T]) T {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, patience)
	defer cancel()
	out, err := chromedp.Run(ctx, a)
	if err != nil {
		b.fail("%v", err)
	}
	return out
}

func (b *browser) fail(format string, args ...any) {
	b.t.Helper()
	dir := os.Getenv("PLAINPATH_FAILURES")
	if dir == "" {
		dir = filepath.Join(testdb.Root(b.t), ".state", "failures")
	}
	if err := os.MkdirAll(dir, 0o700); err == nil {
		if png, err := chromedp.Run(b.ctx, chromedp.CaptureScreenshot()); err == nil {
			name := filepath.Join(dir, strings.ReplaceAll(b.t.Name(), "/", "_")+".png")
			_ = os.WriteFile(name, png, 0o600)
		}
	}
	text, _ := chromedp.Run(b.ctx, chromedp.Evaluate[string](`document.body.innerText.slice(0, 1500)`))
	b.t.Fatalf(format+"\non the page:\n%s", append(args, text)...)
}

func (b *browser) open(path string) {
	b.t.Helper()
	run(b, chromedp.Navigate(b.site.address+path))
}

// mark finds a visible element by what a person sees of it and marks it for a click.
// Among several the innermost and first counts.
const mark = `async (selector, text, exact) => {
  const norm = s => (s || '').replace(/\s+/g, ' ').trim()
  const seen = e => { const r = e.getBoundingClientRect(); return r.width > 0 && r.height > 0 && getComputedStyle(e).visibility !== 'hidden' }
  const name = e => norm(e.getAttribute('aria-label')) || norm(e.innerText) || norm(e.placeholder)
  const fits = e => exact ? name(e) === text || norm(e.innerText) === text : name(e).includes(text) || norm(e.innerText).includes(text)
  document.querySelectorAll('[data-e2e]').forEach(e => e.removeAttribute('data-e2e'))
  const all = [...document.querySelectorAll(selector)].filter(e => seen(e) && !e.disabled && fits(e))
  const e = all.find(e => !all.some(o => o !== e && e.contains(o)))
  if (!e) return false
  e.scrollIntoView({ block: 'center' })
  const r = e.getBoundingClientRect()
  const top = document.elementFromPoint(r.x + Math.min(r.width, 160) / 2, r.y + r.height / 2)
  if (!top || !e.contains(top)) return false // something lies over it, a closing dialog for example
  await new Promise(drawn => requestAnimationFrame(() => requestAnimationFrame(drawn)))
  const next = e.getBoundingClientRect()
  if (!e.isConnected || next.x !== r.x || next.y !== r.y) return false // what is still on the move would be missed
  e.setAttribute('data-e2e', '1')
  return true
}`

func (b *browser) find(selector, text string, exact bool) {
	b.t.Helper()
	js := fmt.Sprintf("(%s)(%q, %q, %t)", mark, selector, text, exact)
	deadline := time.Now().Add(patience)
	for !run(b, chromedp.Evaluate[bool](js, chromedp.EvalAwaitPromise)) {
		if time.Now().After(deadline) {
			b.fail("nothing like %q among %s", text, selector)
		}
		time.Sleep(50 * time.Millisecond)
	}
}

// tap clicks what find finds, or a part of it. What was found may be drawn anew before
// the click gets there; then it is looked for again.
func (b *browser) tap(selector, text string, exact bool, part string) {
	b.t.Helper()
	for deadline := time.Now().Add(patience); ; {
		b.find(selector, text, exact)
		ctx, cancel := context.WithTimeout(b.ctx, patience/10)
		_, err := chromedp.Run(ctx, chromedp.Click(`[data-e2e]`+part))
		cancel()
		if err == nil {
			return
		}
		if time.Now().After(deadline) {
			b.fail("%q among %s cannot be clicked: %v", text, selector, err)
		}
	}
}

// press presses a button or link by its text.
func (b *browser) press(text string) {
	b.t.Helper()
	b.tap(`button, a, [role=button], summary`, text, true, "")
}

// pressIn presses anything that a selector and a text lead to.
func (b *browser) pressIn(selector, text string) {
	b.t.Helper()
	b.tap(selector, text, false, "")
}

// field focuses the input with a label and empties it.
func (b *browser) field(label string) {
	b.t.Helper()
	js := fmt.Sprintf(`(label => {
	  const norm = s => (s || '').replace(/\s+/g, ' ').trim()
	  const seen = e => { const r = e.getBoundingClientRect(); return r.width > 0 && r.height > 0 }
	  // A dialog moves the focus into itself once it is open; until then it takes it away.
	  const dialog = document.querySelector('.p-dialog')
	  if (dialog && !dialog.contains(document.activeElement)) return false
	  const inputs = [...document.querySelectorAll('input, textarea')].filter(seen)
	  const e = inputs.find(i => [...(i.labels || [])].some(l => norm(l.innerText).startsWith(label)) || norm(i.getAttribute('aria-label')) === label || norm(i.placeholder) === label)
	  if (!e) return false
	  e.scrollIntoView({ block: 'center' }); e.focus(); e.select && e.select()
	  return document.activeElement === e
	})(%q)`, label)
	deadline := time.Now().Add(patience)
	for !run(b, chromedp.Evaluate[bool](js)) {
		if time.Now().After(deadline) {
			b.fail("no field is labelled %q", label)
		}
		time.Sleep(50 * time.Millisecond)
	}
}

// enter types into the field with a label, in place of what is there.
func (b *browser) enter(label, text string) {
	b.t.Helper()
	for range 3 {
		b.field(label)
		b.keys(text)
		// A dialog that is still opening takes the focus away; a person would type again.
		landed := run(b, chromedp.Evaluate[bool](fmt.Sprintf(`(e => (e.type || '').startsWith('date') || e.value === %q)(document.activeElement)`, text)))
		if landed {
			return
		}
	}
	b.fail("%q did not land in the field %q", text, label)
}

// pick types into a field that offers suggestions and takes the one that has the text.
func (b *browser) pick(label, words, suggestion string) {
	b.t.Helper()
	b.enter(label, words)
	for range 5 {
		if b.option(suggestion, false) {
			return
		}
	}
	b.fail("the list of %s does not close", label)
}

// option takes an option of a list that is open, and says whether the list closed. One that is written anew just then
// takes no press, and people press again.
func (b *browser) option(text string, exact bool) bool {
	b.t.Helper()
	b.tap(`[role=option]`, text, exact, "")
	for range 20 {
		if run(b, chromedp.Evaluate[bool](`!document.querySelector("[role=option]")`)) {
			return true
		}
		time.Sleep(50 * time.Millisecond)
	}
	return false
}

// choose opens a select by its label and takes an option.
func (b *browser) choose(label, option string) {
	b.t.Helper()
	for range 5 { // a page that moves just then takes the press elsewhere, and people press again
		b.tap(`[role=combobox]`, label, true, "")
		for range 20 {
			if !run(b, chromedp.Evaluate[bool](`!!document.querySelector('[role=option]')`)) {
				time.Sleep(50 * time.Millisecond)
				continue
			}
			if b.option(option, true) {
				return
			}
		}
	}
	b.fail("the list of %s does not open", label)
}

// keys presses keys; kb names the special ones.
func (b *browser) keys(keys string, modifiers ...chromedp.KeyOption) {
	b.t.Helper()
	run(b, chromedp.KeyEvent(keys, modifiers...))
}

// see waits until the page shows a text.
func (b *browser) see(text string) {
	b.t.Helper()
	js := fmt.Sprintf(`(document.body?.innerText ?? "").replace(/\s+/g, ' ').includes(%q) || [...document.querySelectorAll('input')].some(i => i.value.includes(%q))`, text, text)
	deadline := time.Now().Add(patience)
	for !run(b, chromedp.Evaluate[bool](js)) {
		if time.Now().After(deadline) {
			b.fail("the page does not show %q", text)
		}
		time.Sleep(50 * time.Millisecond)
	}
}

func (b *browser) signIn(name string) {
	b.t.Helper()
	b.open("/sign-in")
	b.pressIn("button", name)
	b.press("Sign in")
	if name == "Bo Lindqvale" {
		b.see("Choose a document")
	} else {
		b.until(`!!document.querySelector('main .menu :is(h2, .muted)')`, "there is nothing to begin with")
	}
}

// picture stores what the browser shows.
func (b *browser) picture(file string) {
	b.t.Helper()
	time.Sleep(400 * time.Millisecond) // animations end
	if err := os.WriteFile(file, run(b, chromedp.CaptureScreenshot()), 0o644); err != nil {
		b.t.Fatal(err)
	}
}

// row chooses the row of a table that has a text.
func (b *browser) row(text string) {
	b.t.Helper()
	b.tap("tbody tr", text, false, " td")
}

// focusRow puts the keyboard on a row of the sheet.
func (b *browser) focusRow(step string) {
	b.t.Helper()
	run(b, chromedp.Evaluate[any](fmt.Sprintf(`document.querySelector('[data-row=%q]').focus()`, step)))
}

// gone waits until the page no longer shows a text.
func (b *browser) gone(text string) {
	b.t.Helper()
	js := fmt.Sprintf(`(document.body?.innerText ?? "").replace(/\s+/g, ' ').includes(%q)`, text)
	deadline := time.Now().Add(patience)
	for run(b, chromedp.Evaluate[bool](js)) {
		if time.Now().After(deadline) {
			b.fail("the page still shows %q", text)
		}
		time.Sleep(50 * time.Millisecond)
	}
}

// until waits for something to be so.
func (b *browser) until(js, format string, args ...any) {
	b.t.Helper()
	for deadline := time.Now().Add(patience); time.Now().Before(deadline); time.Sleep(100 * time.Millisecond) {
		ctx, cancel := context.WithTimeout(b.ctx, patience)
		holds, err := chromedp.Run(ctx, chromedp.Evaluate[bool](`!!(`+js+`)`))
		cancel()
		if err == nil && holds { // a page that is just loaded anew says nothing yet
			return
		}
	}
	b.fail(format, args...)
}

func (b *browser) text(selector string) string {
	b.t.Helper()
	return run(b, chromedp.Evaluate[string](fmt.Sprintf(`document.querySelector(%q)?.innerText ?? ''`, selector)))
}
