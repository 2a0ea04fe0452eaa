package expr

import (
	"errors"
	"reflect"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"

	"plainpath/core/model"
	"plainpath/core/value"
)

func liftModel() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "building", Label: "Building", LabelField: "name", Fields: []model.Field{
			{Key: "name", Label: "Name", Type: model.Text, Required: true},
			{Key: "floors", Label: "Floors", Type: model.Whole}}},
		&model.Object{Key: "lift", Label: "Lift", LabelField: "serial", Fields: []model.Field{
			{Key: "serial", Label: "Serial number", Type: model.Text, Required: true},
			{Key: "building", Label: "Building", Type: model.Reference, Object: "building"},
			{Key: "load", Label: "Load", Type: model.Decimal},
			{Key: "price", Label: "Price", Type: model.Money},
			{Key: "goods", Label: "Goods", Type: model.YesNo},
			{Key: "inspected", Label: "Last inspected", Type: model.Date}}})
}

func liftScope() Scope {
	return Scope{Model: liftModel(), Names: []Name{
		{Key: "lift", Label: "Lift", Type: Type{Kind: value.KindRecord, Object: "lift"}},
		{Key: "lifts", Label: "Lifts", Type: Type{Kind: value.KindList, Object: "lift"}},
		{Key: "today", Label: "Today", Type: Type{Kind: value.KindDate}},
		{Key: "which", Label: "Which", Type: Type{Kind: value.KindScreen,
			Answers: []Name{{Key: "part", Label: "Part", Type: Type{Kind: value.KindText, Empty: true}}}}},
	}}
}

func num(s string) value.Decimal { d, _ := value.NewDecimal(s); return d }

func TestEmptyHasOneMeaning(t *testing.T) {
	full := &value.Record{Object: "lift", ID: 1, Fields: map[string]value.Value{
		"serial": value.Text("QL-7"), "load": num("0.1"),
		"price": value.Money{Amount: decimal.RequireFromString("10.05"), Currency: "EUR"},
		"goods": value.YesNo(true), "inspected": value.Date{Year: 2026, Month: 2, Day: 28},
		"building": &value.Record{Object: "building", ID: 3,
			Fields: map[string]value.Value{"name": value.Text("Mill House")}}}}
	bare := &value.Record{Object: "lift", ID: 2, Fields: map[string]value.Value{}}
	for _, c := range []struct {
		source     string
		full, bare value.Value
	}{
		{`lift.load + 0.2`, num("0.3"), nil},
		{`lift.load * 3`, num("0.3"), nil},
		{`1 / lift.load`, num("10"), nil},
		{`lift.price * 3 == money("30.15", "EUR")`, value.YesNo(true), value.YesNo(false)},
		{`lift.price > money("1", "SEK")`, value.YesNo(false), value.YesNo(false)},
		{`lift.load > 0.05`, value.YesNo(true), value.YesNo(false)},
		{`lift.serial == "QL-7"`, value.YesNo(true), value.YesNo(false)},
		{`lift.serial != "QL-7"`, value.YesNo(false), value.YesNo(true)},
		{`!lift.goods`, value.YesNo(false), value.YesNo(true)},
		{`lift.goods && true`, value.YesNo(true), value.YesNo(false)},
		{`lift.goods ? "goods" : "people"`, value.Text("goods"), value.Text("people")},
		{`lift.building.name + "!"`, value.Text("Mill House!"), nil},
		{`empty(lift.building.name)`, value.YesNo(false), value.YesNo(true)},
		{`either(lift.building.name, "none")`, value.Text("Mill House"), value.Text("none")},
		{`lift.inspected + 1`, value.Date{Year: 2026, Month: 3, Day: 1}, nil},
		{`lift.inspected < today`, value.YesNo(true), value.YesNo(false)},
		{`lift.building.name.contains("mill")`, value.YesNo(true), value.YesNo(false)},
		{`lift.building.name.startsWith("M")`, value.YesNo(true), value.YesNo(false)},
		{`!lift.building.name.endsWith("se")`, value.YesNo(false), value.YesNo(true)},
		{`lift.load == 0.1`, value.YesNo(true), value.YesNo(false)},
		{`lift.load != 1`, value.YesNo(true), value.YesNo(true)},
		{`1 == lift.load * 10`, value.YesNo(true), value.YesNo(false)},
		{`7 / 2`, num("3.5"), num("3.5")},
		{`whole(lift.load * -79)`, value.Whole(-7), nil},
		{`-lift.load`, num("-0.1"), nil},
		{`amount(-lift.price)`, num("-10.05"), nil},
		{`currency(lift.price)`, value.Text("EUR"), nil},
		{`amount(round(lift.price / 3))`, num("3.35"), nil},
		{`amount(round(money("10.5", "JPY")))`, num("11"), num("11")},
		{`amount(round(lift.price, 1))`, num("10.1"), nil},
		{`round(lift.load)`, num("0"), nil},
		{`lifts[5].load`, nil, nil},
		{`either(lift.load, 1 / 0)`, num("0.1"), nil},
		{`size(lifts)`, value.Whole(2), value.Whole(2)},
		{`first(lifts).serial`, value.Text("QL-7"), value.Text("QL-7")},
		{`lifts.exists(l, l.goods)`, value.YesNo(true), value.YesNo(true)},
		{`size(lifts.filter(l, l.serial == "QL-7"))`, value.Whole(1), value.Whole(1)},
	} {
		p, err := Compile(liftScope(), c.source)
		if err != nil {
			t.Errorf("%s: %v", c.source, err)
			continue
		}
		for _, r := range []struct {
			record *value.Record
			want   value.Value
		}{{full, c.full}, {bare, c.bare}} {
			got, err := p.Eval(Values{"lift": r.record, "today": value.Date{Year: 2026, Month: 11, Day: 24},
				"lifts": &value.List{Object: "lift", Source: value.Records{full, bare}}})
			same := got == nil && r.want == nil || value.Equal(got, r.want)
			if err != nil || !same {
				t.Errorf("%s of record %d = %v, %v; want %v", c.source, r.record.ID, got, err, r.want)
			}
		}
	}
}

