package value

import (
	"strings"
	"sync"

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
	if order := c.CompareString(a, b); order != 0 {
		return order
	}
	return strings.Compare(a, b)
}
