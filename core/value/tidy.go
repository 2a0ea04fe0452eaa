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
	case Address:
		return NewAddress(Address{norm.NFC.String(x.Lines), norm.NFC.String(x.Town), norm.NFC.String(x.Postcode),
			norm.NFC.String(x.Country)})
	}
	return v
}