// What cannot be computed from the data is a value that says why; whatever is made of it fails
// likewise, it is not empty, and nothing holds of it.
func TestWhatFailsSaysWhy(t *testing.T) {
	sek := value.Money{Amount: decimal.NewFromInt(1), Currency: "SEK"}
	r := &value.Record{Object: "lift", ID: 1,
		Fields: map[string]value.Value{"price": value.Money{Amount: decimal.NewFromInt(1), Currency: "EUR"},
			"serial":    value.Text("x"),
			"inspected": value.Date{Year: 9999, Month: 12, Day: 31},
			"building":  &value.Record{Fields: map[string]value.Value{"floors": value.Whole(1 << 62)}}}}
	const mixed = "cannot be added: EUR and SEK"
	for source, want := range map[string]value.Value{
		`lift.price + money("1", "SEK")`:                           value.Failure{Why: mixed},
		`(money("1", "SEK") + lift.price) * lift.load`:             value.Failure{Why: mixed},
		`empty(lift.price + money("1", "SEK"))`:                    value.YesNo(false),
		`lift.price + money("1", "SEK") > money("1", "EUR")`:       value.YesNo(false),
		`lift.price + money("1", "SEK") != lift.price`:             value.YesNo(true),
		`either(lift.price + money("1", "SEK"), lift.price)`:       value.Failure{Why: mixed},
		`sum([lift.price, money("1", "SEK"), money("1", "DKK")])`:  value.Failure{Why: "cannot be added: DKK and SEK"},
		`sum([money("1", "EUR") + money("2", "SEK"), lift.price])`: value.Failure{Why: mixed},
		`lift.building.floors * 2`:                                 value.Failure{Why: value.TooLarge},
		`-(-lift.building.floors - lift.building.floors)`:          value.Failure{Why: value.TooLarge},
		`lift.building.floors * 2.0`:                               num("9223372036854775808"),
		`sum(lifts.map(l, l.building.floors))`:                     value.Failure{Why: value.TooLarge},
		`lift.inspected + 1`:                                       value.Failure{Why: value.BeyondCalendar},
		`lift.inspected + 9000000000000000000`:                     value.Failure{Why: value.BeyondCalendar},
		`decimal(lift.serial)`:                                     value.Failure{Why: `"x" is not a number`},
		`date(lift.serial)`:                                        value.Failure{Why: `"x" is not a date such as 2026-03-01`},
		`round(1.5, lift.building.floors)`:                         value.Failure{Why: "cannot be rounded to 4611686018427387904 places: at most 100"},
		`add_minutes(now, lift.building.floors)`:                   value.Failure{Why: value.BeyondCalendar},
	} {
		p, err := Compile(liftScope().With(Name{Key: "now", Label: "Now", Type: Type{Kind: value.KindInstant}}), source)
		if err != nil {
			// constants are tried when they are written
			if e := (*Error)(nil); errors.As(err, &e) && strings.Contains(source, `money("2", "SEK")`) {
				continue
			}
			t.Errorf("%s: %v", source, err)
			continue
		}
		got, err := p.Eval(Values{"lift": r, "lifts": &value.List{Object: "lift", Source: value.Records{r, r}},
			"sek": sek,
			"now": value.NewInstant(time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC))})
		if failed, ok := want.(value.Failure); err != nil || ok && got != failed || !ok && !value.Equal(got, want) {
			t.Errorf("%s = %v, %v; want %v", source, got, err, want)
		}
	}
}

