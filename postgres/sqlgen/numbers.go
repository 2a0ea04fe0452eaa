package sqlgen

import (
	"fmt"
	"strconv"
	"strings"

	"plainpath/core/value"
)

var numberFunctions = map[string]function{
	"round": round,
	"formatted": func(a []scalar, _ house) (scalar, error) {
		places := clamped(a[1].SQL, 0, value.MostPlaces)
		written := "round(" + a[0].SQL + "::numeric, " + places + ")::text"
		return of(value.KindText, `(regexp_replace(split_part(`+written+`, '.', 1), '(\d)(?=(\d{3})+$)', '\1,', 'g') || CASE WHEN `+
			places+` > 0 THEN '.' || split_part(`+written+`, '.', 2) ELSE '' END)`)
	},
	"whole":   func(a []scalar, _ house) (scalar, error) { return within64("trunc(" + a[0].SQL + "::numeric)"), nil },
	"floor":   func(a []scalar, _ house) (scalar, error) { return within64("floor(" + a[0].SQL + "::numeric)"), nil },
	"ceiling": func(a []scalar, _ house) (scalar, error) { return within64("ceil(" + a[0].SQL + "::numeric)"), nil },
	"absolute": func(a []scalar, _ house) (scalar, error) {
		if a[0].Kind == value.KindWhole {
			return within64("abs(" + a[0].SQL + "::numeric)"), nil
		}
		return scalar{Kind: a[0].Kind, SQL: "abs(" + a[0].SQL + ")", Currency: a[0].Currency}, nil
	},
	"remainder": func(a []scalar, _ house) (scalar, error) {
		if a[0].Kind == value.KindWhole && a[1].Kind == value.KindWhole {
			return arith("%", a[0], a[1])
		}
		return of(value.KindDecimal, "mod("+a[0].SQL+"::numeric, nullif("+a[1].SQL+"::numeric, 0))")
	},
	"percent": func(a []scalar, _ house) (scalar, error) {
		return of(value.KindDecimal, quotient("("+a[0].SQL+"::numeric * 100)", a[1].SQL))
	},
	"decimal":  func(a []scalar, _ house) (scalar, error) { return of(value.KindDecimal, a[0].SQL+"::numeric") },
	"amount":   func(a []scalar, _ house) (scalar, error) { return of(value.KindDecimal, a[0].SQL) },
	"currency": func(a []scalar, _ house) (scalar, error) { return of(value.KindText, a[0].Currency) },
}

func arithmetic(symbol string) function {
	return func(a []scalar, _ house) (scalar, error) { return arith(symbol, a[0], a[1]) }
}

// arith mirrors value.Arith.
func arith(symbol string, a, b scalar) (scalar, error) {
	plain := "(" + a.SQL + " " + symbol + " " + b.SQL + ")"
	switch {
	case a.Kind == value.KindMoney && b.Kind == value.KindMoney:
		one := func(sql string) string {
			return "CASE WHEN " + a.Currency + " = " + b.Currency + " THEN " + sql + " END"
		}
		return scalar{Kind: value.KindMoney, SQL: one(plain), Currency: one(a.Currency),
			Why: currenciesWhy(a.Currency, b.Currency)}, nil
	case a.Kind == value.KindMoney && symbol == "/":
		quotient := quotient(a.SQL, b.SQL)
		return scalar{Kind: value.KindMoney, SQL: quotient, Currency: "CASE WHEN " + b.SQL + " <> 0 THEN " +
			a.Currency + " END"}, nil
	case a.Kind == value.KindMoney:
		return scalar{Kind: value.KindMoney, SQL: plain, Currency: emptyWith(a.Currency, b.SQL)}, nil
	case b.Kind == value.KindMoney:
		return scalar{Kind: value.KindMoney, SQL: plain, Currency: emptyWith(b.Currency, a.SQL)}, nil
	case a.Kind == value.KindDate && b.Kind == value.KindDate:
		return of(value.KindWhole, plain+"::bigint")
	case a.Kind == value.KindDate:
		return day("plainpath.day("+a.SQL+", "+symbol+b.SQL+"::numeric)", a, b), nil
	case symbol == "/":
		return of(value.KindDecimal, quotient(a.SQL, b.SQL))
	case a.Kind == value.KindWhole && b.Kind == value.KindWhole && symbol == "%":
		return of(value.KindWhole, "("+a.SQL+" % nullif("+b.SQL+", 0))")
	case a.Kind == value.KindWhole && b.Kind == value.KindWhole:
		return within64(a.SQL + "::numeric " + symbol + " " + b.SQL), nil
	case isNumber(a.Kind) && isNumber(b.Kind):
		return of(value.KindDecimal, plain)
	}
	return scalar{}, fmt.Errorf("%s %s %s has no SQL", a.Kind, symbol, b.Kind)
}

func isNumber(k value.Kind) bool { return k == value.KindWhole || k == value.KindDecimal }

// within64 makes a whole number of one that may have grown out of 64 bits.
func within64(numeric string) scalar {
	whole := "plainpath.whole(" + numeric + ")"
	return scalar{Kind: value.KindWhole, SQL: whole,
		Why: "CASE WHEN " + whole + " IS NULL AND (" + numeric + ") IS NOT NULL THEN " + said(value.TooLarge) + " END"}
}

// currenciesWhy says which two currencies cannot be added, as value.Arith does.
func currenciesWhy(a, b string) string {
	return "CASE WHEN " + a + " <> " + b + " THEN 'cannot be added: ' || least(" + a + `, ` + b +
		") || ' and ' || greatest(" + a + ", " + b + ") END"
}

// quotient divides exactly and rounds once, half away from zero: div() cuts off one
// place further than is kept, so that last place alone decides the rounding.
func quotient(a, b string) string {
	return fmt.Sprintf("round(div(%s * 1e%d, nullif(%s, 0)) * 1e-%d, %d)", a, value.DivisionPlaces+1, b,
		value.DivisionPlaces+1, value.DivisionPlaces)
}

func emptyWith(currency, number string) string {
	return "CASE WHEN " + number + " IS NOT NULL THEN " + currency + " END"
}

// currencyPlaces is a CASE that gives how many places amounts in a currency have.
var currencyPlaces = func() string {
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

func round(a []scalar, _ house) (scalar, error) {
	out := scalar{Kind: value.KindDecimal, Currency: a[0].Currency}
	places := "0"
	if a[0].Kind == value.KindMoney {
		out.Kind = value.KindMoney
		places = fmt.Sprintf(currencyPlaces, a[0].Currency)
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
	out.Why = "CASE WHEN NOT (" + within + ") AND " + a[0].SQL + " IS NOT NULL THEN 'cannot be rounded to ' || " +
		a[1].SQL +
		" || ' places: at most " + strconv.Itoa(value.MostPlaces) + "' END"
	return out, nil
}
