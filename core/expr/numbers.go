package expr

import (
	"fmt"
	"slices"

	"cel.dev/cel-go/common/types"
	"github.com/shopspring/decimal"

	"plainpath/core/value"
)

var numberFunctions = []function{
	{name: "round", repeats: 2, signatures: []signature{gives(decimalType, decimalType, whole),
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
	{name: "formatted", repeats: 9, signatures: []signature{gives(str, decimalType, whole), gives(str, whole, whole)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Text(value.Formatted(a[0], clamped(a[1], 0, value.MostPlaces))), nil
		}},
	{name: "whole", signatures: []signature{gives(whole, decimalType), gives(whole, whole)},
		compute: func(a []value.Value) (value.Value, error) { return value.WholePart(a[0]) }},
	wholeOf("floor", value.Floor), wholeOf("ceiling", value.Ceiling),
	{name: "absolute", signatures: []signature{gives(whole, whole), gives(decimalType, decimalType),
		gives(moneyType, moneyType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Absolute(a[0]) }},
	{name: "remainder", signatures: slices.Concat(alike(decimalType, decimalType), numeric(decimalType),
		alike(whole, whole)),
		compute: func(a []value.Value) (value.Value, error) { return value.Remainder(a[0], a[1]) }},
	{name: "percent", signatures: slices.Concat(alike(decimalType, decimalType, whole), numeric(decimalType)),
		compute: func(a []value.Value) (value.Value, error) {
			part, err := value.Arith("*", a[0], value.Decimal{Decimal: decimal.NewFromInt(100)})
			if err != nil {
				return nil, err
			}
			return value.Arith("/", part, a[1])
		}},
	{name: "decimal", here: []value.Kind{value.KindText}, signatures: []signature{gives(decimalType, whole),
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
	{name: "money", here: everyKind, signatures: []signature{gives(moneyType, str, str),
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
	{name: "amount", signatures: []signature{gives(decimalType, moneyType)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Decimal{Decimal: a[0].(value.Money).Amount}, nil
		}},
	{name: "currency", signatures: []signature{gives(str, moneyType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Text(a[0].(value.Money).Currency), nil }},
	{name: "empty", lenient: true, signatures: []signature{gives(yes, anything)},
		compute: func(a []value.Value) (value.Value, error) { return value.YesNo(a[0] == nil), nil }},
	{name: "either", lenient: true, signatures: slices.Concat(alike2(str, whole, yes, instant, decimalType, moneyType,
		dateType), numeric(decimalType)),
		compute: func(a []value.Value) (value.Value, error) {
			if a[0] != nil {
				return a[0], nil
			}
			return a[1], nil
		}},
}

// wholeOf is a whole number near a number.
func wholeOf(name string, compute func(value.Value) (value.Value, error)) function {
	return function{name: name, signatures: []signature{gives(whole, decimalType), gives(whole, whole)},
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
