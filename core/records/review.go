package records

import (
	"cmp"
	"context"
	"fmt"
	"maps"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/rules"
	"plainpath/core/value"
)

// review makes sure that records just written are the person's and keep the rules.
// Changed are the fields written, nil for new records.
func (d *Repository) review(ctx context.Context, o *model.Object, keys []int64, changed []string) error {
	if err := d.within(ctx, o, keys, changed == nil); err != nil {
		return err
	}
	found, err := d.Breaches(ctx, o, keys, changed, 1)
	if err != nil || len(found) == 0 {
		return err
	}
	return &ProblemsError{found[0].Problems}
}

// mostExplained is of how many records it is said what a candidate rule saw.
const mostExplained = 50

// Breach is a record that breaks rules.
type Breach struct {
	ID       int64
	Problems []model.Problem
}

// Breaches finds the records among those written that break a rule, at most as many as
// the limit says, or all for nought.
func (d *Repository) Breaches(ctx context.Context, o *model.Object, keys []int64, changed []string,
	limit int) ([]Breach, error) {
	ask, texts, any, err := d.ground.Rules.Of(o.Key).Review(o.Key, changed, d.Base())
	if err != nil || !any {
		return nil, err
	}
	ask.Keys, ask.Limit = keys, limit
	broken, err := d.unit.Review(ctx, d, ask)
	if err != nil {
		return nil, fmt.Errorf("looking at the rules of %s: %w", o.Plural, err)
	}
	out := make([]Breach, len(broken))
	for i, b := range broken {
		out[i].ID = b.ID
		for n, ok := range b.Holds {
			if ok {
				continue
			}
			p := model.Problem{Text: texts[n].Text}
			if texts[n].Field != "" {
				p.Pointer = "/" + texts[n].Field
			}
			if texts[n].Field != "" && i < mostExplained {
				if p.Text, err = d.refusedCandidate(ctx, o, b.ID, texts[n]); err != nil {
					return nil, err
				}
			}
			out[i].Problems = append(out[i].Problems, p)
		}
	}
	return out, nil
}

// refusedCandidate says why a written record may not refer to what it does.
func (d *Repository) refusedCandidate(ctx context.Context, o *model.Object, id int64, b rules.Breach) (string, error) {
	edited, err := d.Edited(ctx, Editing{Object: o.Key, ID: id})
	if err != nil {
		return "", err
	}
	chosen, ok := edited.Values[b.Field].(*value.Record)
	if !ok {
		return b.Text, nil
	}
	return d.misfit(ctx, d.ground.Rules.Of(o.Key).Candidate(b.Field), chosen.ID, edited)
}

// said are the conditions of a candidate rule in words, with what they compare with as it is of
// the record being edited; none when that is not known here.
func (d *Repository) said(c *rules.Candidate, edited *query.Edited) []string {
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
func (d *Repository) misfit(ctx context.Context, c *rules.Candidate, chosen int64, edited *query.Edited) (string,
	error) {
	f := c.Field
	found, err := ByKey(ctx, d, f.Target(), []int64{chosen}, nil)
	if err != nil {
		return "", err
	}
	called := model.WithArticle(d.Model().Object(f.Target()).Label)
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
		held, there, err := d.Holding(ctx, query.Holding{Object: f.Target(), Key: chosen,
			Steps: []query.Step{{Where: condition}}, Saw: saw, Edited: edited})
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
