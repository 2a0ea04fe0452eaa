package server_test

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
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
		defer close(out)
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

// Whoever shows records is told which of them change, of those that they may see or could see
// before: nothing of others.
func TestChangesAreTold(t *testing.T) {
	db, base := serve(t)
	orla := listen(t, testdb.SignIn(t, base, "orla@customer05.example"), "/api/use/changes")
	dana := listen(t, testdb.SignIn(t, base, "dana@quillmere.example"), "/api/use/changes")
	time.Sleep(300 * time.Millisecond) // the server listens once somebody does
	var hers, theirs struct{ Lift, Building int64 }
	lift := `SELECT l.id AS lift, l.building FROM liftcare_production.lift l JOIN liftcare_production.building b ON b.id = l.building
		JOIN plainpath.member m ON m.space = 'production' JOIN plainpath.person p ON p.id = m.person AND p.email = 'orla@customer05.example'
		WHERE (b.customer = m.organisation) = $1 ORDER BY l.id LIMIT 1`
	if err := errors.Join(db.Get(&hers, lift, true), db.Get(&theirs, lift, false)); err != nil {
		t.Fatal(err)
	}
	for _, statement := range []string{
		`UPDATE liftcare_production.badge SET reason = 'x' WHERE id = 1`,
		`UPDATE liftcare_trial.lift SET label = 'x' WHERE id = 1`,
		`UPDATE liftcare_production.lift SET model = 'x' WHERE id IN ($1, $2)`,
		`UPDATE liftcare_production.lift SET building = $4 WHERE id = $1`,
		`UPDATE liftcare_production.lift SET model = 'y' WHERE id = $1`,
		`UPDATE liftcare_production.lift SET model = 'y' WHERE id = 0`,
		`UPDATE liftcare_production.lift SET building = $3 WHERE id = $1`,
		// too many to be named
		`UPDATE liftcare_production.lift l SET label = l.label FROM liftcare_production.building b WHERE b.id = l.building AND b.customer <> 5`,
		`UPDATE liftcare_production.lift SET label = label`,
	} {
		statement = strings.NewReplacer("$1", fmt.Sprint(hers.Lift), "$2", fmt.Sprint(theirs.Lift), "$3",
			fmt.Sprint(hers.Building), "$4", fmt.Sprint(theirs.Building)).Replace(statement)
		if _, err := db.Exec(statement); err != nil {
			t.Fatal(err)
		}
		time.Sleep(100 * time.Millisecond) // whether she may see it is asked a moment later
	}
	hears := func(who string, from <-chan string, want ...string) {
		t.Helper()
		for _, w := range want {
			select {
			case got := <-from:
				if got != w {
					t.Errorf("%s hears %s, want %s", who, got, w)
				}
			case <-time.After(time.Minute):
				t.Fatalf("%s does not hear %s", who, w)
			}
		}
	}
	one := fmt.Sprintf(`{"object":"lift","keys":[%d]}`, hers.Lift)
	both := fmt.Sprintf(`{"object":"lift","keys":[%d,%d]}`, min(hers.Lift, theirs.Lift), max(hers.Lift, theirs.Lift))
	hears("Dana", dana, `{"object":"badge","keys":[1]}`, both, one, one, one, `{"object":"lift"}`, `{"object":"lift"}`)
	// Badges are not hers to see, nor is the lift while it stands elsewhere.
	hears("Orla", orla, one, one, one, `{"object":"lift"}`)
}

// Who is signed out or gets other rights is told nothing more: what they listen to ends.
func TestChangesEndWithTheRights(t *testing.T) {
	db, base := serve(t)
	ended := func(who string, from <-chan string) {
		t.Helper()
		time.Sleep(1100 * time.Millisecond) // rights hold for a second
		if _, err := db.Exec(`UPDATE liftcare_production.lift SET model = model || 'x' WHERE building IN (SELECT id FROM liftcare_production.building WHERE customer = 5)`); err != nil {
			t.Fatal(err)
		}
		select {
		case got, more := <-from:
			if more {
				t.Errorf("%s hears %s", who, got)
			}
		case <-time.After(time.Minute):
			t.Errorf("%s still listens", who)
		}
	}
	for who, mend := range map[string]string{
		"signed out":         `DELETE FROM plainpath.session WHERE person = 6`,
		"with no role":       `UPDATE plainpath.member SET roles = '{}' WHERE person = 6`,
		"of another company": `UPDATE plainpath.member SET organisation = 6, roles = '{owners_desk}' WHERE person = 6`,
		"shut out":           `UPDATE plainpath.person SET active = false WHERE id = 6`,
	} {
		if _, err := db.Exec(`UPDATE plainpath.member SET roles = '{owners_desk}', organisation = 5 WHERE person = 6`); err != nil {
			t.Fatal(err)
		}
		if _, err := db.Exec(`UPDATE plainpath.person SET active = true WHERE id = 6`); err != nil {
			t.Fatal(err)
		}
		orla := listen(t, testdb.SignIn(t, base, "orla@customer05.example"), "/api/use/changes")
		if _, err := db.Exec(mend); err != nil {
			t.Fatal(err)
		}
		ended(who, orla)
	}
}

// A change has to do with a table where a row of it changed, where one belongs in it now, and
// where its rows are looked at through what changed.
func TestWhichChangesConcernATable(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	var call, other struct{ ID, Lift, Building int64 }
	of := `SELECT c.id, c.lift, l.building FROM liftcare_trial.service_call c JOIN liftcare_trial.lift l ON l.id = c.lift WHERE (c.state = 'done') = $1 ORDER BY c.id LIMIT 1`
	if err := errors.Join(db.Get(&call, of, true), db.Get(&other, of, false)); err != nil ||
		call.Building == other.Building {
		t.Fatal(call, other, err)
	}
	done := `{"order":[{"path":"number"}],"columns":[{"path":"number"},{"path":"lift.building.name"}],"filter":[{"field":"state","op":"is","value":{"literal":"done"}}]}`
	for _, c := range []struct {
		at, look, object string
		keys, shown      []int64
		want             bool
	}{
		{"service_call", done, "service_call", []int64{call.ID}, nil, true},
		{"service_call", done, "service_call", []int64{other.ID}, nil, false},
		{"service_call", done, "building", []int64{call.Building}, []int64{call.ID}, true},
		{"service_call", done, "building", []int64{0}, []int64{call.ID}, false},
		{"service_call", done, "lift", []int64{other.Lift}, []int64{other.ID}, true},
		{"service_call", done, "lift", []int64{0}, []int64{other.ID}, false},
	} {
		var out struct{ Concerns bool }
		ask := map[string]any{"at": map[string]any{"object": c.at}, "look": json.RawMessage(c.look),
			"change": map[string]any{"object": c.object, "keys": c.keys, "shown": c.shown}}
		if status, err := bo.Do("POST", "/api/build/spaces/trial/tables/concerns", ask, "", &out); err != nil ||
			status != 200 || out.Concerns != c.want {
			t.Errorf("%s %v of %s with %v shown: %t, %d %v", c.object, c.keys, c.at, c.shown, out.Concerns, status, err)
		}
	}
}
