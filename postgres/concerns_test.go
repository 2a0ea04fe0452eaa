package postgres_test

import (
	"fmt"
	"slices"
	"testing"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/testdb"
)

// Whatever changes and however somebody looks at a table: where its rows are others afterwards,
// they are told that the change concerns them. Of most changes that have to do with nothing they
// show they are told nothing.
func TestWhateverChangesRowsConcernsTheTable(t *testing.T) {
	db := testdb.New(t)
	person := tester(t, db)
	other, quiet, silent := 0, 0, 0
	for seed := range uint64(3) {
		w := newWorld(seed + 70)
		if seed%2 == 1 { // records that stand under what is worked out of others
			for _, key := range w.m.Keys() {
				w.m.Object(key).LabelField = "w9"
				w.m.Object(key).Fields = append(w.m.Object(key).Fields,
					model.Field{Key: "w9", Label: "W9", Type: model.WorkedOut, Result: model.Text,
						Expression: "text(n) + either(r1.f0, \"none\")"})
			}
			w.m = model.New("EUR", w.m.Object("o0"), w.m.Object("o1"), w.m.Object("o2"))
		}
		app := fmt.Sprintf("concerns%d", seed)
		install(t, db, app, person, w.m)
		if err := apps.Seed(t.Context(), db, app, postgres.Trial, person,
			func(s apps.Seeding) error { w.fill(t, s); return nil }); err != nil {
			t.Fatal(err)
		}
		d, err := apps.RecordsOf(t.Context(), db, app, postgres.Trial, person)
		if err != nil {
			t.Fatal(err)
		}
		for range 130 {
			object := w.m.Keys()[w.r.IntN(3)]
			l := table.NewListing(w.m.Object(object), w.searched(t, object), nil)
			look := w.look(t, object)
			look.Group, look.Totals = nil, nil
			look.Columns = nil // a few, so that much has to do with none
			for _, n := range w.r.Perm(len(w.m.Object(object).Fields) + 3)[:3] {
				if key := []string{"f0", "r1.f0", "r2.n"}[n%3]; n < len(w.m.Object(object).Fields) {
					look.Columns = append(look.Columns, table.Column{Path: w.m.Object(object).Fields[n].Key})
				} else {
					look.Columns = append(look.Columns, table.Column{Path: key})
				}
			}
			before, err := l.Rows(t.Context(), d, look)
			if err != nil {
				t.Fatalf("%s: %v", wire(look), err)
			}
			shown := make([]int64, len(before.Rows))
			for i, row := range before.Rows {
				shown[i] = row.ID
			}
			changed, key, what := w.change(t, db, d, app, object, shown)
			after, err := l.Rows(t.Context(), d, look)
			if err != nil {
				t.Fatalf("%s: %v", wire(look), err)
			}
			told := changed == object && slices.Contains(shown, key)
			if reads := slices.Contains(before.Reads, changed); reads && !told {
				if told, err = l.Concerns(t.Context(), d, look, table.Touched{Object: changed, Keys: []int64{key},
					Shown: shown}); err != nil {
					t.Fatalf("%s: %v", wire(look), err)
				}
			}
			switch same := wire(before.Rows) == wire(after.Rows); {
			case !same && !told:
				t.Fatalf("%s of %s, which reads %v\nafter %s\nwas %s\nis  %s", wire(look), object, before.Reads, what,
					wire(before.Rows), wire(after.Rows))
			case !same:
				other++
			case told:
				quiet++
			default:
				silent++
			}
		}
	}
	if other < 40 || silent < 80 {
		t.Errorf("%d tables changed, of %d that did not %d were told: the test tries too little, or tells too much",
			other, quiet+silent, quiet)
	}
}

// change changes a field of a record, rather of one that is shown or near one, or adds one.
func (w *world) change(t *testing.T, db *postgres.DB, d apps.Records, app, list string,
	shown []int64) (object string, id int64, what string) {
	t.Helper()
	object = w.m.Keys()[w.r.IntN(3)]
	o := w.m.Object(object)
	if w.r.IntN(5) == 0 {
		a := records.Addition{Object: o}
		var row []value.Value
		for i := range o.Fields {
			if f := &o.Fields[i]; f.Stored() {
				a.Fields, row = append(a.Fields, f), append(row, w.value(f))
			}
		}
		a.Rows = [][]value.Value{row}
		keys, err := d.Add(t.Context(), "test", a)
		if err != nil {
			t.Fatal(err)
		}
		return object, keys[0], fmt.Sprint("adding ", object, " ", keys[0])
	}
	id = w.records[object][w.r.IntN(len(w.records[object]))].ID
	if len(shown) > 0 && w.r.IntN(4) > 0 {
		if object, id = list, shown[w.r.IntN(min(8, len(shown)))]; w.r.IntN(2) == 0 {
			via := []string{"r1", "r2", "r3"}[w.r.IntN(3)]
			var to *int64
			if err := db.Get(&to, fmt.Sprintf(`SELECT %s FROM %s_trial.%s WHERE id = $1`, via, app, object),
				id); err != nil {
				t.Fatal(err)
			}
			if to != nil {
				object, id = w.m.Object(object).Field(via).Object, *to
			}
		}
		o = w.m.Object(object)
	}
	key := []string{"f0", "f0", "n", "d", "r1", "r2", "r3"}[w.r.IntN(7)]
	v := w.value(o.Field(key))
	var arg any
	switch x := v.(type) {
	case *value.Record:
		arg = x.ID
	case nil:
	default:
		arg = value.Display(x)
	}
	if _, err := db.Exec(fmt.Sprintf(`UPDATE %s_trial.%s SET %s = $1 WHERE id = $2`, app, object, key), arg,
		id); err != nil {
		t.Fatal(err)
	}
	return object, id, fmt.Sprintf("%s of %s %d becomes %v", key, object, id, arg)
}
