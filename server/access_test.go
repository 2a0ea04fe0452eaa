package server_test

import (
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"strings"
	"testing"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/runs"

	"github.com/gofiber/fiber/v3"

	"plainpath/demo"
	"plainpath/server"
	"plainpath/testdb"
)

func serve(t *testing.T) (*postgres.DB, string) {
	t.Helper()
	return serveWithin(t, server.Limits{})
}

// serveWithin serves a database of its own within limits.
func serveWithin(t *testing.T, limits server.Limits) (*postgres.DB, string) {
	t.Helper()
	db := testdb.New(t)
	base, _ := serveWith(t, server.Config{DB: db, Limits: limits})
	return db, base
}

// serveWith serves the demo, and gives the server's address and its routes.
func serveWith(t *testing.T, c server.Config) (base string, routes []string) {
	t.Helper()
	if c.DB == nil {
		c.DB = testdb.New(t)
	}
	if c.Log == nil {
		c.Log = slog.New(slog.DiscardHandler)
	}
	testdb.Jobs(t, c.DB)
	c.App = demo.App
	app := server.New(c)
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go func() { _ = app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = app.ShutdownWithTimeout(time.Second) })
	for _, r := range app.GetRoutes(true) {
		routes = append(routes, r.Method+" "+r.Path)
	}
	return "http://" + ln.Addr().String(), routes
}

// stranger gives, for each object, a record that belongs to another customer than the
// owner's desk does, and what its label says.
func strangers(t *testing.T, db *postgres.DB) map[string][2]string {
	t.Helper()
	own := `SELECT organisation FROM plainpath.member m JOIN plainpath.person p ON p.id = m.person WHERE p.email LIKE 'orla@%' AND m.space = 'production'`
	buildings := `SELECT id FROM liftcare_production.building WHERE customer <> (` + own + `)`
	lifts := `SELECT id FROM liftcare_production.lift WHERE building IN (` + buildings + `)`
	calls := `SELECT id FROM liftcare_production.service_call WHERE lift IN (` + lifts + `)`
	quotes := `SELECT id FROM liftcare_production.quote WHERE service_call IN (` + calls + `)`
	where := map[string]string{
		"customer": `id <> (` + own + `)`, "contact": `customer <> (` + own + `)`, "building": `id IN (` + buildings +
			`)`,
		"lift": `id IN (` + lifts + `)`, "service_call": `id IN (` + calls + `)`, "visit": `lift IN (` + lifts + `)`,
		"quote": `id IN (` + quotes + `)`, "quote_line": `quote IN (` + quotes + `)`, "document": `lift IN (` + lifts +
			`)`,
	}
	labels := map[string]string{"customer": "name", "contact": "last_name", "building": "name", "lift": "serial_number",
		"service_call": "problem", "document": "title"}
	out := map[string][2]string{}
	var tables []string
	if err := db.Select(&tables,
		`SELECT table_name FROM information_schema.tables WHERE table_schema = 'liftcare_production' AND table_name <> 'history'`); err != nil {
		t.Fatal(err)
	}
	for _, object := range tables {
		condition, label := where[object], labels[object]
		if condition == "" {
			condition = "TRUE" // objects the owner's desk may not see at all
		}
		if label == "" {
			label = "id::text || 'no label'"
		}
		var id, text string
		if err := db.QueryRow(fmt.Sprintf(`SELECT id::text, %s FROM liftcare_production.%s WHERE %s ORDER BY id DESC LIMIT 1`, label, object, condition)).Scan(&id, &text); err != nil {
			t.Fatalf("%s: %v", object, err)
		}
		out[object] = [2]string{id, text}
	}
	return out
}

