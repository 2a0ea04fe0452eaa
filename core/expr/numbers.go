package expr

import (
	"fmt"
	"slices"

	"cel.dev/cel-go/common/types"
	"github.com/shopspring/decimal"

	"plainpath/core/value"
)

var numberFunctions = []function{
	{told: tell("round(x, places)",
		"A number rounded half away from zero. Without places it becomes whole, an amount one of its currency."),
		repeats: 2, signatures: []signature{gives(decimalType, decimalType, whole),
			gives(decimalType, whole, whole), gives(decimalType, decimalType),
			gives(moneyType, moneyType, whole), gives(moneyType, moneyType)},
		compute: func(a []value.Value) (value.Value, error) {
			if len(a) == 2 {
				return value.Round(a[0], a[1])
			}
			if _, ok := a[0].(value.Money); ok {
				return value.Round(a[0], nil)
			}
			return value.Round(a[0], value.Whole(0))
		}},
	{told: tell("formatted(x, 2)", "A number as text with so many places, and commas between thousands: 1,234.50."),
		repeats: 9, signatures: []signature{gives(str, decimalType, whole), gives(str, whole, whole)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Text(value.Formatted(a[0], clamped(a[1], 0, value.MostPlaces))), nil
		}},
	{told: tell("whole(x)", "The whole part of a number."), signatures: []signature{gives(whole, decimalType),
		gives(whole, whole)},
		compute: func(a []value.Value) (value.Value, error) { return value.WholePart(a[0]) }},
	wholeOf(tell("floor(x)", "The greatest whole number that is not more: rounded down."), value.Floor),
	wholeOf(tell("ceiling(x)", "The least whole number that is not less: rounded up."), value.Ceiling),
	{told: tell("absolute(x)", "A number or an amount without its sign."), signatures: []signature{gives(whole,
		whole), gives(decimalType, decimalType),
		gives(moneyType, moneyType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Absolute(a[0]) }},
	{told: tell("remainder(x, y)", "What is left of x when it is divided by y as often as that goes."),
		signatures: slices.Concat(alike(decimalType, decimalType), numeric(decimalType),
			alike(whole, whole)),
		compute: func(a []value.Value) (value.Value, error) { return value.Remainder(a[0], a[1]) }},
	{told: tell("percent(x, y)", "How many percent x is of y: percent(3, 12) is 25."),
		signatures: slices.Concat(alike(decimalType, decimalType, whole), numeric(decimalType)),
		compute: func(a []value.Value) (value.Value, error) {
			part, err := value.Arith("*", a[0], value.Decimal{Decimal: decimal.NewFromInt(100)})
			if err != nil {
				return nil, err
			}
			return value.Arith("/", part, a[1])
		}},
	{told: tell("decimal(x)", "A whole number, or the number in a text, as a decimal.", "Of a text "+onScreens),
		here: []value.Kind{value.KindText}, signatures: []signature{gives(decimalType, whole),
			gives(decimalType, decimalType), gives(decimalType, str)},
		compute: func(a []value.Value) (value.Value, error) {
			switch x := a[0].(type) {
			case value.Whole:
				return value.FromWhole(int64(x)), nil
			case value.Text:
				d, err := value.ParseDecimal(string(x))
				if err != nil {
					return nil, value.Failure{Why: fmt.Sprintf("%q is not a number", string(x))}
				}
				return d, nil
			}
			return a[0], nil
		}},
	{told: tell(`money("12.50", "EUR")`, "An amount in a currency.", "Of fields "+onScreens),
		here: everyKind, signatures: []signature{gives(moneyType, str, str),
			gives(moneyType, decimalType, str), gives(moneyType, whole, str)},
		compute: func(a []value.Value) (value.Value, error) {
			currency := string(a[1].(value.Text))
			if err := value.CheckCurrency(currency); err != nil {
				return nil, value.Failure{Why: err.Error()}
			}
			d, err := value.ParseDecimal(value.Display(a[0]))
			if err != nil {
				return nil, value.Failure{Why: fmt.Sprintf("%q is not an amount", value.Display(a[0]))}
			}
			return value.Money{Amount: d.Decimal, Currency: currency}, nil
		}},
	{told: tell("amount(x)", "The number of an amount, without its currency."),
		signatures: []signature{gives(decimalType, moneyType)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Decimal{Decimal: a[0].(value.Money).Amount}, nil
		}},
	{told: tell("currency(x)", "The currency of an amount."), signatures: []signature{gives(str, moneyType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Text(a[0].(value.Money).Currency), nil }},
	{told: tell("empty(x)", "Whether there is no value."), lenient: true, signatures: []signature{gives(yes, anything)},
		compute: func(a []value.Value) (value.Value, error) { return value.YesNo(a[0] == nil), nil }},
	{told: tell("either(x, y)", "x, or y where x is empty."), lenient: true, signatures: slices.Concat(alike2(str,
		whole, yes, instant, decimalType, moneyType,
		dateType), numeric(decimalType)),
		compute: func(a []value.Value) (value.Value, error) {
			if a[0] != nil {
				return a[0], nil
			}
			return a[1], nil
		}},
	{told: tell(`needed(x, "Say which.")`, "x; where it is empty nothing is done, and that is said.",
		"Of lists "+onScreens), lenient: true,
		here: slices.DeleteFunc(slices.Clone(everyKind), func(k value.Kind) bool { return !plural(k) }), repeats: 2,
		signatures: []signature{gives(anything, anything, str)},
		compute: func(a []value.Value) (value.Value, error) {
			if a[0] != nil {
				return a[0], nil
			}
			if say, ok := a[1].(value.Text); ok {
				return nil, value.Failure{Why: value.Missing + ". " + string(say)}
			}
			return nil, value.Failure{Why: value.Missing}
		}},
}

// wholeOf is a whole number near a number.
func wholeOf(t told, compute func(value.Value) (value.Value, error)) function {
	return function{told: t, signatures: []signature{gives(whole, decimalType), gives(whole, whole)},
		compute: func(a []value.Value) (value.Value, error) { return compute(a[0]) }}
}

// alike2 makes, for each type, a signature that takes two values of it and gives one.
func alike2(of ...*types.Type) []signature {
	var out []signature
	for _, t := range of {
		out = append(out, gives(t, t, t))
	}
	return out
}
