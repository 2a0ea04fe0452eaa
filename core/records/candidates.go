package records

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/rules"
	"plainpath/core/value"
)

// Editing is a record as it would be edited: its key, nought for a new one, and values over
// what is stored.
type Editing struct {
	Object string
	ID     int64
	Values map[string]value.Value
}

// Candidates is the search for the records that a reference of a record being edited may point at.
func (d *Repository) Candidates(ctx context.Context, e Editing, field string) (query.Query, error) {
	o := d.Model().Object(e.Object)
	return d.CandidatesOf(ctx, e, o.Field(field), d.ground.Rules.Of(o.Key).Candidate(field))
}

// CandidatesOf is the search for them under a rule, nil for none.
func (d *Repository) CandidatesOf(ctx context.Context, e Editing, f *model.Field, c *rules.Candidate) (query.Query,
	error) {
	q := query.Query{Object: f.Target()}
	if c == nil {
		return q, nil
	}
	var err error
	if q.Edited, err = d.Edited(ctx, e); err != nil {
		return q, err
	}
	q.Where, err = c.Bind(d.Base())
	return q, err
}

// Misfit says why a record cannot be chosen for a reference of a record being edited, "" when it can.
func (d *Repository) Misfit(ctx context.Context, e Editing, field string, chosen int64) (string, error) {
	candidate := d.ground.Rules.Of(e.Object).Candidate(field)
	if candidate == nil {
		return "", nil
	}
	q, err := d.Candidates(ctx, e, field)
	if err != nil {
		return "", err
	}
	q.Limit, q.Filter = 1, predicate.Keys{chosen}
	found, err := Select(ctx, d, q)
	if err != nil || len(found) > 0 {
		return "", err
	}
	return d.misfit(ctx, candidate, chosen, q.Edited)
}

// Unfit says which references of a record being edited point at records they no longer may, for the
// person to choose again.
func (d *Repository) Unfit(ctx context.Context, e Editing) ([]model.Problem, error) {
	out := []model.Problem{}
	edited, err := d.Edited(ctx, e)
	if err != nil {
		return out, err
	}
	for _, c := range d.ground.Rules.Of(e.Object).Candidates {
		chosen, ok := edited.Values[c.Field.Key].(*value.Record)
		if !ok {
			continue
		}
		where, err := c.Bind(d.Base())
		if err != nil {
			return out, err
		}
		holds, err := d.Prove(ctx, c.Field.Target(), chosen.ID, []predicate.Predicate{where}, edited)
		if err != nil {
			return out, err
		}
		if len(holds) == 1 && !holds[0] {
			why, err := d.misfit(ctx, &c, chosen.ID, edited)
			if err != nil {
				return out, err
			}
			out = append(out, model.Problem{Pointer: "/" + c.Field.Key, Text: fmt.Sprintf("%s. Choose another %s.", why,
				c.Field.Label)})
		}
	}
	return out, nil
}

// Edited is a record as a form has it: what is stored, and what was entered over it.
func (d *Repository) Edited(ctx context.Context, e Editing) (*query.Edited, error) {
	out := &query.Edited{Object: e.Object, Values: map[string]value.Value{}}
	if e.ID != 0 {
		record, err := d.WholeRecord(ctx, d.Model().Object(e.Object), e.ID)
		if err != nil {
			return nil, err
		}
		out.Values = record.Fields
	}
	maps.Copy(out.Values, e.Values)
	return out, nil
}

// EditingOf is a record being edited, of what was entered. What cannot be taken as it is, which the form
// says when it is saved, is empty.
func EditingOf(o *model.Object, id int64, given map[string]json.RawMessage) Editing {
	out := Editing{Object: o.Key, ID: id, Values: map[string]value.Value{}}
	for key, raw := range given {
		f := o.Field(key)
		if f == nil {
			continue
		}
		v, err := value.Parse(f.Kind(), raw)
		if err != nil {
			v = nil
		}
		out.Values[key] = v
	}
	return out
}
