package postgres_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/testdb"
)

// forms are what expressions of each type are made of; a letter in braces stands for one of its
// type: Text, whole Number, Decimal, Money, yes or no (B), Address, daY, Instant, Several.
var forms = map[byte][]string{
	'T': {"t", "u", "c", "ref.t", "a.town", "a.country", `"ab"`, `"Éa ß"`, `" "`, "({T} + {T})", "lower({T})",
		"upper({T})", "trim({T})", "withoutAccents({T})", "text({N})", "text({D})", "text({B})",
		"text({Y})", "text({A})", "currency({M})", "part({T}, {N}, {N})", "{T}.piece({T}, {N})", `piece({T}, "a", 2)`,
		"replace({T}, {T}, {T})", "padLeft({T}, {N}, {T})", "{T}.padRight(12, {T})", "weekdayName({Y})",
		"monthName({Y})", "longDate({Y})",
		"either({T}, {T})", "needed({T}, {T})", "({B} ? {T} : {T})"},
	'N': {"n", "m", "ref.n", "0", "1", "-3", "9223372036854775807", "({N} + {N})", "({N} - {N})", "({N} * {N})",
		"({N} % {N})", "(-{N})", "whole({D})", "whole({N})", "size({T})", "size({S})", "({Y} - {Y})", "hour({I})",
		"minutesBetween({I}, {I})", "year({Y})", "month({Y})", "day({Y})", "quarter({Y})", "week({Y})",
		"weekday({Y})", "daysBetween({Y}, {Y})", "monthsBetween({Y}, {Y})", "yearsBetween({Y}, {Y})",
		"workingDaysBetween({Y}, {Y})",
		"floor({D})", "ceiling({D})", "floor({N})", "absolute({N})", "remainder({N}, {N})", "least({N}, {N})",
		"greatest({N}, {N}, {N})", "either({N}, {N})", "needed({N}, {T})", "({B} ? {N} : {N})"},
	'D': {"d", "e", "ref.d", "0.5", "-1.25", "0.00000000000000000001", "({D} + {D})", "({D} - {N})", "({N} * {D})",
		"({D} * {D})", "({D} / {D})", "({N} / {N})", "({D} / {N})", "(-{D})", "round({D})", "round({N}, {N})",
		"round({D}, {N})", "decimal({N})", "amount({M})", "absolute({D})", "remainder({D}, {N})", "remainder({D}, {D})",
		"percent({D}, {D})", "percent({N}, {N})", "least({D}, {N})", "greatest({D}, {D}, {D})", "least({N}, {D})",
		"either({D}, {N})", "needed({D}, {T})", "({B} ? {D} : {D})"},
	'M': {"p", "q", "ref.p", `money("1.005", "EUR")`, `money("7", "JPY")`, "({M} + {M})", "({M} - {M})", "({M} * {N})",
		"({D} * {M})", "({M} / {D})", "({M} / {N})", "(-{M})", "round({M})", "round({M}, {N})", "absolute({M})",
		"either({M}, {M})", "needed({M}, {T})", "({B} ? {M} : {M})"},
	'B': {"b", "true", "({T} == {T})", "({N} != {N})", "({N} == {D})", "({M} == {M})", "({Y} == {Y})", "({I} != {I})",
		"({S} == {S})", "({B} == {B})", "({T} < {T})", "({N} <= {D})", "({D} > {D})", "({M} >= {M})",
		"({Y} < {Y})", "({I} >= {I})", "({T} in {S})", "empty({T})", "empty({N})", "empty({M})", "empty({D})",
		"empty({Y})", "empty(ref)", "{T}.contains({T})", "{T}.startsWith({T})", "{T}.endsWith({T})",
		"({B} && {B})", "({B} || {B})", "(!{B})", "either({B}, {B})", "needed({B}, {T})", "({B} ? {B} : {B})"},
	'Y': {"y", "z", "ref.y", `date("2024-02-29")`, `date("9999-12-31")`, "({Y} + {N})", "({Y} - {N})", "dateOf({I})",
		"firstOfWeek({Y})", "lastOfWeek({Y})", "firstOfMonth({Y})", "lastOfMonth({Y})", "firstOfYear({Y})",
		"lastOfYear({Y})", "addDays({Y}, {N})", "addMonths({Y}, {N})", "addYears({Y}, {N})",
		"addWorkingDays({Y}, {N})",
		"least({Y}, {Y})", "greatest({Y}, {Y}, {Y})", "either({Y}, {Y})", "needed({Y}, {T})", "({B} ? {Y} : {Y})"},
	'I': {"i", "j", "add_minutes({I}, {N})", "least({I}, {I})", "either({I}, {I})",
		"needed({I}, {T})", "({B} ? {I} : {I})"},
	'S': {"s", "ref.s", `["red", "blue"]`, "needed({S}, {T})"},
	'A': {"a", "ref.a", "needed({A}, {T})"},
}

