package records

import (
	"errors"
	"fmt"
	"strings"

	"plainpath/core/model"
)

// Refusal is an error that says why records may not be as somebody wants them.
type Refusal interface {
	error
	// Refused is the reason, without what was being done.
	Refused() string
}

// ProblemsError says what is wrong with records that somebody wants to write. Pointers
// name fields; the empty one is for a record as a whole.
type ProblemsError struct{ Problems []model.Problem }

func (e *ProblemsError) Error() string { return e.Refused() }

// Refused is the reasons in one sentence.
func (e *ProblemsError) Refused() string {
	texts := make([]string, len(e.Problems))
	for i, p := range e.Problems {
		texts[i] = p.Text
	}
	return strings.Join(texts, "; ")
}

// Wrong says what is wrong with a field, or, without one, with a record as a whole.
func Wrong(field, format string, args ...any) *ProblemsError {
	pointer := ""
	if field != "" {
		pointer = "/" + field
	}
	return &ProblemsError{[]model.Problem{{Pointer: pointer, Text: fmt.Sprintf(format, args...)}}}
}

// NotComputed says that a value cannot be stored, for it could not be computed.
func NotComputed(f *model.Field, why string) *ProblemsError {
	return Wrong(f.Key, "%s cannot be stored: it is %s", f.Label, why)
}

// ErrNotFound says that what was asked for is not there, or not the person's to see, which is not told
// apart.
var ErrNotFound = errors.New("not found")
