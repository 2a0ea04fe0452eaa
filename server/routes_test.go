package server_test

import (
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/runs"

	"github.com/gofiber/fiber/v3"

	"plainpath/core/access"
	"plainpath/core/definition"
	"plainpath/demo"
	"plainpath/server"
	"plainpath/testdb"
)

// unlocked are the routes that ask for no sign-in.
var unlocked = []string{"GET /api/session", "POST /api/session", "POST /api/password", "GET /api/setup/:token",
	"POST /api/setup"}

// Every route the server has, as nobody and as everybody in the demo: signed out there
// is nothing, only builders build, and records that are not a person's show nowhere.
func TestEveryRouteAsEverybody(t *testing.T) {
	db := testdb.New(t)
	testdb.Jobs(t, db)
	app := server.New(server.Config{DB: db, App: demo.App, Log: slog.New(slog.DiscardHandler)})
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	go func() { _ = app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	t.Cleanup(func() { _ = app.ShutdownWithTimeout(time.Second) })
	base := "http://" + ln.Addr().String()
	nobody := &testdb.Client{Base: base, HTTP: http.DefaultClient}
	others := startRun(t, testdb.SignIn(t, base, "dana@quillmere.example"), "book_a_visit")

	walked, tried := 0, 0
	for _, p := range demo.People {
		client := testdb.SignIn(t, base, p.Email)
		own := others
		if p.Roles[0] == "owners_desk" {
			own = startRun(t, client, "report_a_fault")
		}
		hidden := forbidden(t, db, p.Roles[0])
		for _, r := range app.GetRoutes(true) {
			route := r.Method + " " + r.Path
			if !strings.HasPrefix(r.Path, "/api/") || r.Method == "HEAD" || slices.Contains(unlocked, route) ||
				strings.HasPrefix(route, "DELETE /api/session") || strings.HasSuffix(r.Path, "/changes") {
				continue // changes are told without end; they have a test of their own
			}
			walked++
			if p.Builder && r.Method == "DELETE" && strings.HasPrefix(r.Path, "/api/use/records") {
				continue // what a builder has walked by then has signed them out
			}
			for _, a := range addresses(r.Path, hidden, own, others) {
				tried++
				var body string
				if status, err := nobody.Do(r.Method, a.path, a.body, "", &body); err != nil || status != 401 {
					t.Fatalf("%s %s signed out: %d %s %v", r.Method, a.path, status, body, err)
				}
				if own != others && r.Method == "DELETE" && strings.Contains(a.path, own) {
					continue // it would end the run the other routes are tried on
				}
				status, err := client.Do(r.Method, a.path, a.body, "", &body)
				switch {
				case err != nil || status >= 500:
					t.Errorf("%s as %s: %s %s: %d %s %v", route, p.Task, r.Method, a.path, status, body, err)
				case strings.HasPrefix(r.Path, "/api/build") && !p.Builder && status != 403:
					t.Errorf("%s as %s: %d, want 403", route, p.Task, status)
				case !p.Builder && a.secret != "" && strings.Contains(body, a.secret):
					t.Errorf("%s as %s shows %q: %s", a.path, p.Task, a.secret, body)
				case a.record && status != 404 && status != 403:
					t.Errorf("%s as %s: %d, want it not to be there", a.path, p.Task, status)
				}
			}
		}
	}
	if walked < 20*len(demo.People) || tried < 2*walked {
		t.Errorf("%d routes were walked with %d addresses", walked, tried)
	}
}

func startRun(t *testing.T, c *testdb.Client, walkthrough string) string {
	t.Helper()
	var run runs.Run
	if status, err := c.Do("POST", "/api/use/runs", map[string]string{"walkthrough": walkthrough}, walkthrough,
		&run); err != nil || status != 201 {
		t.Fatal(status, err)
	}
	return run.ID
}

// secretRecord is a record that somebody may not see, and what its label says.
type secretRecord struct{ object, id, label string }

// forbidden gives records that are not a role's: of every object it has no right to
// see, and strangers' of those that a row rule narrows.
func forbidden(t *testing.T, db *postgres.DB, role string) []secretRecord {
	t.Helper()
	d, err := documents.Document(t.Context(), db, demo.App, definition.Role, role)
	if err != nil {
		t.Fatal(err)
	}
	var r access.Role
	if err := definition.Decode(d.Body, &r); err != nil {
		t.Fatal(err)
	}
	out := []secretRecord{{"nothing", "1", "no such object"}}
	for object, s := range strangers(t, db) {
		if right := r.Objects[object]; !right.See || role == "owners_desk" {
			out = append(out, secretRecord{object, s[0], s[1]})
			if field := files[object]; field != "" {
				out = append(out, heldFile(t, db, object, field, s[0]))
			}
		}
	}
	return out
}

// files are the fields that hold files, by object.
var files = map[string]string{"customer": "logo", "engineer": "picture", "certificate": "file", "document": "file"}

// heldFile is a file that a record holds which somebody may not see.
func heldFile(t *testing.T, db *postgres.DB, object, field, record string) secretRecord {
	t.Helper()
	// The record itself may hold none; then one of the same object that does.
	query := fmt.Sprintf(`SELECT f.id::text, f.name FROM liftcare_production.%[1]s r JOIN plainpath.file f ON f.id = r.%[2]s ORDER BY r.id <> $1, r.id DESC LIMIT 1`, object, field)
	if object != "engineer" && object != "certificate" {
		query = fmt.Sprintf(`SELECT f.id::text, f.name FROM liftcare_production.%[1]s r JOIN plainpath.file f ON f.id = r.%[2]s WHERE r.id = $1`, object, field)
	}
	out := secretRecord{object: "file"}
	if err := db.QueryRow(query, record).Scan(&out.id, &out.label); err != nil {
		t.Fatalf("%s %s holds no file: %v", object, record, err)
	}
	return out
}

type address struct {
	path   string
	body   any
	secret string
	// record says that the address is that of a record which is not there for them.
	record bool
}

// addresses fills in a route's parameters: each record that is not to be seen, the
// person's own run and somebody else's.
func addresses(route string, hidden []secretRecord, runs ...string) []address {
	var out []address
	for _, s := range hidden {
		if strings.Contains(route, "/files/") != (s.object == "file") && s.object != "nothing" {
			continue
		}
		path := strings.NewReplacer(":object", s.object, ":kind", "walkthrough", ":key",
			"report_a_fault").Replace(route)
		search := "?part=lift&text=" + strings.ReplaceAll(s.label, " ", "+")
		body := map[string]any{"part": "lift", "revision": 1, "screen": "fault",
			"answers": map[string]any{"lift": map[string]any{"id": jsonNumber(s.id)}, "problem": "x",
				"priority": "low"}}
		if !strings.Contains(route, "/answers") {
			body = map[string]any{"part": "lift", "look": map[string]any{"keyword": s.label}}
		}
		if strings.Contains(route, "/tables/") {
			if s.object == "service_call" { // the same things break everywhere, so a problem gives nobody away
				s.label = fmt.Sprintf(`"SC-%s"`, s.id)
			}
			for _, at := range []any{map[string]any{"object": s.object},
				map[string]any{"related": map[string]any{"object": s.object, "record": jsonNumber(s.id),
					"from": "visit", "field": s.object}}} {
				out = append(out, address{path: path, body: map[string]any{"at": at}, secret: s.label})
			}
			continue
		}
		// a stranger's record is chosen on a page
		if strings.Contains(route, "/press") || strings.HasSuffix(route, "/pages/:key") {
			chosen := map[string]any{"id": jsonNumber(s.id)}
			given := map[string]any{"answers": map[string]any{"calls": chosen, "buildings": []any{chosen}}}
			page := map[string]string{"building": "buildings"}[s.object]
			if page == "" {
				page = "calls"
			}
			bodies := map[bool]any{true: map[string]any{"given": given},
				false: map[string]any{"at": map[string]any{"page": page, "part": page, "given": given},
					"button": "again", "chosen": map[string]any{"keys": []any{jsonNumber(s.id)}}}}
			body := bodies[strings.HasSuffix(route, "/pages/:key")]
			if strings.HasSuffix(route, "/rows") {
				body = map[string]any{"at": map[string]any{"page": page, "part": page, "given": given},
					"keys": []any{jsonNumber(s.id)}}
			}
			secret := s.label
			if s.object == "service_call" {
				secret = fmt.Sprintf(`"SC-%s"`, s.id)
			}
			out = append(out, address{path: strings.ReplaceAll(path, "report_a_fault", page), body: body,
				secret: secret})
			continue
		}
		if strings.Contains(route, "/runs/") {
			for _, run := range runs {
				out = append(out, address{path: strings.Replace(path, ":id", run, 1) + search, body: body,
					secret: s.label})
			}
			continue
		}
		out = append(out, address{path: strings.Replace(path, ":id", s.id, 1) + search, body: body, secret: s.label,
			record: (strings.Contains(route, ":object/:id") || s.object == "file" && !strings.Contains(route,
				"/parts/")) && strings.HasPrefix(route, "/api/use")})
	}
	return out
}
