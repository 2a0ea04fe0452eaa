package server_test

import (
	"bufio"
	"net/http"
	"strings"
	"testing"
	"time"

	"plainpath/testdb"
)

// listen reads the changes that somebody is told of.
func listen(t *testing.T, c *testdb.Client, path string) <-chan string {
	t.Helper()
	req, err := http.NewRequestWithContext(t.Context(), http.MethodGet, c.Base+path, nil)
	if err != nil {
		t.Fatal(err)
	}
	res, err := c.HTTP.Do(req)
	if err != nil || res.StatusCode != 200 || res.Header.Get("Content-Type") != "text/event-stream" {
		t.Fatalf("%v %v", res, err)
	}
	out := make(chan string, 100)
	go func() {
		defer func() { _ = res.Body.Close() }()
		lines := bufio.NewScanner(res.Body)
		for lines.Scan() {
			if what, ok := strings.CutPrefix(lines.Text(), "data: "); ok {
				out <- what
			}
		}
	}()
	return out
}

// Whoever shows records is told when they change, of those objects they may see.
func TestChangesAreTold(t *testing.T) {
	db, base := serve(t)
	orla := listen(t, testdb.SignIn(t, base, "orla@customer05.example"), "/api/use/changes")
	dana := listen(t, testdb.SignIn(t, base, "dana@quillmere.example"), "/api/use/changes")
	time.Sleep(300 * time.Millisecond) // the server listens once somebody does
	for _, statement := range []string{`UPDATE liftcare_production.badge SET reason = 'x' WHERE id = 1`, `UPDATE liftcare_trial.lift SET label = 'x' WHERE id = 1`, `UPDATE liftcare_production.lift SET label = label`} {
		if _, err := db.Exec(statement); err != nil {
			t.Fatal(err)
		}
	}
	hears := func(who string, from <-chan string, want ...string) {
		t.Helper()
		for _, w := range want {
			select {
			case got := <-from:
				if got != w {
					t.Errorf("%s hears of %q, want %q", who, got, w)
				}
			case <-time.After(5 * time.Second):
				t.Fatalf("%s does not hear of %q", who, w)
			}
		}
	}
	hears("Orla", orla, "lift") // badges are not hers to see
	hears("Dana", dana, "badge", "lift")
}
