package server_test

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"plainpath/postgres/jobs"
	"plainpath/server"
	"plainpath/testdb"
)

// grown are the tables of the program that grow with use, and how each is filled: after years a
// request must not read all of it.
var grown = map[string]string{
	"run":      `INSERT INTO plainpath.run (app, space, release, walkthrough, person, state, closed, start_key) SELECT 'liftcare', 'production', 1, 'book_a_visit', 2, '{}', true, 'old ' || n FROM generate_series(1, 10000) n`,
	"session":  `INSERT INTO plainpath.session (token_hash, person, csrf, expires_at) SELECT sha256(n::text::bytea), 1 + n % 6, 'x', now() + interval '1 hour' FROM generate_series(1, 10000) n`,
	"sign_in":  `INSERT INTO plainpath.sign_in (email, at, ok, address) SELECT 'x' || n % 3000 || '@quillmere.example', now() - n * interval '1 minute', true, '10.0.0.' || n % 200 FROM generate_series(1, 10000) n`,
	"device":   `INSERT INTO plainpath.device (token_hash, person, expires_at) SELECT sha256(n::text::bytea), 1 + n % 6, now() + interval '1 day' FROM generate_series(1, 10000) n`,
	"request":  `INSERT INTO plainpath.request (person, key, answer) SELECT 1 + n % 6, n::text, '{}' FROM generate_series(1, 10000) n`,
	"notice":   `INSERT INTO plainpath.notice (app, space, person, text, at, read_at) SELECT 'liftcare', 'production', 1 + n % 6, '[{"said": "told"}]', now() - n * interval '1 minute', now() FROM generate_series(1, 10000) n`,
	"audit":    `INSERT INTO plainpath.audit (at, by, what) SELECT now() - n * interval '1 minute', 1, 'did' FROM generate_series(1, 10000) n`,
	"outgoing": `INSERT INTO plainpath.outgoing (app, space, person, ask, created_at) SELECT 'liftcare', 'production', 2, '{}', now() FROM generate_series(1, 10000) n`,
	"view":     `INSERT INTO plainpath.view (app, person, "table", name, body) SELECT 'liftcare', 1 + n % 6, 'page/p' || n, 'v', '{}' FROM generate_series(1, 10000) n`,
	"file":     `INSERT INTO plainpath.file (app, name, size, added_by, media_type, kept) SELECT 'liftcare', 'f' || n, 1, 2, 'text/plain', true FROM generate_series(1, 10000) n`,
	"edit":     `INSERT INTO plainpath.edit (app, kind, key, revision, person, patch, inverse, forward) SELECT 'liftcare', 'page', 'calls', -n, 1, '[]', '[]', true FROM generate_series(1, 10000) n`,
	"history":  `INSERT INTO liftcare_production.history (person, object, record, action) SELECT 2, 'visit', n, 'changed' FROM generate_series(1, 10000) n`,
}

// No request that people make all day reads all of a table that grows.
func TestNothingReadsAllOfATableThatGrows(t *testing.T) {
	db, base := serve(t)
	for _, fill := range grown {
		if _, err := db.Exec(fill); err != nil {
			t.Fatalf("%s: %v", fill, err)
		}
	}
	if _, err := db.Exec(`ANALYZE`); err != nil {
		t.Fatal(err)
	}
	scans := func() map[string]int64 {
		t.Helper()
		// A connection that has just told what it read keeps the rest for itself, until it ends.
		if _, err := db.Exec(`SELECT pg_terminate_backend(pid, 5000) FROM pg_stat_activity
			WHERE datname = current_database() AND pid <> pg_backend_pid()`); err != nil {
			t.Fatal(err)
		}
		time.Sleep(1200 * time.Millisecond) // after which the program looks whether its connections live
		var rows []struct {
			Name  string `db:"relname"`
			Scans int64  `db:"seq_scan"`
		}
		if err := db.Select(&rows,
			`SELECT relname, seq_scan FROM pg_stat_user_tables WHERE schemaname IN ('plainpath', 'liftcare_production')`); err != nil {
			t.Fatal(err)
		}
		out := map[string]int64{}
		for _, r := range rows {
			if grown[r.Name] != "" {
				out[r.Name] = r.Scans
			}
		}
		return out
	}
	before := scans()
	if len(before) != len(grown) {
		t.Fatalf("%d of %d tables", len(before), len(grown))
	}
	dana, bo := testdb.SignIn(t, base, "dana@quillmere.example"), testdb.SignIn(t, base, "bo@quillmere.example")
	run := startRun(t, dana, "book_a_visit")
	do(t, dana, "GET", "/api/use/home", nil, 200, nil)
	do(t, dana, "GET", "/api/use/notices", nil, 200, nil)
	do(t, dana, "GET", "/api/use/runs/"+run, nil, 200, nil)
	do(t, dana, "GET", "/api/session/all", nil, 200, nil)
	do(t, dana, "DELETE", "/api/use/runs/"+run, nil, 204, nil)
	at := map[string]any{"page": map[string]any{"page": "calls", "part": "calls", "given": map[string]any{}}}
	do(t, dana, "POST", "/api/use/tables/views", map[string]any{"at": at}, 200, nil)
	do(t, dana, "POST", "/api/use/tables/rows", map[string]any{"at": at, "look": map[string]any{}}, 200, nil)
	call := counting(t, db, `SELECT min(id) FROM liftcare_production.service_call WHERE state = 'planned'`)
	if status, err := dana.Do("POST", "/api/use/press", map[string]any{"at": at, "button": "done",
		"chosen": map[string]any{"keys": []int{call}}}, "once", nil); err != nil || status != 200 {
		t.Error(status, err)
	}
	do(t, dana, "GET", fmt.Sprintf("/api/use/records/service_call/%d", call), nil, 200, nil)
	var out struct{ ID string }
	do(t, dana, "POST", "/api/use/tables/out", map[string]any{"at": at, "look": map[string]any{}, "format": "csv",
		"name": "calls"}, 201, &out)
	do(t, dana, "GET", "/api/use/outgoing/"+out.ID+"/file", nil, 200, new(string))
	do(t, dana, "GET", "/api/use/outgoing/"+out.ID, nil, 200, nil)
	give(t, bo, "/api/build/spaces/trial", "logo.png", picture(t, 40))
	do(t, bo, "GET", "/api/build/audit", nil, 200, nil)
	do(t, bo, "GET", "/api/build/people/2", nil, 200, nil)
	var doc server.DocumentView
	do(t, bo, "GET", "/api/build/documents/page/calls", nil, 200, &doc)
	do(t, bo, "PATCH", "/api/build/documents/page/calls",
		map[string]any{"base": doc.Revision,
			"patch": []any{map[string]any{"op": "replace", "path": "/label", "value": "Calls"}}}, 200, nil)
	do(t, bo, "POST", "/api/build/documents/page/calls/undo", nil, 200, nil)
	tries(t, newcomer(t, base), "dana@quillmere.example", "a guess")
	do(t, &testdb.Client{Base: base, HTTP: http.DefaultClient}, "POST", "/api/password",
		map[string]string{"token": "x", "password": strings.Repeat("x", 20)}, 410, nil)
	if err := jobs.DropExpired(t.Context(), db); err != nil { // which goes on behind them all the time
		t.Fatal(err)
	}
	for table, n := range scans() {
		if n != before[table] {
			t.Errorf("all of %s is read %d times", table, n-before[table])
		}
	}
}
