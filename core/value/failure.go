package value

import (
	"fmt"
	"strings"
)

// Failure stands in the place of a value that cannot be computed from what is stored, and
// says why: "cannot be added: EUR and USD". It is no empty value: what is made of it fails
// likewise, and a comparison with it does not hold. It is the error of what was tried, too.
type Failure struct{ Why string }

// Kind is that of a failure.
func (Failure) Kind() Kind { return KindFailure }

func (f Failure) Error() string { return f.Why }

// Lacks says whether it is a value that was needed and is empty.
func (f Failure) Lacks() bool { return f.Why == Missing || strings.HasPrefix(f.Why, Missing+". ") }

// What goes wrong in computing; what the database makes of expressions says the same.
const (
	// TooLarge is a whole number that does not fit 64 bits.
	TooLarge = "too large for a whole number"
	// Missing is what is needed and is not there.
	Missing = "empty"
	// BeyondCalendar is a day or a moment that cannot be written down.
	BeyondCalendar = "outside the calendar, which goes from year 1 to 9999"
	// TooManyDigits is a number that could not be stored.
	TooManyDigits = "too many digits: a number has at most 131,072, and 16,383 places"
)

// MostText bounds the texts that computing makes, in bytes, unless somebody set another bound, which is
// never more than MostTextEver.
const (
	MostText     = 1 << 20
	MostTextEver = 64 << 20
)

// TooLong says that a text, or a list, grew out of all proportion: beyond a bound in bytes.
func TooLong(most int) string {
	return fmt.Sprintf("too long: it would take more than %d MB", most>>20)
}
