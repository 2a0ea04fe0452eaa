package postgres_test

import (
	"strings"
	"testing"
	"time"

	"plainpath/core/query"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres/accounts"
	"plainpath/postgres/tables"
)

// Where clocks change at midnight a month begins when its bounds say so: in Asunción the first
// hour of October 2017 was skipped, in Havana that of November 2015 came twice.
func TestMonthsBeginWhereClocksChangeAtMidnight(t *testing.T) {
	o := newOffice(t)
	o.place.Person = personID(t, o.db, "dana")
	calls := count(t, o.db, `SELECT count(*) FROM liftcare_trial.service_call`)
	const own = "Australia/Lord_Howe" // of the person, over that of the house
	for _, name := range []string{"America/Asuncion", "America/Havana", "Europe/Dublin", own} {
		zone, err := time.LoadLocation(name)
		if err != nil {
			t.Fatal(err)
		}
		var firsts []value.Date
		for month := range 12 * 14 {
			firsts = append(firsts, value.DateOf(time.Date(2006, time.Month(1+month), 1, 0, 0, 0, 0, time.UTC)))
		}
		var moments []time.Time
		want := map[string]int64{}
		for i, first := range firsts[:len(firsts)-1] {
			if i == 0 {
				continue
			}
			for _, minutes := range []int{-90, -30, 0, 30, 90} {
				if len(moments) == calls {
					break
				}
				moment := first.In(zone).Add(time.Duration(minutes) * time.Minute)
				moments = append(moments, moment)
				holds := first
				if minutes < 0 {
					holds = firsts[i-1]
				}
				want[holds.String()]++
			}
		}
		if name == own {
			err = accounts.SetZone(t.Context(), o.db, o.place.Person, name)
		} else {
			_, err = o.db.Exec(`UPDATE plainpath.document SET body = jsonb_set(body, '{zone}', to_jsonb($1::text)), revision = revision + 1 WHERE kind = 'app'`, name)
		}
		if err != nil {
			t.Fatal(err)
		}
		if _, err := o.db.Exec(`WITH numbered AS (SELECT id, row_number() OVER (ORDER BY id) AS n FROM liftcare_trial.service_call)
			UPDATE liftcare_trial.service_call c SET opened = m.moment FROM numbered
			JOIN unnest($1::timestamptz[]) WITH ORDINALITY AS m (moment, n) USING (n) WHERE numbered.id = c.id`, moments); err != nil {
			t.Fatal(err)
		}
		look := table.Look{Group: &table.LookGroup{Path: "opened", Span: query.Month}}
		at := tables.TableAt{Object: "service_call"}
		g, err := o.tables().Groups(t.Context(), o.place, at, look)
		if err != nil {
			t.Fatal(err)
		}
		got := map[string]int64{}
		for _, one := range g.Groups {
			if one.Key != nil {
				got[strings.Trim(string(raw(one.Key)), `"`)] = one.Count
			}
		}
		if len(got) != len(want) || len(want) < 12*10 {
			t.Fatalf("%s: %d months, want %d", name, len(got), len(want))
		}
		for key, n := range got {
			if n != want[key] {
				t.Errorf("%s: %d in %s, want %d", name, n, key, want[key])
			}
			look.Within = raw(key)
			rows, err := o.tables().Proof(t.Context(), o.place, at, look, false)
			if err != nil || rows.Shown != n {
				t.Errorf("%s: the group of %s has %d, opened %d (%v)", name, key, n, rows.Shown, err)
			}
		}
	}
}
