package postgres_test

import (
	"encoding/json"
	"fmt"
	"slices"
	"testing"
	"time"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/predicate/judge"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/apps"
	"plainpath/testdb"
)

// eyes are a world as one person may see it: records that are not theirs are not there,
// and fields that are hidden from them are empty.
type eyes struct {
	*world
	rules  map[string]predicate.Predicate
	hidden map[string][]string
}

func (e *eyes) sees(t *testing.T, rec *value.Record) bool {
	t.Helper()
	ok, err := judge.Holds(e.rules[rec.Object], e.world, rec)
	if err != nil {
		t.Fatal(err)
	}
	return ok
}

// redacted is a record as it is seen, references followed as far as conditions reach.
func (e *eyes) redacted(t *testing.T, rec *value.Record, depth int) *value.Record {
	t.Helper()
	out := &value.Record{Object: rec.Object, ID: rec.ID, Fields: map[string]value.Value{}}
	for key, v := range rec.Fields {
		if slices.Contains(e.hidden[rec.Object], key) {
			continue
		}
		if to, ok := v.(*value.Record); ok {
			if !e.sees(t, to) {
				continue
			}
			if depth > 0 {
				v = e.redacted(t, to, depth-1)
			}
		}
		out.Fields[key] = v
	}
	return out
}

// seenReader reads the records that point at one as the person sees them.
type seenReader struct {
	*eyes
	t *testing.T
}

func (r seenReader) Related(object, field string, id int64) ([]*value.Record, error) {
	if slices.Contains(r.hidden[object], field) {
		return nil, nil
	}
	all, err := r.world.Related(object, field, id)
	var out []*value.Record
	for _, rec := range all {
		if r.sees(r.t, rec) {
			out = append(out, r.redacted(r.t, rec, 3))
		}
	}
	return out, err
}

// strict takes "skipped when empty" out of a condition: row rules may not have it.
func strict(c predicate.Condition) predicate.Condition {
	c.Empty = predicate.EmptyNothing
	for i := range c.All {
		c.All[i] = strict(c.All[i])
	}
	for i := range c.Any {
		c.Any[i] = strict(c.Any[i])
	}
	if c.Related != nil {
		c.Related.Where = strict(c.Related.Where)
	}
	return c
}

// rights makes a random role: a row rule and hidden fields for each object.
func (w *world) rights(t *testing.T) (access.Role, *eyes) {
	t.Helper()
	role := access.Role{Key: "all", Label: "All", Objects: map[string]access.Right{}}
	e := &eyes{w, map[string]predicate.Predicate{}, map[string][]string{}}
	for _, key := range w.m.Keys() {
		right := access.Right{See: true, Fields: map[string]access.FieldRight{}}
		e.rules[key] = predicate.True
		for w.r.IntN(4) > 0 { // a rule that tells records apart
			rule := strict(w.condition(key, 1))
			checked, problems := predicate.Check(access.PersonScope(w.m, ""), key, rule, "")
			if len(problems) > 0 {
				continue // it names a value that only the other test knows
			}
			bound, err := checked.Bind(expr.Values{"today": value.DateOf(w.now), "now": value.NewInstant(w.now)})
			if err != nil {
				t.Fatal(err)
			}
			right.Rows, e.rules[key] = &rule, bound
			break
		}
		for _, f := range w.m.Object(key).Fields {
			if w.r.IntN(5) == 0 && f.Key != "f0" {
				right.Fields[f.Key] = access.FieldRight{Hidden: true}
				e.hidden[key] = append(e.hidden[key], f.Key)
			}
		}
		role.Objects[key] = right
	}
	return role, e
}

