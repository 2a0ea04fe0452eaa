package server_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"os"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"plainpath/hostile"
	"plainpath/server"
	"plainpath/testdb"
)

// attackFor is how long something is attacked: for a moment in make test, for as long as
// PLAINPATH_ATTACK says in make attack.
func attackFor(t *testing.T, moment time.Duration, share time.Duration) time.Duration {
	t.Helper()
	said := os.Getenv("PLAINPATH_ATTACK")
	if said == "" {
		return moment
	}
	long, err := time.ParseDuration(said)
	if err != nil {
		t.Fatal(err)
	}
	return max(moment, long/share)
}

// failures keeps what the server logs as its own failure.
type failures struct {
	slog.Handler
	mu   sync.Mutex
	said []string
}

func (f *failures) Enabled(_ context.Context, l slog.Level) bool { return l >= slog.LevelError }
func (f *failures) Handle(_ context.Context, r slog.Record) error {
	text := r.Message
	r.Attrs(func(a slog.Attr) bool {
		text += fmt.Sprint(" ", a)
		return true
	})
	f.mu.Lock()
	defer f.mu.Unlock()
	if len(f.said) < 20 {
		f.said = append(f.said, text)
	}
	return nil
}

// request is something that a client sends.
type request struct {
	who          *testdb.Client
	method, path string
	body         any
}

// everyRequest are requests at every route of the server, most of them sound.
func everyRequest(t *testing.T, base string, routes []string) []request {
	t.Helper()
	bo, dana := testdb.SignIn(t, base, "bo@quillmere.example"), testdb.SignIn(t, base, "dana@quillmere.example")
	run := startRun(t, dana, "book_a_visit")
	var out []request
	covered := map[string]bool{}
	for who, sound := range map[*testdb.Client][]map[string]string{dana: {soundAtTables(), soundInRun(t, dana), {
		"/api/use/tables/views": `{"at":{"run":{"run":"` + run + `","part":"building"}}}`,
		"/api/use/tables/records/options": `{"at":{"run":{"run":"` + run +
			`","part":"building"}},"path":"","text":"a"}`,
		"/api/use/tables/rows": `{"at":{"run":{"run":"` + run + `","part":"building"}},"look":{}}`}},
		bo: {soundInBuild()}} {
		for _, bodies := range sound {
			for path, body := range bodies {
				out = append(out, request{who, "POST", path, []byte(body)})
				covered["POST "+path] = true
			}
		}
	}
	fill := strings.NewReplacer(":object", "lift", ":kind", "page", ":key", "calls", ":space", "trial", ":field",
		"kind", ":choice", "goods", ":part", "0", ":file", "0", ":sheet", "0", ":column", "0")
	for _, r := range routes {
		method, path, _ := strings.Cut(r, " ")
		path = fill.Replace(path)
		if strings.Contains(path, "/runs/") {
			path = strings.ReplaceAll(path, ":id", run)
		}
		path = strings.ReplaceAll(path, ":id", "1")
		if covered[method+" "+path] {
			continue
		}
		who := bo
		if strings.HasPrefix(path, "/api/use") {
			who = dana
		}
		out = append(out, request{who, method, path, map[string]any{}})
	}
	slices.SortFunc(out, func(a, b request) int { return strings.Compare(a.path+a.method, b.path+b.method) })
	return out
}

// doorsOf are the routes that are attacked: all but those which would end the attackers' sessions,
// and changes, which are told without end.
func doorsOf(routes []string) []string {
	return slices.DeleteFunc(routes, func(r string) bool {
		return !strings.Contains(r, " /api/") || strings.HasPrefix(r, "HEAD") || slices.Contains(unlocked, r) ||
			strings.HasPrefix(r, "DELETE /api/session") || strings.HasSuffix(r, "/people/:id/reset") ||
			strings.HasSuffix(r, "/changes")
	})
}

