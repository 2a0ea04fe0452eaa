package server_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/url"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"plainpath/core/records"
	"plainpath/postgres"
	"plainpath/server"
	"plainpath/testdb"
)

func counting(t *testing.T, db *postgres.DB, query string) int {
	t.Helper()
	var n int
	if err := db.Get(&n, query); err != nil {
		t.Fatal(err)
	}
	return n
}

// What is sent again with its key counts once and is answered as before, also when it comes many
// times at once; with another key, or from somebody else, it counts again.
func TestWhatIsSentAgainCountsOnce(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	const parts = "/api/build/spaces/trial/objects/contact/records"
	contact := func(name string) map[string]any {
		return map[string]any{"values": map[string]any{"first_name": name, "last_name": "Once",
			"customer": map[string]any{"id": 1}}}
	}
	send := func(c *testdb.Client, method, path, key string, body any, want int) string {
		t.Helper()
		var answer string
		if status, err := c.Do(method, path, body, key, &answer); err != nil || status != want {
			t.Fatalf("%s %s: %d %s %v", method, path, status, answer, err)
		}
		return answer
	}
	send(bo, "POST", parts, "k0", map[string]any{"values": map[string]any{}}, 422) // refused, so nothing is known of it
	first := send(bo, "POST", parts, "k0", contact("Again"), 201)
	var everybody sync.WaitGroup
	for range 20 {
		everybody.Go(func() {
			var again string
			if status, err := bo.Do("POST", parts, contact("Again"), "k0", &again); err != nil || status != 201 &&
				status != 503 || status == 201 && again != first {
				t.Errorf("%d %s %v, want %s", status, again, err, first)
			}
			var other string
			if status, err := bo.Do("POST", parts, contact("Together"), "k1", &other); err != nil || status != 201 &&
				status != 503 {
				t.Errorf("%d %s %v", status, other, err)
			}
		})
	}
	everybody.Wait()
	if n := counting(t, db, `SELECT count(*) FROM liftcare_trial.contact WHERE first_name IN ('Again', 'Together')`); n != 2 {
		t.Errorf("%d contacts were added", n)
	}
	send(bo, "POST", parts, "k2", contact("Again 2"), 201)
	send(bo, "POST", parts, strings.Repeat("k", 201), contact("Again 3"), 422)

	// Buttons.
	call := counting(t, db, `SELECT min(id) FROM liftcare_production.service_call WHERE state = 'planned'`)
	press := map[string]any{"at": map[string]any{"page": map[string]any{"page": "calls", "part": "calls",
		"given": map[string]any{}}}, "button": "done", "chosen": map[string]any{"keys": []int{call}}}
	history := func() int {
		return counting(t, db, fmt.Sprintf(`SELECT count(*) FROM liftcare_production.history WHERE object = 'service_call' AND record = %d`, call))
	}
	pressed := send(dana, "POST", "/api/use/press", "p1", press, 200)
	before := history()
	if again := send(dana, "POST", "/api/use/press", "p1", press, 200); again != pressed || history() != before ||
		!strings.Contains(pressed, `"changed":1`) {
		t.Errorf("%s, then %s; %d entries, then %d", pressed, again, before, history())
	}

	// Forms and cells: what is saved as it is leaves no trace.
	lift := "/api/build/spaces/trial/objects/lift/records/1"
	var form records.FormView
	do(t, bo, "GET", lift, nil, 200, &form)
	trial := func() int {
		return counting(t, db, `SELECT count(*) FROM liftcare_trial.history`)
	}
	was := trial()
	values := map[string]any{}
	for _, key := range []string{"serial_number", "building", "kind", "model", "stops", "installed_on", "state"} {
		values[key] = form.Values[key]
	}
	send(bo, "PATCH", lift, "s1", map[string]any{"values": values, "before": values}, 200)
	rows := map[string]any{"at": map[string]any{"object": "lift"},
		"rows": []any{map[string]any{"id": 1, "values": values, "before": values}}}
	if saved := send(bo, "POST", "/api/build/spaces/trial/tables/save", "s2", rows, 200); !strings.Contains(saved,
		`"saved":true`) || trial() != was {
		t.Errorf("%s; %d entries of history, then %d", saved, was, trial())
	}
	values["model"] = "Another"
	for range 2 {
		send(bo, "PATCH", lift, "s3", map[string]any{"values": values, "before": map[string]any{}}, 200)
	}
	if trial() != was+1 {
		t.Errorf("%d entries of history, then %d", was, trial())
	}
	gone := fmt.Sprintf("%s/%d", parts,
		counting(t, db, `SELECT id FROM liftcare_trial.contact WHERE first_name = 'Again 2'`))
	send(bo, "DELETE", gone, "d1", nil, 204)
	send(bo, "DELETE", gone, "d1", nil, 204)
	send(bo, "DELETE", gone, "d2", nil, 404)
}

