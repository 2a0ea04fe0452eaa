package store

import (
	"context"
	"fmt"
	"maps"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/rules"
	"plainpath/core/search"
	"plainpath/core/value"
)

// said are the conditions of a candidate rule in words, with what they compare with as it is of
// the record being edited; none when that is not known here.
func (d *desk) said(c *rules.Candidate, edited *search.Edited) []string {
	values := maps.Clone(d.Base())
	values[predicate.EditedName] = &value.Record{Object: edited.Object, Fields: edited.Values}
	bound, err := c.Bind(values)
	if err != nil {
		return nil
	}
	var out []string
	for _, condition := range search.Split(bound) {
		out = append(out, predicate.Words(condition))
	}
	return out
}

// misfit says why a record cannot be chosen for a reference of the record being edited: which
// condition does not hold, and what it saw.
func (d *desk) misfit(ctx context.Context, c *rules.Candidate, chosen int64, edited *search.Edited) (string, error) {
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
	conditions, words := search.Split(where), d.said(c, edited)
	for i, condition := range conditions {
		saw := search.Paths(d.Space(), f.Target(), condition)
		sql, args, err := search.CompileHolds(d.Space(), f.Target(), chosen, []search.Step{{Where: condition}}, saw, edited)
		if err != nil {
			return "", err
		}
		row, err := d.db.QueryxContext(ctx, sql, args...)
		if err != nil {
			return "", fmt.Errorf("looking why %s: %w", cannot, err)
		}
		var found []any
		for row.Next() {
			if found, err = row.SliceScan(); err != nil {
				return "", err
			}
		}
		if err := row.Close(); err != nil {
			return "", err
		}
		if len(found) == 0 || found[0] == true {
			continue
		}
		said := predicate.Words(condition)
		if i < len(words) {
			said = words[i]
		}
		out := cannot + ": “" + said + "” does not hold"
		for n, p := range saw {
			looked := "empty"
			if text, ok := found[n+1].(string); ok && text != "" {
				looked = text
			}
			out += fmt.Sprintf("; %s is %s", predicate.Label(p), looked)
		}
		return out, nil
	}
	return cannot, nil
}
