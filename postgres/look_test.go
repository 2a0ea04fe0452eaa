package postgres_test

import (
	"cmp"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/predicate/judge"
	"plainpath/core/query"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/testdb"
)

// However somebody looks at a table, the database gives the rows, groups and totals that
// going through all records in Go does.
func TestEveryLookAtATableIsWhatGoFinds(t *testing.T) {
	db := testdb.New(t)
	person := tester(t, db)
	grouped, narrowed := 0, 0
	for seed := range uint64(2) {
		w := newWorld(seed + 40)
		app := fmt.Sprintf("looks%d", seed)
		install(t, db, app, person, w.m)
		err := apps.Seed(t.Context(), db, app, postgres.Trial, person, func(s apps.Seeding) error {
			w.fill(t, s)
			for range 80 {
				looked := w.lookAround(t, s)
				grouped += looked.groups
				if looked.narrowed {
					narrowed++
				}
			}
			return nil
		})
		if err != nil {
			t.Fatal(err)
		}
	}
	if grouped < 265 || narrowed < 33 {
		t.Errorf("only %d groups and %d narrowed lists were compared", grouped, narrowed)
	}
}

var farTexts = []string{"r1.f0", "r2.r1.f0"}

type lookedAt struct {
	groups   int
	narrowed bool
}

// lookAround looks at a table in a random way and compares what it sees with what Go finds.
func (w *world) lookAround(t *testing.T, d apps.Records) lookedAt {
	t.Helper()
	object := w.m.Keys()[w.r.IntN(3)]
	o := w.m.Object(object)
	var paths []model.Path
	for i := range o.Fields {
		paths = append(paths, w.path(t, object, o.Fields[i].Key))
	}
	for _, far := range farTexts { // the keyword search reaches across references, too
		paths = append(paths, w.path(t, object, far))
	}
	where := w.searched(t, object)
	l := table.NewListing(o, where, paths)
	look := w.look(t, object)
	want := slices.DeleteFunc(w.found(t, object, look), func(rec *value.Record) bool { return !w.holds(t, where, rec) })
	shown, _ := json.Marshal(look)
	w.prove(t, d, l, where, look, want)

	var got []int64
	page := look
	page.Group, page.Totals = nil, nil
	for {
		rows, err := l.Rows(t.Context(), d, page)
		if err != nil {
			t.Fatalf("%s: %v", shown, err)
		}
		if page.After == "" && (rows.Counted != (len(want) <= table.PageSize) || rows.Counted &&
			int(rows.Total) != len(want)) {
			t.Fatalf("%s: %d rows, counted %t, want %d", shown, rows.Total, rows.Counted, len(want))
		}
		for _, r := range rows.Rows {
			got = append(got, r.ID)
		}
		if page.After = rows.Next; page.After == "" {
			break
		}
	}
	if n, err := l.Count(t.Context(), d, look, nil); err != nil || int(n) != len(want) {
		t.Fatalf("%s: %d rows counted, want %d, %v", shown, n, len(want), err)
	}
	w.inOrder(t, object, look, want)
	if !slices.Equal(got, ids(want)) {
		t.Fatalf("%s\nin Go  %v\nin SQL %v", shown, ids(want), got)
	}

	groups, err := l.Groups(t.Context(), d, look)
	if err != nil {
		t.Fatalf("%s: %v", shown, err)
	}
	if all := w.totals(t, look, object, want); int(groups.Total) != len(want) || wire(groups.Totals) != all {
		t.Fatalf("%s\nin Go  %s\nin SQL %s", shown, all, wire(groups.Totals))
	}
	if look.Group == nil {
		return lookedAt{narrowed: len(want) < len(w.records[object])}
	}
	byKey := map[string][]*value.Record{}
	for _, rec := range want {
		var keys []string
		for g := look.Group; g != nil; g = g.Then {
			keys = append(keys, w.key(t, object, *g, rec))
		}
		key := strings.Join(keys, "|")
		byKey[key] = append(byKey[key], rec)
	}
	if len(groups.Groups) != len(byKey) {
		t.Fatalf("%s: %d groups, want %v", shown, len(groups.Groups), slices.Sorted(maps.Keys(byKey)))
	}
	for _, g := range groups.Groups {
		within := look
		within.Within = json.RawMessage(wire(g.Key))
		key := wire(g.Key)
		for _, then := range g.Then {
			within.Deeper = append(within.Deeper, json.RawMessage(wire(then)))
			key += "|" + wire(then)
		}
		members := byKey[key]
		if int(g.Count) != len(members) || wire(g.Totals) != w.totals(t, look, object, members) {
			t.Fatalf("%s\ngroup %s\nin Go  %d %s\nin SQL %d %s", shown, key, len(members),
				w.totals(t, look, object, members), g.Count, wire(g.Totals))
		}
		rows, err := l.Rows(t.Context(), d, travelled(t, within))
		if err != nil || int(rows.Total) != len(members) {
			t.Fatalf("%s\nwithin %s: %d rows, want %d, %v", shown, key, rows.Total, len(members), err)
		}
	}
	if len(groups.Groups) > 0 { // a group that is hidden takes its records with it
		g := groups.Groups[w.r.IntN(len(groups.Groups))]
		all, gone := int64(0), 0
		for _, other := range groups.Groups {
			if wire(other.Key) == wire(g.Key) {
				all, gone = all+other.Count, gone+1
			}
		}
		hiding := look
		hiding.Group = &table.LookGroup{Path: look.Group.Path, Span: look.Group.Span,
			Then: look.Group.Then, Hidden: []json.RawMessage{json.RawMessage(wire(g.Key))}}
		if rest, err := l.Groups(t.Context(), d, travelled(t, hiding)); err != nil ||
			rest.Total != int64(len(want))-all || len(rest.Groups) != len(groups.Groups)-gone {
			t.Fatalf("%s\nwithout %s: %d rows in %d groups, %v", shown, wire(g.Key), rest.Total, len(rest.Groups), err)
		}
	}
	return lookedAt{groups: len(groups.Groups), narrowed: len(want) < len(w.records[object])}
}

