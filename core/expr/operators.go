package expr

import (
	"fmt"
	"slices"

	"cel.dev/cel-go/common/operators"

	"plainpath/core/value"
)

// operatorList are the operators. The logical ones and ?: are CEL's own in Go, so that they
// look only at what they need; here is what they are in SQL.
var operatorList = []function{
	{name: operators.Equals, lenient: true, signatures: slices.Concat(alike(yes, scalar...), alike(yes, several), numeric(yes)),
		compute: func(a []value.Value) (value.Value, error) { return value.YesNo(value.Equal(a[0], a[1])), nil },
		sql:     func(a []Column) (Column, error) { return yesNo("((" + equalSQL(a[0], a[1]) + ") IS TRUE)"), nil }},
	{name: operators.NotEquals, lenient: true, signatures: slices.Concat(alike(yes, scalar...), alike(yes, several), numeric(yes)),
		compute: func(a []value.Value) (value.Value, error) { return value.YesNo(!value.Equal(a[0], a[1])), nil },
		sql:     func(a []Column) (Column, error) { return yesNo("((" + equalSQL(a[0], a[1]) + ") IS NOT TRUE)"), nil }},
	ordering(operators.Less, "<", func(order int) bool { return order < 0 }),
	ordering(operators.LessEquals, "<=", func(order int) bool { return order <= 0 }),
	ordering(operators.Greater, ">", func(order int) bool { return order > 0 }),
	ordering(operators.GreaterEquals, ">=", func(order int) bool { return order >= 0 }),
	{name: operators.In, lenient: true, signatures: []signature{gives(yes, anything, list)},
		compute: func(a []value.Value) (value.Value, error) { // empty is in nothing, and nothing is in empty
			among, _ := a[1].(value.Several)
			return value.YesNo(a[0] != nil && a[1] != nil && among.Has(value.Display(a[0]))), nil
		},
		sql: func(a []Column) (Column, error) {
			return yesNo("coalesce(" + a[0].SQL + " = ANY(" + a[1].SQL + "), FALSE)"), nil
		}},
	{name: operators.LogicalAnd, lenient: true, sql: func(a []Column) (Column, error) {
		return yesNo("(" + a[0].SQL + " IS TRUE AND " + a[1].SQL + " IS TRUE)"), nil
	}},
	{name: operators.LogicalOr, lenient: true, sql: func(a []Column) (Column, error) {
		return yesNo("(" + a[0].SQL + " IS TRUE OR " + a[1].SQL + " IS TRUE)"), nil
	}},
	{name: operators.LogicalNot, lenient: true, sql: func(a []Column) (Column, error) { return yesNo("(" + a[0].SQL + " IS NOT TRUE)"), nil }},
	{name: operators.Conditional, lenient: true, sql: func(a []Column) (Column, error) { return either(a[0], a[1], a[2]), nil }},
	arithmetic(operators.Add, slices.Concat(alike(decimalType, decimalType), numeric(decimalType), alike(whole, whole), alike(moneyType, moneyType),
		alike(str, str), alike(list, list), []signature{gives(dateType, dateType, whole)})),
	arithmetic(operators.Subtract, slices.Concat(alike(decimalType, decimalType), numeric(decimalType), alike(whole, whole), alike(moneyType, moneyType),
		[]signature{gives(dateType, dateType, whole), gives(whole, dateType, dateType)})),
	arithmetic(operators.Multiply, slices.Concat(alike(decimalType, decimalType), numeric(decimalType), alike(whole, whole), []signature{
		gives(moneyType, moneyType, whole), gives(moneyType, moneyType, decimalType), gives(moneyType, whole, moneyType), gives(moneyType, decimalType, moneyType)})),
	arithmetic(operators.Divide, slices.Concat(alike(decimalType, decimalType, whole), numeric(decimalType), []signature{
		gives(moneyType, moneyType, whole), gives(moneyType, moneyType, decimalType)})),
	arithmetic(operators.Modulo, alike(whole, whole)),
	{name: operators.Negate, signatures: []signature{gives(whole, whole), gives(decimalType, decimalType), gives(moneyType, moneyType)},
		compute: func(a []value.Value) (value.Value, error) { return value.Negate(a[0]) },
		sql: func(a []Column) (Column, error) {
			if a[0].Kind == value.KindWhole {
				return wholeSQL("-" + a[0].SQL + "::numeric"), nil
			}
			return Column{Kind: a[0].Kind, SQL: "(-" + a[0].SQL + ")", Currency: a[0].Currency}, nil
		}},
}

// ByLanguage orders texts as people expect it rather than by code, as value.Compare does.
const ByLanguage = ` COLLATE "und-x-icu"`

func ordering(name, symbol string, holds func(order int) bool) function {
	return function{name: name, lenient: true, signatures: slices.Concat(alike(yes, str, whole, decimalType, moneyType, dateType, instant, yes), numeric(yes)),
		compute: func(a []value.Value) (value.Value, error) {
			order, ok := value.Compare(a[0], a[1])
			return value.YesNo(ok && holds(order)), nil
		},
		sql: func(a []Column) (Column, error) {
			out := a[0].SQL + " " + symbol + " " + a[1].SQL
			if a[0].Kind == value.KindText {
				out = a[0].SQL + ByLanguage + " " + symbol + " " + a[1].SQL
			}
			if a[0].Kind == value.KindMoney {
				out += " AND " + a[0].Currency + " = " + a[1].Currency
			}
			return yesNo("((" + out + ") IS TRUE)"), nil
		}}
}

