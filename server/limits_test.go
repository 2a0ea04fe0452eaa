package server_test

import (
	"encoding/json"
	"fmt"
	"net"
	"net/url"
	"strings"
	"sync"
	"testing"
	"time"

	"plainpath/postgres/documents"

	"plainpath/server"
	"plainpath/testdb"
)

// A request whose time is over ends, in the database as well, and says what would help; others
// are answered meanwhile and afterwards.
func TestRequestsEndWhenTheirTimeIsOver(t *testing.T) {
	db, base := serveWithin(t, server.Limits{Reading: 300 * time.Millisecond})
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	ask := map[string]any{"at": map[string]any{"object": "service_call"}, "look": map[string]any{}}

	// Nobody can read the calls while somebody else holds their table.
	holder, err := db.Connx(t.Context())
	if err != nil {
		t.Fatal(err)
	}
	for _, sql := range []string{`BEGIN`, `LOCK TABLE liftcare_production.service_call IN ACCESS EXCLUSIVE MODE`} {
		if _, err := holder.ExecContext(t.Context(), sql); err != nil {
			t.Fatal(err)
		}
	}
	var body string
	status, err := dana.Do("POST", "/api/use/tables/rows", ask, "", &body)
	if err != nil || status != 504 || !strings.Contains(body, "took too long") || !strings.Contains(body,
		"fewer conditions") {
		t.Errorf("%d %s %v", status, body, err)
	}
	waiting := 1
	for range 50 { // the database hears of it a moment later
		if err := holder.GetContext(t.Context(), &waiting,
			`SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'`); err != nil || waiting == 0 {
			break
		}
		time.Sleep(20 * time.Millisecond)
	}
	if waiting != 0 {
		t.Errorf("%d statements go on in the database", waiting)
	}
	ask["at"] = map[string]any{"object": "building"}
	if status, err := dana.Do("POST", "/api/use/tables/rows", ask, "", &body); err != nil || status != 200 {
		t.Errorf("another table meanwhile: %d %s %v", status, body, err)
	}
	if _, err := holder.ExecContext(t.Context(), `ROLLBACK`); err != nil {
		t.Fatal(err)
	}
	if err := holder.Close(); err != nil {
		t.Fatal(err)
	}
	ask["at"] = map[string]any{"object": "service_call"}
	if status, err := dana.Do("POST", "/api/use/tables/rows", ask, "", &body); err != nil || status != 200 {
		t.Errorf("the table afterwards: %d %s %v", status, body, err)
	}
}

// Whoever reads while a release renames what they read gets an answer all the same.
func TestReadingDuringARelease(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	ask := map[string]any{"at": map[string]any{"page": map[string]any{"page": "calls", "part": "calls",
		"given": map[string]any{}}}, "look": map[string]any{}}
	stop, wrong := make(chan struct{}), make(chan string, 100)
	var readers sync.WaitGroup
	for range 8 {
		dana := testdb.SignIn(t, base, "dana@quillmere.example")
		readers.Go(func() {
			for {
				select {
				case <-stop:
					return
				default:
				}
				var out json.RawMessage
				if status, err := dana.Do("POST", "/api/use/tables/rows", ask, "", &out); err != nil || status != 200 {
					select {
					case wrong <- fmt.Sprintf("%d %s %v", status, out, err):
					default:
					}
				}
			}
		})
	}
	for i := range 4 {
		from, to := "problem", "trouble"
		if i%2 == 1 {
			from, to = to, from
		}
		if status, err := bo.Do("POST", "/api/build/fields/service_call/"+from+"/key", map[string]string{"key": to}, "",
			nil); err != nil || status != 200 {
			t.Fatal(status, err)
		}
		var p struct{ Version string }
		if status, err := bo.Do("GET", "/api/build/release", nil, "", &p); err != nil || status != 200 {
			t.Fatal(status, err)
		}
		if status, err := bo.Do("POST", "/api/build/release", map[string]string{"version": p.Version}, "",
			nil); err != nil || status != 201 {
			t.Fatal(status, err)
		}
	}
	close(stop)
	readers.Wait()
	close(wrong)
	for w := range wrong {
		t.Error(w)
	}
	if n, err := documents.InForce(t.Context(), db, "liftcare"); err != nil || n != 5 {
		t.Errorf("release %d is in force, %v", n, err)
	}
}

// Many who ask for files and read none of them keep nobody else waiting: each file goes over
// connections of its own kind, and whoever reads nothing for long is cut off.
func TestSlowReadersKeepNobodyWaiting(t *testing.T) {
	db, base := serveWithin(t, server.Limits{SlowReader: 10 * time.Second})
	if _, err := db.Exec(`INSERT INTO liftcare_production.service_call (lift, problem, priority, state, opened) SELECT 1 + n % 400, repeat('Hums and hums ', 12) || n, 'low', 'planned', now() FROM generate_series(1, 80000) n`); err != nil {
		t.Fatal(err)
	}
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	at, err := url.Parse(base)
	if err != nil {
		t.Fatal(err)
	}
	cookie := dana.HTTP.Jar.Cookies(at)[0].String()
	for range 6 {
		var out struct{ ID string }
		if status, err := dana.Do("POST", "/api/use/tables/out",
			map[string]any{"at": map[string]any{"object": "service_call"}, "look": map[string]any{}, "format": "csv",
				"name": "calls"}, "", &out); err != nil || status != 201 {
			t.Fatal(status, err)
		}
		conn, err := net.Dial("tcp", at.Host)
		if err != nil {
			t.Fatal(err)
		}
		defer func() { _ = conn.Close() }()
		if err := conn.(*net.TCPConn).SetReadBuffer(4096); err != nil {
			t.Fatal(err)
		}
		if _, err := fmt.Fprintf(conn, "GET /api/use/outgoing/%s/file HTTP/1.1\r\nHost: x\r\nCookie: %s\r\n\r\n",
			out.ID, cookie); err != nil {
			t.Fatal(err)
		}
	}
	for range 5 {
		asked := time.Now()
		status, err := dana.Do("POST", "/api/use/tables/rows",
			map[string]any{"at": map[string]any{"object": "building"}, "look": map[string]any{}}, "", nil)
		if took := time.Since(asked); err != nil || status != 200 || took > 8*time.Second {
			t.Fatalf("while files are not read: %d, %v, after %v", status, err, took)
		}
	}
	// All are cut off in the end, and their statements with them.
	for deadline := time.Now().Add(time.Minute); ; time.Sleep(100 * time.Millisecond) {
		var sending int
		if err := db.Get(&sending,
			`SELECT count(*) FROM plainpath.outgoing WHERE state IN ('asked', 'writing')`); err != nil {
			t.Fatal(err)
		}
		if sending == 0 {
			break
		}
		if time.Now().After(deadline) {
			t.Fatalf("%d files are still being sent", sending)
		}
	}
	var failed int
	if err := db.Get(&failed, `SELECT count(*) FROM plainpath.outgoing WHERE state = 'failed'`); err != nil ||
		failed != 6 {
		t.Errorf("%d of 6 were cut off, %v", failed, err)
	}
}