// Every route, walked as the owner's desk against a stranger's records.
func TestTheOwnersDeskSeesNothingOfStrangers(t *testing.T) {
	db, base := serve(t)
	orla := testdb.SignIn(t, base, "orla@customer05.example")
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	secret := strangers(t, db)
	if len(secret) != 17 {
		t.Fatalf("%d objects are tried, want all 17", len(secret))
	}
	for object, s := range secret {
		var body string
		status, err := orla.Do("GET", "/api/use/records/"+object+"/"+s[0], nil, "", &body)
		if err != nil || status != 404 || strings.Contains(body, s[1]) {
			t.Errorf("%s %s: %d %s %v", object, s[0], status, body, err)
		}
	}
	// Her own are hers, and what they refer to outside them stays nameless.
	var own string
	var ownLift int64
	if err := db.Get(&ownLift,
		`SELECT l.id FROM liftcare_production.lift l JOIN liftcare_production.building b ON b.id = l.building WHERE b.customer = 5 ORDER BY l.id LIMIT 1`); err != nil {
		t.Fatal(err)
	}
	if status, err := orla.Do("GET", fmt.Sprintf("/api/use/records/lift/%d", ownLift), nil, "", &own); err != nil ||
		status != 200 {
		t.Errorf("her own lift: %d %s %v", status, own, err)
	}
	var visit, engineer string
	if err := db.QueryRow(`SELECT v.id::text, e.first_name || ' ' || e.last_name FROM liftcare_production.visit v JOIN liftcare_production.lift l ON l.id = v.lift
		JOIN liftcare_production.building b ON b.id = l.building JOIN liftcare_production.engineer e ON e.id = v.engineer WHERE b.customer = 5 LIMIT 1`).Scan(&visit, &engineer); err != nil {
		t.Fatal(err)
	}
	if status, err := orla.Do("GET", "/api/use/records/visit/"+visit, nil, "", &own); err != nil || status != 200 ||
		strings.Contains(own, engineer) {
		t.Errorf("her visit shows the engineer she may not see: %d %s %v", status, own, err)
	}

	var run runs.Run
	if status, err := orla.Do("POST", "/api/use/runs", map[string]string{"walkthrough": "report_a_fault"}, "a",
		&run); err != nil || status != 201 {
		t.Fatal(status, err)
	}
	var found string
	if _, err := orla.Do("POST", "/api/use/runs/"+run.ID+"/options", map[string]string{"part": "lift",
		"text": secret["lift"][1]}, "", &found); err != nil || found != "[]" {
		t.Errorf("a stranger's lift is offered: %s %v", found, err)
	}
	answer := func(lift any) (int, string) {
		var body string
		status, err := orla.Do("POST", "/api/use/runs/"+run.ID+"/answers", map[string]any{"revision": run.Revision,
			"screen":  "fault",
			"answers": map[string]any{"lift": lift, "problem": "It hums", "priority": "low"}}, "", &body)
		if err != nil {
			t.Fatal(err)
		}
		return status, body
	}
	before := calls(t, db)
	for _, forged := range []any{map[string]any{"id": secret["lift"][0]},
		map[string]any{"id": jsonNumber(secret["lift"][0])}, map[string]any{"id": -1}, "x", []int{1}} {
		if status, body := answer(forged); status != 422 || strings.Contains(body, secret["lift"][1]) {
			t.Errorf("the forged lift %v: %d %s", forged, status, body)
		}
	}
	if calls(t, db) != before {
		t.Error("a forged answer wrote a service call")
	}
	if status, body := answer(map[string]any{"id": ownLift}); status != 200 {
		t.Errorf("her own lift: %d %s", status, body)
	}
	if calls(t, db) != before+1 {
		t.Error("her own fault was not written")
	}
	for _, try := range []struct {
		client       *testdb.Client
		method, path string
		want         int
	}{
		{dana, "GET", "/api/use/runs/" + run.ID, 404},
		{dana, "DELETE", "/api/use/runs/" + run.ID, 404},
		{orla, "POST", "/api/use/runs", 404}, // book_a_visit is not hers
		{orla, "GET", "/api/build/contents", 403},
		{orla, "GET", "/api/build/documents/walkthrough/book_a_visit", 403},
		{orla, "GET", "/api/build/spaces/trial/objects/lift/options?text=", 403},
		{orla, "GET", "/api/build/release", 403},
		{orla, "POST", "/api/build/rehearsals/book_a_visit", 403},
	} {
		var body string
		status, err := try.client.Do(try.method, try.path, map[string]string{"walkthrough": "book_a_visit"}, "", &body)
		if err != nil || status != try.want {
			t.Errorf("%s %s: %d %s %v, want %d", try.method, try.path, status, body, err, try.want)
		}
	}
}