// searched is a random condition that the builder set.
func (w *world) searched(t *testing.T, object string) predicate.Predicate {
	t.Helper()
	if w.edited = ""; w.r.IntN(2) == 0 {
		return predicate.True
	}
	scope := expr.Scope{Model: w.m, Names: []expr.Name{{Key: "known", Type: expr.Type{Kind: value.KindDecimal}},
		{Key: "word", Type: expr.Type{Kind: value.KindText}}}}
	checked, problems := predicate.Check(scope, object, w.condition(object, 2), "")
	if len(problems) > 0 {
		t.Fatal(problems)
	}
	p, err := checked.Bind(expr.Values{"today": value.DateOf(w.now), "now": value.NewInstant(w.now),
		"known": value.Decimal{Decimal: decimal.New(15, -1)}, "word": value.Text("mill")})
	if err != nil {
		t.Fatal(err)
	}
	return p
}

func (w *world) holds(t *testing.T, p predicate.Predicate, rec *value.Record) bool {
	t.Helper()
	ok, err := judge.Holds(p, w, rec)
	if err != nil {
		t.Fatal(err)
	}
	return ok
}

// prove compares the proof of a list, and of a record in it or not, with what Go finds.
func (w *world) prove(t *testing.T, d apps.Records, l *table.Listing, where predicate.Predicate, look table.Look,
	want []*value.Record) {
	t.Helper()
	all := w.records[l.Object()]
	look.Group, look.Totals = nil, nil
	proof, err := l.Proof(t.Context(), d, look)
	if err != nil {
		t.Fatalf("%s: %v", wire(look), err)
	}
	left := int64(len(all))
	for _, step := range proof.Steps {
		if step.Left > left {
			t.Fatalf("%s: %d are left after “%s” of %d", wire(look), step.Left, step.Words, left)
		}
		left = step.Left
	}
	if proof.All != int64(len(all)) || left != int64(len(want)) || proof.Shown != left {
		t.Fatalf("%s: %+v, want %d of %d", wire(look), proof, len(want), len(all))
	}
	rec := all[w.r.IntN(len(all))]
	of, err := l.ProofOf(t.Context(), d, look, rec.ID, "")
	if err != nil {
		t.Fatalf("%s: %v", wire(look), err)
	}
	if of.In != slices.Contains(want, rec) || len(of.Steps) != len(proof.Steps) {
		t.Fatalf("%s: of %d it says %+v", wire(look), rec.ID, of)
	}
	for i, part := range query.Split(where) {
		if of.Steps[i].Holds != w.holds(t, part, rec) {
			t.Fatalf("of %d it says %+v", rec.ID, of.Steps[i])
		}
	}
}

// travelled is a look as it arrives: the key of a group without a value is null.
func travelled(t *testing.T, look table.Look) table.Look {
	t.Helper()
	var out table.Look
	if err := json.Unmarshal([]byte(wire(look)), &out); err != nil {
		t.Fatal(err)
	}
	return out
}

func wire(v any) string {
	raw, err := json.Marshal(v)
	if err != nil {
		panic(err)
	}
	return string(raw)
}

func (w *world) path(t *testing.T, object, text string) model.Path {
	t.Helper()
	p, err := w.m.Path(object, text)
	if err != nil {
		t.Fatal(err)
	}
	return p
}

// anyPath is a field of the object, or now and then one across a reference.
func (w *world) anyPath(t *testing.T, object string, fits func(*model.Field) bool) (model.Path, bool) {
	t.Helper()
	o := w.m.Object(object)
	for range 20 {
		f := &o.Fields[w.r.IntN(len(o.Fields))]
		path := f.Key
		if f.Target() != "" && w.r.IntN(2) == 0 {
			far := w.m.Object(f.Target())
			g := &far.Fields[w.r.IntN(len(far.Fields))]
			f, path = g, path+"."+g.Key
		}
		if fits(f) {
			return w.path(t, object, path), true
		}
	}
	return model.Path{}, false
}

