package edit

import (
	"errors"
	"fmt"
)

// ErrNotMade says that an edit was built on another that was not made.
var ErrNotMade = errors.New("the edit before it, which it was built on, was not made")

// Sent is an edit of somebody's own that another of theirs was built on before its answer
// was there.
type Sent struct {
	Request string `json:"request"`
	Patch   Patch  `json:"patch"`
}

// Change is a patch and what it was made of: a revision, and edits of its maker's own after
// that.
type Change struct {
	Base   int    `json:"base"`
	Before []Sent `json:"before,omitempty"`
	Patch  Patch  `json:"patch"`
}

// MostOperations bounds what one change may do, with the edits before it that it names.
const MostOperations = 1000

// TooManyError says that a change does more than one may.
type TooManyError struct{ Has int }

func (e *TooManyError) Error() string {
	return fmt.Sprintf("this change has %d operations, and one may have %d; make it in parts", e.Has, MostOperations)
}

func (c Change) bounded() error {
	n := len(c.Patch)
	for _, b := range c.Before {
		n += len(b.Patch)
	}
	if n > MostOperations {
		return &TooManyError{n}
	}
	return nil
}

// Over brings the patch over what was made since its base. Of that, what is one of the edits
// before it is told by its request; everything else is by others, and those before it and the
// patch alike are carried over it. It is a *ClashError where both touch the same value
// differently, and ErrNotMade where an edit before it is missing.
func (c Change) Over(since []Made) (Patch, error) {
	if err := c.bounded(); err != nil {
		return nil, err
	}
	before := c.Before
	ours := make([]Patch, 0, len(before)+1)
	for _, b := range before {
		ours = append(ours, b.Patch)
	}
	ours = append(ours, c.Patch)
	var others []Made
	carry := func() error {
		for _, theirs := range Net(others) {
			for i := range ours {
				var err error
				if ours[i], theirs, err = cross(ours[i], theirs); err != nil {
					return err
				}
			}
		}
		others = nil
		return nil
	}
	for _, m := range since {
		if len(before) == 0 || m.Request != before[0].Request {
			others = append(others, m)
			continue
		}
		if err := carry(); err != nil {
			return nil, err
		}
		before, ours = before[1:], ours[1:]
	}
	if len(before) > 0 {
		return nil, ErrNotMade
	}
	if err := carry(); err != nil {
		return nil, err
	}
	return ours[0], nil
}
