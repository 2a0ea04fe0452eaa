package expr

import (
	"fmt"
	"strings"
	"unicode/utf8"

	"plainpath/core/value"
)

// mostPlace bounds where in a text something is looked for, and mostPadded how long one is made.
const (
	mostPlace  = 1_000_000_000
	mostPadded = 1000
)

// orEmpty is a text, nothing when it has no letters.
func orEmpty(s string) (value.Value, error) {
	if s == "" {
		return nil, nil
	}
	return value.Text(s), nil
}

func clamped(n value.Value, least, most int64) int {
	return int(min(max(int64(n.(value.Whole)), least), most))
}

func clampedSQL(sql string, least, most int) string {
	return fmt.Sprintf("(CASE WHEN %[1]s < %[2]d THEN %[2]d WHEN %[1]s > %[3]d THEN %[3]d ELSE %[1]s END)::int", sql, least, most)
}

// lettersOf is some letters of a text, counted from 1.
var lettersOf = function{name: "part", member: true, signatures: []signature{gives(str, str, whole, whole)},
	compute: func(a []value.Value) (value.Value, error) {
		letters := []rune(string(a[0].(value.Text)))
		from := min(clamped(a[1], 1, mostPlace)-1, len(letters))
		return orEmpty(string(letters[from:min(from+clamped(a[2], 0, mostPlace), len(letters))]))
	},
	sql: func(a []Column) (Column, error) {
		return Column{Kind: value.KindText, SQL: fmt.Sprintf("nullif(substr(%s, %s, %s), '')", a[0].SQL, clampedSQL(a[1].SQL, 1, mostPlace), clampedSQL(a[2].SQL, 0, mostPlace))}, nil
	}}

// pieceOf is one of the pieces that a text falls into at a separator, counted from 1.
var pieceOf = function{name: "piece", member: true, signatures: []signature{gives(str, str, str, whole)},
	compute: func(a []value.Value) (value.Value, error) {
		pieces := []string{string(a[0].(value.Text))}
		if separator := string(a[1].(value.Text)); separator != "" {
			pieces = strings.Split(pieces[0], separator)
		}
		n := int64(a[2].(value.Whole))
		if n < 1 || n > int64(len(pieces)) {
			return nil, nil
		}
		return orEmpty(pieces[n-1])
	},
	sql: func(a []Column) (Column, error) {
		n := fmt.Sprintf("(CASE WHEN %s BETWEEN 1 AND %d THEN %[1]s END)::int", a[2].SQL, mostPlace)
		return Column{Kind: value.KindText, SQL: fmt.Sprintf("nullif(split_part(%s, %s, %s), '')", a[0].SQL, a[1].SQL, n)}, nil
	}}

// replaced is a text with another in the place of every piece that is alike.
var replaced = function{name: "replace", member: true, signatures: []signature{gives(str, str, str, str)},
	inHouse: func(a []value.Value, h house) (value.Value, error) {
		text, what, by := string(a[0].(value.Text)), string(a[1].(value.Text)), string(a[2].(value.Text))
		if what == "" {
			return a[0], nil
		}
		if len(text)+strings.Count(text, what)*(len(by)-len(what)) > h.mostText {
			return nil, value.Failure{Why: value.TooLong(h.mostText)}
		}
		return orEmpty(strings.ReplaceAll(text, what, by))
	},
	inHouseSQL: func(a []Column, h house) (Column, error) {
		call := fmt.Sprintf("plainpath.replaced(%s, %s, %s, %d)", a[0].SQL, a[1].SQL, a[2].SQL, h.mostText)
		return Column{Kind: value.KindText, SQL: "nullif(" + call + ", '')",
			Why: fmt.Sprintf("CASE WHEN %s IS NULL AND %s IS NOT NULL AND %s IS NOT NULL AND %s IS NOT NULL THEN %s END", call, a[0].SQL, a[1].SQL, a[2].SQL, said(value.TooLong(h.mostText)))}, nil
	}}

// padded is a text filled up to so many letters at one end; one that has more stays as it is.
func padded(name, sql string, join func(text, fill string) string) function {
	return function{name: name, member: true, signatures: []signature{gives(str, str, whole, str)},
		compute: func(a []value.Value) (value.Value, error) {
			text, fill := string(a[0].(value.Text)), []rune(string(a[2].(value.Text)))
			missing := clamped(a[1], 0, mostPadded) - utf8.RuneCountInString(text)
			if missing <= 0 || len(fill) == 0 {
				return a[0], nil
			}
			with := make([]rune, missing)
			for i := range with {
				with[i] = fill[i%len(fill)]
			}
			return value.Text(join(text, string(with))), nil
		},
		sql: func(a []Column) (Column, error) {
			n := clampedSQL(a[1].SQL, 0, mostPadded)
			return Column{Kind: value.KindText, SQL: fmt.Sprintf("CASE WHEN char_length(%[1]s) >= %[2]s AND %[4]s IS NOT NULL THEN %[1]s ELSE %[3]s(%[1]s, %[2]s, %[4]s) END", a[0].SQL, n, sql, a[2].SQL)}, nil
		}}
}
