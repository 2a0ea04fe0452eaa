package expr

import (
	"fmt"
	"strings"

	"cel.dev/cel-go/common/ast"
	"cel.dev/cel-go/common/operators"
	"cel.dev/cel-go/common/types"

	"plainpath/core/value"
)

var textFunctions = []function{
	{name: "text", signatures: []signature{gives(str, anything)},
		compute: func(a []value.Value) (value.Value, error) { return value.Text(value.Display(a[0])), nil },
		sql:     func(a []Column) (Column, error) { return textSQL(a[0]) }},
	ofText("lower", strings.ToLower, "lower(%s)"),
	ofText("upper", strings.ToUpper, "upper(%s)"),
	ofText("withoutAccents", value.Unaccented, "plainpath.unaccented(%s)"),
	ofText("trim", func(s string) string { return strings.Trim(s, " ") }, "btrim(%s)"),
	lettersOf, pieceOf, replaced,
	padded("padLeft", "lpad", func(text, fill string) string { return fill + text }),
	padded("padRight", "rpad", func(text, fill string) string { return text + fill }),
	{name: "capitalized", signatures: []signature{gives(str, str)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Text(value.Capitalized(string(a[0].(value.Text)))), nil
		}},
	inText("contains", value.Contains, "coalesce(strpos(plainpath.folded(%s), plainpath.folded(%s)) > 0, false)"),
	inText("startsWith", value.StartsWith, "coalesce(starts_with(plainpath.folded(%s), plainpath.folded(%s)), false)"),
	inText("endsWith", value.EndsWith, "coalesce(right(plainpath.folded(%[1]s), char_length(plainpath.folded(%[2]s))) = plainpath.folded(%[2]s), false)"),
}

func ofText(name string, compute func(string) string, sql string) function {
	return function{name: name, member: true, signatures: []signature{gives(str, str)},
		compute: func(a []value.Value) (value.Value, error) {
			out := compute(string(a[0].(value.Text)))
			if out == "" {
				return nil, nil
			}
			return value.Text(out), nil
		},
		sql: func(a []Column) (Column, error) {
			return Column{Kind: value.KindText, SQL: "nullif(" + fmt.Sprintf(sql, a[0].SQL) + ", '')"}, nil
		}}
}

// inText asks something of two texts. As any comparison it does not hold where one is empty.
func inText(name string, holds func(text, part string) bool, sql string) function {
	return function{name: name, member: true, lenient: true, signatures: []signature{gives(types.BoolType, str, str)},
		compute: func(a []value.Value) (value.Value, error) {
			x, okX := a[0].(value.Text)
			y, okY := a[1].(value.Text)
			return value.YesNo(okX && okY && holds(string(x), string(y))), nil
		},
		sql: func(a []Column) (Column, error) { return yesNo(fmt.Sprintf(sql, a[0].SQL, a[1].SQL)), nil }}
}

// textSQL mirrors value.Display for the kinds that PostgreSQL can write alike.
func textSQL(c Column) (Column, error) {
	out := Column{Kind: value.KindText}
	switch c.Kind {
	case value.KindText:
		return c, nil
	case value.KindWhole:
		out.SQL = c.SQL + "::text"
	case value.KindDate:
		out.SQL = "plainpath.day_text(" + c.SQL + ")"
	case value.KindDecimal:
		out.SQL = "trim_scale(" + c.SQL + ")::text"
	case value.KindYesNo:
		out.SQL = "CASE " + c.SQL + " WHEN TRUE THEN 'yes' WHEN FALSE THEN 'no' END"
	case value.KindAddress:
		out.SQL = "plainpath.address_text(" + c.SQL + ")"
	default:
		return out, fmt.Errorf("text of a %s has no SQL", c.Kind)
	}
	return out, nil
}

// mostStored is how many stored texts are joined without measuring them.
const mostStored = 8

// terms are the arguments of a call; those of texts joined one after another are all of their texts.
func (w sqlWriter) terms(e ast.Expr) []ast.Expr {
	args := arguments(e)
	if e.AsCall().FunctionName() != operators.Add || w.kind(e) != value.KindText {
		return args
	}
	if first := args[0]; first.Kind() == ast.CallKind && first.AsCall().FunctionName() == operators.Add {
		return append(w.terms(first), args[1])
	}
	return args
}

// joinedSQL writes texts one after another. None comes out longer than it may be:
// where many stored ones are joined they are measured first.
func joinedSQL(texts []Column, most int) Column {
	out := Column{Kind: value.KindText}
	var whys, lengths []string
	for i, t := range texts {
		out.Stored += t.Stored
		whys, lengths = append(whys, t.Why), append(lengths, "octet_length("+t.SQL+")::bigint")
		if i == 0 {
			out.SQL = t.SQL
			continue
		}
		out.SQL = "(" + out.SQL + " || " + t.SQL + ")"
	}
	if out.Stored > mostStored {
		length := strings.Join(lengths, " + ")
		out.SQL = fmt.Sprintf("CASE WHEN %s <= %d THEN %s END", length, most, out.SQL)
		whys = append(whys, fmt.Sprintf("CASE WHEN %s > %d THEN %s END", length, most, said(value.TooLong(most))))
		out.Stored = 1
	}
	out.Why = firstOf(whys...)
	return out
}