// ordered are fields whose values have an order of their own.
func ordered(f *model.Field) bool {
	switch f.Kind() {
	case value.KindWhole, value.KindDecimal, value.KindMoney, value.KindDate, value.KindInstant, value.KindYesNo,
		value.KindText:
		return true
	}
	return false
}

func (w *world) look(t *testing.T, object string) table.Look {
	t.Helper()
	var out table.Look
	w.edited = ""
	for range w.r.IntN(3) {
		out.Filter = append(out.Filter, w.test(object))
	}
	if w.r.IntN(3) == 0 {
		out.Text = []string{"mill", "HOUSE 1", "é", "%", "red x"}[w.r.IntN(5)]
	}
	for range w.r.IntN(3) {
		if p, ok := w.anyPath(t, object, ordered); ok {
			out.Order = append(out.Order, table.LookOrder{Path: p.String(), Desc: w.r.IntN(2) == 0})
		}
	}
	for range w.r.IntN(4) {
		of := []query.Aggregate{query.Sum, query.Average, query.Least, query.Greatest}[w.r.IntN(4)]
		p, ok := w.anyPath(t, object, func(f *model.Field) bool {
			return query.CheckTotal(query.Total{Path: model.Path{Fields: []*model.Field{f}}, Of: of}) == nil
		})
		if ok {
			out.Totals = append(out.Totals, table.LookTotal{Path: p.String(), Of: of})
		}
	}
	for into, levels := &out.Group, 0; levels < 3 && w.r.IntN(4) > 0; into, levels = &(*into).Then, levels+1 {
		p, ok := w.anyPath(t, object, func(f *model.Field) bool { return f.Type != model.LongText })
		if !ok {
			break
		}
		*into = &table.LookGroup{Path: p.String(), Desc: w.r.IntN(2) == 0}
		if k := p.Last().Kind(); k == value.KindDate || k == value.KindInstant {
			(*into).Span = query.Spans[w.r.IntN(len(query.Spans))]
		}
	}
	return out
}

// found goes through all records.
func (w *world) found(t *testing.T, object string, look table.Look) []*value.Record {
	t.Helper()
	values := expr.Values{"today": value.DateOf(time.Now()), "now": value.NewInstant(time.Now())}
	var out []*value.Record
	for _, rec := range w.records[object] {
		in := true
		for _, c := range look.Filter {
			checked, problems := predicate.Check(expr.Scope{Model: w.m}, object, c, "")
			if len(problems) > 0 {
				t.Fatal(problems)
			}
			p, err := checked.Bind(values)
			if err != nil {
				t.Fatal(err)
			}
			ok, err := judge.Holds(p, w, rec)
			if err != nil {
				t.Fatal(err)
			}
			in = in && ok
		}
		for word := range strings.FieldsSeq(look.Text) {
			near := slices.ContainsFunc(w.m.Object(object).Fields, func(f model.Field) bool {
				text, ok := rec.Get(f.Key).(value.Text)
				return ok && f.Type != model.Choice && strings.Contains(f.Found(string(text)), f.Found(word))
			})
			far := slices.ContainsFunc(farTexts, func(path string) bool {
				p := w.path(t, object, path)
				text, ok := predicate.Follow(rec, p).(value.Text)
				return ok && strings.Contains(p.Last().Found(string(text)), p.Last().Found(word))
			})
			in = in && (near || far)
		}
		if in {
			out = append(out, rec)
		}
	}
	return out
}

// inOrder sorts records, the empty ones last in both directions, those that are the same by key.
func (w *world) inOrder(t *testing.T, object string, look table.Look, records []*value.Record) {
	t.Helper()
	slices.SortStableFunc(records, func(a, b *value.Record) int {
		for _, o := range look.Order {
			p := w.path(t, object, o.Path)
			x, y := predicate.Follow(a, p), predicate.Follow(b, p)
			if empty := cmp.Compare(rankEmpty(x), rankEmpty(y)); empty != 0 {
				return empty
			}
			if c := compared(p.Last(), x, y); c != 0 && o.Desc {
				return -c
			} else if c != 0 {
				return c
			}
		}
		return cmp.Compare(a.ID, b.ID)
	})
}

// rankEmpty puts what has no value, or one that failed, behind what has one.
func rankEmpty(v value.Value) int {
	if _, failed := v.(value.Failure); failed || v == nil {
		return 1
	}
	return 0
}

// compared orders two values, those that are empty or failed alike.
func compared(f *model.Field, a, b value.Value) int {
	if rankEmpty(a) == 1 {
		return 0
	}
	if m, ok := a.(value.Money); ok {
		return cmp.Or(strings.Compare(m.Currency, b.(value.Money).Currency), m.Amount.Cmp(b.(value.Money).Amount))
	}
	if f.Type == model.Choice {
		place := func(v value.Value) int {
			return slices.IndexFunc(f.Choices, func(c model.ChoiceValue) bool { return value.Text(c.Key) == v })
		}
		return place(a) - place(b)
	}
	c, _ := value.Compare(a, b)
	return c
}