// Sixty-four people at once at every door, with connections for far fewer: all are answered or
// told to come again, and whoever comes afterwards is served as ever.
func TestEveryDoorByManyAtOnce(t *testing.T) {
	const crowd = 64
	log := &failures{Handler: slog.DiscardHandler}
	base, routes := serveWith(t, server.Config{Log: slog.New(log), Limits: server.Limits{Waiting: 2 * time.Second,
		Reading: 10 * time.Second, Writing: 20 * time.Second}})
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	moment := attackFor(t, 0, 1)
	sent, busy := 0, 0
	for _, r := range everyRequest(t, base, doorsOf(routes)) {
		var mu sync.Mutex
		var everybody sync.WaitGroup
		until := time.Now().Add(min(moment, 5*time.Second))
		for range crowd {
			everybody.Go(func() {
				for {
					began := time.Now()
					var body string
					status, err := r.who.Do(r.method, r.path, r.body, fmt.Sprint(rand.Int64()), &body)
					mu.Lock()
					sent++
					if status == http.StatusServiceUnavailable {
						busy++
					} else if err != nil || status >= 500 || time.Since(began) > 25*time.Second {
						t.Errorf("%s %s: %d after %v: %.300s %v", r.method, r.path, status, time.Since(began), body,
							err)
					}
					mu.Unlock()
					if time.Now().After(until) {
						return
					}
				}
			})
		}
		everybody.Wait()
		began := time.Now()
		if status, err := dana.Do("GET", "/api/use/home", nil, "", nil); err != nil || status != 200 ||
			time.Since(began) > 3*time.Second {
			t.Errorf("after %s %s: %d %v after %v", r.method, r.path, status, err, time.Since(began))
		}
	}
	t.Logf("%d requests, %d told to come again", sent, busy)
	if sent < 60*crowd || busy > sent/2 {
		t.Errorf("%d requests, %d told to come again", sent, busy)
	}
	for _, said := range log.said {
		t.Error(said)
	}
}

// Whatever is sent to whatever door, the answer is what was asked for or says what is wrong, and
// the program does not grow.
func TestEveryDoorByAFuzzer(t *testing.T) {
	log := &failures{Handler: slog.DiscardHandler}
	base, routes := serveWith(t, server.Config{Log: slog.New(log)})
	requests := everyRequest(t, base, doorsOf(routes))
	seed := uint64(time.Now().UnixNano())
	if os.Getenv("PLAINPATH_ATTACK") == "" {
		seed = 1
	}
	rnd := rand.New(rand.NewPCG(seed, 0))
	until := time.Now().Add(attackFor(t, 5*time.Second, 1))
	sent, answers := 0, map[int]int{}
	var most uint64
	for time.Now().Before(until) || sent < 300 {
		r := requests[rnd.IntN(len(requests))]
		body, path := bent(rnd, r.body), bentPath(rnd, r.path)
		sent++
		var answer string
		status, err := r.who.Do(r.method, path, body, fmt.Sprint("fuzz ", sent), &answer)
		answers[status]++
		if err != nil || status >= 500 {
			t.Fatalf("seed %d, request %d: %s %s %.1000s: %d %.300s %v %v", seed, sent, r.method, path, body, status,
				answer, err, log.said)
		}
		if sent%200 == 0 {
			var m runtime.MemStats
			runtime.ReadMemStats(&m)
			most = max(most, m.HeapAlloc)
		}
	}
	t.Logf("seed %d: %d requests, %v, at most %d MB", seed, sent, answers, most>>20)
	if most > 500<<20 {
		t.Errorf("%d MB are in use", most>>20)
	}
	if answers[200] == 0 || answers[400]+answers[422] == 0 {
		t.Errorf("answers: %v", answers)
	}
}

// bent is a body with something wrong in it, more often than not.
func bent(rnd *rand.Rand, body any) []byte {
	raw, ok := body.([]byte)
	if !ok {
		raw, _ = json.Marshal(body)
	}
	for range rnd.IntN(4) {
		if forms := hostile.Bent(string(raw)); json.Valid(raw) {
			if next := []byte(forms[rnd.IntN(len(forms))]); json.Valid(next) && !bytes.Contains(next,
				[]byte(`\ud800`)) {
				raw = next
			}
		}
	}
	if rnd.IntN(10) == 0 && len(raw) > 0 { // not even JSON any more
		raw = slices.Clone(raw)
		raw[rnd.IntN(len(raw))] = byte(rnd.IntN(256))
	}
	return raw
}

// bentPath is an address with something wrong in it, now and then.
func bentPath(rnd *rand.Rand, path string) string {
	if rnd.IntN(4) > 0 {
		return path
	}
	parts := strings.Split(path, "/")
	odd := []string{"0", "-1", "99999999999999999999", "%00", "%ff", "..%2f", "a%20b", "x'%20OR%201=1",
		strings.Repeat("a", 2000), "person", "file", "null", "1.5"}
	parts[3+rnd.IntN(len(parts)-3)] = odd[rnd.IntN(len(odd))]
	path = strings.Join(parts, "/")
	if rnd.IntN(2) == 0 {
		path += "?part=" + odd[rnd.IntN(len(odd))] + "&text=" + odd[rnd.IntN(len(odd))] + "&see_as=" +
			odd[rnd.IntN(len(odd))]
	}
	return path
}
