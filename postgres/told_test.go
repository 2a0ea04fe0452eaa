package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"strings"
	"sync"
	"testing"

	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/walk"
	"plainpath/demo"
	"plainpath/postgres"
	pgruns "plainpath/postgres/runs"
	"plainpath/postgres/tables"
)

// broken are the places where the history of a space does not lead, step by step, to the records
// as they are: a step that does not begin where the one before ended, or an end that is another.
func broken(t *testing.T, db *postgres.DB, schema string, objects ...string) []string {
	t.Helper()
	var out []string
	if err := db.Select(&out, fmt.Sprintf(`SELECT object || ' ' || record || ' at ' || id FROM (
		SELECT id, object, record, before, lag(after) OVER w AS ended, row_number() OVER w AS n,
			action FROM %s.history WINDOW w AS (PARTITION BY object, record ORDER BY id)) h
		WHERE n > 1 AND before IS DISTINCT FROM ended`, schema)); err != nil {
		t.Fatal(err)
	}
	for _, object := range objects {
		var more []string
		if err := db.Select(&more, fmt.Sprintf(`SELECT '%[2]s ' || coalesce(t.id, h.record) || ' is ' || coalesce(to_jsonb(t)::text, 'gone') || ' and was said to be ' || coalesce(h.after::text, 'gone')
			FROM (SELECT DISTINCT ON (record) record,
				after FROM %[1]s.history WHERE object = plainpath.history_name('%[1]s.%[2]s'::regclass) ORDER BY record, id DESC) h
			FULL JOIN %[1]s.%[2]s t ON t.id = h.record WHERE h.record IS NULL OR to_jsonb(t) IS DISTINCT FROM h.after`, schema, object)); err != nil {
			t.Fatal(err)
		}
		out = append(out, more...)
	}
	return out
}

// clerk does what people do to service calls, at random, and knows what the history should say.
type clerk struct {
	*office
	r *rand.Rand
}

// acts does one thing; it gives how many records it changed and through what.
func (c *clerk) acts() (changed int, cause string, err error) {
	c.Helper()
	ids := func(n int) []int64 {
		var out []int64
		if err := c.db.Select(&out, `SELECT id FROM liftcare_trial.service_call ORDER BY md5(id::text || $1) LIMIT $2`,
			fmt.Sprint(c.r.IntN(1000)), n); err != nil {
			c.Fatal(err)
		}
		return out
	}
	text := fmt.Sprintf("Hums %d", c.r.IntN(100000))
	switch c.r.IntN(6) {
	case 0:
		_, err = c.save("service_call", 0,
			fmt.Sprintf(`{"lift":{"id":%d},"problem":%q,"priority":"low","opened":"2026-11-01T10:00:00Z","state":"planned"}`, 1+c.r.IntN(400), text), "")
		return 1, "by_hand", err
	case 1:
		_, err = c.save("service_call", ids(1)[0], fmt.Sprintf(`{"problem":%q,"priority":"high"}`, text), "")
		return 1, "by_hand", err
	case 2: // it is refused as a whole
		_, err = c.save("service_call", ids(1)[0], `{"problem":"","priority":"rather"}`, "")
		return 0, "", err
	case 3:
		some := ids(1 + c.r.IntN(5))
		var rows []records.RowSaving
		for n, id := range some {
			rows = append(rows, records.RowSaving{ID: id,
				Values: map[string]json.RawMessage{"problem": raw(fmt.Sprint(text, " ", n))}})
		}
		saved, err := c.tables().SaveRows(c.Context(), c.place,
			tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}, rows)
		if err == nil && !saved.Saved {
			err = errors.New("not saved")
		}
		return len(some), "table", err
	case 4:
		var open []int64
		if err := c.db.Select(&open,
			`SELECT id FROM liftcare_trial.service_call WHERE state NOT IN ('done', 'cancelled') ORDER BY md5(id::text || $1) LIMIT 3`, text); err != nil {
			c.Fatal(err)
		}
		done, err := c.tables().Press(c.Context(), c.place,
			tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}, "done",
			table.Chosen{Keys: open}, nil, false)
		return int(done.Changed), "button", err
	}
	runs := &pgruns.Runs{DB: c.db, Editions: c.records.Editions}
	keep := c.r.IntN(2) == 0
	_, err = runs.Rehearse(c.Context(), pgruns.Rehearsal{App: demo.App, Walkthrough: "report_a_fault",
		As: c.place.Person, Keep: keep,
		Recorded: []walk.Recorded{given(c.T, "fault", "lift", map[string]any{"id": 1 + c.r.IntN(400)}, "problem", text,
			"priority", "low")}}, nil)
	if !keep {
		return 0, "", err
	}
	return 1, "walkthrough", err
}

