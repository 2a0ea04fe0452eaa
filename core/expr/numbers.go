package expr

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"cel.dev/cel-go/common/types"
	"github.com/shopspring/decimal"

	"plainpath/core/value"
)

var numberFunctions = []function{
	{name: "round", signatures: []signature{gives(decimalType, decimalType, whole), gives(decimalType, whole, whole), gives(decimalType, decimalType),
		gives(moneyType, moneyType, whole), gives(moneyType, moneyType)},
		compute: func(a []value.Value) (value.Value, error) {
			if len(a) == 2 {
				return value.Round(a[0], a[1])
			}
			if _, ok := a[0].(value.Money); ok {
				return value.Round(a[0], nil)
			}
			return value.Round(a[0], value.Whole(0))
		},
		sql: roundSQL},
	{name: "whole", signatures: []signature{gives(whole, decimalType), gives(whole, whole)},
		compute: func(a []value.Value) (value.Value, error) { return value.WholePart(a[0]) },
		sql:     func(a []Column) (Column, error) { return wholeSQL("trunc(" + a[0].SQL + "::numeric)"), nil }},
	wholeOf("floor", "floor(%s)", value.Floor), wholeOf("ceiling", "ceil(%s)", value.Ceiling),
	{name: "absolute", signatures: []signature{gives(whole, whole), gives(decimalType, decimalType), gives(moneyType, moneyType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Absolute(a[0]) },
		sql: func(a []Column) (Column, error) {
			if a[0].Kind == value.KindWhole {
				return wholeSQL("abs(" + a[0].SQL + "::numeric)"), nil
			}
			return Column{Kind: a[0].Kind, SQL: "abs(" + a[0].SQL + ")", Currency: a[0].Currency}, nil
		}},
	{name: "remainder", signatures: slices.Concat(alike(decimalType, decimalType), numeric(decimalType), alike(whole, whole)),
		compute: func(a []value.Value) (value.Value, error) { return value.Remainder(a[0], a[1]) },
		sql: func(a []Column) (Column, error) {
			if a[0].Kind == value.KindWhole && a[1].Kind == value.KindWhole {
				return arithSQL("%", a[0], a[1])
			}
			return Column{Kind: value.KindDecimal, SQL: "mod(" + a[0].SQL + "::numeric, nullif(" + a[1].SQL + "::numeric, 0))"}, nil
		}},
	{name: "percent", signatures: slices.Concat(alike(decimalType, decimalType, whole), numeric(decimalType)),
		compute: func(a []value.Value) (value.Value, error) {
			part, err := value.Arith("*", a[0], value.Decimal{Decimal: decimal.NewFromInt(100)})
			if err != nil {
				return nil, err
			}
			return value.Arith("/", part, a[1])
		},
		sql: func(a []Column) (Column, error) {
			return Column{Kind: value.KindDecimal, SQL: quotient("("+a[0].SQL+"::numeric * 100)", a[1].SQL)}, nil
		}},
	{name: "decimal", signatures: []signature{gives(decimalType, whole), gives(decimalType, decimalType), gives(decimalType, str)},
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
		},
		sql: func(a []Column) (Column, error) {
			if a[0].Kind == value.KindText {
				return Column{}, fmt.Errorf("reading a number from a text has no SQL")
			}
			return Column{Kind: value.KindDecimal, SQL: a[0].SQL + "::numeric"}, nil
		}},
	{name: "money", signatures: []signature{gives(moneyType, str, str), gives(moneyType, decimalType, str), gives(moneyType, whole, str)},
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
		},
		sql: func(a []Column) (Column, error) { return Column{Kind: value.KindDecimal, SQL: a[0].SQL}, nil }},
	{name: "currency", signatures: []signature{gives(str, moneyType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Text(a[0].(value.Money).Currency), nil },
		sql:     func(a []Column) (Column, error) { return Column{Kind: value.KindText, SQL: a[0].Currency}, nil }},
	{name: "empty", lenient: true, signatures: []signature{gives(yes, anything)},
		compute: func(a []value.Value) (value.Value, error) { return value.YesNo(a[0] == nil), nil },
		sql: func(a []Column) (Column, error) {
			if a[0].Why != "" { // what failed is not empty
				return yesNo("(" + a[0].SQL + " IS NULL AND " + a[0].Why + " IS NULL)"), nil
			}
			return yesNo("(" + a[0].SQL + " IS NULL)"), nil
		}},
	{name: "either", lenient: true, signatures: slices.Concat(alike2(str, whole, yes, instant, decimalType, moneyType, dateType), numeric(decimalType)),
		compute: func(a []value.Value) (value.Value, error) {
			if a[0] != nil {
				return a[0], nil
			}
			return a[1], nil
		},
		sql: func(a []Column) (Column, error) {
			x, y := a[0], a[1]
			out := merge(x, y, func(x, y string) string { return "coalesce(" + x + ", " + y + ")" })
			if x.Why != "" {
				out = merge(x, y, func(x, y string) string {
					return "CASE WHEN " + a[0].Why + " IS NULL THEN coalesce(" + x + ", " + y + ") END"
				})
			}
			if y.Why != "" {
				y.Why = "CASE WHEN " + x.SQL + " IS NULL THEN " + y.Why + " END"
			}
			out.Why = firstOf(x.Why, y.Why)
			return out, nil
		}},
}

