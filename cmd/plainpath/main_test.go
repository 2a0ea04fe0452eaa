package main

import (
	"bytes"
	"context"
	"database/sql"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	_ "github.com/jackc/pgx/v5/stdlib"

	"plainpath/testdb"
)

var binary string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "plainpath")
	if err != nil {
		panic(err)
	}
	binary = filepath.Join(dir, "plainpath")
	if out, err := exec.Command("go", "build", "-o", binary, ".").CombinedOutput(); err != nil {
		panic(string(out))
	}
	code := m.Run()
	_ = os.RemoveAll(dir)
	os.Exit(code)
}

// plainpath runs the program to its end and gives what it said.
func plainpath(t *testing.T, database string, args ...string) (string, error) {
	t.Helper()
	ctx, done := context.WithTimeout(t.Context(), 2*time.Minute)
	defer done()
	cmd := exec.CommandContext(ctx, binary, args...)
	cmd.Env = append(os.Environ(), "PLAINPATH_DATABASE="+database,
		"PLAINPATH_ADDRESS=https://plainpath.quillmere.example", "PLAINPATH_METRICS=off")
	out, err := cmd.CombinedOutput()
	return string(out), err
}

func says(t *testing.T, database, want string, args ...string) string {
	t.Helper()
	out, err := plainpath(t, database, args...)
	if err != nil || !strings.Contains(out, want) {
		t.Fatalf("%v: %v\n%s\nwant %q", args, err, out, want)
	}
	return out
}

func fails(t *testing.T, database, want string, args ...string) {
	t.Helper()
	out, err := plainpath(t, database, args...)
	if err == nil || !strings.Contains(out, want) {
		t.Errorf("%v: %v\n%s\nwant %q", args, err, out, want)
	}
}

// serving is a server that runs until the test ends.
type serving struct {
	cmd  *exec.Cmd
	mu   sync.Mutex
	said bytes.Buffer
}

func (s *serving) Write(p []byte) (int, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.said.Write(p)
}

func (s *serving) text() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.said.String()
}

// waits until the server has said something that matches.
func (s *serving) waits(t *testing.T, pattern string) []string {
	t.Helper()
	re := regexp.MustCompile(pattern)
	for deadline := time.Now().Add(time.Minute); ; time.Sleep(50 * time.Millisecond) {
		if found := re.FindStringSubmatch(s.text()); found != nil {
			return found
		}
		if time.Now().After(deadline) {
			t.Fatalf("it does not say %q:\n%s", pattern, s.text())
		}
	}
}

func serveAt(t *testing.T, database string, more ...string) *serving {
	t.Helper()
	s := &serving{cmd: exec.Command(binary, "serve")}
	s.cmd.Env = append(append(os.Environ(), "PLAINPATH_DATABASE="+database, "PLAINPATH_LISTEN=127.0.0.1:0",
		"PLAINPATH_METRICS=off"), more...)
	s.cmd.Stdout, s.cmd.Stderr = s, s
	if err := s.cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.stop(t) })
	return s
}

// stop ends it as an operator would.
func (s *serving) stop(t *testing.T) {
	t.Helper()
	if s.cmd.ProcessState != nil {
		return
	}
	_ = s.cmd.Process.Signal(syscall.SIGTERM)
	if err := s.cmd.Wait(); err != nil {
		t.Errorf("it did not stop cleanly: %v\n%s", err, s.text())
	}
}

const served = `"msg":"serving","address":"([^"]+)"`

// A database address is all it takes: two servers make the tables together, print where everything
// is set up, and both serve what was made by one of them; a clean stop logs no error.
func TestBeginningInEarnest(t *testing.T) {
	database := testdb.Empty(t)
	one, two := serveAt(t, database), serveAt(t, database)
	link := one.waits(t, `(http://127\.0\.0\.1:\d+)/set-up/(\w+)`)
	one.waits(t, served)
	other := two.waits(t, served)[1]
	here := &testdb.Client{Base: link[1], HTTP: http.DefaultClient}
	there := &testdb.Client{Base: "http://" + other, HTTP: http.DefaultClient}
	send := func(c *testdb.Client, method, path string, body any, want int, holds string) {
		t.Helper()
		var answer string
		if status, err := c.Do(method, path, body, "", &answer); err != nil || status != want ||
			!strings.Contains(answer, holds) {
			t.Fatalf("%s %s: %d %s %v; want %d %q", method, path, status, answer, err, want, holds)
		}
	}
	send(there, "GET", "/api/session", nil, 200, `"not_set_up":true`)
	send(there, "POST", "/api/session", map[string]string{"email": "x", "password": "y"}, 409, "not-set-up")
	send(here, "GET", "/api/setup/nonsense", nil, 410, "does not hold")
	send(here, "GET", "/api/setup/"+link[2], nil, 200, `"demo":true`)
	ask := map[string]any{"token": link[2], "name": "Bo Lindqvale", "email": "bo@quillmere.example",
		"password": "short", "app": "", "currency": "XXY", "zone": "Mars/North"}
	send(here, "POST", "/api/setup", ask, 422, "15 to 200 characters")
	ask["password"] = "seven ropes and a bell"
	send(here, "POST", "/api/setup", ask, 422, "no time zone")
	ask["app"], ask["currency"], ask["zone"], ask["organisation"] = "Quillmere Lift Care", "EUR", "Europe/Dublin",
		"Customer"
	send(there, "POST", "/api/setup", ask, 204, "") // either server
	send(here, "POST", "/api/setup", ask, 410, "does not hold")
	send(here, "GET", "/api/session", nil, 200, "Quillmere Lift Care")
	send(there, "GET", "/api/session", nil, 200, "Europe/Dublin")
	if out := says(t, database, "bo@quillmere.example", "admin", "list"); !strings.Contains(out, "never signed in") {
		t.Error(out)
	}
	one.stop(t)
	two.stop(t)
	for _, s := range []*serving{one, two} {
		if strings.Contains(s.text(), `"level":"ERROR"`) {
			t.Errorf("errors in the log:\n%s", s.text())
		}
	}
	again := serveAt(t, database)
	again.waits(t, served)
	if strings.Contains(again.text(), "set-up") {
		t.Error("it is set up, and says where to set it up")
	}
	again.stop(t)
	says(t, database, "fine   the draft of quillmere_lift_care", "check")
}

