package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"strconv"
	"syscall"
	"testing"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/runs"
	"plainpath/testdb"
)

// killing sends requests to a program that is killed while it carries them out.
type killing struct {
	t      *testing.T
	p      *process
	person *testdb.Client
	// kills counts those so far; each falls at another moment after the answer was sent.
	kills int
}

// send sends a request until it is taken; the program is killed once meanwhile.
func (k *killing) send(path string, body any, key string, out any) {
	k.t.Helper()
	delay := time.Duration(k.kills%9*(k.kills%9)) * 400 * time.Microsecond
	k.kills++
	for attempt := range 40 {
		if attempt == 0 {
			first := k.p.cmd.Process
			time.AfterFunc(delay, func() { _ = first.Signal(syscall.SIGKILL) })
		}
		status, err := k.person.Do("POST", path, body, key, out)
		if err == nil && status < 300 {
			if attempt > 0 {
				return
			}
			k.p.kill() // answered before the kill: it falls now, and the same is sent again
			k.p.start()
			continue
		}
		if err == nil && status != 500 && status != 503 {
			k.t.Fatalf("%s: status %d", path, status)
		}
		k.p.kill()
		k.p.start()
	}
	k.t.Fatal("the answer was never taken")
}

// screenOf is what is given on a screen.
type screenOf struct {
	place   string
	answers map[string]any
}

// walk goes through a walkthrough to its end.
func (k *killing) walk(walkthrough string, round int, screens []screenOf) {
	k.t.Helper()
	var run runs.Run
	name := fmt.Sprintf("%s-%d", walkthrough, round)
	k.send("/api/use/runs", map[string]string{"walkthrough": walkthrough}, "start-"+name, &run)
	for i, screen := range screens {
		k.send("/api/use/runs/"+run.ID+"/answers", map[string]any{"revision": run.Revision, "screen": screen.place,
			"answers": screen.answers}, fmt.Sprintf("answer-%s-%d", name, i), &run)
	}
	if run.View == nil || !run.View.Closed {
		k.t.Fatalf("%s, round %d: the walkthrough is not finished: %+v", walkthrough, round, run.View)
	}
}

const (
	killedInside = `{"key":"killed_inside","label":"Inside","roles":["dispatcher"],
	 "takes":[{"key":"lift","label":"Lift","type":"reference","object":"lift","required":true}],"steps":[
	 {"key":"what","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
	   {"key":"problem","kind":"input","label":"Problem","input":{"type":"text","required":true}}]}]}]}},
	 {"key":"call","kind":"add","add":{"object":"service_call","values":[{"field":"lift","value":{"expression":"lift"}},
	   {"field":"problem","value":{"expression":"what.problem"}},{"field":"opened","value":{"expression":"now"}}]}},
	 {"key":"done","kind":"finish","finish":{"message":"Done."}}],"gives":[{"key":"call","label":"Call","value":"call"}]}`
	killed = `{"key":"killed","label":"Killed","roles":["dispatcher"],"steps":[
	 {"key":"where","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
	   {"key":"building","kind":"input","label":"Building","input":{"type":"reference","object":"building","required":true}},
	   {"key":"lift","kind":"input","label":"Lift","input":{"type":"reference","object":"lift","required":true}}]}]}]}},
	 {"key":"lifts","kind":"search","search":{"object":"lift","where":{"field":"building","op":"is","value":{"expression":"where.building"},"empty":"nothing"}}},
	 {"key":"each","kind":"repeat","repeat":{"for_each":"lifts","item":"one","steps":[
	   {"key":"look","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
	     {"key":"note","kind":"input","label":"Note","input":{"type":"text","required":true}}]}]}]}},
	   {"key":"noted","kind":"add","add":{"object":"service_call","values":[{"field":"lift","value":{"expression":"one"}},
	     {"field":"problem","value":{"expression":"look.note"}},{"field":"opened","value":{"expression":"now"}}]}},
	   {"key":"twice","kind":"add","add":{"object":"lift","values":[{"field":"serial_number","value":{"expression":"one.serial_number"}},
	     {"field":"building","value":{"expression":"where.building"}},{"field":"kind","value":{"literal":"passenger"}}]},
	     "if_fails":[{"key":"why","kind":"add","add":{"object":"service_call","values":[{"field":"lift","value":{"expression":"one"}},
	       {"field":"problem","value":{"expression":"look.note + \" failed\""}},{"field":"opened","value":{"expression":"now"}}]}}]}]}},
	 {"key":"inner","kind":"run","run":{"walkthrough":"killed_inside","hand":[{"to":"lift","value":"where.lift"}]}},
	 {"key":"tell","kind":"notify","notify":{"roles":["dispatcher"],"text":"{size(noted)} and {inner.call.problem}"}},
	 {"key":"done","kind":"finish","finish":{"message":"{size(noted)} and {inner.call.problem}"}}]}`
)

