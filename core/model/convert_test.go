package model

import (
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"

	"plainpath/core/value"
)

func house(t *testing.T) *time.Location {
	t.Helper()
	zone, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	return zone
}

func TestConvertingStoredValues(t *testing.T) {
	zone := house(t)
	states := []ChoiceValue{{Key: "running", Label: "Running"}, {Key: "under_repair", Label: "Under repair"}}
	amount := func(s, currency string) value.Money {
		return value.Money{Amount: decimal.RequireFromString(s), Currency: currency}
	}
	day := value.Date{Year: 2026, Month: 7, Day: 1}
	for _, c := range []struct {
		name     string
		from, to FieldType
		v, want  value.Value
		refused  string
	}{
		{"empty stays empty", Text, Whole, nil, nil, ""},
		{"digits become a number", Text, Whole, value.Text("42"), value.Whole(42), ""},
		{"leading zeros would be lost", Text, Whole, value.Text("007"), nil, "would not come back"},
		{"a plus sign would be lost", Text, Decimal, value.Text("+1"), nil, "would not come back"},
		{"words are no number", Text, Whole, value.Text("four"), nil, "would not come back"},
		{"a fraction is no whole number", Decimal, Whole, value.Decimal{Decimal: decimal.RequireFromString("2.5")}, nil,
			"no whole number"},
		{"a whole decimal is one", Decimal, Whole, value.Decimal{Decimal: decimal.RequireFromString("3.00")},
			value.Whole(3), ""},
		{"a number too large is none", Decimal, Whole, value.Decimal{Decimal: decimal.RequireFromString("1e30")}, nil,
			"no whole number"},
		{"a number becomes an amount", Whole, Money, value.Whole(12), amount("12", "EUR"), ""},
		{"an amount keeps its currency", Money, Decimal, amount("12", "GBP"), nil, "lose its currency"},
		{"a whole amount becomes a number", Money, Whole, amount("12.00", "EUR"), value.Whole(12), ""},
		{"text becomes an amount", Text, Money, value.Text("120.50 GBP"), amount("120.50", "GBP"), ""},
		{"text without a currency does not", Text, Money, value.Text("120.50"), nil, "not a currency"},
		{"a day becomes its first moment here", Date, DateTime, day, value.NewInstant(day.In(zone)), ""},
		{"a moment within a day would lose its time", DateTime, Date, value.NewInstant(day.In(zone).Add(time.Hour)),
			nil, "lose its time"},
		{"the first moment of a day does not", DateTime, Date, value.NewInstant(day.In(zone)), day, ""},
		{"a choice becomes what people read", Choice, Text, value.Text("under_repair"), value.Text("Under repair"), ""},
		{"what people read becomes a choice", Text, Choice, value.Text("under REPAIR"), value.Text("under_repair"), ""},
		{"other text is no choice", Text, Choice, value.Text("sunk"), nil, "choose one"},
		{"yes", Text, YesNo, value.Text("Yes"), value.YesNo(true), ""},
		{"neither yes nor no", Text, YesNo, value.Text("maybe"), nil, "neither"},
		{"an address is checked", Text, Email, value.Text("nobody"), nil, "not an e-mail"},
		{"a date is no yes or no", Date, YesNo, day, nil, "make a new field"},
		{"a choice becomes one of several", Choice, Choices, value.Text("running"), value.NewSeveral("running"), ""},
		{"one of several becomes a choice", Choices, Choice, value.NewSeveral("running"), value.Text("running"), ""},
		{"two of several do not", Choices, Choice, value.NewSeveral("running", "under_repair"), nil, "become one"},
		{"what people read becomes one of several", Text, Choices, value.Text("Under repair"),
			value.NewSeveral("under_repair"), ""},
		{"other text is none of several", Text, Choices, value.Text("sunk"), nil, "choose one"},
		{"one of several becomes what people read", Choices, Text, value.NewSeveral("under_repair"),
			value.Text("Under repair"), ""},
		{"lines become an address", LongText, Address, value.Text("4 Rope Walk\nVarrow"),
			value.Address{Lines: "4 Rope Walk\nVarrow"}, ""},
		{"lines that would be tidied do not", Text, Address, value.Text(" 4 Rope Walk"), nil, "would not come back"},
		{"an address of lines alone becomes text", Address, LongText, value.Address{Lines: "4 Rope Walk\nVarrow"},
			value.Text("4 Rope Walk\nVarrow"), ""},
		{"an address with a town would lose it", Address, Text, value.Address{Lines: "4 Rope Walk", Town: "Varrow"},
			nil, "would lose"},
		{"an address is no number", Address, Whole, value.Address{Town: "Varrow"}, nil, "make a new field"},
		{"a picture is a file", Picture, File, &value.Record{ID: 1, Label: "x.png"},
			&value.Record{ID: 1, Label: "x.png"}, ""},
		{"a file may be no picture", File, Picture, &value.Record{ID: 1}, nil, "make a new field"},
		{"a reference has no other form", Reference, Text, &value.Record{ID: 1}, nil, "make a new field"},
	} {
		t.Run(c.name, func(t *testing.T) {
			conversion := Conversion{From: &Field{Label: "F", Type: c.from, Choices: states},
				To:   &Field{Label: "F", Type: c.to, Choices: states, Required: true},
				Zone: zone, Currency: "EUR"}
			got, err := conversion.Value(c.v)
			if c.refused != "" {
				if err == nil || !strings.Contains(err.Error(), c.refused) {
					t.Fatalf("%v, %v; want it refused because %q", got, err, c.refused)
				}
				return
			}
			if err != nil || value.Display(got) != value.Display(c.want) || got != nil && got.Kind() != c.want.Kind() {
				t.Errorf("%v, %v; want %v", got, err, c.want)
			}
		})
	}
}