// However often an expression doubles a text or squares a number, alone or for each record of a
// list, what it makes stays within bounds.
func TestWhatGrowsIsStopped(t *testing.T) {
	many := make(value.Records, 5000)
	for i := range many {
		many[i] = &value.Record{Object: "lift",
			Fields: map[string]value.Value{"serial": value.Text(strings.Repeat("x", 20000)), "load": num("1.23456789")}}
	}
	for source, why := range map[string]string{
		strings.Repeat("[", 28) + "lifts[0].serial" + strings.Repeat("].map(a, a + a)[0]",
			28): value.TooLong(value.MostText),
		strings.Repeat("sum([", 28) + "lifts[0].load" + strings.Repeat("].map(a, a * a))", 28): value.TooManyDigits,
		`size(lifts.map(l, l.serial + "!"))`:                                                   value.TooLong(value.MostText),
		`size(lifts.map(l, lifts.map(m, m.serial + l.serial)[0]))`:                             value.TooLong(value.MostText),
		`lifts.map(l, l.serial.upper())[0]`:                                                    value.TooLong(value.MostText),
	} {
		p, err := Compile(liftScope(), source)
		if err != nil {
			t.Errorf("%s: %v", source, err)
			continue
		}
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		got, err := p.Eval(Values{"lifts": &value.List{Object: "lift", Source: many}})
		runtime.ReadMemStats(&after)
		failed, _ := got.(value.Failure)
		if err != nil || failed.Why != why {
			t.Errorf("%s = %.100v, %v; want %s", source, got, err, why)
		}
		if made := (after.TotalAlloc - before.TotalAlloc) >> 20; made > 100 {
			t.Errorf("%s made %d MB", source, made)
		}
	}
}

// What names nothing is tried when it is written, and refused where it stands.
func TestConstantsAreTriedWhenWritten(t *testing.T) {
	for source, want := range map[string]struct {
		says   string
		offset int
	}{
		`date("2024-02-30")`: {"not a date", 4},
		`lift.serial == "x" || date("0000-01-01") > today`: {"no year 0", 26},
		`money("x", "EUR")`:                     {"not an amount", 5},
		`money("1", "EURO")`:                    {"not a currency", 5},
		`round(1.5, 4294967298)`:                {"cannot be rounded", 5},
		`money("1", "EUR") + money("1", "SEK")`: {"cannot be added: EUR and SEK", 18},
		`9223372036854775807 + 1`:               {"too large", 20},
		`lift.serial == "a\u0000b"`:             {"U+0000", 15},
		`lift.serial + "\x00" == "a"`:           {"U+0000", 14},
		`today + duration("1h")`:                {`nothing is known here by the name "duration"`, 8},
		`today - now`:                           {"cannot be used with", 6},
		`now - now`:                             {"cannot be used with", 4},
		`[1, 2]`:                                {"cannot be used here", 0},
		`has(lift.serial)`:                      {"nothing is known here", 0},
		`{"a": 1}`:                              {"cannot be used here", 0},
		`b"x"`:                                  {"cannot be used here", 0},
		`today.getFullYear()`:                   {"nothing is known here", 6},
	} {
		_, err := Compile(liftScope().With(Name{Key: "now", Label: "Now", Type: Type{Kind: value.KindInstant}}), source)
		var e *Error
		if !errors.As(err, &e) || !strings.Contains(e.Text, want.says) || e.Offset != want.offset {
			t.Errorf("%s: %+v", source, err)
		}
	}
}

