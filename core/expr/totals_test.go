package expr

import (
	"errors"
	"slices"
	"strings"
	"testing"

	"github.com/shopspring/decimal"

	"plainpath/core/model"
	"plainpath/core/value"
)

func quotes() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "quote", Label: "Quote", Plural: "Quotes", LabelField: "name",
			Fields: []model.Field{{Key: "name", Label: "Name", Type: model.Text}}},
		&model.Object{Key: "line", Label: "Line", Plural: "Lines", LabelField: "what", Fields: []model.Field{
			{Key: "what", Label: "What", Type: model.Text}, {Key: "quote", Label: "Quote", Type: model.Reference,
				Object: "quote"},
			{Key: "old", Label: "Old", Type: model.Reference, Object: "quote"},
			{Key: "pieces", Label: "Pieces", Type: model.Whole}, {Key: "weight", Label: "Weight", Type: model.Decimal},
			{Key: "price", Label: "Price", Type: model.Money}, {Key: "day", Label: "Day", Type: model.Date}}},
		&model.Object{Key: "note", Label: "Note", Plural: "Notes", LabelField: "text", Fields: []model.Field{
			{Key: "text", Label: "Text", Type: model.Text}, {Key: "quote", Label: "Quote", Type: model.Reference,
				Object: "quote"}}})
}

func TestListsOfRelatedRecords(t *testing.T) {
	var got []string
	for _, l := range RelatedLists(quotes(), "quote") {
		got = append(got, l.Name.Key)
	}
	if strings.Join(got, " ") != "all_line_by_quote all_line_by_old all_note" {
		t.Error(got)
	}
}

func relatedScope() Scope {
	m := quotes()
	s := OfRecord(m, "quote")
	for _, l := range RelatedLists(m, "quote") {
		s = s.With(l.Name)
	}
	return s
}

func line(pieces int64, weight, price, currency string) *value.Record {
	r := &value.Record{Object: "line", Fields: map[string]value.Value{"pieces": value.Whole(pieces)}}
	if weight != "" {
		r.Fields["weight"] = value.Decimal{Decimal: decimal.RequireFromString(weight)}
	}
	if price != "" {
		r.Fields["price"] = value.Money{Amount: decimal.RequireFromString(price), Currency: currency}
	}
	return r
}

// Totals skip what is empty, and are empty when there is nothing.
func TestTotals(t *testing.T) {
	some := value.Records{line(2, "1.50", "10.10", "EUR"), line(5, "", "0.05", "EUR"), line(3, "2.25", "", "")}
	for _, c := range []struct{ source, want, none string }{
		{"sum(all_line_by_quote.map(l, l.pieces))", "10", ""},
		{"sum(all_line_by_quote.map(l, l.weight))", "3.75", ""},
		{"sum(all_line_by_quote.map(l, l.price))", "10.15 EUR", ""},
		{"sum(all_line_by_quote.map(l, l.price * l.pieces))", "20.45 EUR", ""},
		{"average(all_line_by_quote.map(l, l.pieces))", "3.333333333333", ""},
		{"average(all_line_by_quote.map(l, l.weight))", "1.875", ""},
		{"average(all_line_by_quote.map(l, l.price))", "5.075 EUR", ""},
		{"least(all_line_by_quote.map(l, l.weight))", "1.5", ""},
		{"greatest(all_line_by_quote.map(l, l.pieces))", "5", ""},
		{"least(all_line_by_quote.map(l, l.day))", "", ""},
		{"size(all_line_by_quote)", "3", "0"},
		{"size(all_line_by_quote.filter(l, l.weight > 1))", "2", "0"},
		{"sum(all_line_by_quote.filter(l, empty(l.weight)).map(l, l.pieces))", "5", ""},
		{"all_line_by_quote.exists(l, l.pieces == 5)", "yes", "no"},
		{"all_line_by_quote.all(l, l.pieces > 1)", "yes", "yes"},
		{"all_line_by_quote.all(l, l.weight > 1)", "no", "yes"},
		{`either(sum(all_line_by_quote.map(l, l.price)), money("0", "EUR"))`, "10.15 EUR", "0.00 EUR"},
	} {
		p, err := Compile(relatedScope(), c.source)
		if err != nil {
			t.Errorf("%s: %v", c.source, err)
			continue
		}
		for want, records := range map[string]value.Records{c.want: some, c.none: nil} {
			if c.want == c.none && records == nil && c.want != "" {
				continue
			}
			got, err := p.Eval(Values{"all_line_by_quote": &value.List{Object: "line", Source: records}})
			if err != nil || value.Display(got) != want {
				t.Errorf("%s over %d lines: %q, %v; want %q", c.source, len(records), value.Display(got), err, want)
			}
		}
	}
}

