package expr

import (
	"strings"
	"unicode/utf8"

	"plainpath/core/value"
)

// MostPlace bounds where in a text something is looked for, and MostPadded how long one is made.
const (
	MostPlace  = 1_000_000_000
	MostPadded = 1000
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

// lettersOf is some letters of a text, counted from 1.
var lettersOf = function{told: tell("part(x, 1, 3)",
	"Some letters of a text, a substring: from which on, counted from 1, and how many."), member: true, repeats: 3,
	signatures: []signature{gives(str, str, whole, whole)},
	compute: func(a []value.Value) (value.Value, error) {
		letters := []rune(string(a[0].(value.Text)))
		from := min(clamped(a[1], 1, MostPlace)-1, len(letters))
		return orEmpty(string(letters[from:min(from+clamped(a[2], 0, MostPlace), len(letters))]))
	}}

// pieceOf is one of the pieces that a text falls into at a separator, counted from 1.
var pieceOf = function{told: tell(`piece(x, ",", 2)`, "A text split at a separator: the piece at a place, counted from 1."), member: true, repeats: 2, signatures: []signature{gives(str, str, str, whole)},
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
	}}

// replaced is a text with another in the place of every piece that is alike.
var replaced = function{told: tell(`replace(x, "-", "/")`, "A text with another in the place of every piece that is alike."), member: true, signatures: []signature{gives(str, str, str, str)},
	inHouse: func(a []value.Value, h house) (value.Value, error) {
		text, what, by := string(a[0].(value.Text)), string(a[1].(value.Text)), string(a[2].(value.Text))
		if what == "" {
			return a[0], nil
		}
		if len(text)+strings.Count(text, what)*(len(by)-len(what)) > h.mostText {
			return nil, value.Failure{Why: value.TooLong(h.mostText)}
		}
		return orEmpty(strings.ReplaceAll(text, what, by))
	}}

// padded is a text filled up to so many letters at one end; one that has more stays as it is.
func padded(t told, join func(text, fill string) string) function {
	return function{told: t, member: true, repeats: 6, signatures: []signature{gives(str, str, whole, str)},
		compute: func(a []value.Value) (value.Value, error) {
			text, fill := string(a[0].(value.Text)), []rune(string(a[2].(value.Text)))
			missing := clamped(a[1], 0, MostPadded) - utf8.RuneCountInString(text)
			if missing <= 0 || len(fill) == 0 {
				return a[0], nil
			}
			with := make([]rune, missing)
			for i := range with {
				with[i] = fill[i%len(fill)]
			}
			return value.Text(join(text, string(with))), nil
		}}
}
