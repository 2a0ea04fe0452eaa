package store

import (
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/surface"
	"plainpath/core/value"
)

// Candidates is the search for the records that a reference of a record being edited may point
// at.
func (d *desk) Candidates(ctx context.Context, e surface.Editing, field string) (query.Query, error) {
	o := d.Edition.Model.Object(e.Object)
	in, err := editing(e)
	if err != nil {
		return query.Query{}, err
	}
	return d.candidates(ctx, o, d.Edition.Rules.Of(o.Key).Candidate(field), o.Field(field), in)
}

// Misfit says why a record cannot be chosen for a reference of a record being edited, "" when it
// can.
func (d *desk) Misfit(ctx context.Context, e surface.Editing, field string, chosen int64) (string, error) {
	q, err := d.Candidates(ctx, e, field)
	if err != nil {
		return "", err
	}
	candidate := d.Edition.Rules.Of(e.Object).Candidate(field)
	if candidate == nil {
		return "", nil
	}
	q.Limit, q.Filter = 1, predicate.Keys{chosen}
	found, err := records.Select(ctx, d, q)
	if err != nil || len(found) > 0 {
		return "", err
	}
	return d.misfit(ctx, candidate, chosen, q.Edited)
}

func editing(e surface.Editing) (Editing, error) {
	out := Editing{ID: e.ID, Values: map[string]json.RawMessage{}}
	for key, v := range e.Values {
		raw, err := json.Marshal(value.Wire(v))
		if err != nil {
			return out, fmt.Errorf("handing over %s: %w", key, err)
		}
		out.Values[key] = raw
	}
	return out, nil
}
