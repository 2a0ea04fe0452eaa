package sqlgen

import (
	"strings"

	"plainpath/core/value"
)

// Quoted writes a text for a place where PostgreSQL takes no parameters. A dollar is escaped,
// so that none is taken for a parameter.
func Quoted(s string) string {
	if strings.Contains(s, "$") {
		return "U&'" + strings.NewReplacer(`\`, `\\`, "$", `\0024`, "'", "''").Replace(s) + "'"
	}
	return "'" + strings.ReplaceAll(s, "'", "''") + "'"
}

// nothing is an empty value of a kind.
func nothing(kind value.Kind) scalar {
	return scalar{Kind: kind, SQL: "NULL::" + ColumnType(kind), Currency: "NULL::text"}
}

// failed is a value of a kind that could not be computed.
func failed(why value.Failure, kind value.Kind) scalar {
	c := nothing(kind)
	c.Why = Quoted(why.Why) + "::text"
	return c
}

// Literally writes a value into a statement.
func Literally(v value.Value, kind value.Kind) scalar {
	switch x := v.(type) {
	case nil:
		return nothing(kind)
	case value.Failure:
		return failed(x, kind)
	case value.Money:
		return scalar{Kind: value.KindMoney, SQL: Quoted(x.Amount.String()) + "::numeric",
			Currency: Quoted(x.Currency) + "::text"}
	}
	return scalar{Kind: v.Kind(), SQL: Quoted(Literal(v)) + "::" + ColumnType(v.Kind())}
}