// Numbers are read as they are written, whatever their length.
func TestNumbersAreReadAsTheyAreWritten(t *testing.T) {
	for source, want := range map[string]string{
		`0.1234567890123456789`:                              "0.1234567890123456789",
		`- 12345678901234567.25`:                             "-12345678901234567.25",
		`1e-7 + 2.50e3`:                                      "2500.0000001",
		`(lift.load * 100000000000000000000.01) / 10.0`:      "1000000000000000000.0001",
		`sum(lifts.map(l, l.load * 1.00000000000000000001))`: "0.200000000000000000002",
		"1 +\n 0.30000000000000000001":                       "1.30000000000000000001",
	} {
		p, err := Compile(liftScope(), source)
		if err != nil {
			t.Errorf("%s: %v", source, err)
			continue
		}
		r := &value.Record{Object: "lift", Fields: map[string]value.Value{"load": num("0.1")}}
		got, err := p.Eval(Values{"lift": r, "lifts": &value.List{Object: "lift", Source: value.Records{r, r}}})
		if err != nil || !value.Equal(got, num(want)) {
			t.Errorf("%s = %v, %v", source, got, err)
		}
	}
}

func TestErrorsSayWhereAndWhatWasMeant(t *testing.T) {
	for _, c := range []struct {
		source, nearest, text string
		offset                int
	}{
		{`lift.serail`, "serial", "no field", 4},
		{`1 + size(lfts)`, "lifts", "nothing is known", 9},
		{`lift.building.nmae == "x"`, "name", "no field", 13},
		{`lift.load + "x"`, "", "cannot be used with", 10},
		{`lift.load +`, "", "cannot be read", 11},
	} {
		_, err := Compile(liftScope(), c.source)
		var e *Error
		if !errors.As(err, &e) || e.Offset != c.offset || e.Nearest != c.nearest || !strings.Contains(e.Text, c.text) {
			t.Errorf("%s: %+v", c.source, e)
		}
	}
	if _, err := CompileAs(liftScope(), `lifts`, Type{Kind: value.KindRecord, Object: "lift"}); err == nil ||
		err.Error() != "this gives a list of lift records, but one lift is wanted here" {
		t.Errorf("a list where a record is wanted: %v", err)
	}
}

func TestWhatAnExpressionUses(t *testing.T) {
	for source, want := range map[string]string{
		`lift.building.name + which.part + first(lifts).serial + (lifts.exists(l, l.goods) ? "a" : "b")`: "lift.building.name lifts lifts.goods lifts.serial which.part",
		`sum(lifts.filter(l, l.load > 2).map(l, l.price))`:                                               "lifts lifts.load lifts.price",
		`lifts.filter(l, l.goods).exists(k, k.load > 0)`:                                                 "lifts lifts.goods lifts.load",
		`first(lifts.filter(l, l.goods)).building.name`:                                                  "lifts lifts.building.name lifts.goods",
		`first(lifts.map(l, l.building)).name`:                                                           "lifts lifts.building.name",
		`lifts[size(lifts.filter(l, l.goods)) - 1].serial`:                                               "lifts lifts.goods lifts.serial",
		`(lift.goods ? lift : first(lifts)).building.name`:                                               "lift.building.name lift.goods lifts.building.name",
		`[lift, first(lifts)].exists(l, empty(l.price))`:                                                 "lift lift.price lifts lifts.price",
		`(lifts + lifts).all(l, lifts.exists(k, k.load == l.load))`:                                      "lifts lifts.load",
	} {
		p, err := Compile(liftScope(), source)
		if err != nil {
			t.Errorf("%s: %v", source, err)
			continue
		}
		var got []string
		for _, u := range p.Uses {
			got = append(got, strings.Join(u, "."))
		}
		if s := strings.Join(got, " "); s != want {
			t.Errorf("%s uses %s; want %s", source, s, want)
		}
	}
	for source, empty := range map[string]bool{`lift.building.name`: true, `first(lifts).serial`: true,
		`lift.serial`: false, `lifts[0].load`: true, `"x" + lift.serial`: false} {
		if p, err := Compile(liftScope(), source); err != nil || p.Type.Empty != empty {
			t.Errorf("%s may be empty: %t, %v", source, !empty, err)
		}
	}
}

