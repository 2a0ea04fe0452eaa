package expr

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"

	"plainpath/core/value"
)

// declarations adds decimals, money and dates to the operators of CEL, and the
// functions of our own. What they compute is in apply.
func declarations() []cel.EnvOption {
	var opts []cel.EnvOption
	op := func(name string, result *types.Type, args ...*types.Type) {
		id := strings.Trim(name, "_")
		for _, a := range args {
			id += "_" + a.String()
		}
		opts = append(opts, cel.Function(name, cel.Overload(id, args, result)))
	}
	whole, double, str, yes, ts := types.IntType, types.DoubleType, types.StringType, types.BoolType, types.TimestampType
	numbers := []*types.Type{whole, double}
	for _, name := range []string{operators.Add, operators.Subtract, operators.Multiply, operators.Divide} {
		op(name, decimalType, decimalType, decimalType)
		for _, n := range numbers {
			op(name, decimalType, decimalType, n)
			op(name, decimalType, n, decimalType)
		}
		op(name, decimalType, whole, double)
		op(name, decimalType, double, whole)
	}
	for _, name := range []string{operators.Add, operators.Subtract} {
		op(name, moneyType, moneyType, moneyType)
		op(name, dateType, dateType, whole)
	}
	op(operators.Subtract, whole, dateType, dateType)
	for _, n := range append(numbers, decimalType) {
		op(operators.Multiply, moneyType, moneyType, n)
		op(operators.Multiply, moneyType, n, moneyType)
		op(operators.Divide, moneyType, moneyType, n)
	}
	for _, name := range []string{operators.Less, operators.LessEquals, operators.Greater, operators.GreaterEquals} {
		op(name, yes, moneyType, moneyType)
		op(name, yes, dateType, dateType)
		op(name, yes, decimalType, decimalType)
		for _, n := range numbers {
			op(name, yes, decimalType, n)
			op(name, yes, n, decimalType)
		}
	}
	any := types.NewTypeParamType("T")
	op("empty", yes, any)
	for _, t := range []*types.Type{str, whole, double, yes, ts, decimalType, moneyType, dateType} {
		op("either", t, t, t)
	}
	for _, n := range numbers {
		op("either", decimalType, decimalType, n)
		op("either", decimalType, n, decimalType)
	}
	op("first", any, types.NewListType(any))
	op("text", str, any)
	op("lower", str, str)
	op("upper", str, str)
	op("trim", str, str)
	op("round", decimalType, decimalType, whole)
	op("date", dateType, str)
	for _, n := range append(numbers, str) {
		op("decimal", decimalType, n)
	}
	op("money", moneyType, str, str)
	op("add_minutes", ts, ts, whole)
	return append(opts, totalDeclarations()...)
}

// FunctionNames are the functions an expression may call, for suggestions.
var FunctionNames = []string{"empty", "either", "first", "text", "lower", "upper", "trim", "round", "date", "decimal", "money",
	"add_minutes", "size", "contains", "startsWith", "endsWith", "sum", "least", "greatest", "average"}

// apply computes a call of a function or operator on values that may be empty.
// It is false when the function is not one of those defined here.
func apply(function string, args []value.Value) (value.Value, bool, error) {
	switch function {
	case "empty":
		return value.YesNo(args[0] == nil), true, nil
	case "either":
		if args[0] != nil {
			return args[0], true, nil
		}
		return args[1], true, nil
	case operators.Equals:
		return value.YesNo(value.Equal(args[0], args[1])), true, nil
	case operators.NotEquals:
		return value.YesNo(!value.Equal(args[0], args[1])), true, nil
	case operators.Less, operators.LessEquals, operators.Greater, operators.GreaterEquals:
		order, ok := value.Compare(args[0], args[1])
		return value.YesNo(ok && holds(function, order)), true, nil
	case operators.In: // empty is in nothing, and nothing is in empty
		several, _ := args[1].(value.Several)
		return value.YesNo(args[0] != nil && args[1] != nil && several.Has(value.Display(args[0]))), true, nil
	}
	for _, a := range args {
		if a == nil {
			return nil, known[function], nil
		}
	}
	switch function {
	case operators.Add, operators.Subtract, operators.Multiply, operators.Divide, operators.Modulo:
		v, err := value.Arith(strings.Trim(function, "_"), args[0], args[1])
		return v, true, err
	case operators.Negate:
		v, err := value.Arith("*", value.Whole(-1), args[0])
		return v, true, err
	case "first":
		r, err := args[0].(*value.List).Source.First()
		if r == nil {
			return nil, true, err
		}
		return r, true, err
	case "size":
		switch x := args[0].(type) {
		case *value.List:
			n, err := x.Source.Count()
			return value.Whole(n), true, err
		case value.Several:
			return value.Whole(len(x.Keys())), true, nil
		}
		return value.Whole(utf8.RuneCountInString(string(args[0].(value.Text)))), true, nil
	case "decimal":
		if n, ok := args[0].(value.Whole); ok {
			return value.FromWhole(int64(n)), true, nil
		}
		if s, ok := args[0].(value.Text); ok {
			d, err := value.NewDecimal(string(s))
			return d, true, err
		}
		return args[0], true, nil
	case "text":
		return value.Text(value.Display(args[0])), true, nil
	case "round":
		return value.Decimal{Decimal: args[0].(value.Decimal).Round(int32(args[1].(value.Whole)))}, true, nil
	case "add_minutes":
		return args[0].(value.Instant).Minutes(int64(args[1].(value.Whole))), true, nil
	}
	return applyText(function, args)
}

func applyText(function string, args []value.Value) (value.Value, bool, error) {
	if !known[function] {
		return nil, false, nil
	}
	a := string(args[0].(value.Text))
	switch function {
	case "lower":
		return value.Text(strings.ToLower(a)), true, nil
	case "upper":
		return value.Text(strings.ToUpper(a)), true, nil
	case "trim":
		return value.Text(strings.Trim(a, " ")), true, nil
	case "date":
		d, err := value.ParseDate(a)
		return d, true, err
	}
	b := string(args[1].(value.Text))
	switch function {
	case "contains":
		return value.YesNo(value.Contains(a, b)), true, nil
	case "startsWith":
		return value.YesNo(value.StartsWith(a, b)), true, nil
	case "endsWith":
		return value.YesNo(strings.HasSuffix(strings.ToLower(a), strings.ToLower(b))), true, nil
	case "money":
		d, err := value.NewDecimal(a)
		if err != nil {
			return nil, true, fmt.Errorf("%q is not an amount", a)
		}
		return value.Money{Amount: d.Decimal, Currency: b}, true, nil
	}
	return nil, false, nil
}

var known = map[string]bool{operators.Add: true, operators.Subtract: true, operators.Multiply: true,
	operators.Divide: true, operators.Modulo: true, operators.Negate: true,
	"first": true, "size": true, "text": true, "lower": true, "upper": true, "trim": true, "round": true,
	"date": true, "decimal": true, "money": true, "add_minutes": true, "contains": true, "startsWith": true, "endsWith": true}

func holds(op string, order int) bool {
	switch op {
	case operators.Less:
		return order < 0
	case operators.LessEquals:
		return order <= 0
	case operators.Greater:
		return order > 0
	}
	return order >= 0
}
