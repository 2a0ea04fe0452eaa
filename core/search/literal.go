package search

import (
	"strings"

	"plainpath/core/expr"
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

// Literally writes a value into a statement.
func Literally(v value.Value, kind value.Kind) expr.Column {
	switch x := v.(type) {
	case nil:
		return expr.Column{Kind: kind, SQL: "NULL::" + cast(kind), Currency: "NULL::text"}
	case value.Money:
		return expr.Column{Kind: value.KindMoney, SQL: Quoted(x.Amount.String()) + "::numeric", Currency: Quoted(x.Currency) + "::text"}
	}
	return expr.Column{Kind: v.Kind(), SQL: Quoted(Literal(v)) + "::" + cast(v.Kind())}
}
