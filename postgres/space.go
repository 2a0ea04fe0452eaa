package postgres

import (
	"errors"
	"strings"

	"plainpath/core/records"
)

// Split reads a list with commas, none from the empty text.
func Split(list string) []string {
	if list == "" {
		return nil
	}
	return strings.Split(list, ",")
}

// Production is the space people work in; trial follows the draft.
const (
	Production = "production"
	Trial      = "trial"
)

// ErrDryRun ends a transaction that was only a trial.
var ErrDryRun = errors.New("dry run")

// Caller is who is at work, and in which space of an app.
type Caller struct {
	App    string `json:"app"`
	Space  string `json:"space"`
	Person int64  `json:"person"`
}

// ErrNotFound says that what was asked for is not there.
var ErrNotFound = records.ErrNotFound

// RejectedError says why an edit was not taken.
type RejectedError struct{ Text string }

func (e *RejectedError) Error() string { return e.Text }

// PartSize is how large the pieces are that files come in, in bytes.
const PartSize = 1 << 20