// A field that nobody had read is an error wherever it is taken from, never an empty value.
func TestAFieldThatWasNotReadIsNotEmpty(t *testing.T) {
	part := &value.Record{Object: "lift", ID: 1, Fields: map[string]value.Value{"serial": value.Text("QL-7"),
		"building": &value.Record{Object: "building", ID: 2}},
		Extent: value.Extent{"serial": true, "building": true, "goods": true}}
	values := Values{"lift": part, "lifts": &value.List{Object: "lift", Source: value.Records{part}}}
	for _, source := range []string{`lift.load > 1`, `lift.building.name + "x"`, `lift.building.floors`,
		`first(lifts).price`, `lifts.exists(l, l.inspected < today)`, `empty(lift.load)`} {
		p, err := Compile(liftScope(), source)
		if err != nil {
			t.Fatal(err)
		}
		v, err := p.Eval(values)
		var missing *value.NotReadError
		if !errors.As(err, &missing) {
			t.Errorf("%s: %v, %v", source, v, err)
		}
	}
	if p, _ := Compile(liftScope(), `empty(lift.goods) && lift.serial == "QL-7"`); p != nil {
		if v, err := p.Eval(values); err != nil || v != value.YesNo(true) {
			t.Errorf("what was read and is empty: %v, %v", v, err)
		}
	}
}

func TestTextsTakeValuesInBraces(t *testing.T) {
	shown := &model.Object{Key: "call", Label: "Call", LabelField: "no", Fields: []model.Field{
		{Key: "state", Label: "State", Type: model.Choice,
			Choices: []model.ChoiceValue{{Key: "new", Label: "Brand new"}}},
		{Key: "no", Label: "No", Type: model.Number, Prefix: "SC-"},
		{Key: "price", Label: "Price", Type: model.Money}, {Key: "at", Label: "At", Type: model.DateTime}}}
	tpl, err := CompileTemplate(liftScope(), "{{ {lift.serial} on {today}, {size(lifts)} lifts")
	if err != nil {
		t.Fatal(err)
	}
	got, err := tpl.Render(Values{"lift": &value.Record{Fields: map[string]value.Value{"serial": value.Text("QL-7")}},
		"today": value.Date{Year: 2026, Month: 1, Day: 2}, "lifts": &value.List{Source: value.Records{}}})
	if err != nil || got.String() != "{ QL-7 on 2026-01-02, 0 lifts" {
		t.Errorf("%q, %v", got, err)
	}
	for text, want := range map[string]Piece{
		"{call.state}": {Type: model.Choice, Value: value.Text("new"),
			Choices: shown.Fields[0].Choices},
		`{either(call.state, "none")}`: {Type: model.Choice, Value: value.Text("new"),
			Choices: shown.Fields[0].Choices},
		"{call.no}":     {Type: model.Number, Value: value.Whole(7), Prefix: "SC-"},
		"{call.no + 1}": {Type: model.Whole, Value: value.Whole(8)},
		"{call.price * 2}": {Type: model.Money,
			Value: value.Wire(value.Money{Amount: decimal.New(2500, 0), Currency: "EUR"})},
		"{call.at}":                        {Type: model.DateTime, Value: "2026-01-02T23:30:00Z"},
		"{call.state + \"!\"}":             {Text: "new!", Given: true},
		"{call}":                           {Text: "SC-7", Given: true},
		`{call.price + money("1", "SEK")}`: {Text: "cannot be added: EUR and SEK", Given: true},
	} {
		tpl, err := CompileTemplate(Scope{Model: model.New("EUR", shown),
			Names: []Name{{Key: "call", Label: "Call", Type: Type{Kind: value.KindRecord, Object: "call"}}}}, text)
		if err != nil {
			t.Errorf("%s: %v", text, err)
			continue
		}
		got, err := tpl.Render(Values{"call": &value.Record{Label: "SC-7",
			Fields: map[string]value.Value{"state": value.Text("new"), "no": value.Whole(7),
				"price": value.Money{Amount: decimal.New(1250, 0), Currency: "EUR"},
				"at":    value.NewInstant(time.Date(2026, 1, 2, 23, 30, 0, 0, time.UTC))}}})
		for i := range got {
			got[i].of = nil
		}
		if err != nil || !reflect.DeepEqual(got, Sentence{want}) {
			t.Errorf("%s is %+v, %v; want %+v", text, got, err, want)
		}
	}
	var e *Error
	if _, err := CompileTemplate(liftScope(), "Hello {lift.nope}"); !errors.As(err, &e) || e.Offset != 11 {
		t.Errorf("offset in a text: %+v", e)
	}
}