// make adds walkthroughs and releases them.
func (k *killing) make(bodies ...string) {
	k.t.Helper()
	var why json.RawMessage
	bo := testdb.SignIn(k.t, "http://"+k.p.address, "bo@quillmere.example")
	for _, body := range bodies {
		var named struct{ Key string }
		if err := json.Unmarshal([]byte(body), &named); err != nil {
			k.t.Fatal(err)
		}
		if status, err := bo.Do("POST", "/api/build/documents", map[string]any{"kind": "walkthrough", "key": named.Key,
			"body": json.RawMessage(body)}, "make-"+named.Key, nil); err != nil || status >= 300 {
			k.t.Fatal(named.Key, status, err)
		}
	}
	var preview struct {
		Version json.RawMessage `json:"version"`
	}
	if status, err := bo.Do("GET", "/api/build/release", nil, "", &preview); err != nil || status != 200 {
		k.t.Fatal(status, err)
	}
	if status, err := bo.Do("POST", "/api/build/release",
		map[string]any{"version": preview.Version, "note": "Kills"}, "release", &why); err != nil || status >= 300 {
		k.t.Fatal(status, err, string(why))
	}
}

// The program is killed again and again in the middle of walkthroughs: with records added for many, with people led
// through a list one by one, with acts that are refused and done otherwise, in a walkthrough that another runs. The
// person sends the same answer until it is taken; nothing happens twice or is lost. PLAINPATH_KILLS says how often.
func TestKilledBetweenAnyTwoPoints(t *testing.T) {
	if testing.Short() {
		t.Skip("kills processes")
	}
	t.Parallel() // most of it is waiting
	kills := 60
	if said := os.Getenv("PLAINPATH_KILLS"); said != "" {
		var err error
		if kills, err = strconv.Atoi(said); err != nil {
			t.Fatal(err)
		}
	}
	database := testdb.Address(t)
	db, err := postgres.Open(t.Context(), database, 4)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = db.Close() })
	s := site{db: db}
	p := newProcess(t, database)
	p.start()
	k := &killing{t: t, p: p, person: testdb.SignIn(t, "http://"+p.address, "dana@quillmere.example")}
	k.make(killedInside, killed)
	var place, lift, engineer int64
	var name string
	if err := db.QueryRow(`SELECT b.id, b.name, min(l.id), (SELECT min(e.id) FROM liftcare_production.engineer e JOIN liftcare_production.certificate c ON c.engineer = e.id WHERE e.active AND c.kind = 'electrical' AND c.expires_on >= current_date)
		FROM liftcare_production.building b JOIN liftcare_production.lift l ON l.building = b.id WHERE l.state = 'running' GROUP BY b.id
		HAVING (SELECT count(*) FROM liftcare_production.lift a WHERE a.building = b.id) = 2 ORDER BY b.id LIMIT 1`).Scan(&place, &name, &lift, &engineer); err != nil {
		t.Fatal(err)
	}
	ref := func(id int64) map[string]any { return map[string]any{"id": id} }
	visits := s.count(t, `SELECT count(*) FROM liftcare_production.visit`)
	rounds := 0
	for ; k.kills < kills; rounds++ {
		k.walk("book_a_visit", rounds, []screenOf{{"which", map[string]any{"part": name}},
			{"choose_building", map[string]any{"building": ref(place)}},
			{"choose_lifts", map[string]any{"lifts": []any{ref(lift)}, "certificate": "electrical"}},
			{"choose_engineer",
				map[string]any{"engineer": ref(engineer), "starts": "2027-01-05T09:30:00Z", "minutes": 30}}})
		mark := fmt.Sprint("killed ", rounds)
		k.walk("killed", rounds, []screenOf{{"where", map[string]any{"building": ref(place), "lift": ref(lift)}},
			{"look", map[string]any{"note": mark}}, {"look", map[string]any{"note": mark}},
			{"inner/what", map[string]any{"problem": mark + " inside"}}})
	}
	for _, c := range []struct {
		what, sql string
		want      int
	}{
		{"visits", fmt.Sprintf(`SELECT count(*) - %d FROM liftcare_production.visit`, visits), rounds},
		{"runs", `SELECT count(*) FROM plainpath.run WHERE closed`, 2 * rounds},
		{"runs that are open", `SELECT count(*) FROM plainpath.run WHERE NOT closed`, 0},
		{"calls noted", `SELECT count(*) FROM liftcare_production.service_call WHERE problem ~ '^killed [0-9]+$'`, 2 * rounds},
		{"calls noted a lift", `SELECT count(DISTINCT (lift, problem)) FROM liftcare_production.service_call WHERE problem ~ '^killed [0-9]+$'`,
			2 * rounds},
		{"failures", `SELECT count(*) FROM liftcare_production.service_call WHERE problem ~ '^killed [0-9]+ failed$'`, 2 * rounds},
		{"calls inside", `SELECT count(*) FROM liftcare_production.service_call WHERE problem ~ '^killed [0-9]+ inside$'`, rounds},
		{"notices", `SELECT count(*) FROM plainpath.notice WHERE text::text LIKE '%and%'`, rounds},
		{"history", `SELECT count(*) FROM liftcare_production.history h JOIN liftcare_production.service_call c ON c.id = h.record
			WHERE h.object = 'service_call' AND c.problem LIKE 'killed %'`, 5 * rounds},
	} {
		if n := s.count(t, c.sql); n != c.want {
			t.Errorf("after %d kills there are %d %s, want %d", k.kills, n, c.what, c.want)
		}
	}
}
