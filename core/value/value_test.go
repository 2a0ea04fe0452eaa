package value

import (
	"encoding/json"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
)

func dec(s string) Decimal { return Decimal{decimal.RequireFromString(s)} }

func eur(s string) Money { return Money{decimal.RequireFromString(s), "EUR"} }

func same(a, b Value) bool { return a == nil && b == nil || Equal(a, b) }

func TestArithmeticIsExact(t *testing.T) {
	day := Date{2024, time.February, 28}
	for _, c := range []struct {
		a    Value
		op   string
		b    Value
		want Value
	}{
		{dec("0.1"), "+", dec("0.2"), dec("0.3")},
		{dec("1"), "/", dec("3"), dec("0.333333333333")},
		{dec("2"), "/", dec("3"), dec("0.666666666667")},
		{dec("-2"), "/", dec("3"), dec("-0.666666666667")},
		{Whole(7), "/", Whole(2), dec("3.5")},
		{Whole(math.MinInt64), "/", Whole(-1), dec("9223372036854775808")},
		{Whole(math.MinInt64), "%", Whole(-1), Whole(0)},
		{Date{9999, time.December, 31}, "-", Date{1, time.January, 1}, Whole(3652058)},
		{Date{1, time.January, 1}, "+", Whole(3652058), Date{9999, time.December, 31}},
		{Date{2000, time.January, 1}, "-", Date{1600, time.January, 1}, Whole(146097)},
		{Whole(-7), "%", Whole(2), Whole(-1)},
		{Whole(7), "/", Whole(0), nil},
		{Whole(7), "%", Whole(0), nil},
		{dec("7"), "/", dec("0.0"), nil},
		{Whole(3), "*", dec("0.5"), dec("1.5")},
		{eur("10.05"), "*", Whole(3), eur("30.15")},
		{Whole(3), "*", eur("10.05"), eur("30.15")},
		{eur("10"), "/", Whole(3), eur("3.333333333333")},
		{eur("10"), "-", eur("0.01"), eur("9.99")},
		{Text("a"), "+", Text("b"), Text("ab")},
		{day, "+", Whole(2), Date{2024, time.March, 1}},
		{day, "-", Whole(59), Date{2023, time.December, 31}},
		{Date{2024, time.March, 1}, "-", day, Whole(2)},
		{nil, "+", Whole(1), nil},
		{eur("1"), "*", nil, nil},
	} {
		got, err := Arith(c.op, c.a, c.b)
		if err != nil || !same(got, c.want) {
			t.Errorf("%v %s %v = %v, %v; want %v", c.a, c.op, c.b, got, err, c.want)
		}
	}
}

func TestWhatCannotBeComputedIsAnError(t *testing.T) {
	for _, c := range []struct {
		a    Value
		op   string
		b    Value
		says string
	}{
		{eur("1"), "+", Money{decimal.NewFromInt(1), "SEK"}, "cannot be added: EUR and SEK"},
		{eur("1"), "*", eur("1"), "no operator"},
		{eur("1"), "+", Whole(1), "no operator"},
		{Text("a"), "-", Text("b"), "cannot be computed"},
		{Whole(math.MaxInt64), "+", Whole(1), "too large"},
		{Whole(math.MinInt64), "-", Whole(1), "too large"},
		{Whole(math.MinInt64), "*", Whole(-1), "too large"},
		{Whole(-1), "*", Whole(math.MinInt64), "too large"},
		{YesNo(true), "+", Whole(1), "cannot be computed"},
		{Date{9999, 12, 31}, "+", Whole(1), "outside the calendar"},
		{Date{1, 1, 1}, "-", Whole(1), "outside the calendar"},
		{Date{2024, 1, 1}, "-", Whole(math.MinInt64), "outside the calendar"},
		{Text(strings.Repeat("a", MostTextEver)), "+", Text("b"), "too long"},
		{Failure{"no way"}, "*", Whole(2), "no way"},
		{Date{2024, 1, 1}, "*", Whole(2), "cannot be computed"},
	} {
		if got, err := Arith(c.op, c.a, c.b); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%v %s %v = %v, %v; want an error about %q", c.a, c.op, c.b, got, err, c.says)
		}
	}
}

