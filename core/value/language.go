package value

import (
	"strings"
	"sync"
	"unicode"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"
)

// collators are kept, for making one costs more than comparing; none may be used twice at once.
var collators = sync.Pool{New: func() any { return collate.New(language.Und) }}

// compareTexts orders texts as lists do: by the root of the Unicode collation, and where that
// sees no difference by code, as PostgreSQL does with its ICU collations.
func compareTexts(a, b string) int {
	if a == b {
		return 0
	}
	c := collators.Get().(*collate.Collator)
	defer collators.Put(c)
	if order := c.CompareString(knownSymbols(c, a), knownSymbols(c, b)); order != 0 {
		return order
	}
	return strings.Compare(a, b)
}

// standIn takes the place of symbols that are younger than the collation's table.
const standIn = '☺'

// knownSymbols is a text for comparing. Symbols that the table of the collation (Unicode 6.2)
// does not know would come after every letter; they stand before digits and letters, as all
// symbols do.
func knownSymbols(c *collate.Collator, text string) string {
	return strings.Map(func(r rune) rune {
		if r >= 0x37F && unicode.In(r, unicode.S, unicode.P) && c.CompareString(string(r), "\u9fff") > 0 {
			return standIn
		}
		return r
	}, text)
}