func arithmetic(name string, signatures []signature) function {
	symbol := name[1 : len(name)-1]
	return function{name: name, signatures: signatures,
		compute: func(a []value.Value) (value.Value, error) { return value.Arith(symbol, a[0], a[1]) },
		sql:     func(a []Column) (Column, error) { return arithSQL(symbol, a[0], a[1]) }}
}

func yesNo(sql string) Column { return Column{Kind: value.KindYesNo, SQL: sql} }

// equalSQL is NULL where a side is.
func equalSQL(a, b Column) string {
	switch a.Kind {
	case value.KindMoney:
		return a.SQL + " = " + b.SQL + " AND " + a.Currency + " = " + b.Currency
	case value.KindSeveral:
		return a.SQL + " @> " + b.SQL + " AND " + a.SQL + " <@ " + b.SQL
	}
	return a.SQL + " = " + b.SQL
}

// merge writes one of two values. Where one is a whole number and the other a decimal, the
// result is a decimal.
func merge(a, b Column, sql func(x, y string) string) Column {
	out := Column{Kind: a.Kind, SQL: sql(a.SQL, b.SQL)}
	if b.Kind == value.KindDecimal {
		out.Kind = b.Kind
	}
	if a.Kind == value.KindMoney {
		out.Currency = sql(a.Currency, b.Currency)
	}
	return out
}

// either writes the choice between two values.
func either(condition, yes, no Column) Column {
	choose := func(x, y string) string {
		return "CASE WHEN " + condition.SQL + " THEN " + x + " ELSE " + y + " END"
	}
	out := merge(yes, no, choose)
	if yes.Why != "" || no.Why != "" {
		out.Why = choose(orNull(yes.Why), orNull(no.Why))
	}
	return out
}

func orNull(text string) string {
	if text == "" {
		return "NULL::text"
	}
	return text
}

// wholeSQL makes a whole number of one that may have grown out of 64 bits.
func wholeSQL(numeric string) Column {
	return Column{Kind: value.KindWhole, SQL: "plainpath.whole(" + numeric + ")",
		Why: "CASE WHEN plainpath.whole(" + numeric + ") IS NULL AND (" + numeric + ") IS NOT NULL THEN " + said(value.TooLarge) + " END"}
}

// said quotes a text of our own.
func said(text string) string { return "'" + text + "'::text" }

// arithSQL mirrors value.Arith.
func arithSQL(symbol string, a, b Column) (Column, error) {
	plain := "(" + a.SQL + " " + symbol + " " + b.SQL + ")"
	switch {
	case a.Kind == value.KindMoney && b.Kind == value.KindMoney:
		one := func(sql string) string {
			return "CASE WHEN " + a.Currency + " = " + b.Currency + " THEN " + sql + " END"
		}
		return Column{Kind: value.KindMoney, SQL: one(plain), Currency: one(a.Currency), Why: currenciesWhy(a.Currency, b.Currency)}, nil
	case a.Kind == value.KindMoney && symbol == "/":
		quotient := quotient(a.SQL, b.SQL)
		return Column{Kind: value.KindMoney, SQL: quotient, Currency: "CASE WHEN " + b.SQL + " <> 0 THEN " + a.Currency + " END"}, nil
	case a.Kind == value.KindMoney:
		return Column{Kind: value.KindMoney, SQL: plain, Currency: emptyWith(a.Currency, b.SQL)}, nil
	case b.Kind == value.KindMoney:
		return Column{Kind: value.KindMoney, SQL: plain, Currency: emptyWith(b.Currency, a.SQL)}, nil
	case a.Kind == value.KindDate && b.Kind == value.KindDate:
		return Column{Kind: value.KindWhole, SQL: plain + "::bigint"}, nil
	case a.Kind == value.KindDate:
		day := "plainpath.day(" + a.SQL + ", " + symbol + b.SQL + "::numeric)"
		return Column{Kind: value.KindDate, SQL: day,
			Why: "CASE WHEN " + day + " IS NULL AND " + a.SQL + " IS NOT NULL AND " + b.SQL + " IS NOT NULL THEN " + said(value.BeyondCalendar) + " END"}, nil
	case symbol == "/":
		return Column{Kind: value.KindDecimal, SQL: quotient(a.SQL, b.SQL)}, nil
	case a.Kind == value.KindWhole && b.Kind == value.KindWhole && symbol == "%":
		return Column{Kind: value.KindWhole, SQL: "(" + a.SQL + " % nullif(" + b.SQL + ", 0))"}, nil
	case a.Kind == value.KindWhole && b.Kind == value.KindWhole:
		return wholeSQL(a.SQL + "::numeric " + symbol + " " + b.SQL), nil
	case isNumber(a.Kind) && isNumber(b.Kind):
		return Column{Kind: value.KindDecimal, SQL: plain}, nil
	}
	return Column{}, fmt.Errorf("%s %s %s has no SQL", a.Kind, symbol, b.Kind)
}

// currenciesWhy says which two currencies cannot be added, as value.Arith does.
func currenciesWhy(a, b string) string {
	return "CASE WHEN " + a + " <> " + b + " THEN 'cannot be added: ' || least(" + a + `, ` + b + ") || ' and ' || greatest(" + a + ", " + b + ") END"
}

// quotient divides exactly and rounds once, half away from zero: div() cuts off one
// place further than is kept, so that last place alone decides the rounding.
func quotient(a, b string) string {
	return fmt.Sprintf("round(div(%s * 1e%d, nullif(%s, 0)) * 1e-%d, %d)", a, value.DivisionPlaces+1, b, value.DivisionPlaces+1, value.DivisionPlaces)
}

func emptyWith(currency, number string) string {
	return "CASE WHEN " + number + " IS NOT NULL THEN " + currency + " END"
}

func isNumber(k value.Kind) bool { return k == value.KindWhole || k == value.KindDecimal }