var results = map[byte]model.FieldType{'T': model.Text, 'N': model.Whole, 'D': model.Decimal, 'M': model.Money,
	'B': model.YesNo, 'Y': model.Date, 'I': model.DateTime}

// formulaOf makes an expression of a type at random.
func formulaOf(r *rand.Rand, kind byte, depth int) string {
	of := forms[kind]
	if depth == 0 {
		of = slices.DeleteFunc(slices.Clone(of), func(f string) bool { return strings.Contains(f, "{") })
	}
	form := of[r.IntN(len(of))]
	for {
		at := strings.IndexByte(form, '{')
		if at < 0 {
			return form
		}
		form = form[:at] + formulaOf(r, form[at+1], depth-1) + form[at+3:]
	}
}

var farValues = map[model.FieldType][]string{
	model.LongText: {`"mill"`, `"İstanbul ıI"`, `"straße ẞ"`, `"ﬃ Œuvre"`, `"Ǆ ǅ ǆ"`, `"ΑΣ σς"`, `"e\u0301te\u0301"`,
		`"  x  "`, `"a\tb\nc"`, `"🛗 lift"`, `"100% _x_ \\"`, `"Ωmega"`, `"ŉ ǰ ΐ"`, `"Éa ß"`, `"ab"`},
	model.Whole: {"0", "1", "-1", "7", "9223372036854775807", "-9223372036854775808", "3000000000", "-40", "63"},
	model.Decimal: {`"0"`, `"0.1"`, `"-0.05"`, `"2.5"`, `"-2.5"`, `"12345678901234567890.123456789"`,
		`"0.00000000000000000007"`, `"-99999.995"`, `"1000000"`},
	model.Money: {`{"amount":"0.5","currency":"EUR"}`, `{"amount":"-1.005","currency":"EUR"}`,
		`{"amount":"1250.5","currency":"JPY"}`, `{"amount":"3.14159","currency":"KWD"}`,
		`{"amount":"99999999999999.99","currency":"EUR"}`,
		`{"amount":"0","currency":"USD"}`},
	model.YesNo: {"true", "false"},
	model.Date:  {`"0001-01-01"`, `"9999-12-31"`, `"2024-02-29"`, `"2026-11-27"`, `"1900-03-01"`, `"1582-10-10"`},
	model.DateTime: {`"2026-03-29T01:30:00Z"`, `"0001-01-02T00:00:00Z"`, `"9999-12-30T23:59:59Z"`,
		`"1969-12-31T23:59:59Z"`, `"2026-11-27T12:00:00.123456Z"`},
	model.Choice:  {`"red"`, `"blue"`, `"Éa ß"`},
	model.Choices: {`["red"]`, `["blue","red"]`, `["Éa ß","ab"]`, `["ab"]`},
	model.Address: {`{"lines":"1 Mill Lane\nrear","town":"Varrow","postcode":"6010","country":"Ireland"}`,
		`{"lines":"","town":"ab","postcode":"","country":""}`,
		`{"lines":"x","town":"","postcode":"","country":"Éa ß"}`},
}

// Every operator and function gives the same in the database as in Go, of every value that a
// field can hold, the farthest ones too, and fails of the same with the same words.
func TestEveryFunctionGivesTheSameInSQLAndInGo(t *testing.T) {
	db := testdb.New(t)
	person := tester(t, db)
	compared, failed, empty := 0, 0, 0
	for seed := range uint64(3) {
		r := rand.New(rand.NewPCG(seed, 77))
		o := &model.Object{Key: "o", Label: "O", Plural: "Os", LabelField: "t"}
		choices := []model.ChoiceValue{{Key: "red", Label: "Red"}, {Key: "blue", Label: "Blue"},
			{Key: "ab", Label: "Ab"}, {Key: "Éa ß", Label: "E"}}
		for _, f := range []model.Field{{Key: "t", Type: model.LongText}, {Key: "u", Type: model.Text},
			{Key: "n", Type: model.Whole}, {Key: "m", Type: model.Whole}, {Key: "d", Type: model.Decimal},
			{Key: "e", Type: model.Decimal},
			{Key: "p", Type: model.Money}, {Key: "q", Type: model.Money}, {Key: "b", Type: model.YesNo},
			{Key: "y", Type: model.Date}, {Key: "z", Type: model.Date}, {Key: "i", Type: model.DateTime},
			{Key: "j", Type: model.DateTime},
			{Key: "c", Type: model.Choice, Choices: choices}, {Key: "s", Type: model.Choices, Choices: choices},
			{Key: "a", Type: model.Address}} {
			f.Label = f.Key
			o.Fields = append(o.Fields, f)
		}
		o.Fields = append(o.Fields, model.Field{Key: "ref", Label: "ref", Type: model.Reference, Object: "o"})
		plain := len(o.Fields)
		o.Fields = append(o.Fields, worthWriting(t, r, o)...)
		m := model.New("EUR", o)
		var err error
		if m.Zone, err = time.LoadLocation([]string{"Europe/Dublin", "America/St_Johns", "UTC"}[seed%3]); err != nil {
			t.Fatal(err)
		}
		app := fmt.Sprintf("functions%d", seed)
		install(t, db, app, person, m)
		w := &world{r: r, m: m, records: map[string][]*value.Record{}}
		if err := apps.Seed(t.Context(), db, app, postgres.Trial, person,
			func(s apps.Seeding) error { farthest(t, w, s, o.Fields[:plain]); return nil }); err != nil {
			t.Fatal(err)
		}
		d, err := apps.RecordsOf(t.Context(), db, app, postgres.Trial, person)
		if err != nil {
			t.Fatal(err)
		}
		for _, rec := range w.records["o"] {
			w.workOut(t, d, o, rec)
		}
		for _, f := range o.Fields[plain:] {
			found, err := records.Select(t.Context(), d,
				query.Query{Object: "o", Columns: []model.Path{w.path(t, "o", f.Key)}})
			if err != nil || len(found) != len(w.records["o"]) {
				t.Errorf("%s: %d records, %v", f.Expression, len(found), err)
				continue
			}
			for n, got := range found {
				rec := w.records["o"][n]
				inSQL, inGo := got.Get(f.Key), rec.Get(f.Key)
				if wire(value.Wire(inSQL)) != wire(value.Wire(inGo)) {
					t.Errorf("%s\nin Go  %s\nin SQL %s\nof %s", f.Expression, wire(value.Wire(inGo)),
						wire(value.Wire(inSQL)), told(rec, f.Expression))
					break
				}
				compared++
				switch inGo.(type) {
				case nil:
					empty++
				case value.Failure:
					failed++
				}
			}
		}
	}
	if compared < 9000 || failed < 200 || empty > compared*2/3 {
		t.Errorf("%d values were compared, of which %d could not be computed and %d were empty: the test tries too little", compared, failed, empty)
	}
}

