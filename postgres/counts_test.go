package postgres_test

import (
	"encoding/json"
	"log/slog"
	"sync"
	"testing"
	"time"

	"plainpath/core/records"
	"plainpath/core/table"
	pgtables "plainpath/postgres/tables"
)

// A count is kept until records that it is made of change, and only for those with the same
// rights who ask the same.
func TestCountsAreKeptUntilRecordsChange(t *testing.T) {
	o := newOffice(t)
	tables := &pgtables.Tables{Repositories: o.records,
		Counts: pgtables.NewCounts(t.Context(), &pgtables.Changes{DB: o.db, Log: slog.New(slog.DiscardHandler)})}
	calls := pgtables.TableAt{Object: "service_call"}
	of := func(name, text string) int64 {
		t.Helper()
		place := o.place
		place.Person = personID(t, o.db, name)
		n, err := tables.Count(t.Context(), place, calls, table.Look{Text: text})
		if err != nil {
			t.Fatal(err)
		}
		return n
	}
	stored := func() int64 { return int64(count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call`)) }
	eventually := func(want int64) {
		t.Helper()
		for deadline := time.Now().Add(time.Minute); of("dana", "") != want; time.Sleep(10 * time.Millisecond) {
			if time.Now().After(deadline) {
				t.Fatalf("%d calls, want %d", of("dana", ""), want)
			}
		}
	}
	unheard := func(sql string) {
		t.Helper()
		for _, s := range []string{`ALTER TABLE liftcare_trial.service_call DISABLE TRIGGER USER`, sql,
			`ALTER TABLE liftcare_trial.service_call ENABLE TRIGGER USER`} {
			if _, err := o.db.Exec(s); err != nil {
				t.Fatal(err)
			}
		}
	}
	all := stored()
	eventually(all)
	time.Sleep(300 * time.Millisecond) // it listens by now
	eventually(all)
	unheard(`INSERT INTO liftcare_trial.service_call (lift, problem, opened, priority) SELECT lift, 'unheard of', now(), priority FROM liftcare_trial.service_call ORDER BY id LIMIT 1`)
	if got := of("dana", ""); got != all {
		t.Errorf("%d calls: the count was not kept", got)
	}
	if got := of("dana", "unheard of"); got != 1 {
		t.Errorf("%d calls unheard of: what was asked is another thing", got)
	}
	if got := of("orla", ""); got >= all || got == 0 {
		t.Errorf("%d calls for the owner's desk", got)
	}
	var wait sync.WaitGroup
	for range 30 { // many at once, with two connections
		wait.Go(func() {
			if _, err := tables.Count(t.Context(), o.place, calls, table.Look{Text: "door"}); err != nil {
				t.Error(err)
			}
		})
	}
	wait.Wait()
	// A change of something else keeps it, one of a call does not.
	if _, err := o.db.Exec(`UPDATE liftcare_trial.spare_part SET name = name || ' ' WHERE id = 1`); err != nil {
		t.Fatal(err)
	}
	time.Sleep(100 * time.Millisecond)
	if got := of("dana", ""); got != all {
		t.Errorf("%d calls: a change of a spare part is none of a call", got)
	}
	id := count(t, o.db, `SELECT min(id) FROM liftcare_trial.service_call`)
	if _, err := o.records.Save(t.Context(), o.place, "service_call", int64(id),
		records.Saving{Values: map[string]json.RawMessage{"problem": json.RawMessage(`"told of"`)},
			Before: map[string]json.RawMessage{}}); err != nil {
		t.Fatal(err)
	}
	eventually(stored())
}
