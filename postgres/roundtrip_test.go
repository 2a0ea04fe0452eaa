package postgres_test

import (
	"bytes"
	"encoding/csv"
	"testing"
	"time"

	"plainpath/core/edition"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/documents"
	"plainpath/postgres/exports"
	"plainpath/postgres/repository"
	"plainpath/postgres/tables"
	"plainpath/testdb"
)

// What is taken out of a table reads back as what is stored, value by value.
func TestWhatIsTakenOutReadsBack(t *testing.T) {
	db := testdb.New(t)
	person := tester(t, db)
	w := newWorld(7)
	install(t, db, "trip", person, w.m)
	if err := apps.Seed(t.Context(), db, "trip", postgres.Trial, person,
		func(s apps.Seeding) error { w.fill(t, s); return nil }); err != nil {
		t.Fatal(err)
	}
	// Texts that a spreadsheet would run, or that look like others that were protected.
	for i, text := range []string{"=1+1", "'=1+1", "''@x", "+44 1", "-", "'quoted'", "a\tb", "line\nline"} {
		rec := w.records["o0"][i]
		rec.Fields["f0"] = value.Text(text)
		if _, err := db.Exec(`UPDATE trip_trial.o0 SET f0 = $1 WHERE id = $2`, text, rec.ID); err != nil {
			t.Fatal(err)
		}
	}
	// The history has whole records, whatever their fields are called: one is called n.
	for _, query := range []string{`SELECT count(*) FROM trip_trial.history WHERE action = 'add' AND after ? 'f0'`,
		`SELECT count(*) - 8 + 90 FROM trip_trial.history WHERE action = 'change' AND after ? 'f0' AND before ? 'f0'`} {
		if got := count(t, db, query); got != 90 {
			t.Errorf("%s: %d", query, got)
		}
	}
	o := &office{t, db, &repository.Repositories{DB: db, Editions: documents.NewEditions(db)},
		postgres.Caller{App: "trip", Space: postgres.Trial, Person: person}}
	read := 0
	for _, key := range w.m.Keys() {
		ask := exports.OutAsk{At: tables.TableAt{Object: key}, Format: "csv"}
		var fields []*model.Field
		for i := range w.m.Object(key).Fields {
			// A reference reads back by its label, an address on one line.
			if f := &w.m.Object(key).Fields[i]; f.Stored() && f.Target() == "" && f.Type != model.Address {
				fields = append(fields, f)
				ask.Look.Columns = append(ask.Look.Columns, table.Column{Path: f.Key})
			}
		}
		lines, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(o.file(ask), []byte("\ufeff")))).ReadAll()
		if err != nil || len(lines) != len(w.records[key])+1 {
			t.Fatalf("%d lines, %v", len(lines), err)
		}
		for n, rec := range w.records[key] {
			for i, f := range fields {
				got, err := intake.Typed(f, lines[n+1][i], "EUR", time.UTC)
				want := rec.Get(f.Key)
				if err != nil || (got != nil || want != nil) && !value.Equal(got, want) {
					t.Errorf("%s of %d: %q reads as %v, %v; want %v", f.Key, rec.ID, lines[n+1][i], got, err, want)
				}
				read++
			}
		}
	}
	if read < 900 {
		t.Errorf("only %d values were read", read)
	}
}

// A whole table that was taken out comes back by intake and changes nothing: every record
// is found by its key and every value is the same.
func TestWhatIsTakenOutComesBackUnchanged(t *testing.T) {
	b := newBringer(t)
	o := &office{t, b.db, &repository.Repositories{DB: b.db, Editions: b.intakes.Editions}, b.place}
	docs, err := documents.Documents(t.Context(), b.db, b.place.App)
	if err != nil {
		t.Fatal(err)
	}
	e, err := edition.Compile(docs)
	if err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct{ object, key, format string }{
		{"lift", "serial_number", "csv"}, {"lift", "serial_number", "xlsx"}, {"customer", "name", "csv"},
		{"customer", "name", "xlsx"},
		{"service_call", "number", "csv"}, {"spare_part", "part_number", "xlsx"}, {"badge", "badge_number", "csv"},
	} {
		ask := exports.OutAsk{At: tables.TableAt{Object: c.object}, Format: c.format}
		for i := range e.Model.Object(c.object).Fields {
			f := &e.Model.Object(c.object).Fields[i]
			// A reference can only be found again by a label that no two records share.
			if to := e.Model.Object(f.Target()); to != nil && !to.Field(to.LabelField).Unique {
				continue
			}
			if (f.Stored() || f.Key == c.key) && !f.HoldsFile() {
				ask.Look.Columns = append(ask.Look.Columns, table.Column{Path: f.Key})
			}
		}
		in := b.bring([]string{c.object + "." + c.format}, o.file(ask))
		if in, err = b.intakes.IntoObject(t.Context(), b.place, in.ID, 0, c.object); err != nil {
			t.Fatal(err)
		}
		plan := *in.Plan
		if plan.Sheets[0].Key != c.key {
			t.Errorf("%s is to be recognised by %q", c.object, plan.Sheets[0].Key)
		}
		plan.Sheets[0].Mode, plan.Sheets[0].Key = intake.ModeUpdate, c.key
		b.plan(in.ID, plan)
		r := b.try(in.ID, true).Result.Sheets[0]
		if n := count(t, b.db, `SELECT count(*) FROM liftcare_trial.`+c.object); int(r.Unchanged) != n ||
			r.Added+r.Changed+r.Refused != 0 {
			t.Errorf("%s as %s: %+v of %d\n%+v", c.object, c.format, r, n, plan.Sheets[0].Columns)
		}
	}
}