// worthWriting are fields worked out by expressions made at random, those that can be stored.
func worthWriting(t *testing.T, r *rand.Rand, o *model.Object) []model.Field {
	t.Helper()
	var out []model.Field
	for n := range 90 {
		kind := "TNDMBYI"[n%7]
		out = append(out, model.Field{Key: fmt.Sprint("w", n), Label: fmt.Sprint("w", n), Type: model.WorkedOut,
			Result: results[kind], Expression: formulaOf(r, kind, 1+n%3)})
	}
	try := *o
	try.Fields = append(slices.Clone(o.Fields), out...)
	raw, err := json.Marshal(try)
	if err != nil {
		t.Fatal(err)
	}
	e, err := edition.Compile([]definition.Document{{Kind: definition.App, Key: "x",
		Body: json.RawMessage(`{"key":"x","label":"X","currency":"EUR","zone":"UTC"}`)},
		{Kind: definition.Object, Key: "o", Body: raw}})
	if err != nil {
		t.Fatal(err)
	}
	return slices.DeleteFunc(out, func(f model.Field) bool {
		_, ok := e.WorkedOut("o", f.Key)
		return !ok || slices.ContainsFunc(e.Findings, func(x definition.Finding) bool {
			return strings.HasPrefix(x.Pointer,
				fmt.Sprintf("/fields/%d/",
					slices.IndexFunc(try.Fields, func(o model.Field) bool { return o.Key == f.Key })))
		})
	})
}

// farthest adds records of the farthest values.
func farthest(t *testing.T, w *world, s apps.Seeding, fields []model.Field) {
	t.Helper()
	for n := range 60 {
		rec := &value.Record{Object: "o", Fields: map[string]value.Value{}}
		a := records.Addition{Object: w.m.Object("o")}
		var row []value.Value
		for _, f := range fields {
			var v value.Value
			pool := farValues[f.Type]
			if f.Type == model.Text {
				pool = farValues[model.LongText]
			}
			switch {
			case w.r.IntN(6) == 0:
			case f.Type == model.Reference && n > 0:
				v = w.records["o"][w.r.IntN(n)]
			case f.Type != model.Reference:
				var err error
				if v, err = value.Parse(f.Kind(), json.RawMessage(pool[w.r.IntN(len(pool))])); err != nil {
					t.Fatal(err)
				}
			}
			if v != nil {
				rec.Fields[f.Key] = v
			}
			a.Fields, row = append(a.Fields, w.m.Object("o").Field(f.Key)), append(row, v)
		}
		a.Rows = [][]value.Value{row}
		keys, err := s.Add(t.Context(), "test", a)
		if err != nil {
			t.Fatal(err)
		}
		rec.ID = keys[0]
		w.records["o"] = append(w.records["o"], rec)
	}
}

// told is a record as far as an expression uses it.
func told(rec *value.Record, expression string) string {
	var out []string
	for key, v := range rec.Fields {
		if strings.Contains(expression, key) && len(key) == 1 || key == "ref" {
			out = append(out, fmt.Sprintf("%s %v", key, value.Wire(v)))
		}
	}
	slices.Sort(out)
	return strings.Join(out, ", ")
}
