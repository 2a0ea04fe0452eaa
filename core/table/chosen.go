package table

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"

	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Chosen is the rows somebody chose in a table: by their keys, or all that match as they
// look at it, but for some.
type Chosen struct {
	Keys   []int64 `json:"keys,omitempty"`
	All    *Look   `json:"all,omitempty"`
	Except []int64 `json:"except,omitempty"`
}

// MostChosen is how many rows of a table a person can choose one by one, and how many of all
// that match a walkthrough keeps one by one. Of more it keeps what was asked for.
const MostChosen = 10_000

// Of is the chosen rows of the list as a query.
func (l *Listing) Of(r records.Reader, c Chosen) (query.Query, error) {
	if c.All == nil {
		q := l.query
		q.Where = predicate.All{predicate.Keys(c.Keys), orTrue(l.query.Where)}
		return q, nil
	}
	look := *c.All
	look.After = ""
	v, err := l.look(r, look)
	if err == nil && len(c.Except) > 0 {
		v.query.Where = predicate.All{orTrue(v.query.Where), predicate.Not{Of: predicate.Keys(c.Except)}}
	}
	return v.query, err
}

// ParseChosen reads chosen rows as they come with an answer: one reference, an array of
// them, or "all" with those that are left out.
func ParseChosen(raw json.RawMessage) (Chosen, error) {
	raw = bytes.TrimSpace(raw)
	if len(raw) == 0 || string(raw) == "null" {
		return Chosen{}, nil
	}
	var refs []value.Ref
	if raw[0] == '{' {
		var one struct {
			value.Ref
			All    *Look   `json:"all"`
			Except []int64 `json:"except"`
		}
		if err := json.Unmarshal(raw, &one); err != nil {
			return Chosen{}, errors.New("the chosen row cannot be read")
		}
		if one.All != nil {
			return Chosen{All: one.All, Except: one.Except}, nil
		}
		refs = []value.Ref{one.Ref}
	} else if err := json.Unmarshal(raw, &refs); err != nil {
		return Chosen{}, errors.New("the chosen rows cannot be read")
	}
	if len(refs) > MostChosen {
		return Chosen{}, fmt.Errorf("more than %d rows are chosen", MostChosen)
	}
	var out Chosen
	seen := map[int64]bool{}
	for _, ref := range refs {
		if !seen[ref.ID] {
			seen[ref.ID] = true
			out.Keys = append(out.Keys, ref.ID)
		}
	}
	return out, nil
}