// What looks after a database says what it did, and what is wrong in words.
func TestLookingAfterADatabase(t *testing.T) {
	database := testdb.Address(t)
	db, err := sql.Open("pgx", database)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = db.Close() }()
	says(t, database, "go1.", "--version")
	out := says(t, database, "fine   release 1, which is in force", "check")
	if strings.Contains(out, "WRONG") {
		t.Error(out)
	}
	link := `https://plainpath.quillmere.example/password/`
	says(t, database, link, "admin", "add", "nell@quillmere.example", "Nell Ferrow")
	says(t, database, "Nell Ferrow", "admin", "list")
	says(t, database, link, "admin", "reset", "bo@quillmere.example")
	says(t, database, "Dana Merrowdale can try again", "admin", "unlock", "DANA@quillmere.example")
	fails(t, database, "Nobody has the address x@quillmere.example", "admin", "reset", "x@quillmere.example")
	fails(t, database, "is not an e-mail address", "admin", "add", "nell", "Nell")
	fails(t, "", "PLAINPATH_DATABASE is not set", "check")
	fails(t, "mysql://x", "should begin with postgres://", "check")
	fails(t, strings.Replace(database, "127.0.0.1", "127.0.0.1:1,127.0.0.1", 1)+"x", "connecting to the database",
		"check")
	for name, value := range map[string]string{"PLAINPATH_LISTEN": "8480", "PLAINPATH_CONNECTIONS": "0",
		"PLAINPATH_READING_LIMIT": "-1s", "PLAINPATH_PROXIES": "everybody", "PLAINPATH_ADDRESS": "plainpath",
		"PLAINPATH_MOST_FILE_MB": "many"} {
		t.Setenv(name, value)
		if name == "PLAINPATH_ADDRESS" { // which plainpath() sets itself
			continue
		}
		fails(t, database, map[bool]string{true: "MostFile", false: name}[name == "PLAINPATH_MOST_FILE_MB"], "check")
		if err := os.Unsetenv(name); err != nil {
			t.Fatal(err)
		}
	}

	// Of an earlier version, of a later one.
	if _, err := db.Exec(`DELETE FROM goose_db_version WHERE version_id = (SELECT max(version_id) FROM goose_db_version)`); err != nil {
		t.Fatal(err)
	}
	fails(t, database, "earlier version of the program", "check")
	fails(t, database, "earlier version of the program", "export", t.TempDir())
	if _, err := db.Exec(`INSERT INTO goose_db_version (version_id, is_applied) VALUES (9999, true)`); err != nil {
		t.Fatal(err)
	}
	for _, command := range []string{"serve", "migrate", "check"} {
		fails(t, database, "run the program that it was last used with", command)
	}
	if _, err := db.Exec(`DELETE FROM goose_db_version WHERE version_id = 9999`); err != nil {
		t.Fatal(err)
	}
}