// wholeOf is a whole number near a number.
func wholeOf(name, sql string, compute func(value.Value) (value.Value, error)) function {
	return function{name: name, signatures: []signature{gives(whole, decimalType), gives(whole, whole)},
		compute: func(a []value.Value) (value.Value, error) { return compute(a[0]) },
		sql:     func(a []Column) (Column, error) { return wholeSQL(fmt.Sprintf(sql, a[0].SQL+"::numeric")), nil }}
}

// alike2 makes, for each type, a signature that takes two values of it and gives one.
func alike2(of ...*types.Type) []signature {
	var out []signature
	for _, t := range of {
		out = append(out, gives(t, t, t))
	}
	return out
}

// placesSQL is a CASE that gives how many places amounts in a currency have.
var placesSQL = func() string {
	by := map[int32][]string{}
	for _, code := range value.Currencies() {
		if n := value.CurrencyPlaces(code); n != 2 {
			by[n] = append(by[n], "'"+code+"'")
		}
	}
	var b strings.Builder
	for n := int32(0); n < 5; n++ {
		if len(by[n]) > 0 {
			b.WriteString(" WHEN %[1]s IN (" + strings.Join(by[n], ", ") + ") THEN " + strconv.Itoa(int(n)))
		}
	}
	return "CASE" + b.String() + " ELSE 2 END"
}()

func roundSQL(a []Column) (Column, error) {
	out := Column{Kind: value.KindDecimal, Currency: a[0].Currency}
	places := "0"
	if a[0].Kind == value.KindMoney {
		out.Kind = value.KindMoney
		places = fmt.Sprintf(placesSQL, a[0].Currency)
	}
	if len(a) == 1 {
		out.SQL = "round(" + a[0].SQL + ", " + places + ")"
		return out, nil
	}
	within := "abs(" + a[1].SQL + "::numeric) <= " + strconv.Itoa(value.MostPlaces)
	out.SQL = "CASE WHEN " + within + " THEN round(" + a[0].SQL + "::numeric, " + a[1].SQL + "::int) END"
	if out.Currency != "" {
		out.Currency = "CASE WHEN " + within + " THEN " + out.Currency + " END"
	}
	out.Why = "CASE WHEN NOT (" + within + ") AND " + a[0].SQL + " IS NOT NULL THEN 'cannot be rounded to ' || " + a[1].SQL + " || ' places: at most " + strconv.Itoa(value.MostPlaces) + "' END"
	return out, nil
}
