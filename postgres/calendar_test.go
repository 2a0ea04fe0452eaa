package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/query"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/demo"
	"plainpath/postgres/accounts"
	"plainpath/postgres/drafts"
	"plainpath/postgres/tables"
)

// A calendar has the records that begin or last on the days that are looked at, as one query finds them, whatever the
// days, for a person's own clocks, and of those only what somebody may see.
func TestTheDaysOfACalendar(t *testing.T) {
	o := newOffice(t)
	const zone = "America/Havana" // it is behind, so that days begin later than in UTC
	bo, orla, dana := personID(t, o.db, "bo"), personID(t, o.db, "orla"), personID(t, o.db, "dana")
	if err := accounts.SetZone(t.Context(), o.db, dana, zone); err != nil {
		t.Fatal(err)
	}
	search := func(object string) string {
		return fmt.Sprintf(`{"key":"all_%s","label":"All","search":{"object":%q,"where":{"all":[]}}}`, object, object)
	}
	part := func(object, more string) string {
		return fmt.Sprintf(`{"key":%q,"kind":"calendar","label":%q,"calendar":{"source":"all_%s","starts":"starts"%s}}`,
			object, object, object, more)
	}
	body := `{"key":"days","label":"Days","roles":["dispatcher","owners_desk"],"searches":[` +
		search("visit") + `,` + search("contract") + `],"bands":[{"columns":[{"parts":[` + part("visit", `,"by":"engineer"`) + `,` +
		part("contract", `,"ends":"ends"`) + `]}]}]}`
	if err := drafts.AddDocument(t.Context(), o.db, demo.App, bo, definition.Document{Kind: definition.Page,
		Key: "days", Body: json.RawMessage(body)}); err != nil {
		t.Fatal(err)
	}
	o.db.MustExec(`UPDATE liftcare_trial.contract SET ends = NULL WHERE id % 7 = 0`)
	at := func(part string) tables.TableAt {
		return tables.TableAt{Page: &tables.PageTable{Page: "days", Part: part}}
	}
	first, _ := value.ParseDate("2025-09-01")
	r := rand.New(rand.NewPCG(1, 2))
	seen := 0
	for range 60 {
		from, _ := first.AddDays(r.Int64N(500))
		until, _ := from.AddDays(1 + r.Int64N(45))
		between := &table.Between{Starts: "starts", From: from.String(), Until: until.String()}
		for _, c := range []struct {
			person    int64
			part, sql string
		}{
			{dana, "visit", `SELECT id FROM liftcare_trial.visit WHERE (starts AT TIME ZONE '` + zone + `')::date >= $1
				AND (starts AT TIME ZONE '` + zone + `')::date < $2 ORDER BY id`},
			{dana, "contract", `SELECT id FROM liftcare_trial.contract
				WHERE starts < $2 AND (starts >= $1 OR ends >= $1) ORDER BY id`},
			{orla, "visit", `SELECT v.id FROM liftcare_trial.visit v JOIN liftcare_trial.lift l ON l.id = v.lift
				JOIN liftcare_trial.building b ON b.id = l.building WHERE b.customer = 5
				AND (v.starts AT TIME ZONE 'Europe/Dublin')::date BETWEEN $1 AND $2::date - 1 ORDER BY v.id`},
		} {
			look := table.Look{Between: between, Size: 5000}
			if c.part == "contract" {
				ends := *between
				ends.Ends = "ends"
				look.Between = &ends
			}
			o.place.Person = c.person
			rows, err := o.tables().Rows(t.Context(), o.place, at(c.part), look, nil)
			if err != nil {
				t.Fatal(err)
			}
			var want []int64
			if err := o.db.Select(&want, c.sql, from.String(), until.String()); err != nil {
				t.Fatal(err)
			}
			got := make([]int64, len(rows.Rows))
			for i, row := range rows.Rows {
				got[i] = row.ID
			}
			slices.Sort(got)
			if !slices.Equal(got, want) {
				t.Fatalf("%s of %d from %s until %s: %v, want %v", c.part, c.person, from, until, got, want)
			}
			seen += len(got)
		}
	}
	if seen < 500 {
		t.Errorf("only %d records were seen", seen)
	}
	for _, bad := range []table.Between{{Starts: "starts", From: "soon", Until: "2026-01-01"},
		{Starts: "starts", From: "2026-01-01", Until: "2026-01-01"}, {Starts: "minutes", From: "2026-01-01",
			Until: "2026-01-02"}, {Starts: "nothing", From: "2026-01-01", Until: "2026-01-02"},
		{Starts: "starts", Ends: "notes", From: "2026-01-01", Until: "2026-01-02"},
		{Starts: "starts", From: "2026-01-01", Until: "2036-01-02"}, {}} {
		var wrong *query.LookError
		_, err := o.tables().Rows(t.Context(), o.place, at("visit"), table.Look{Between: &bad}, nil)
		if !errors.As(err, &wrong) {
			t.Errorf("%+v: %v", bad, err)
		}
	}
}