// Choices whose key was changed are taken over, and back when that is undone.
func TestChoicesFollowTheirKeys(t *testing.T) {
	before := &Field{Label: "F", Type: Choices, Choices: []ChoiceValue{{Key: "a", Label: "A"}, {Key: "b", Label: "B"}}}
	after := &Field{Label: "F", Type: Choices, Choices: []ChoiceValue{{Key: "c", Was: []string{"a"}, Label: "A"},
		{Key: "b", Label: "B"}}}
	there, back := Conversion{From: before, To: after}, Conversion{From: after, To: before}
	held, moved := value.NewSeveral("b", "a"), value.NewSeveral("b", "c")
	if got, err := there.Value(held); err != nil || got != moved || !there.Needed() {
		t.Errorf("%v, %v", got, err)
	}
	if got, err := back.Value(moved); err != nil || got != held || !back.Needed() {
		t.Errorf("%v, %v", got, err)
	}
	if same := (Conversion{From: before, To: before}); same.Needed() {
		t.Error("nothing changed")
	}
	fewer := Conversion{From: before, To: &Field{Label: "F", Type: Choices, Choices: before.Choices[:1]}}
	if got, err := fewer.Value(held); err == nil || fewer.Needed() {
		t.Errorf("a value that is gone was taken: %v", got)
	}
}

// What a conversion takes, the way back gives again.
func TestConversionsLoseNothing(t *testing.T) {
	zone := house(t)
	for _, to := range []FieldType{Whole, Decimal, Money, YesNo, Date, DateTime, Text, Address} {
		for _, text := range []string{"0", "-5", "12.50", "yes", "no", "2026-02-28", "2026-02-28T10:00:00Z",
			"99.00 EUR", " 1", "1e3", "01"} {
			there := Conversion{From: &Field{Type: Text}, To: &Field{Type: to}, Zone: zone, Currency: "EUR"}
			v, err := there.Value(value.Text(text))
			if err != nil {
				continue
			}
			back := Conversion{From: there.To, To: there.From, Zone: zone, Currency: "EUR"}
			again, err := back.Value(v)
			if err != nil {
				t.Errorf("%q as %s does not come back: %v", text, to, err)
				continue
			}
			// Trailing noughts are the only thing written differently; the number is the same.
			if got := value.Display(again); got != text && !sameNumber(got, text) {
				t.Errorf("%q as %s comes back as %q", text, to, got)
			}
		}
	}
}

func sameNumber(a, b string) bool {
	x, err1 := decimal.NewFromString(a)
	y, err2 := decimal.NewFromString(b)
	return err1 == nil && err2 == nil && x.Equal(y)
}
