package postgres_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/apps"
)

// world is a random model with random records, held in Go and in the database.
type world struct {
	r       *rand.Rand
	m       *model.Model
	records map[string][]*value.Record
	now     time.Time
	// edited is the object of the record being edited, "" when conditions know of none.
	edited string
	// lists says that conditions know of lists of records, some_ and their object.
	lists bool
	// toRead are statements to be run as they are read, with how many records each finds; asked are
	// the kinds of predicates that were tried.
	toRead map[string]int
	asked  map[string]bool
}

var texts = []string{"mill", "Mill House", "MILL", "100%", "a_b", `back\slash`, "it's", "ÄRGER", "ärger", "arger",
	"Straße", "STRASSE 1", "øre", "Σίσυφος", "σίσυφος", "x", "house 12", `"; DROP TABLE`}

// The objects refer to each other and to themselves, so that paths and related
// records of any shape come up.
func newWorld(seed uint64) *world {
	w := &world{r: rand.New(rand.NewPCG(seed, 1)), records: map[string][]*value.Record{},
		now: time.Date(2026, 11, 24, 10, 0, 0, 0, time.UTC)}
	types := []model.FieldType{model.Text, model.LongText, model.Whole, model.Decimal, model.Money, model.YesNo,
		model.Date, model.DateTime, model.Choice, model.Choices, model.Address}
	var objects []*model.Object
	for o := range 3 {
		ob := &model.Object{Key: fmt.Sprintf("o%d", o), Label: fmt.Sprintf("O%d", o), Plural: "Os", LabelField: "f0"}
		for i := range 7 {
			t := types[w.r.IntN(len(types))]
			if i == 0 {
				t = model.Text
			}
			f := model.Field{Key: fmt.Sprintf("f%d", i), Label: fmt.Sprintf("F%d", i), Type: t,
				IgnoreAccents: i%2 == 1 && (t == model.Text || t == model.LongText)}
			if t.Chosen() {
				f.Choices = []model.ChoiceValue{{Key: "red", Label: "Red"}, {Key: "green", Label: "Green"},
					{Key: "blue", Label: "Blue"}}
			}
			ob.Fields = append(ob.Fields, f)
		}
		to := fmt.Sprintf("o%d", w.r.IntN(3))
		ob.Fields = append(ob.Fields,
			model.Field{Key: "n", Label: "N", Type: model.Whole},
			model.Field{Key: "d", Label: "D", Type: model.Decimal},
			model.Field{Key: "p", Label: "P", Type: model.Money},
			model.Field{Key: "s", Label: "S", Type: model.Choices,
				Choices: []model.ChoiceValue{{Key: "red", Label: "Red"}, {Key: "mill", Label: "Mill"},
					{Key: `a "b\`, Label: "Quoted"}}},
			model.Field{Key: "a", Label: "A", Type: model.Address},
			model.Field{Key: "w1", Label: "W1", Type: model.WorkedOut, Result: model.Decimal,
				Expression: "d / n + either(d, 1.5) * 3"},
			model.Field{Key: "w2", Label: "W2", Type: model.WorkedOut, Result: model.Text,
				Expression: `f0 + (n > 2 ? " many" : " few")`},
			model.Field{Key: "w4", Label: "W4", Type: model.WorkedOut, Result: model.Text,
				Expression: `either(a.town, text(a)) + (size(s) > 1 ? "+" : "")`},
			model.Field{Key: "w5", Label: "W5", Type: model.WorkedOut, Result: model.YesNo,
				Expression: `f0 in ["mill", "x"] || "red" in s`},
			model.Field{Key: "w3", Label: "W3", Type: model.WorkedOut, Result: model.Money, Expression: "p * n / 7"},
			model.Field{Key: "t", Label: "T", Type: model.Date},
			// These cannot be computed of every record.
			model.Field{Key: "x1", Label: "X1", Type: model.WorkedOut, Result: model.Money,
				Expression: `p + money("1.25", "EUR")`},
			model.Field{Key: "x2", Label: "X2", Type: model.WorkedOut, Result: model.Whole,
				Expression: "n * 4611686018427387904 - 1"},
			model.Field{Key: "x3", Label: "X3", Type: model.WorkedOut, Result: model.Date,
				Expression: "t + n * 1000000"},
			// These use others.
			model.Field{Key: "y1", Label: "Y1", Type: model.WorkedOut, Result: model.Money,
				Expression: "round(either(x1, p) * 3 / 7)"},
			model.Field{Key: "y2", Label: "Y2", Type: model.WorkedOut, Result: model.Decimal,
				Expression: "(n > 1 ? w1 : d) * 2 + (empty(x2) ? 1 : 0)"},
			model.Field{Key: "r1", Label: "R1", Type: model.Reference, Object: to},
			model.Field{Key: "r3", Label: "R3", Type: model.Reference, Object: to},
			model.Field{Key: "r2", Label: "R2", Type: model.Reference, Object: fmt.Sprintf("o%d", w.r.IntN(3))})
		objects = append(objects, ob)
	}
	// Some fields are worked out when they are read: across references and over records that
	// point here.
	plain := model.New("EUR", objects...)
	for _, ob := range objects {
		ob.Fields = append(ob.Fields, model.Field{Key: "w6", Label: "W6", Type: model.WorkedOut, Result: model.Decimal,
			Expression: "either(r1.d, 0.5) * 2 + r1.n"})
		for _, l := range expr.RelatedLists(plain, ob.Key) {
			ob.Fields = append(ob.Fields,
				model.Field{Key: "w7_" + l.Name.Key, Label: "W7", Type: model.WorkedOut, Result: model.Whole,
					Expression: fmt.Sprintf(`size(%s.filter(x, x.n > 0 || x.f0 == "mill"))`, l.Name.Key)},
				model.Field{Key: "x4_" + l.Name.Key, Label: "X4", Type: model.WorkedOut, Result: model.Money,
					Expression: fmt.Sprintf("sum(%s.map(x, x.p))", l.Name.Key)},
				model.Field{Key: "y3_" + l.Name.Key, Label: "Y3", Type: model.WorkedOut, Result: model.Money,
					Expression: fmt.Sprintf("greatest(%s.filter(x, x.d != 0.5).map(x, x.x1))", l.Name.Key)},
				model.Field{Key: "y4_" + l.Name.Key, Label: "Y4", Type: model.WorkedOut, Result: model.Text,
					Expression: fmt.Sprintf(`(empty(x4_%[1]s) ? "none" : text(amount(x4_%[1]s))) + text((n > 0 ? r1 : r3).n)`, l.Name.Key)},
				// These depend on more of the record than which it is.
				model.Field{Key: "y5_" + l.Name.Key, Label: "Y5", Type: model.WorkedOut, Result: model.Whole,
					Expression: fmt.Sprintf("size(%[1]s.filter(x, x.n < n)) + size(%[1]s)", l.Name.Key)},
				model.Field{Key: "y6_" + l.Name.Key, Label: "Y6", Type: model.WorkedOut, Result: model.Whole,
					Expression: fmt.Sprintf("sum(%[1]s.map(x, size(%[1]s) + size(%[1]s.filter(z, z.n == x.n))))",
						l.Name.Key)},
				model.Field{Key: "w8_" + l.Name.Key, Label: "W8", Type: model.WorkedOut, Result: model.Decimal,
					Expression: fmt.Sprintf("least(%s.map(x, x.d * 2))", l.Name.Key)})
		}
	}
	w.m = model.New("EUR", objects...)
	return w
}

func (w *world) value(f *model.Field) value.Value {
	if w.r.IntN(4) == 0 {
		return nil
	}
	switch f.Kind() {
	case value.KindWhole:
		if w.r.IntN(15) == 0 { // digits that a binary number of 64 bits cannot hold
			return value.Whole(9007199254740993 * int64(w.r.IntN(900)-400))
		}
		return value.Whole(w.r.IntN(9) - 3)
	case value.KindDecimal:
		return value.Decimal{Decimal: decimal.New(int64(w.r.IntN(41)-20), -1)}
	case value.KindMoney:
		return value.Money{Amount: decimal.New(int64(w.r.IntN(9)*25), -2),
			Currency: []string{"EUR", "EUR", "SEK"}[w.r.IntN(3)]}
	case value.KindYesNo:
		return value.YesNo(w.r.IntN(2) == 0)
	case value.KindDate:
		return value.DateOf(w.now.AddDate(0, 0, w.r.IntN(21)-10))
	case value.KindInstant:
		return value.NewInstant(w.now.Add(time.Duration(w.r.IntN(21)-10) * 12 * time.Hour))
	case value.KindSeveral:
		var keys []string
		for range w.r.IntN(4) {
			keys = append(keys, f.Choices[w.r.IntN(len(f.Choices))].Key)
		}
		return value.NewSeveral(keys...)
	case value.KindAddress:
		part := func() string { return []string{"", "", "mill", "Mill", `a,"b\ (c)`}[w.r.IntN(5)] }
		return value.NewAddress(value.Address{Lines: part() + "\n" + part(), Town: part(), Postcode: part(),
			Country: part()})
	case value.KindRecord:
		if all := w.records[f.Target()]; len(all) > 0 {
			return all[w.r.IntN(len(all))]
		}
		return nil
	}
	if f.Type == model.Choice {
		return value.Text(f.Choices[w.r.IntN(len(f.Choices))].Key)
	}
	return value.Text(texts[w.r.IntN(len(texts))])
}

// fill makes records in Go and in the database, worked-out fields computed by each.
func (w *world) fill(t *testing.T, d apps.Records) {
	t.Helper()
	for range 2 { // twice, so that references point forwards too
		for _, key := range w.m.Keys() {
			o := w.m.Object(key)
			a := records.Addition{Object: o}
			for i := range o.Fields {
				if o.Fields[i].Stored() {
					a.Fields = append(a.Fields, &o.Fields[i])
				}
			}
			var made []*value.Record
			for range 15 {
				rec := &value.Record{Object: key, Fields: map[string]value.Value{}}
				row := make([]value.Value, len(a.Fields))
				for i, f := range a.Fields {
					if row[i] = w.value(f); row[i] != nil {
						rec.Fields[f.Key] = row[i]
					}
				}
				a.Rows, made = append(a.Rows, row), append(made, rec)
			}
			keys, err := d.Add(t.Context(), "test", a)
			if err != nil {
				t.Fatal(err)
			}
			for i, rec := range made {
				rec.ID = keys[i]
			}
			w.records[key] = append(w.records[key], made...)
		}
	}
	for range 4 { // some are made of others, across references and lists
		for _, key := range w.m.Keys() {
			for _, rec := range w.records[key] {
				w.workOut(t, d, w.m.Object(key), rec)
			}
		}
	}
}

func (w *world) workOut(t *testing.T, sight records.Sight, o *model.Object, rec *value.Record) {
	t.Helper()
	for i := range o.Fields {
		f := &o.Fields[i]
		if f.Type != model.WorkedOut {
			continue
		}
		worked, ok := sight.WorkedOut(o.Key, f.Key)
		if !ok {
			t.Fatalf("%s of %s has a mistake", f.Key, o.Key)
		}
		values := expr.Values{}
		for k, v := range rec.Fields {
			values[k] = v
		}
		for _, l := range expr.RelatedLists(w.m, o.Key) {
			to, err := w.Related(l.Refer.Object.Key, l.Refer.Field.Key, rec.ID)
			if err != nil {
				t.Fatal(err)
			}
			values[l.Name.Key] = &value.List{Object: l.Refer.Object.Key, Source: value.Records(to)}
		}
		v, err := worked.Program.Eval(values)
		if err != nil {
			t.Fatal(err)
		}
		if v != nil {
			rec.Fields[f.Key] = v
		}
	}
}

// Related reads from the records held in Go.
func (w *world) Related(object, field string, id int64) ([]*value.Record, error) {
	var out []*value.Record
	for _, rec := range w.records[object] {
		if to, ok := rec.Get(field).(*value.Record); ok && to.ID == id {
			out = append(out, rec)
		}
	}
	return out, nil
}

// condition makes a random condition on an object.
func (w *world) condition(object string, depth int) predicate.Condition {
	if depth > 0 {
		switch w.r.IntN(6) {
		case 0, 1:
			var members []predicate.Condition
			for range w.r.IntN(4) {
				members = append(members, w.condition(object, depth-1))
			}
			if w.r.IntN(2) == 0 {
				return predicate.Condition{All: members}
			}
			return predicate.Condition{Any: append(members, w.condition(object, 0))}
		case 2:
			if refs := w.m.ReferrersTo(object); len(refs) > 0 {
				ref := refs[w.r.IntN(len(refs))]
				return predicate.Condition{Related: &predicate.Related{Object: ref.Object.Key, Field: ref.Field.Key,
					None: w.r.IntN(2) == 0, Where: w.condition(ref.Object.Key, depth-1)}}
			}
		case 3:
			return predicate.Condition{Expression: w.formula(3)}
		}
	}
	return w.test(object)
}

func (w *world) test(object string) predicate.Condition {
	o := w.m.Object(object)
	var path []string
	f := &o.Fields[w.r.IntN(len(o.Fields))]
	for f.Target() != "" && len(path) < 2 && w.r.IntN(3) > 0 {
		path = append(path, f.Key)
		o = w.m.Object(f.Target())
		f = &o.Fields[w.r.IntN(len(o.Fields))]
	}
	path = append(path, f.Key)
	if f.Type == model.Address && w.r.IntN(4) > 0 {
		path = append(path, value.Parts(value.KindAddress)[w.r.IntN(4)])
		f = &model.Field{Label: f.Label, Type: model.Text}
	}
	ops := predicate.Operators(f)
	c := predicate.Condition{Field: strings.Join(path, "."), Op: ops[w.r.IntN(len(ops))], Empty: predicate.EmptyNothing}
	if w.r.IntN(3) == 0 {
		c.Empty = predicate.EmptySkip
	}
	literal := func() *predicate.Operand {
		if e := w.ofEdited(f); e != "" {
			return &predicate.Operand{Expression: e}
		}
		v := w.value(f)
		for v == nil {
			v = w.value(f)
		}
		if several, ok := v.(value.Several); ok {
			v = value.Text(several.Keys()[0])
		}
		if s, ok := v.(value.Text); ok && (c.Op == predicate.Contains || c.Op == predicate.StartsWith) {
			r := []rune(string(s))
			from := w.r.IntN(len(r))
			v = value.Text(string(r[from : from+1+w.r.IntN(len(r)-from)]))
		}
		raw, err := json.Marshal(value.Wire(v))
		if err != nil {
			panic(err)
		}
		if w.r.IntN(12) == 0 {
			raw = []byte("null")
		}
		return &predicate.Operand{Literal: raw}
	}
	switch c.Op {
	case predicate.IsEmpty, predicate.IsNotEmpty:
	case predicate.Between:
		c.Value, c.To = literal(), literal()
	case predicate.OneOf:
		if w.lists && f.Target() != "" && w.r.IntN(2) == 0 {
			c.Value = &predicate.Operand{Expression: "some_" + f.Target()}
			break
		}
		for range 1 + w.r.IntN(3) {
			c.Values = append(c.Values, *literal())
		}
	case predicate.WithinLastDays, predicate.WithinNextDays:
		c.Value = &predicate.Operand{Literal: fmt.Appendf(nil, "%d", w.r.IntN(8))}
	default:
		c.Value = literal()
	}
	return c
}

// ofEdited names a field of the record being edited, its own or one across a reference,
// that a field can be compared with; "" now and then, and when there is none.
func (w *world) ofEdited(f *model.Field) string {
	if w.edited == "" || w.r.IntN(3) == 0 {
		return ""
	}
	if f.Kind() == value.KindDecimal && w.r.IntN(3) == 0 {
		return "edited.d * 2 + either(edited.r1.w6, 0.5)"
	}
	o, path := w.m.Object(w.edited), "edited."
	if f.Kind() == value.KindSeveral {
		return []string{"edited.f0", "edited.a.town"}[w.r.IntN(2)]
	}
	for n := range 12 {
		g := &o.Fields[w.r.IntN(len(o.Fields))]
		if g.Kind() == f.Kind() && g.Target() == f.Target() && (path != "edited." || g.Type != model.WorkedOut) {
			return path + g.Key
		}
		if n == 5 && g.Target() != "" {
			o, path = w.m.Object(g.Target()), path+g.Key+"."
		}
	}
	return ""
}

// formula writes a random expression that is true or false.
func (w *world) formula(depth int) string {
	pick := func(from ...string) string { return from[w.r.IntN(len(from))] }
	number := func() string {
		n := func() string {
			if w.edited != "" && w.r.IntN(3) == 0 {
				return pick("edited.n", "edited.d", "edited.r1.d", "edited.r2.w1")
			}
			return pick("record.n", "record.d", "record.w1", "2", "0.5", "known")
		}
		return pick(n(), n(), "("+n()+" "+pick("+", "-", "*", "/")+" "+n()+")",
			"either("+pick("record.n, 1", "record.d, record.w1")+")")
	}
	if depth > 0 {
		switch w.r.IntN(5) {
		case 0:
			return "(" + w.formula(depth-1) + pick(" && ", " || ") + w.formula(depth-1) + ")"
		case 1:
			return "!" + w.formula(0)
		case 2:
			return "(" + w.formula(0) + " ? " + w.formula(depth-1) + " : " + w.formula(0) + ")"
		}
	}
	switch w.r.IntN(12) {
	case 8:
		return pick("empty(record.x1)", "empty(record.x2)", "empty(record.x3)", "empty(record.y1)",
			"(record.x1 != record.p)", "(either(record.x2, 1) > 0)", "(record.x3 < date(\"3000-01-01\"))",
			"(record.t + record.n > date(\"2026-11-20\"))", "(record.t - date(\"0001-01-01\") > 739942)",
			"!(either(record.x1, record.p) > money(\"1\", \"EUR\"))")
	case 9:
		return pick("(record.d == 1.5)", "(record.n != 2.0)", "(-record.d < 0.5)", "(-record.n == record.n)",
			"(amount(-record.p) * 2 < -1)", `(currency(record.p) == "EUR")`,
			`(round(record.p / 3) == money("0.5", "EUR"))`, "(round(record.d) > record.d)",
			"(whole(record.d / 2) == 0)", "(round(record.d, record.n) != record.d)")
	case 10:
		return pick(`(record.s == ["mill", "red"])`, `(record.s != ["red"])`,
			`(record.f0.endsWith("ll") || record.f0.contains(word))`,
			"((record.n > 1 ? record.r1 : record.r3).f0 != record.f0)",
			"((record.n > 1 ? record.r1 : record.r3) == record.r1)", "(text(record.d) + text(record.n > 1) != word)")
	case 11:
		return pick("(record.n / 2 > 0.5)", "(record.n % 2 == 1)", "((record.n + record.n * 3) * 2 >= known)",
			"(record.d > 0.12345678901234567890123)")
	case 6:
		return "(" + pick("record.a", "record.r1.a") + "." + pick("town", "lines", "country") + pick(".contains(word)",
			` == "mill"`, ` != record.f0`) + ")"
	case 7:
		return "(" + pick(`"red"`, "record.f0", "word", "record.a.town") + " in " + pick("record.s", "record.r2.s",
			`["red", "mill", "MILL"]`) + ")"
	case 0:
		if w.r.IntN(2) == 0 {
			return pick("(record.f0 < word)", `(record.f0 >= "Ärger")`, "(word <= record.r1.f0)",
				`withoutAccents(record.f0).contains("arger")`)
		}
		return "(record.f0 + \"!\" " + pick("==", "!=") + " \"mill!\")"
	case 1:
		return "record.f0." + pick("contains", "startsWith") + "(" + pick(`"mil"`, `"_"`, `"%"`, "word") + ")"
	case 2:
		return "empty(" + pick("record.n", "record.d", "record.p", "record.f0", "record.r1") + ")"
	case 3:
		return "(record.p " + pick("==", "!=", "<", ">=") + ` money("0.50", "EUR"))`
	case 4:
		return "(" + pick("lower", "upper", "trim") + "(record.w2) != \"MILL FEW\")"
	}
	return "(" + number() + " " + pick("<", "<=", ">", ">=") + " " + number() + ")"
}

func install(t *testing.T, db *postgres.DB, app string, person int64, m *model.Model) {
	t.Helper()
	doc := func(kind definition.Kind, key string, v any) definition.Document {
		raw, err := json.Marshal(v)
		if err != nil {
			t.Fatal(err)
		}
		return definition.Document{Kind: kind, Key: key, Revision: 1, Body: raw}
	}
	role := map[string]any{"key": "all", "label": "All", "objects": map[string]any{}}
	docs := []definition.Document{doc(definition.App, app, edition.App{Key: app, Label: app, Currency: "EUR",
		Zone: m.Location().String()})}
	for _, k := range m.Keys() {
		role["objects"].(map[string]any)[k] = map[string]any{"see": true, "add": true}
		docs = append(docs, doc(definition.Object, k, m.Object(k)))
	}
	docs = append(docs, doc(definition.Role, "all", role))
	if err := apps.InstallApp(t.Context(), db, app, docs, person); err != nil {
		t.Fatal(err)
	}
	if err := accounts.Join(t.Context(), db, app, postgres.Trial, person, []string{"all"}, 0); err != nil {
		t.Fatal(err)
	}
}

func ids(records []*value.Record) []int64 {
	out := make([]int64, len(records))
	for i, r := range records {
		out[i] = r.ID
	}
	return out
}

// tester adds the builder whose worlds the tests fill and gives their id.
func tester(t *testing.T, db *postgres.DB) int64 {
	t.Helper()
	person, err := accounts.AddPerson(t.Context(), db,
		accounts.NewPerson{Name: "Tester", Email: "tester@quillmere.example", Builder: true}, "x")
	if err != nil {
		t.Fatal(err)
	}
	return person
}