func BenchmarkTypicalCondition(b *testing.B) {
	p, err := Compile(liftScope(), `lift.goods && lift.load > 0.05`)
	if err != nil {
		b.Fatal(err)
	}
	values := Values{"lift": &value.Record{Fields: map[string]value.Value{"goods": value.YesNo(true),
		"load": num("0.1")}}}
	for b.Loop() {
		if ok, err := p.True(values); !ok || err != nil {
			b.Fatal(ok, err)
		}
	}
}

func BenchmarkTwoComparisons(b *testing.B) {
	p, err := Compile(liftScope(), `lift.serial == "QL-7" && lift.building.floors > 3`)
	if err != nil {
		b.Fatal(err)
	}
	values := Values{"lift": &value.Record{Fields: map[string]value.Value{"serial": value.Text("QL-7"),
		"building": &value.Record{Fields: map[string]value.Value{"floors": value.Whole(7)}}}}}
	for b.Loop() {
		if ok, err := p.True(values); !ok || err != nil {
			b.Fatal(ok, err)
		}
	}
}

func TestCasesSortedDistinctFormatted(t *testing.T) {
	list := func(names ...string) *value.List {
		var all value.Records
		for i, n := range names {
			all = append(all, &value.Record{Object: "lift", ID: int64(i + 1), Label: n,
				Fields: map[string]value.Value{"serial": value.Text(n)}})
		}
		return &value.List{Object: "lift", Source: all}
	}
	s := liftScope().With(Name{Key: "all", Label: "All", Type: Type{Kind: value.KindList, Object: "lift"}}).
		With(Name{Key: "n", Label: "N", Type: Type{Kind: value.KindWhole}})
	for source, want := range map[string]string{
		`cases(n > 9, "many", n > 1, "some", "few")`:                           "some",
		`cases(n > 99, "many", "few")`:                                         "few",
		`join(sorted(all.map(l, l.serial)))`:                                   "Ada, Öre, Zoe",
		`first(sorted(all)).serial`:                                            "Ada",
		`text(size(distinct(all + all)))`:                                      "3",
		`formatted(1234567.895, 2)`:                                            "1,234,567.90",
		`formatted(-1234, 0) + formatted(-0.004, 2) + " " + formatted(999, 1)`: "-1,2340.00 999.0",
	} {
		p, err := Compile(s, source)
		if err != nil {
			t.Errorf("%s: %v", source, err)
			continue
		}
		v, err := p.Eval(Values{"all": list("Zoe", "Öre", "Ada"), "n": value.Whole(5)})
		if err != nil || value.Display(v) != want {
			t.Errorf("%s is %q, %v; want %q", source, value.Display(v), err, want)
		}
	}
	for _, wrong := range []string{`cases(n > 9, "many")`, `cases("a")`, `cases(n, "x", "y")`, `cases(true, 1, "y")`} {
		if _, err := Compile(s, wrong); err == nil {
			t.Errorf("%s is taken", wrong)
		}
	}
}