type jsonNumber string

func (n jsonNumber) MarshalJSON() ([]byte, error) { return []byte(n), nil }

func calls(t *testing.T, db *postgres.DB) int {
	t.Helper()
	var n int
	if err := db.Get(&n, `SELECT count(*) FROM liftcare_production.service_call`); err != nil {
		t.Fatal(err)
	}
	return n
}

func TestSigningIn(t *testing.T) {
	db, base := serve(t)
	stranger := &testdb.Client{Base: base, HTTP: http.DefaultClient}
	try := func(email, password string) int {
		t.Helper()
		var body string
		status, err := stranger.Do("POST", "/api/session", map[string]string{"email": email, "password": password}, "",
			&body)
		if err != nil {
			t.Fatal(err)
		}
		return status
	}
	for range 8 {
		if status := try("dana@quillmere.example", "guess"); status != 401 {
			t.Fatalf("a wrong password: %d", status)
		}
	}
	if status := try("dana@quillmere.example", demo.Password); status != 429 {
		t.Errorf("after eight wrong passwords the right one gives %d, want a wait", status)
	}
	if status := try("nobody@quillmere.example", "guess"); status != 401 {
		t.Errorf("somebody unknown: %d", status)
	}
	db.Now = func() time.Time { return time.Now().Add(11 * time.Minute) }
	if status := try("dana@quillmere.example", demo.Password); status != 200 {
		t.Errorf("after the wait: %d", status)
	}
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	forged := *dana
	forged.CSRF = "made-up"
	if status, err := forged.Do("POST", "/api/use/runs", map[string]string{"walkthrough": "book_a_visit"}, "",
		nil); err != nil || status != 403 {
		t.Errorf("a change without the session's token: %d %v", status, err)
	}
	db.Now = func() time.Time { return time.Now().Add(13 * time.Hour) }
	if status, err := dana.Do("GET", "/api/use/home", nil, "", nil); err != nil || status != 401 {
		t.Errorf("an expired session: %d %v", status, err)
	}
}

// What cannot be read is refused with a reason and changes nothing.
func TestBadEditsAreRefused(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	path := "/api/build/documents/walkthrough/book_a_visit"
	for _, c := range []struct {
		body any
		want int
		says string
	}{
		{map[string]any{"base": 1, "patch": []any{map[string]any{"op": "add", "path": "/colour", "value": "red"}}}, 422,
			"unknown field"},
		{map[string]any{"base": 1, "patch": []any{map[string]any{"op": "remove", "path": "/steps/99"}}}, 422,
			"/steps/99"},
		{map[string]any{"base": 1,
			"patch": []any{map[string]any{"op": "copy", "path": "/steps/0", "from": "/steps/1"}}}, 422,
			"not \\\"copy\\\""},
		{map[string]any{"base": 1,
			"patch": []any{map[string]any{"op": "move", "path": "/roles/0", "from": "/steps/1"}}}, 422,
			"within its list"},
		{map[string]any{"base": 1, "patch": "x"}, 400, "cannot be read"},
		{map[string]any{"base": 1, "pitch": []any{}}, 400, "unknown field"},
	} {
		var body string
		status, err := bo.Do("PATCH", path, c.body, "", &body)
		if err != nil || status != c.want || !strings.Contains(body, c.says) {
			t.Errorf("%v: %d %s %v", c.body, status, body, err)
		}
	}
	var revision int
	if err := db.Get(&revision, `SELECT revision FROM plainpath.document WHERE key = 'book_a_visit'`); err != nil ||
		revision != 1 {
		t.Errorf("the document is at revision %d, %v", revision, err)
	}
}
