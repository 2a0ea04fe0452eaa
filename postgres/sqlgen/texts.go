package sqlgen

import (
	"fmt"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/value"
)

var textFunctions = map[string]function{
	"text":           text,
	"lower":          filled("lower(%s)"),
	"upper":          filled("upper(%s)"),
	"withoutAccents": filled("plainpath.unaccented(%s)"),
	"trim":           filled("btrim(%s)"),
	"contains":       inText("coalesce(strpos(plainpath.folded(%s), plainpath.folded(%s)) > 0, false)"),
	"startsWith":     inText("coalesce(starts_with(plainpath.folded(%s), plainpath.folded(%s)), false)"),
	"endsWith":       inText("coalesce(right(plainpath.folded(%[1]s), char_length(plainpath.folded(%[2]s))) = plainpath.folded(%[2]s), false)"),
	"padLeft":        padded("lpad"),
	"padRight":       padded("rpad"),
	"part": func(a []scalar, _ house) (scalar, error) {
		from, length := clamped(a[1].SQL, 1, expr.MostPlace), clamped(a[2].SQL, 0, expr.MostPlace)
		return of(value.KindText, fmt.Sprintf("nullif(substr(%s, %s, %s), '')", a[0].SQL, from, length))
	},
	"piece": func(a []scalar, _ house) (scalar, error) {
		n := fmt.Sprintf("(CASE WHEN %s BETWEEN 1 AND %d THEN %[1]s END)::int", a[2].SQL, expr.MostPlace)
		return of(value.KindText, fmt.Sprintf("nullif(split_part(%s, %s, %s), '')", a[0].SQL, a[1].SQL, n))
	},
	"replace": func(a []scalar, h house) (scalar, error) {
		call := fmt.Sprintf("plainpath.replaced(%s, %s, %s, %d)", a[0].SQL, a[1].SQL, a[2].SQL, h.mostText)
		return scalar{Kind: value.KindText, SQL: "nullif(" + call + ", '')", Why: fails(call, value.TooLong(h.mostText),
			a...)}, nil
	},
}

// filled is a text made of another, nothing where it has no letters.
func filled(sql string) function {
	return func(a []scalar, _ house) (scalar, error) {
		return of(value.KindText, "nullif("+fmt.Sprintf(sql, a[0].SQL)+", '')")
	}
}

// inText asks something of two texts.
func inText(sql string) function {
	return func(a []scalar, _ house) (scalar, error) { return yesNo(fmt.Sprintf(sql, a[0].SQL, a[1].SQL)) }
}

// padded is a text filled up to so many letters at one end.
func padded(sql string) function {
	return func(a []scalar, _ house) (scalar, error) {
		return of(value.KindText,
			fmt.Sprintf("CASE WHEN char_length(%[1]s) >= %[2]s AND %[4]s IS NOT NULL THEN %[1]s ELSE %[3]s(%[1]s, %[2]s, %[4]s) END",
				a[0].SQL, clamped(a[1].SQL, 0, expr.MostPadded), sql, a[2].SQL))
	}
}

func clamped(sql string, least, most int) string {
	return fmt.Sprintf("(CASE WHEN %[1]s < %[2]d THEN %[2]d WHEN %[1]s > %[3]d THEN %[3]d ELSE %[1]s END)::int", sql,
		least, most)
}

// text mirrors value.Display for the kinds that PostgreSQL can write alike.
func text(a []scalar, _ house) (scalar, error) {
	c := a[0]
	if value.Parts(c.Kind) != nil {
		return of(value.KindText, compositeText(c.Kind, c.SQL))
	}
	switch c.Kind {
	case value.KindText:
		return of(c.Kind, c.SQL)
	case value.KindWhole:
		return of(value.KindText, c.SQL+"::text")
	case value.KindDate:
		return of(value.KindText, "plainpath.day_text("+c.SQL+")")
	case value.KindDecimal:
		return of(value.KindText, "trim_scale("+c.SQL+")::text")
	case value.KindYesNo:
		return of(value.KindText, "CASE "+c.SQL+" WHEN TRUE THEN 'yes' WHEN FALSE THEN 'no' END")
	}
	return scalar{}, fmt.Errorf("text of a %s has no SQL", c.Kind)
}

// mostStored is how many stored texts are joined without measuring them.
const mostStored = 8

// joined writes texts one after another. None comes out longer than it may be:
// where many stored ones are joined they are measured first.
func joined(texts []scalar, most int) scalar {
	out := scalar{Kind: value.KindText}
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
