package query

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/shopspring/decimal"

	"plainpath/core/model"
	"plainpath/core/value"
)

// rates are what one unit of a currency is in euro.
type rates map[string]string

func (r rates) Convert(m value.Money) (value.Money, bool, error) {
	rate, ok := r[m.Currency]
	if !ok {
		return m, false, nil
	}
	return value.Money{Amount: m.Amount.Mul(decimal.RequireFromString(rate)), Currency: "EUR"}, true, nil
}

// cut parts amounts by chance, each part in one currency, as the database hands them over.
func cut(random *rand.Rand, amounts []value.Money) [][]value.Money {
	parts := map[string][]value.Money{}
	for _, a := range amounts {
		key := fmt.Sprint(a.Currency, random.IntN(3))
		parts[key] = append(parts[key], a)
	}
	var out [][]value.Money
	for _, p := range parts {
		out = append(out, p)
	}
	return out
}

// plain makes a total of amounts of one currency the long way.
func plain(amounts []value.Money, of Aggregate) decimal.Decimal {
	sum, least, greatest := decimal.Zero, amounts[0].Amount, amounts[0].Amount
	for _, a := range amounts {
		sum = sum.Add(a.Amount)
		least, greatest = decimal.Min(least, a.Amount), decimal.Max(greatest, a.Amount)
	}
	switch of {
	case Sum:
		return sum
	case Average:
		return sum.DivRound(decimal.NewFromInt(int64(len(amounts))), value.DivisionPlaces)
	case Least:
		return least
	}
	return greatest
}

func part(amounts []value.Money, of Aggregate) Part {
	made := plain(amounts, of)
	out := Part{Currency: amounts[0].Currency}
	if of == Average {
		made, out.Count = plain(amounts, Sum), int64(len(amounts))
	}
	out.Value = value.Money{Amount: made, Currency: out.Currency}
	return out
}

// However the amounts of a group come in pieces, their total is that of the whole: no cent
// is won or lost, and no currency is added to another without a rate.
func TestTotalsOfPiecesAreThoseOfTheWhole(t *testing.T) {
	price := model.Path{Fields: []*model.Field{{Key: "price", Label: "Price", Type: model.Money}}}
	random := rand.New(rand.NewPCG(3, 4))
	house := rates{"EUR": "1", "GBP": "1.17", "SEK": "0.0881"}
	for range 400 {
		var amounts []value.Money
		for range random.IntN(12) + 1 {
			amounts = append(amounts,
				value.Money{Amount: decimal.New(random.Int64N(2_000_000)-1_000_000, -int32(random.IntN(4))),
					Currency: []string{"EUR", "GBP", "NOK", "SEK"}[random.IntN(4)]})
		}
		for _, of := range []Aggregate{Sum, Average, Least, Greatest} {
			for _, converts := range []bool{false, true} {
				total := Total{Path: price, Of: of, Converted: converts}
				m := newMerger([]Total{total})
				for _, some := range cut(random, amounts) {
					if err := m.take([]Part{part(some, of)}); err != nil {
						t.Fatal(err)
					}
				}
				figures, err := m.figures(house)
				if err != nil {
					t.Fatal(err)
				}
				if got, want := shown(figures[0]), wanted(amounts, of, converts, house); got != want {
					t.Fatalf("%s of %v, converted %t:\n%s, want\n%s", of, amounts, converts, got, want)
				}
			}
		}
	}
}

func shown(f Figure) string {
	var out []string
	for _, v := range f {
		m := v.(value.Money)
		out = append(out, m.Amount.String()+" "+m.Currency)
	}
	return strings.Join(out, ", ")
}

// wanted is what a total should come to: what can be converted first, then the others by
// currency.
func wanted(amounts []value.Money, of Aggregate, converts bool, house rates) string {
	by := map[string][]value.Money{}
	var together []value.Money
	for _, a := range amounts {
		if in, ok, _ := house.Convert(a); converts && ok {
			together = append(together, in)
		} else {
			by[a.Currency] = append(by[a.Currency], a)
		}
	}
	var out []string
	if len(together) > 0 {
		out = append(out, plain(together, of).String()+" EUR")
	}
	var currencies []string
	for c := range by {
		currencies = append(currencies, c)
	}
	slices.Sort(currencies)
	for _, c := range currencies {
		out = append(out, plain(by[c], of).String()+" "+c)
	}
	return strings.Join(out, ", ")
}

func TestWhatCanBeTotalled(t *testing.T) {
	all := []Aggregate{Sum, Average, Least, Greatest, Count}
	for kind, want := range map[model.FieldType]string{
		model.Money: "sum average least greatest count", model.Decimal: "sum average least greatest count",
		model.Whole:  "sum average least greatest count",
		model.Number: "least greatest count", model.Date: "least greatest count", model.Text: "count",
		model.YesNo: "count",
	} {
		var got []string
		for _, of := range all {
			if CheckTotal(Total{Path: model.Path{Fields: []*model.Field{{Label: "X", Type: kind}}}, Of: of}) == nil {
				got = append(got, string(of))
			}
		}
		if strings.Join(got, " ") != want {
			t.Errorf("%s: %v, want %s", kind, got, want)
		}
	}
	if err := CheckTotal(Total{Path: model.Path{Fields: []*model.Field{{Label: "X", Type: model.Whole}}}, Of: Sum,
		Converted: true}); err == nil {
		t.Error("a number was converted")
	}
}
