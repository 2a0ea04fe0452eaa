package store

import (
	"cmp"
	"context"
	"fmt"
	"maps"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/rules"
	"plainpath/core/value"
)

// said are the conditions of a candidate rule in words, with what they compare with as it is of
// the record being edited; none when that is not known here.
func (d *desk) said(c *rules.Candidate, edited *query.Edited) []string {
	values := maps.Clone(d.Base())
	values[predicate.EditedName] = &value.Record{Object: edited.Object, Fields: edited.Values}
	bound, err := c.Bind(values)
	if err != nil {
		return nil
	}
	var out []string
	for _, condition := range query.Split(bound) {
		out = append(out, predicate.Words(condition))
	}
	return out
}

// misfit says why a record cannot be chosen for a reference of the record being edited: which
// condition does not hold, and what it saw.
func (d *desk) misfit(ctx context.Context, c *rules.Candidate, chosen int64, edited *query.Edited) (string, error) {
	f := c.Field
	found, err := records.ByKey(ctx, d, f.Target(), []int64{chosen}, nil)
	if err != nil {
		return "", err
	}
	called := model.WithArticle(d.Edition.Model.Object(f.Target()).Label)
	if len(found) > 0 {
		called = found[0].Label
	}
	cannot := fmt.Sprintf("%s cannot be chosen as %s", called, f.Label)
	where, err := c.Bind(d.Base())
	if err != nil {
		return "", err
	}
	conditions, words := query.Split(where), d.said(c, edited)
	for i, condition := range conditions {
		saw := query.Paths(d.Model(), f.Target(), condition)
		held, there, err := d.Holding(ctx, query.Holding{Object: f.Target(), Key: chosen, Steps: []query.Step{{Where: condition}}, Saw: saw, Edited: edited})
		if err != nil {
			return "", fmt.Errorf("looking why %s: %w", cannot, err)
		}
		if !there || held.Holds[0] {
			continue
		}
		said := predicate.Words(condition)
		if i < len(words) {
			said = words[i]
		}
		out := cannot + ": “" + said + "” does not hold"
		for n, p := range saw {
			out += fmt.Sprintf("; %s is %s", predicate.Label(p), cmp.Or(held.Saw[n], "empty"))
		}
		return out, nil
	}
	return cannot, nil
}
