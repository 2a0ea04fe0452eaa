package value

import (
	"strings"

	"golang.org/x/text/unicode/norm"
)

// Tidy is a value as it is stored: texts in Unicode's normalization form C (UAX 15), so that
// what reads the same is the same; a text of nothing but blanks is empty.
func Tidy(v Value) Value {
	switch x := v.(type) {
	case Text:
		if strings.TrimSpace(string(x)) == "" {
			return nil
		}
		return Text(norm.NFC.String(string(x)))
	case Composite:
		texts := Texts(x)
		for i, t := range texts {
			texts[i] = norm.NFC.String(t)
		}
		return OfParts(x.Kind(), texts...)
	}
	return v
}