// wire stands between the program and the database, and can be cut.
type wire struct {
	net.Listener
	to  string
	mu  sync.Mutex
	all map[net.Conn]bool
	// cut refuses everything; atCommit loses the connection when something is committed, before
	// or after the database has heard of it.
	cut                       atomic.Bool
	beforeCommit, afterCommit atomic.Bool
}

func newWire(t *testing.T, to string) *wire {
	t.Helper()
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	w := &wire{Listener: ln, to: to, all: map[net.Conn]bool{}}
	t.Cleanup(func() { _ = ln.Close() })
	go func() {
		for {
			c, err := ln.Accept()
			if err != nil {
				return
			}
			go w.carry(c)
		}
	}()
	return w
}

func (w *wire) carry(c net.Conn) {
	defer func() { _ = c.Close() }()
	if w.cut.Load() {
		return
	}
	db, err := net.Dial("tcp", w.to)
	if err != nil {
		return
	}
	defer func() { _ = db.Close() }()
	w.mu.Lock()
	w.all[c] = true
	w.mu.Unlock()
	go func() {
		_, _ = io.Copy(c, db)
		_ = c.Close()
	}()
	piece := make([]byte, 1<<16)
	for {
		n, err := c.Read(piece)
		if err != nil {
			return
		}
		commits := bytes.Contains(piece[:n], []byte("commit\x00"))
		if commits && w.beforeCommit.Swap(false) {
			return
		}
		if commits && w.afterCommit.Swap(false) {
			_ = c.(*net.TCPConn).CloseRead()
			_ = c.Close()
			_, _ = db.Write(piece[:n])
			time.Sleep(100 * time.Millisecond)
			return
		}
		if _, err := db.Write(piece[:n]); err != nil {
			return
		}
	}
}

// set cuts all connections and takes no more, or takes them again.
func (w *wire) set(cut bool) {
	w.cut.Store(cut)
	if !cut {
		return
	}
	w.mu.Lock()
	defer w.mu.Unlock()
	for c := range w.all {
		_ = c.Close()
	}
	clear(w.all)
}

// While the database is away, and when it is lost in the middle of keeping something, that is said
// as it is; what is sent again with its key is there once.
func TestTheDatabaseIsAway(t *testing.T) {
	direct := testdb.New(t)
	at, err := url.Parse(direct.Address())
	if err != nil {
		t.Fatal(err)
	}
	cable := newWire(t, at.Host)
	at.Host = cable.Addr().String()
	db, err := postgres.Open(t.Context(), at.String(), 4)
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = db.Close() }()
	base, _ := serveWith(t, server.Config{DB: db})
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	const parts = "/api/build/spaces/trial/objects/contact/records"
	body := map[string]any{"values": map[string]any{"first_name": "Cut", "last_name": "Once",
		"customer": map[string]any{"id": 1}}}
	says := func(method, path string, body any, key string, want int, kind string) {
		t.Helper()
		var raw json.RawMessage
		status, err := bo.Do(method, path, body, key, &raw)
		var p server.Problem
		_ = json.Unmarshal(raw, &p)
		if err != nil || status != want || p.Type != kind {
			t.Errorf("%s %s: %d %s %v, want %d %s", method, path, status, raw, err, want, kind)
		}
	}
	contacts := func() int {
		return counting(t, direct, `SELECT count(*) FROM liftcare_trial.contact WHERE first_name = 'Cut'`)
	}

	cable.set(true)
	says("GET", "/api/use/home", nil, "", 503, "away")
	says("POST", "/api/build/spaces/trial/tables/rows", map[string]any{"at": map[string]any{"object": "lift"},
		"look": map[string]any{}}, "", 503, "away")
	says("POST", parts, body, "a1", 503, "away")
	cable.set(false)
	says("GET", "/api/use/home", nil, "", 200, "")
	if n := contacts(); n != 0 {
		t.Errorf("%d contacts", n)
	}
	for i, lost := range []*atomic.Bool{&cable.beforeCommit, &cable.afterCommit} {
		key := fmt.Sprint("lost ", i)
		lost.Store(true)
		says("POST", parts, body, key, 503, "unknown")
		for range 2 {
			says("POST", parts, body, key, 201, "")
		}
		if n := contacts(); n != i+1 {
			t.Errorf("%d contacts, want %d", n, i+1)
		}
	}
}