// Whatever is done to records and through whatever door, the history says step by step what
// became of each, who did it and through what, and nothing of what was refused or rehearsed.
func TestTheHistoryLeadsToEveryRecord(t *testing.T) {
	o := newOffice(t)
	c := &clerk{o, rand.New(rand.NewPCG(8, 8))}
	people := []int64{personID(t, o.db, "dana"), personID(t, o.db, "mara")}
	causes := map[string]int{}
	for n := range 150 {
		o.place.Person = people[n%2]
		last := count(t, o.db, `SELECT coalesce(max(id), 0) FROM liftcare_trial.history`)
		changed, cause, err := c.acts()
		var refused *records.ProblemsError
		if err != nil && (changed > 0 || !errors.As(err, &refused)) {
			t.Fatalf("%s: %v", cause, err)
		}
		causes[cause]++
		if got := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE id > $1`, last); got != changed {
			t.Fatalf("%s: the history has %d entries, want %d", cause, got, changed)
		}
		if got := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE id > $1 AND person = $2 AND jsonb_exists(cause, $3) AND action IN ('add', 'change')`, last, o.place.Person, cause); got != changed {
			t.Fatalf("%s: %d entries name who did it and through what, want %d", cause, got, changed)
		}
	}
	if len(causes) < 5 {
		t.Errorf("only %v were tried", causes)
	}
	if out := broken(t, o.db, "liftcare_trial", "service_call", "visit"); len(out) > 0 {
		t.Errorf("%d places: %s", len(out), strings.Join(out[:min(5, len(out))], "; "))
	}
}

// Several people at the same rows at once, each with what they saw of them: what one of them
// changed is never lost under another's, and the history tells the steps in the order they took.
func TestManyAtTheSameRows(t *testing.T) {
	o := newOffice(t)
	at := tables.TableAt{Page: &tables.PageTable{Page: "calls", Part: "calls"}}
	var wg sync.WaitGroup
	var mu sync.Mutex
	taken, clashed := map[int64]int{}, 0
	for worker := range 8 {
		wg.Go(func() {
			r := rand.New(rand.NewPCG(uint64(worker), 3))
			for n := range 12 {
				var rows []records.RowSaving
				for _, k := range r.Perm(5)[:1+r.IntN(3)] {
					id := int64(k + 1)
					var seen string
					if err := o.db.Get(&seen, `SELECT problem FROM liftcare_trial.service_call WHERE id = $1`,
						id); err != nil {
						t.Error(err)
						return
					}
					rows = append(rows, records.RowSaving{ID: id,
						Before: map[string]json.RawMessage{"problem": raw(seen)},
						Values: map[string]json.RawMessage{"problem": raw(fmt.Sprintf("%s+%d.%d",
							seen[:min(len(seen), 40)], worker, n))}})
				}
				saved, err := o.tables().SaveRows(t.Context(), o.place, at, rows)
				if err != nil {
					t.Error(err)
					return
				}
				mu.Lock()
				for _, row := range rows {
					if saved.Saved {
						taken[row.ID]++
					}
				}
				if !saved.Saved {
					clashed++
				}
				mu.Unlock()
			}
		})
	}
	wg.Wait()
	for id, want := range taken {
		if got := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE object = plainpath.history_name('liftcare_trial.service_call'::regclass) AND record = $1 AND action = 'change'`, id); got != want {
			t.Errorf("call %d was changed %d times by what was said, %d by the history", id, want, got)
		}
	}
	if out := broken(t, o.db, "liftcare_trial", "service_call"); len(out) > 0 {
		t.Errorf("%d places: %s", len(out), strings.Join(out[:min(5, len(out))], "; "))
	}
	if clashed == 0 || len(taken) < 5 {
		t.Errorf("%d clashes, rows changed %v: the test tries too little", clashed, taken)
	}
}
