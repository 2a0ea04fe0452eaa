package postgres_test

import (
	"fmt"
	"sync"
	"testing"
	"time"

	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/demo"
)

// A field of many records changes its type while people read and write: nobody waits for the
// rewriting, what they wrote is kept, and nothing of how it was done is left.
func TestManyRecordsChangeTheirTypeWhilePeopleWork(t *testing.T) {
	o := newOffice(t)
	const many = 25_000
	bo := editor{t, o.db, "object", "engineer", personID(t, o.db, "bo")}
	bo.must(1, op("add", "/fields/-", `{"key":"note","label":"Note","type":"text"}`))
	last := count(t, o.db, `SELECT jsonb_array_length(body -> 'fields') FROM plainpath.document WHERE kind = 'object' AND key = 'engineer'`) - 1
	o.db.MustExec(`INSERT INTO liftcare_trial.engineer (first_name, last_name, depot, active, note) SELECT 'A', 'B' || n, 'varrow', true, nullif(n % 5, 0)::text FROM generate_series(1, $1::int) n`, many)
	history := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history`)

	stop, wrote, writes, longest := make(chan struct{}), map[int64]string{}, 0, time.Duration(0)
	var working sync.WaitGroup
	working.Go(func() {
		for n := int64(0); ; n++ {
			select {
			case <-stop:
				return
			case <-time.After(2 * time.Millisecond):
			}
			start := time.Now()
			id, note := 100+n*37%many, fmt.Sprint(n%1000)
			var read int
			err := o.db.Get(&read, `SELECT count(*) FROM liftcare_trial.engineer WHERE id = $1`, id)
			if err == nil {
				// The type of the column is another in the end.
				_, err = o.db.Exec(`DO $$ BEGIN UPDATE liftcare_trial.engineer SET note = ` + note + ` WHERE id = ` +
					fmt.Sprint(id) + `; END $$`)
			}
			if err != nil || read != 1 {
				t.Errorf("while the type changed: %v, %d", err, read)
				return
			}
			wrote[id] = note
			writes++
			longest = max(longest, time.Since(start))
		}
	})
	time.Sleep(50 * time.Millisecond)
	began := time.Now()
	_, err := drafts.Apply(t.Context(), o.db, documents.Edit{App: demo.App, Kind: "object", Key: "engineer",
		Person: bo.person,
		Change: edit.Change{Base: 2,
			Patch: edit.Patch{op("replace", fmt.Sprintf("/fields/%d/type", last), `"whole_number"`)}}})
	took := time.Since(began)
	close(stop)
	working.Wait()
	if err != nil {
		t.Fatal(err)
	}
	if longest > took/2 {
		t.Errorf("somebody waited for %v of the %v that it took", longest, took)
	}
	var rows []struct {
		ID   int64
		Name string
		Note *int64
	}
	if err := o.db.Select(&rows,
		`SELECT id, last_name AS name, note FROM liftcare_trial.engineer WHERE first_name = 'A'`); err != nil ||
		len(rows) != many {
		t.Fatal(len(rows), err)
	}
	wrong := 0
	for _, r := range rows {
		var n int
		if _, err := fmt.Sscanf(r.Name, "B%d", &n); err != nil {
			t.Fatal(err)
		}
		want, got := fmt.Sprint(n%5), "0"
		if w, ok := wrote[r.ID]; ok {
			want = w
		}
		if r.Note != nil {
			got = fmt.Sprint(*r.Note)
		}
		if got != want {
			wrong++
		}
	}
	if wrong > 0 || len(wrote) < 20 {
		t.Errorf("%d of %d notes are wrong, %d were written meanwhile", wrong, many, len(wrote))
	}
	if after := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history`); after-history != writes {
		t.Errorf("%d lines of history came of %d changes", after-history, writes)
	}
	left := count(t, o.db, `SELECT (SELECT count(*) FROM plainpath.readying) + (SELECT count(*) FROM pg_attribute WHERE attrelid = 'liftcare_trial.engineer'::regclass AND NOT attisdropped AND attname LIKE '%new%')
		+ (SELECT count(*) FROM pg_trigger WHERE tgrelid = 'liftcare_trial.engineer'::regclass AND tgname LIKE '%new%')`)
	if left != 0 {
		t.Errorf("%d things are left of it", left)
	}

	// Undo brings the texts back.
	if _, err := bo.back(func(e documents.Edit) (definition.Document, error) {
		return drafts.Undo(t.Context(), o.db,
			e)
	}); err != nil {
		t.Fatal(err)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.engineer WHERE note ~ '^[0-9]+$'`); n < many*4/5 {
		t.Errorf("%d notes came back", n)
	}
}