// Whatever a person asks of records, by their own fields, across references or of related
// records, in whatever order: the answer is that of a world which holds nothing but what
// they may see.
func TestWhatIsAskedFindsOnlyWhatIsSeen(t *testing.T) {
	db := testdb.New(t)
	builder := personID(t, db, "bo")
	person, err := accounts.AddPerson(t.Context(), db,
		accounts.NewPerson{Name: "Looker", Email: "looker@quillmere.example"}, demo.Password)
	if err != nil {
		t.Fatal(err)
	}
	asked, told, narrowed := 0, 0, 0
	for seed := range uint64(4) {
		w := newWorld(seed + 300)
		app := fmt.Sprintf("seen%d", seed)
		install(t, db, app, builder, w.m)
		if err := apps.Seed(t.Context(), db, app, postgres.Trial, builder,
			func(s apps.Seeding) error { w.fill(t, s); return nil }); err != nil {
			t.Fatal(err)
		}
		role, e := w.rights(t)
		raw, err := json.Marshal(role)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := db.Exec(`UPDATE plainpath.document SET body = $2, revision = revision + 1 WHERE app = $1 AND kind = 'role'`, app, raw); err != nil {
			t.Fatal(err)
		}
		if err := accounts.Join(t.Context(), db, app, postgres.Trial, person, []string{"all"}, 0); err != nil {
			t.Fatal(err)
		}
		clock := db.Now
		db.Now = func() time.Time { return w.now }
		desk, err := apps.RecordsOf(t.Context(), db, app, postgres.Trial, person)
		db.Now = clock
		if err != nil {
			t.Fatal(err)
		}
		for range 120 {
			asked++
			differs, narrow := e.ask(t, desk)
			told += differs
			narrowed += narrow
		}
	}
	if told < asked/6 || narrowed < asked/6 {
		t.Errorf("of %d questions %d told records apart and %d would have told more to somebody else", asked, told,
			narrowed)
	}
}

// ask asks one question; it says whether the answer told records apart, and whether
// somebody who sees everything would have got another.
func (e *eyes) ask(t *testing.T, d apps.Records) (int, int) {
	t.Helper()
	object := e.m.Keys()[e.r.IntN(3)]
	c := e.condition(object, 2)
	if e.r.IntN(4) == 0 { // a keyword search over fields near and far
		c = predicate.Condition{Any: []predicate.Condition{}}
		word := predicate.Operand{Literal: json.RawMessage([]string{`"mill"`, `"m"`, `"house"`, `"x"`}[e.r.IntN(4)])}
		for _, field := range []string{"f0", "r1.f0", "r2.r1.f0", "r1.w2"} {
			c.Any = append(c.Any, predicate.Condition{Field: field, Op: predicate.Contains, Value: &word})
		}
	}
	checked, problems := predicate.Check(access.PersonScope(e.m, ""), object, c, "")
	if len(problems) > 0 {
		return 0, 0
	}
	values := expr.Values{"today": value.DateOf(e.now), "now": value.NewInstant(e.now)}
	filter, err := checked.Bind(values)
	if err != nil {
		t.Fatal(err)
	}
	var want, whole []int64
	labels := map[int64]*value.Record{}
	for _, rec := range e.records[object] {
		if ok, err := judge.Holds(filter, e.world, rec); err != nil {
			t.Fatal(err)
		} else if ok {
			whole = append(whole, rec.ID)
		}
		if !e.sees(t, rec) {
			continue
		}
		seen := e.redacted(t, rec, 4)
		ok, err := judge.Holds(filter, seenReader{e, t}, seen)
		if err != nil {
			t.Fatal(err)
		}
		if ok {
			want = append(want, rec.ID)
			labels[rec.ID] = seen
		}
	}
	var columns []model.Path
	for _, text := range []string{"f1", "r1", "r1.f0", "r2.r1", "s", "a", "w1"} {
		p, err := e.m.Path(object, text)
		if err != nil {
			t.Fatal(err)
		}
		columns = append(columns, p)
	}
	found, err := records.Select(t.Context(), d, query.Query{Object: object, Filter: filter, Columns: columns})
	if err != nil {
		t.Fatal(err)
	}
	shown, _ := json.Marshal(c)
	if got := ids(found); !slices.Equal(got, want) {
		t.Fatalf("%s of %s: %v, want %v\nhidden %v", shown, object, got, want, e.hidden)
	}
	for _, rec := range found {
		for _, p := range columns {
			got, want := predicate.Follow(rec, p), predicate.Follow(labels[rec.ID], p)
			if value.Display(key(got)) != value.Display(key(want)) {
				t.Fatalf("%s of %s %d: %v, want %v", p, object, rec.ID, got, want)
			}
		}
	}
	return one(len(want) > 0 && len(want) < len(e.records[object])), one(!slices.Equal(want, whole))
}

// key is a reference as its key, everything else as it is.
func key(v value.Value) value.Value {
	if r, ok := v.(*value.Record); ok {
		return value.Whole(r.ID)
	}
	return v
}

func one(yes bool) int {
	if yes {
		return 1
	}
	return 0
}
