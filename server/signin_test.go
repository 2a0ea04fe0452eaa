package server_test

import (
	"bytes"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"runtime"
	"strings"
	"sync"
	"testing"
	"time"

	"plainpath/postgres/accounts"
	"plainpath/postgres/drafts"

	"plainpath/demo"
	"plainpath/server"
	"plainpath/testdb"
)

// newcomer is a browser that nobody has signed in with.
func newcomer(t *testing.T, base string) *testdb.Client {
	t.Helper()
	jar, err := cookiejar.New(nil)
	if err != nil {
		t.Fatal(err)
	}
	return &testdb.Client{Base: base, HTTP: &http.Client{Jar: jar}}
}

func tries(t *testing.T, c *testdb.Client, email, password string) (int, string) {
	t.Helper()
	var body string
	status, err := c.Do("POST", "/api/session", map[string]string{"email": email, "password": password}, "", &body)
	if err != nil {
		t.Fatal(err)
	}
	return status, body
}

// However many try a password at once, few are looked at; and whoever has signed in with their
// browser before still can.
func TestGuessingPasswords(t *testing.T) {
	db, base := serve(t)
	const email = "dana@quillmere.example"
	dana := testdb.SignIn(t, base, email)
	var mu sync.Mutex
	answers := map[int]int{}
	var wait sync.WaitGroup
	for range 64 {
		wait.Go(func() {
			status, _ := tries(t, newcomer(t, base), email, "a guess")
			mu.Lock()
			defer mu.Unlock()
			answers[status]++
		})
	}
	wait.Wait()
	if answers[401] > 8 || answers[401]+answers[429]+answers[503] != 64 {
		t.Errorf("%v", answers)
	}
	// The right one does not help a stranger any more; the words say what does.
	if status, says := tries(t, newcomer(t, base), email, demo.Password); status != 429 || !strings.Contains(says,
		"a browser you have signed in with before") {
		t.Errorf("%d %s", status, says)
	}
	do(t, dana, "GET", "/api/use/home", nil, 200, nil)
	if status, says := tries(t, dana, email, demo.Password); status != 200 {
		t.Errorf("in her own browser: %d %s", status, says)
	}
	// Guessing in a browser of hers ends after as many.
	for n := range 10 {
		want := 401
		if n >= 8 {
			want = 429
		}
		if status, _ := tries(t, dana, email, "a guess"); status != want {
			t.Fatalf("try %d: %d, want %d", n, status, want)
		}
	}
	// One address that tries many accounts is stopped too, others meanwhile are not.
	stopped := 0
	for n := range 60 {
		if status, _ := tries(t, newcomer(t, base), fmt.Sprintf("nobody%d@quillmere.example", n),
			"a guess"); status == 429 {
			stopped++
		}
	}
	if stopped < 15 {
		t.Errorf("%d of 60 were stopped", stopped)
	}
	db.Now = func() time.Time { return time.Now().Add(11 * time.Minute) }
	if status, _ := tries(t, newcomer(t, base), email, demo.Password); status != 200 {
		t.Errorf("eleven minutes later: %d", status)
	}
}

// A link is looked at before a password is; what is too long is looked at not at all. A hundred
// such requests at once take next to no memory.
func TestPasswordsAreNotHashedForAnybody(t *testing.T) {
	_, base := serve(t)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	var wait sync.WaitGroup
	for n := range 100 {
		wait.Go(func() {
			c := newcomer(t, base)
			if n%2 == 0 {
				do(t, c, "POST", "/api/password",
					map[string]string{"token": "none", "password": "seven ropes and a bell"}, 410, nil)
			} else if status, _ := tries(t, c, "dana@quillmere.example", strings.Repeat("x", 300)); status != 401 {
				t.Error(status)
			}
		})
	}
	wait.Wait()
	runtime.ReadMemStats(&after)
	if made := (after.TotalAlloc - before.TotalAlloc) >> 20; made > 150 {
		t.Errorf("%d MB for requests that nobody has a right to", made)
	}
	c := newcomer(t, base)
	if status, _ := tries(t, c, "dana@quillmere.example", strings.Repeat("x", 5000)); status != 413 {
		t.Errorf("a long password: %d", status)
	}
	for name, header := range map[string][2]string{"a form": {"Content-Type", "text/plain"},
		"another site": {"Sec-Fetch-Site", "cross-site"}, "another origin": {"Origin", "http://elsewhere.example"}} {
		req, err := http.NewRequest("POST", base+"/api/session",
			bytes.NewReader([]byte(`{"email":"dana@quillmere.example","password":"`+demo.Password+`"}`)))
		if err != nil {
			t.Fatal(err)
		}
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set(header[0], header[1])
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		_ = res.Body.Close()
		if res.StatusCode != 403 || len(res.Cookies()) > 0 {
			t.Errorf("from %s: %d", name, res.StatusCode)
		}
	}
}

