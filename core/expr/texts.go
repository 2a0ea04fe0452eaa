package expr

import (
	"strings"

	"cel.dev/cel-go/common/types"

	"plainpath/core/value"
)

var textFunctions = []function{
	{name: "text", here: []value.Kind{value.KindMoney, value.KindInstant, value.KindSeveral, value.KindRecord,
		value.KindList, value.KindScreen}, signatures: []signature{gives(str, anything)},
		compute: func(a []value.Value) (value.Value, error) { return value.Text(value.Display(a[0])), nil }},
	ofText("lower", strings.ToLower),
	ofText("upper", strings.ToUpper),
	ofText("withoutAccents", value.Unaccented),
	ofText("trim", func(s string) string { return strings.Trim(s, " ") }),
	lettersOf, pieceOf, replaced,
	padded("padLeft", func(text, fill string) string { return fill + text }),
	padded("padRight", func(text, fill string) string { return text + fill }),
	{name: "capitalized", here: everyKind, signatures: []signature{gives(str, str)},
		compute: func(a []value.Value) (value.Value, error) {
			return value.Text(value.Capitalized(string(a[0].(value.Text)))), nil
		}},
	inText("contains", value.Contains),
	inText("startsWith", value.StartsWith),
	inText("endsWith", value.EndsWith),
}

func ofText(name string, compute func(string) string) function {
	return function{name: name, member: true, signatures: []signature{gives(str, str)},
		compute: func(a []value.Value) (value.Value, error) {
			out := compute(string(a[0].(value.Text)))
			if out == "" {
				return nil, nil
			}
			return value.Text(out), nil
		}}
}

// inText asks something of two texts. As any comparison it does not hold where one is empty.
func inText(name string, holds func(text, part string) bool) function {
	return function{name: name, member: true, lenient: true, repeats: 2,
		signatures: []signature{gives(types.BoolType, str, str)},
		compute: func(a []value.Value) (value.Value, error) {
			x, okX := a[0].(value.Text)
			y, okY := a[1].(value.Text)
			return value.YesNo(okX && okY && holds(string(x), string(y))), nil
		}}
}
