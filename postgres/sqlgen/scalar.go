package sqlgen

import (
	"slices"
	"strings"

	"plainpath/core/value"
)

// scalar is a value as SQL. Money takes two texts: the amount and the currency.
type scalar struct {
	Kind     value.Kind
	SQL      string
	Currency string
	// Why is the text of the value.Failure where the value cannot be computed, whose SQL and
	// Currency are NULL then; where it can, Why is NULL. It is "" where the value always can.
	Why string
	// Stored is of how many stored texts a text is made at most, each of which can be long.
	Stored int
}

// byLanguage orders texts as people expect it rather than by code, as value.Compare does.
const byLanguage = ` COLLATE "und-x-icu"`

// of is a value of a kind that never fails more than what it is made of.
func of(kind value.Kind, sql string) (scalar, error) { return scalar{Kind: kind, SQL: sql}, nil }

func yesNo(sql string) (scalar, error) { return of(value.KindYesNo, sql) }

// merge writes one of two values. Where one is a whole number and the other a decimal, the
// result is a decimal.
func merge(a, b scalar, sql func(x, y string) string) scalar {
	out := scalar{Kind: a.Kind, SQL: sql(a.SQL, b.SQL)}
	if b.Kind == value.KindDecimal {
		out.Kind = b.Kind
	}
	if a.Kind == value.KindMoney {
		out.Currency = sql(a.Currency, b.Currency)
	}
	return out
}

// choice writes one of two values, by a condition.
func choice(condition, yes, no scalar) scalar {
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

// said quotes a text of our own.
func said(text string) string { return "'" + text + "'::text" }

// fails says why a value cannot be computed where it is NULL though nothing that it is made of is.
func fails(sql, why string, of ...scalar) string {
	out := "CASE WHEN " + sql + " IS NULL"
	for _, x := range of {
		out += " AND " + x.SQL + " IS NOT NULL"
	}
	return out + " THEN " + said(why) + " END"
}

// firstOf is the first of several SQL texts that says something, "" when none ever does.
func firstOf(texts ...string) string {
	said := slices.DeleteFunc(texts, func(t string) bool { return t == "" })
	switch len(said) {
	case 0:
		return ""
	case 1:
		return said[0]
	}
	return "coalesce(" + strings.Join(said, ", ") + ")"
}