// Everybody sees where they are signed in, ends it, and changes their password.
func TestOwnPasswordAndSessions(t *testing.T) {
	_, base := serve(t)
	const email = "dana@quillmere.example"
	here, there, third := testdb.SignIn(t, base, email), testdb.SignIn(t, base, email), testdb.SignIn(t, base, email)
	eskil := testdb.SignIn(t, base, "eskil@quillmere.example")
	var all server.SessionsView
	do(t, here, "GET", "/api/session/all", nil, 200, &all)
	if len(all.Sessions) != 3 || !all.Sessions[2].Here || all.Sessions[0].Here ||
		all.Sessions[0].Address != "127.0.0.1" || all.Sessions[0].Agent == "" ||
		time.Since(all.Sessions[0].Began) > time.Minute {
		t.Fatalf("%+v", all.Sessions)
	}
	last := fmt.Sprintf("/api/session/all/%d", all.Sessions[0].ID)
	do(t, eskil, "DELETE", last, nil, 404, nil) // it is not his
	do(t, here, "DELETE", last, nil, 200, &all)
	do(t, third, "GET", "/api/use/home", nil, 401, nil)
	do(t, there, "GET", "/api/use/home", nil, 200, nil)
	do(t, here, "DELETE", last, nil, 404, nil)

	const next = "seven ropes and a bell"
	change := func(now, next string, want int) {
		t.Helper()
		do(t, here, "PUT", "/api/session/password", map[string]string{"now": now, "next": next}, want, nil)
	}
	change("wrong", next, 422)
	change(demo.Password, "too short", 422)
	change(demo.Password, strings.Repeat("x", 201), 422)
	change(demo.Password, next, 200)
	do(t, there, "GET", "/api/use/home", nil, 401, nil)
	do(t, here, "GET", "/api/use/home", nil, 200, nil)
	if status, _ := tries(t, newcomer(t, base), email, demo.Password); status != 401 {
		t.Errorf("the old password: %d", status)
	}
	there = newcomer(t, base)
	if status, _ := tries(t, there, email, next); status != 200 {
		t.Errorf("the new password: %d", status)
	}
	do(t, here, "DELETE", "/api/session/others", nil, 200, &all)
	if len(all.Sessions) != 1 || !all.Sessions[0].Here {
		t.Errorf("%+v", all.Sessions)
	}
	do(t, there, "GET", "/api/use/home", nil, 401, nil)
}

// A builder who is no administrator changes no account and reads no link; what administrators,
// builders and strangers do is in the log.
func TestAdministratorsAndTheLog(t *testing.T) {
	db, base := serve(t)
	bo, dana := testdb.SignIn(t, base, "bo@quillmere.example"), testdb.SignIn(t, base, "dana@quillmere.example")
	if _, err := db.Exec(`UPDATE plainpath.person SET builder = true WHERE id = 2`); err != nil {
		t.Fatal(err)
	}
	change := accounts.AccountChange{Name: "Nell Ferrow", Email: "nell@quillmere.example", Active: true,
		Spaces: []accounts.MembershipView{{Space: "production", Roles: []string{"dispatcher"}}}}
	for _, r := range [][2]string{{"POST", "/api/build/people"}, {"PUT", "/api/build/people/1"},
		{"POST", "/api/build/people/1/reset"}, {"GET", "/api/build/audit"}} {
		do(t, dana, r[0], r[1], change, 403, nil)
	}
	do(t, dana, "GET", "/api/build/people", nil, 200, nil)
	do(t, bo, "POST", "/api/build/people", change, 201, nil)
	tries(t, newcomer(t, base), "dana@quillmere.example", "a guess")
	var role struct {
		Revision int
		Body     map[string]any
	}
	do(t, bo, "GET", "/api/build/documents/role/dispatcher", nil, 200, &role)
	do(t, bo, "PATCH", "/api/build/documents/role/dispatcher",
		map[string]any{"base": role.Revision,
			"patch": []any{map[string]any{"op": "add", "path": "/objects/quote/remove", "value": true}}}, 200, nil)
	var p drafts.Preview
	do(t, bo, "GET", "/api/build/release", nil, 200, &p)
	do(t, bo, "POST", "/api/build/release", map[string]any{"version": p.Version, "note": ""}, 201, nil)

	var log server.AuditView
	do(t, bo, "GET", "/api/build/audit", nil, 200, &log)
	var said []string
	for _, e := range log.Entries {
		said = append(said, e.Who+" "+e.What+" | "+strings.Join(e.Details, " | "))
	}
	text := strings.Join(said, "\n")
	for _, want := range []string{
		"Bo Lindqvale released number 2 | role Dispatcher changed: may remove Quote now",
		"Dana Merrowdale tried to sign in with a wrong password | from 127.0.0.1\nBo Lindqvale invited Nell Ferrow (nell@quillmere.example) | in production: dispatcher",
		"Dana Merrowdale signed in | from 127.0.0.1",
	} {
		if !strings.Contains(text, want) {
			t.Errorf("the log does not say %q:\n%s", want, text)
		}
	}
	var earlier server.AuditView
	do(t, bo, "GET", "/api/build/audit?before="+log.Entries[1].At.Format(time.RFC3339Nano), nil, 200, &earlier)
	if len(earlier.Entries) != len(log.Entries)-2 {
		t.Errorf("%d entries before the second of %d", len(earlier.Entries), len(log.Entries))
	}
	do(t, bo, "GET", "/api/build/audit?before=yesterday", nil, 400, nil)
}
