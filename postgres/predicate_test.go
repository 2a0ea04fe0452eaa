package postgres_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"testing"

	"github.com/shopspring/decimal"

	"plainpath/core/expr"
	"plainpath/core/predicate"
	"plainpath/core/predicate/judge"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/testdb"
)

// Whether a predicate runs in the database or in Go, it holds for the same records.
func TestSQLAndGoGiveTheSameAnswer(t *testing.T) {
	db := testdb.New(t)
	person := tester(t, db)
	cases, decided, asked := 0, 0, map[string]bool{}
	for seed := range uint64(6) {
		w := newWorld(seed)
		w.toRead, w.asked = map[string]int{}, map[string]bool{}
		app := fmt.Sprintf("world%d", seed)
		install(t, db, app, person, w.m)
		err := apps.Seed(t.Context(), db, app, postgres.Trial, person, func(s apps.Seeding) error {
			w.fill(t, s)
			for range 450 {
				hits := w.compare(t, s)
				cases++
				if hits {
					decided++
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
		for sql, want := range w.toRead {
			var n int
			if err := db.GetContext(t.Context(), &n, "SELECT count(*) FROM ("+sql+") q"); err != nil || n != want {
				t.Fatalf("to be read it is\n%s\nand counts %d, %v; want %d", sql, n, err, want)
			}
		}
		maps.Copy(asked, w.asked)
	}
	if kinds := slices.Sorted(maps.Keys(asked)); len(kinds) != 10 {
		t.Errorf("only these kinds of predicates were tried: %v", kinds)
	}
	if cases < 2200 || decided < cases/5 {
		t.Errorf("only %d of %d predicates told records apart", decided, cases)
	}
}

// compare tries one random condition, half of them about a record being edited as well;
// it says whether it told records apart.
func (w *world) compare(t *testing.T, d apps.Records) bool {
	t.Helper()
	object := w.m.Keys()[w.r.IntN(3)]
	scope := expr.Scope{Model: w.m, Names: []expr.Name{{Key: "known", Type: expr.Type{Kind: value.KindDecimal}},
		{Key: "word", Type: expr.Type{Kind: value.KindText}}}}
	inGo := expr.Values{"today": value.DateOf(w.now), "now": value.NewInstant(w.now)}
	if w.r.IntN(3) > 0 {
		inGo["known"], inGo["word"] = value.Decimal{Decimal: decimal.New(15, -1)}, value.Text("MILL")
	}
	w.lists = true
	defer func() { w.lists = false }()
	for _, key := range w.m.Keys() {
		name := expr.Name{Key: "some_" + key, Type: expr.Type{Kind: value.KindList, Object: key}}
		scope = scope.With(name)
		if w.r.IntN(3) > 0 {
			from := w.r.IntN(len(w.records[key]))
			inGo[name.Key] = &value.List{Object: key,
				Source: value.Records(w.records[key][from:min(from+w.r.IntN(4), len(w.records[key]))])}
		}
	}
	inSQL := maps.Clone(inGo)
	w.edited = ""
	var edited *query.Edited
	if w.r.IntN(2) == 0 {
		w.edited = w.m.Keys()[w.r.IntN(3)]
		record := w.records[w.edited][w.r.IntN(len(w.records[w.edited]))]
		edited = &query.Edited{Object: w.edited, Values: record.Fields}
		scope = scope.With(expr.Name{Key: predicate.EditedName,
			Type: expr.Type{Kind: value.KindRecord, Object: w.edited}})
		inGo[predicate.EditedName], inSQL[predicate.EditedName] = record, predicate.Edited{}
	}
	c := w.condition(object, 3)
	shown, _ := json.Marshal(c)
	checked, problems := predicate.Check(scope, object, c, "")
	if len(problems) > 0 {
		t.Fatalf("%s: %v", shown, problems)
	}
	p, err := checked.Bind(inGo)
	if err != nil {
		t.Fatalf("%s: %v", shown, err)
	}
	ways := w.also(t, object)
	p = ways(p)
	w.noteKinds(p)
	var want []int64
	for _, rec := range w.records[object] {
		ok, err := judge.Holds(p, w, rec)
		if err != nil {
			t.Fatalf("%s of %d: %v", shown, rec.ID, err)
		}
		if ok {
			want = append(want, rec.ID)
		}
	}
	if p, err = checked.Bind(inSQL); err != nil {
		t.Fatalf("%s: %v", shown, err)
	}
	p = ways(p)
	q := query.Query{Object: object, Where: p, Edited: edited}
	found, err := records.Select(t.Context(), d, q)
	if err != nil {
		t.Fatalf("%s: %v", shown, err)
	}
	if got := ids(found); !slices.Equal(want, got) {
		s, _ := d.Written(q)
		t.Fatalf("%s of %s, edited %s %v\nin Go  %v\nin SQL %v\n%s", shown, object, w.edited, edited, want, got, s)
	}
	if n, err := records.Count(t.Context(), d, q); err != nil || int(n) != len(want) {
		t.Fatalf("%s: counted %d, %v; want %d", shown, n, err, len(want))
	}
	if w.r.IntN(4) > 0 {
		return len(want) > 0 && len(want) < len(w.records[object])
	}
	// What is shown to those who want the SQL can be run as it is.
	sql, err := d.Written(q)
	if err != nil {
		t.Fatal(err)
	}
	w.toRead[sql] = len(want)
	return len(want) > 0 && len(want) < len(w.records[object])
}

// noteKinds notes of what kinds a predicate is made.
func (w *world) noteKinds(p predicate.Predicate) {
	w.asked[fmt.Sprintf("%T", p)] = true
	switch p := p.(type) {
	case predicate.All:
		for _, m := range p {
			w.noteKinds(m)
		}
	case predicate.Any:
		for _, m := range p {
			w.noteKinds(m)
		}
	case predicate.Not:
		w.noteKinds(p.Of)
	case predicate.HasRelated:
		w.noteKinds(p.Where)
	}
}

// also puts a condition together with what the program itself asks besides: not what is in
// a hidden group, the records of one, a few records by their keys.
func (w *world) also(t *testing.T, object string) func(predicate.Predicate) predicate.Predicate {
	t.Helper()
	record := w.records[object][w.r.IntN(len(w.records[object]))]
	fields := w.m.Object(object).Fields
	path := w.path(t, object, fields[w.r.IntN(len(fields))].Key)
	same := predicate.Same{Path: path, Value: predicate.Follow(record, path)}
	var keys predicate.Keys
	for _, rec := range w.records[object] {
		if w.r.IntN(3) > 0 {
			keys = append(keys, rec.ID)
		}
	}
	var also predicate.Predicate = predicate.True
	switch w.r.IntN(7) {
	case 0:
		also = same
	case 1:
		also = predicate.Not{Of: same}
	case 2:
		also = keys
	case 3:
		also = predicate.Any{predicate.InCurrency{Path: w.path(t, object, "p"), Currency: "SEK"}, same}
	case 4:
		also = w.refers(t, object)
	}
	return func(p predicate.Predicate) predicate.Predicate { return predicate.All{also, p} }
}

// refers asks of the record that a reference points at.
func (w *world) refers(t *testing.T, object string) predicate.Predicate {
	t.Helper()
	for _, f := range w.m.Object(object).Fields {
		if target := w.m.Object(f.Target()); target != nil && !target.BuiltIn() {
			of := w.records[target.Key]
			record := of[w.r.IntN(len(of))]
			path := w.path(t, target.Key, target.Fields[w.r.IntN(len(target.Fields))].Key)
			same := predicate.Same{Path: path, Value: predicate.Follow(record, path)}
			return predicate.Refers{Via: &f, Where: same, Filter: predicate.Not{Of: predicate.Keys{record.ID}}}
		}
	}
	return predicate.True
}

// Reading page after page gives the same list as reading it in one go.
func TestPagesJoinWithoutGapOrOverlap(t *testing.T) {
	db := testdb.New(t)
	person := tester(t, db)
	w := newWorld(99)
	install(t, db, "pages", person, w.m)
	err := apps.Seed(t.Context(), db, "pages", postgres.Trial, person, func(s apps.Seeding) error {
		w.fill(t, s)
		for range 60 {
			q := query.Query{Object: w.m.Keys()[w.r.IntN(3)]}
			fields := w.m.Object(q.Object).Fields
			for range 1 + w.r.IntN(3) {
				path, err := w.m.Path(q.Object, fields[w.r.IntN(len(fields))].Key)
				if err != nil {
					return err
				}
				q.Order = append(q.Order, query.Order{Path: path, Desc: w.r.IntN(2) == 0})
			}
			whole, err := records.Select(t.Context(), s, q)
			if err != nil {
				return err
			}
			q.Limit = 1 + w.r.IntN(9)
			var paged []*value.Record
			for {
				page, err := s.Select(t.Context(), q)
				if err != nil {
					return err
				}
				paged = append(paged, page.Records...)
				if len(page.Records) < q.Limit || len(paged) > len(whole) {
					break
				}
				next, err := page.After(len(page.Records) - 1)
				if err != nil {
					return err
				}
				if q.After, err = query.ParseCursor(next.String()); err != nil {
					return err
				}
			}
			if fmt.Sprint(ids(paged)) != fmt.Sprint(ids(whole)) {
				t.Fatalf("%+v\npages %v\nwhole %v", q.Order, ids(paged), ids(whole))
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
}
