package expr

import (
	"slices"

	"cel.dev/cel-go/common/operators"

	"plainpath/core/value"
)

// operatorList are the operators. The logical ones and ?: are CEL's own, so that they look only at
// what they need.
var operatorList = []function{
	{told: told{name: operators.Equals}, lenient: true, repeats: 2, signatures: slices.Concat(alike(yes, scalar...),
		alike(yes, several), numeric(yes)),
		compute: func(a []value.Value) (value.Value, error) { return value.YesNo(value.Equal(a[0], a[1])), nil }},
	{told: told{name: operators.NotEquals}, lenient: true, repeats: 2, signatures: slices.Concat(alike(yes, scalar...),
		alike(yes, several), numeric(yes)),
		compute: func(a []value.Value) (value.Value, error) { return value.YesNo(!value.Equal(a[0], a[1])), nil }},
	ordering(told{name: operators.Less}, func(order int) bool { return order < 0 }),
	ordering(told{name: operators.LessEquals}, func(order int) bool { return order <= 0 }),
	ordering(told{name: operators.Greater}, func(order int) bool { return order > 0 }),
	ordering(told{name: operators.GreaterEquals}, func(order int) bool { return order >= 0 }),
	{told: told{name: operators.In}, lenient: true, signatures: []signature{gives(yes, anything, list)},
		compute: func(a []value.Value) (value.Value, error) { // empty is in nothing, and nothing is in empty
			among, _ := a[1].(value.Several)
			return value.YesNo(a[0] != nil && a[1] != nil && among.Has(value.Display(a[0]))), nil
		}},
	{told: told{name: operators.LogicalAnd}, lenient: true},
	{told: told{name: operators.LogicalOr}, lenient: true},
	{told: told{name: operators.LogicalNot}, lenient: true},
	{told: told{name: operators.Conditional}, lenient: true},
	arithmetic(told{name: operators.Add}, slices.Concat(alike(decimalType, decimalType), numeric(decimalType),
		alike(whole, whole),
		alike(moneyType, moneyType),
		alike(str, str), alike(list, list), []signature{gives(dateType, dateType, whole)})),
	arithmetic(told{name: operators.Subtract}, slices.Concat(alike(decimalType, decimalType), numeric(decimalType),
		alike(whole, whole), alike(moneyType, moneyType),
		[]signature{gives(dateType, dateType, whole), gives(whole, dateType, dateType)})),
	arithmetic(told{name: operators.Multiply}, slices.Concat(alike(decimalType, decimalType), numeric(decimalType),
		alike(whole, whole), []signature{
			gives(moneyType, moneyType, whole), gives(moneyType, moneyType, decimalType),
			gives(moneyType, whole, moneyType), gives(moneyType, decimalType, moneyType)})),
	arithmetic(told{name: operators.Divide}, slices.Concat(alike(decimalType, decimalType, whole), numeric(decimalType),
		[]signature{
			gives(moneyType, moneyType, whole), gives(moneyType, moneyType, decimalType)})),
	arithmetic(told{name: operators.Modulo}, alike(whole, whole)),
	{told: told{name: operators.Negate}, signatures: []signature{gives(whole, whole), gives(decimalType, decimalType),
		gives(moneyType, moneyType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Negate(a[0]) }},
}

func ordering(t told, holds func(order int) bool) function {
	return function{told: t, lenient: true,
		signatures: slices.Concat(alike(yes, str, whole, decimalType, moneyType, dateType, instant, yes), numeric(yes)),
		compute: func(a []value.Value) (value.Value, error) {
			order, ok := value.Compare(a[0], a[1])
			return value.YesNo(ok && holds(order)), nil
		}}
}

func arithmetic(t told, signatures []signature) function {
	symbol := t.name[1 : len(t.name)-1]
	return function{told: t, signatures: signatures, repeatsMoney: 2,
		here:    []value.Kind{value.KindSeveral, value.KindList, value.KindRows},
		compute: func(a []value.Value) (value.Value, error) { return value.Arith(symbol, a[0], a[1]) }}
}
