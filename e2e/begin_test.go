package e2e

import (
	"bytes"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/migrate"

	"github.com/chromedp/chromedp"
	"github.com/gofiber/fiber/v3"

	"plainpath/server"
	"plainpath/testdb"
)

// newEmptySite serves a database with nothing in it, and gives the path to set it up.
func newEmptySite(t *testing.T) (site, string) {
	t.Helper()
	db, err := postgres.Open(t.Context(), testdb.Empty(t), 4)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	if err := migrate.Migrate(t.Context(), db); err != nil {
		t.Fatal(err)
	}
	token, err := apps.BeginSetup(t.Context(), db)
	if err != nil {
		t.Fatal(err)
	}
	testdb.Jobs(t, db)
	app := server.New(server.Config{DB: db,
		Log: slog.New(slog.NewTextHandler(testWriter{t}, &slog.HandlerOptions{Level: slog.LevelWarn}))})
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go func() { _ = app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = app.ShutdownWithTimeout(time.Second) })
	return site{db: db, address: "http://" + ln.Addr().String()}, "/set-up/" + token
}

// With nothing but a database somebody sets everything up, makes an object and a record of it, and
// takes the app out as files.
func TestBeginningWithNothing(t *testing.T) {
	s, path := newEmptySite(t)
	b := s.browser(t)
	b.open("/use")
	b.see("Nothing is set up here yet")
	b.open(path)
	b.see("You, the first administrator")
	b.enter("Name", "Bo Lindqvale")
	b.enter("E-mail address", "bo@quillmere.example")
	b.enter("A password of at least 15 characters; a few words will do", "seven ropes and a bell")
	b.enter("What it is called, such as the company", "Quillmere Lift Care")
	b.enter("If people outside the company are to sign in: what is one of their organisations called?", "Customer")
	b.press("Begin")
	b.see("There is nothing for people to do in it yet")
	b.see("Customer")
	b.see("Take the app out")
	if n := s.count(t, `SELECT count(*) FROM plainpath.release`); n != 1 {
		t.Errorf("%d releases", n)
	}
	b.open("/build/people")
	b.see("administrator")
	b.open("/build/object/customer/records")
	b.see("Customer")
	b.open(path)
	b.see("does not hold")
}

// A piece of the application that is of a build that is gone: the page is loaded anew by itself once,
// where the person was going; when that does not help it is said, and nothing is lost.
func TestAPieceOfAnOlderBuild(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build")
	b.see("Take the app out")
	gone := func() {
		t.Helper()
		run(b, chromedp.Evaluate[any](`window.here = true; window.dispatchEvent(new Event('vite:preloadError', { cancelable: true })); null`))
	}
	gone()
	b.until(`!window.here && document.body.innerText.includes('Take the app out')`, "the page was not loaded anew")
	gone()
	b.see("A part of this page could not be loaded")
	if !run(b, chromedp.Evaluate[bool](`window.here === true`)) {
		t.Error("it was loaded anew again and again")
	}
	b.press("load it anew")
	b.until(`!window.here && document.body.innerText.includes('Take the app out')`, "the page was not loaded anew")
}

// A newer build is put in place while somebody has the older one open: what they open next is a piece
// that is gone. The page is loaded anew where they were going, and works.
func TestANewerBuildWhileThePageIsOpen(t *testing.T) {
	t.Parallel() // most of it is waiting
	s := newSite(t)
	var newer atomic.Bool
	s.address = twoBuilds(t, s.address, &newer)
	b := s.browser(t)
	b.signIn("Bo Lindqvale")
	b.open("/build")
	b.see("Take the app out")
	run(b, chromedp.Evaluate[any](`window.here = true; null`))
	newer.Store(true)
	b.press("Lift")
	b.until(`!window.here && location.pathname.startsWith('/build/object/')`,
		"the page was not loaded anew where the person was going")
	b.see("Serial")
	if run(b, chromedp.Evaluate[bool](`document.body.innerText.includes('could not be loaded')`)) {
		t.Error("the newer build did not load")
	}
}

// twoBuilds serves a site, and from when newer is set as a build whose pieces have other names.
func twoBuilds(t *testing.T, address string, newer *atomic.Bool) string {
	t.Helper()
	to, err := url.Parse(address)
	if err != nil {
		t.Fatal(err)
	}
	piece := regexp.MustCompile(`(-[\w-]{8})(\.(?:js|css))\b`)
	proxy := &httputil.ReverseProxy{
		Rewrite: func(r *httputil.ProxyRequest) {
			r.SetURL(to)
			r.Out.Host = r.In.Host
			r.Out.Header.Del("Accept-Encoding")
			r.Out.URL.Path = strings.ReplaceAll(r.Out.URL.Path, "-second.", ".")
		},
		ModifyResponse: func(r *http.Response) error {
			kind := r.Header.Get("Content-Type")
			if !newer.Load() || !strings.Contains(kind, "javascript") && !strings.Contains(kind, "html") &&
				!strings.Contains(kind, "css") {
				return nil
			}
			body, err := io.ReadAll(r.Body)
			if err != nil {
				return err
			}
			body = piece.ReplaceAll(body, []byte("$1-second$2"))
			r.Body = io.NopCloser(bytes.NewReader(body))
			r.Header.Set("Content-Length", strconv.Itoa(len(body)))
			r.ContentLength = int64(len(body))
			r.Header.Del("Etag")
			return nil
		},
	}
	front := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if newer.Load() && strings.HasPrefix(r.URL.Path, "/assets/") && !strings.Contains(r.URL.Path, "-second.") {
			http.NotFound(w, r)
			return
		}
		proxy.ServeHTTP(w, r)
	}))
	t.Cleanup(front.Close)
	return front.URL
}