// The draft as files is the draft, however often it goes to and fro.
func TestTheAppAsFiles(t *testing.T) {
	database, dir, again := testdb.Address(t), t.TempDir(), t.TempDir()
	says(t, database, "documents are in", "export", dir)
	says(t, database, "says so already", "import", dir)
	says(t, database, "documents are in", "export", again)
	same(t, dir, again)

	change := func(name, from, to string) {
		t.Helper()
		path := filepath.Join(dir, name)
		raw, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		if !bytes.Contains(raw, []byte(from)) {
			t.Fatalf("%s has no %q", name, from)
		}
		if err := os.WriteFile(path, bytes.Replace(raw, []byte(from), []byte(to), 1), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	change("page/calls.json", `"label": "Service calls"`, `"label": "All calls"`)
	if err := os.Remove(filepath.Join(dir, "page", "customers.json")); err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(filepath.Join(dir, "role", "visitor.json"),
		[]byte(`{"key":"visitor","label":"Visitor","objects":{"lift":{"see":true}}}`), 0o644); err != nil {
		t.Fatal(err)
	}
	for range 2 { // a try changes nothing
		out := says(t, database, "nothing was changed", "import", dir, "--try")
		for _, want := range []string{"All calls changed", "Customers", "Visitor"} {
			if !strings.Contains(out, want) {
				t.Errorf("it does not say %q:\n%s", want, out)
			}
		}
	}
	says(t, database, "All calls changed", "import", dir)
	says(t, database, "says so already", "import", dir)
	says(t, database, "documents are in", "export", again)
	says(t, database, "documents are in", "export", dir)
	same(t, dir, again)
	if _, err := os.Stat(filepath.Join(again, "page", "customers.json")); !os.IsNotExist(err) {
		t.Error("the file of a page that is gone is there still")
	}

	// Into another installation, whose app is called otherwise.
	empty := testdb.Empty(t)
	s := serveAt(t, empty)
	link := s.waits(t, `(http://127\.0\.0\.1:\d+)/set-up/(\w+)`)
	s.waits(t, served)
	c := &testdb.Client{Base: link[1], HTTP: http.DefaultClient}
	if status, err := c.Do("POST", "/api/setup", map[string]any{"token": link[2], "name": "Bo",
		"email": "bo@quillmere.example", "password": "seven ropes and a bell", "app": "Elsewhere", "currency": "SEK",
		"zone": "UTC"}, "", nil); err != nil || status != 204 {
		t.Fatal(status, err)
	}
	says(t, empty, "changed", "import", dir)
	says(t, empty, "says so already", "import", dir)

	// Files that are no documents are named, with what is wrong.
	change("object/lift.json", `"key": "lift"`, `"kei": "lift"`)
	change("object/visit.json", "{", "{{")
	change("object/quote.json", `"key": "quote"`, "\"note\": \"\xab\", \"key\": \"quote\"")
	if err := os.WriteFile(filepath.Join(dir, "notes.txt"), []byte("x"), 0o644); err != nil {
		t.Fatal(err)
	}
	for _, want := range []string{`object/lift.json`, "object/visit.json: line 1: this is no JSON",
		"notes.txt: this is no document", "object/quote.json: a text in it has"} {
		fails(t, database, want, "import", dir)
	}
}

// same says whether two folders hold the same.
func same(t *testing.T, a, b string) {
	t.Helper()
	out, err := exec.Command("diff", "-r", a, b).CombinedOutput()
	if err != nil {
		t.Errorf("%v\n%s", err, out)
	}
}

// While the database is away at the start, the program says so and waits.
func TestTheDatabaseIsAwayAtTheStart(t *testing.T) {
	at, err := url.Parse(testdb.Address(t))
	if err != nil {
		t.Fatal(err)
	}
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	free := ln.Addr().String()
	if err := ln.Close(); err != nil {
		t.Fatal(err)
	}
	to := at.Host
	at.Host = free
	s := serveAt(t, at.String())
	s.waits(t, "the database does not answer; waiting for it")
	if ln, err = net.Listen("tcp", free); err != nil {
		t.Fatal(err)
	}
	defer func() { _ = ln.Close() }()
	go func() {
		for {
			c, err := ln.Accept()
			if err != nil {
				return
			}
			db, err := net.Dial("tcp", to)
			if err != nil {
				_ = c.Close()
				return
			}
			go func() { _, _ = io.Copy(db, c); _ = db.Close() }()
			go func() { _, _ = io.Copy(c, db); _ = c.Close() }()
		}
	}()
	address := s.waits(t, served)[1]
	if res, err := http.Get("http://" + address + "/healthz"); err != nil || res.StatusCode != 200 {
		t.Error(res, err)
	}
	s.stop(t)
}

// Figures are served on an address of their own, and none beside the application.
func TestMetricsHaveAnAddressOfTheirOwn(t *testing.T) {
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	free := ln.Addr().String()
	if err := ln.Close(); err != nil {
		t.Fatal(err)
	}
	s := serveAt(t, testdb.Address(t), "PLAINPATH_METRICS="+free, "PLAINPATH_SECURE_COOKIES=true")
	address := s.waits(t, served)[1]
	get := func(from string) (string, http.Header) {
		t.Helper()
		res, err := http.Get("http://" + from)
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = res.Body.Close() }()
		body, err := io.ReadAll(res.Body)
		if err != nil {
			t.Fatal(err)
		}
		return fmt.Sprint(res.StatusCode, " ", string(body)), res.Header
	}
	if got, header := get(address + "/api/session"); !strings.HasPrefix(got, "200") ||
		header.Get("Strict-Transport-Security") == "" {
		t.Error(got, header)
	}
	if got, _ := get(free + "/metrics"); !strings.Contains(got,
		`plainpath_request_seconds_count{method="GET",route="/api/session",status="2xx"} 1`) {
		t.Error(got)
	}
	if got, _ := get(address + "/metrics"); strings.Contains(got, "plainpath_request_seconds") {
		t.Error("figures are served to everybody")
	}
	if got, _ := get(address + "/assets/gone.js"); !strings.HasPrefix(got, "404") {
		t.Error(got[:20])
	}
}