func TestComparing(t *testing.T) {
	first, second := &Record{Object: "lift", ID: 1}, &Record{Object: "lift", ID: 2}
	for _, c := range []struct {
		a, b    Value
		order   int
		ordered bool
		equal   bool
	}{
		{Whole(2), dec("2.0"), 0, true, true},
		{Whole(2), Whole(3), -1, true, false},
		{dec("0.10"), dec("0.1"), 0, true, true},
		{Text("a"), Text("b"), -1, true, false},
		{YesNo(true), YesNo(false), 1, true, false},
		{Date{2024, 1, 2}, Date{2024, 1, 1}, 1, true, false},
		{eur("1.00"), eur("1"), 0, true, true},
		{eur("1"), Money{decimal.NewFromInt(1), "SEK"}, 0, false, false},
		{NewInstant(time.Unix(5, 1)), NewInstant(time.Unix(5, 999)), 0, true, true}, // within one microsecond
		{nil, nil, 0, false, false},
		{Whole(1), nil, 0, false, false},
		{Whole(1), Text("1"), 0, false, false},
		{first, &Record{Object: "lift", ID: 1, Label: "other reading"}, 0, false, true},
		{first, second, 0, false, false},
		{first, &Record{Object: "building", ID: 1}, 0, false, false},
	} {
		order, ok := Compare(c.a, c.b)
		if order != c.order || ok != c.ordered || Equal(c.a, c.b) != c.equal {
			t.Errorf("%v and %v: order %d %t, equal %t", c.a, c.b, order, ok, Equal(c.a, c.b))
		}
	}
}

// What travels in JSON comes back as it was, whatever it is.
func TestWireAndParseAgree(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	for range 3000 {
		d := decimal.New(r.Int64()-r.Int64(), int32(r.IntN(20)-15))
		for _, v := range []Value{Whole(r.Int64() - r.Int64()), Decimal{d}, Money{d, "SEK"}, YesNo(r.IntN(2) == 0),
			DateOf(time.Unix(r.Int64N(1e10), 0).UTC()), NewInstant(time.UnixMicro(r.Int64N(1e16))),
			Text(strings.Repeat("ä\"\\", 1+r.IntN(3)))} {
			raw, err := json.Marshal(Wire(v))
			if err != nil {
				t.Fatal(err)
			}
			back, err := Parse(v.Kind(), raw)
			if err != nil || !Equal(v, back) {
				t.Fatalf("%v travels as %s and comes back as %v, %v", v, raw, back, err)
			}
		}
	}
}

func TestWhatCannotBeReadSaysWhy(t *testing.T) {
	for _, c := range []struct {
		kind Kind
		raw  string
		says string
	}{
		{KindWhole, `"1.5"`, "not a whole number"}, {KindWhole, `"12a"`, "not a whole number"},
		{KindWhole, `99999999999999999999`, "not a whole number"},
		{KindDecimal, `"1e999999999"`, "not a number"}, {KindDecimal, `"one"`, "not a number"},
		{KindDecimal, `[]`, "not a number"},
		{KindMoney, `"5"`, "needs an amount and a currency"}, {KindMoney, `{"amount":"x","currency":"EUR"}`,
			"not an amount"}, {KindMoney, `{"amount":"5","currency":"E"}`, "not a currency"},
		{KindDate, `"2026-02-30"`, "not a date"}, {KindDate, `5`, "not a date"},
		{KindInstant, `"2026-02-03"`, "not a date and time"},
		{KindYesNo, `"perhaps"`, "neither yes nor no"}, {KindRecord, `7`, "does not name a record"},
		{KindRecord, `{"id":0}`, "does not name a record"},
		{KindText, `{}`, "is not text"}, {KindList, `[]`, "cannot be given"},
	} {
		if v, err := Parse(c.kind, json.RawMessage(c.raw)); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s %s = %v, %v; want %q", c.kind, c.raw, v, err, c.says)
		}
	}
	for _, empty := range []string{``, `null`, `""`, ` null `} {
		if v, err := Parse(KindDate, json.RawMessage(empty)); v != nil || err != nil {
			t.Errorf("%q is empty, but reads as %v, %v", empty, v, err)
		}
	}
}
