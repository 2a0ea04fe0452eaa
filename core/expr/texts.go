package expr

import (
	"strings"

	"cel.dev/cel-go/common/types"

	"plainpath/core/value"
)

var textFunctions = []function{
	{told: tell("text(x)", "A value as text.", "Of amounts, times, records and several choices "+onScreens),
		here: []value.Kind{value.KindMoney, value.KindInstant, value.KindSeveral, value.KindRecord,
			value.KindList, value.KindScreen, value.KindRows}, signatures: []signature{gives(str, anything)},
		compute: func(a []value.Value) (value.Value, error) { return value.Text(value.Display(a[0])), nil }},
	ofText(tell("lower(x)", "A text in small letters."), strings.ToLower),
	ofText(tell("upper(x)", "A text in capitals."), strings.ToUpper),
	ofText(tell("withoutAccents(x)", "A text whose letters have no accents: Zürich is Zurich."), value.Unaccented),
	ofText(tell("trim(x)", "A text without blanks at its ends."),
		func(s string) string { return strings.Trim(s, " ") }),
	lettersOf, pieceOf, replaced,
	padded(tell(`padLeft(x, 6, "0")`, "A text filled up at its beginning to a length of at most 1,000."),
		func(text, fill string) string { return fill + text }),
	padded(tell(`padRight(x, 6, ".")`, "A text filled up at its end to a length of at most 1,000."),
		func(text, fill string) string { return text + fill }),
	{told: tell("capitalized(x)", "A text whose words begin with a capital, as titles do.", "For use "+onScreens),
		here: everyKind, signatures: []signature{gives(str, str)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Text(value.Capitalized(string(a[0].(value.Text)))), nil
		}},
	inText(tell("x.contains(y)", "Whether a text has y in it, whatever the case."), value.Contains),
	inText(tell("x.startsWith(y)", "Whether a text begins with y, whatever the case."), value.StartsWith),
	inText(tell("x.endsWith(y)", "Whether a text ends with y, whatever the case."), value.EndsWith),
}

func ofText(t told, compute func(string) string) function {
	return function{told: t, member: true, signatures: []signature{gives(str, str)},
		compute: func(a []value.Value) (value.Value, error) {
			out := compute(string(a[0].(value.Text)))
			if out == "" {
				return nil, nil
			}
			return value.Text(out), nil
		}}
}

// inText asks something of two texts. As any comparison it does not hold where one is empty.
func inText(t told, holds func(text, part string) bool) function {
	return function{told: t, member: true, lenient: true, repeats: 2,
		signatures: []signature{gives(types.BoolType, str, str)},
		compute: func(a []value.Value) (value.Value, error) {
			x, okX := a[0].(value.Text)
			y, okY := a[1].(value.Text)
			return value.YesNo(okX && okY && holds(string(x), string(y))), nil
		}}
}
