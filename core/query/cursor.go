package query

import (
	"encoding/base64"
	"encoding/json"
)

// Cursor is the place behind a record in an ordered list: the values it is ordered
// by and its key.
type Cursor []json.RawMessage

// String writes the cursor so that it can travel in an address.
func (c Cursor) String() string {
	raw, _ := json.Marshal([]json.RawMessage(c))
	return base64.RawURLEncoding.EncodeToString(raw)
}

// ErrBadCursor says that a cursor cannot be read.
var ErrBadCursor = &LookError{"The place in the list cannot be read. Begin at the first page again."}

// ParseCursor reads a cursor, nil from the empty text.
func ParseCursor(s string) (Cursor, error) {
	if s == "" {
		return nil, nil
	}
	raw, err := base64.RawURLEncoding.DecodeString(s)
	if err != nil {
		return nil, ErrBadCursor
	}
	var c Cursor
	if err := json.Unmarshal(raw, &c); err != nil || len(c) == 0 {
		return nil, ErrBadCursor
	}
	return c, nil
}