func TestTwoCurrenciesHaveNoTotal(t *testing.T) {
	mixed := value.Records{line(1, "", "1", "SEK"), line(1, "", "1", "EUR")}
	for _, function := range []string{"sum", "average", "least", "greatest"} {
		p, err := Compile(relatedScope(), function+"(all_line_by_quote.map(l, l.price))")
		if err != nil {
			t.Fatal(err)
		}
		v, err := p.Eval(Values{"all_line_by_quote": &value.List{Source: mixed}})
		if want := (value.Failure{Why: "cannot be added: EUR and SEK"}); err != nil || v != want {
			t.Errorf("%s gives %v, %v", function, v, err)
		}
	}
}

// What is suggested for a name from elsewhere is a function there is.
func TestNamesFromElsewhere(t *testing.T) {
	for name, ours := range elsewhere {
		if !slices.Contains(FunctionNames, ours) {
			t.Errorf("%s: there is no function %q", name, ours)
		}
		if slices.Contains(FunctionNames, name) {
			t.Errorf("%q is a function itself", name)
		}
	}
}

func TestWhatCannotBeTotalled(t *testing.T) {
	for source, says := range map[string]string{
		"sum(all_line_by_quote)":                     "cannot be used with",
		"sum(all_line_by_quote.map(l, l.what))":      "cannot be used with",
		"average(all_line_by_quote.map(l, l.day))":   "cannot be used with",
		"sum(all_line_by_quote.map(l, l.peices))":    `did you mean "pieces"?`,
		"size(all_lines)":                            "did you mean",
		"avg(all_line_by_quote.map(l, l.pieces))":    `did you mean "average"?`,
		"MAX(all_line_by_quote.map(l, l.pieces))":    `did you mean "greatest"?`,
		"length(all_line_by_quote)":                  `did you mean "size"?`,
		"all_line_by_quote.exists(l, l.pieces)":      "",
		"sum(all_line_by_quote.map(l, l.pieces)) + ": "cannot be read",
	} {
		_, err := Compile(relatedScope(), source)
		var e *Error
		if !errors.As(err, &e) || !strings.Contains(e.Text, says) {
			t.Errorf("%s: %v", source, err)
		}
	}
}

func TestWhatTheDatabaseCannotTotal(t *testing.T) {
	for _, source := range []string{"sum([1, 2])", "all_note.exists_one(n, empty(n.text))",
		"size(all_note.map(n, n.text))", "all_note.filter(n, true).exists(n, decimal(n.text) > 1.5)"} {
		p, err := Compile(relatedScope(), source)
		if err != nil {
			t.Fatalf("%s: %v", source, err)
		}
		if term, err := p.Term(); err == nil || !strings.Contains(err.Error(),
			"cannot be carried out in the database") {
			t.Errorf("%s: %+v, %v", source, term, err)
		}
	}
}

// Whatever is typed in, checking it says what is wrong and never breaks.
func FuzzCompile(f *testing.F) {
	for _, s := range []string{"name", "sum(all_note.map(n, n.text))", "all_note.filter(", "a.b.c", `"`, "{}", "1/0",
		"name + 1", "[1].map(x, x)", "all_line_by_quote[0].price", "\xff"} {
		f.Add(s)
	}
	s := relatedScope()
	f.Fuzz(func(t *testing.T, source string) {
		p, err := Compile(s, source)
		if err != nil {
			var e *Error
			if !errors.As(err, &e) || e.Text == "" {
				t.Errorf("%q: %v", source, err)
			}
			return
		}
		_, _ = p.Term()
		_, _ = p.Eval(Values{"name": value.Text("x")})
	})
}
