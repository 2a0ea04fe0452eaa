package repository

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/rules"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres"
)

// Editing is a record being edited: its key, nought for a new one, and what was entered
// over what is stored.
type Editing struct {
	ID     int64                      `json:"id"`
	Values map[string]json.RawMessage `json:"values"`
}

// Options finds the records a reference field may point at, by words in their label.
func (s *Repositories) Options(ctx context.Context, p postgres.Caller, object, field string, in Editing,
	text string) ([]value.Ref, error) {
	d, o, err := s.Of(ctx, p, object)
	if err != nil {
		return nil, err
	}
	f := o.Field(field)
	if f == nil || f.Target() == "" {
		return nil, fmt.Errorf("reference %q: %w", field, postgres.ErrNotFound)
	}
	return d.Options(ctx, o, f, in, text)
}

// Options finds the records that a reference of a record being edited may point at, by words.
func (d *Repository) Options(ctx context.Context, o *model.Object, f *model.Field, in Editing,
	text string) ([]value.Ref, error) {
	q, err := d.Candidates(ctx, in.of(o), f.Key)
	if err != nil {
		return nil, err
	}
	return records.OptionsAmong(ctx, d, q, text)
}

func (e Editing) of(o *model.Object) records.Editing { return records.EditingOf(o, e.ID, e.Values) }

// Fit says which references of a record being edited point at records they no longer
// may, for the person to choose again.
func (s *Repositories) Fit(ctx context.Context, p postgres.Caller, object string, in Editing) ([]model.Problem, error) {
	d, o, err := s.Of(ctx, p, object)
	if err != nil {
		return nil, err
	}
	return d.Unfit(ctx, in.of(o))
}

// CandidateQuestion asks what a candidate rule comes to before it is in force.
type CandidateQuestion struct {
	Field string           `json:"field"`
	Rule  *model.Condition `json:"rule,omitempty"`
	// Editing is the record it is tried on.
	Editing Editing `json:"editing"`
	// Text narrows the list; Record asks why that record is or is not among them.
	Text   string `json:"text,omitempty"`
	Record int64  `json:"record,omitempty"`
}

// CandidatesView is what a candidate rule comes to.
type CandidatesView struct {
	// Chosen of All records can be chosen.
	Chosen  int64         `json:"chosen"`
	All     int64         `json:"all"`
	Related []RelatedView `json:"related"`
	Options []value.Ref   `json:"options"`
	// Offered says whether the record asked about can be chosen, Why what each condition
	// says of it.
	Offered bool         `json:"offered"`
	Why     []ReasonView `json:"why"`
	// Findings say why the rule cannot be used; then the earlier one stays in force.
	Findings []definition.Finding `json:"findings"`
}

// RelatedView counts what a condition on related records matched.
type RelatedView struct {
	Object   string `json:"object"`
	Matched  int64  `json:"matched"`
	Distinct int64  `json:"distinct"`
}

// ReasonView is one condition as it holds of one record.
type ReasonView struct {
	// Condition is the condition, to be said in words.
	Condition model.Condition `json:"condition"`
	Holds     bool            `json:"holds"`
	// Looked is the value it looked at; for related records, how many matched.
	Looked  any                `json:"looked"`
	Heading *table.HeadingView `json:"heading,omitempty"`
}

// Candidates tries a candidate rule on a record.
func (s *Repositories) Candidates(ctx context.Context, p postgres.Caller, object string,
	ask CandidateQuestion) (CandidatesView, error) {
	out := CandidatesView{Related: []RelatedView{}, Options: []value.Ref{}, Why: []ReasonView{},
		Findings: []definition.Finding{}}
	d, o, err := s.Of(ctx, p, object)
	if err != nil {
		return out, err
	}
	f := o.Field(ask.Field)
	if f == nil || f.Target() == "" {
		return out, fmt.Errorf("reference %q: %w", ask.Field, postgres.ErrNotFound)
	}
	tried := *f
	tried.Candidates = ask.Rule
	var c *rules.Candidate
	if ask.Rule != nil {
		var check *definition.Check
		c, check = rules.CheckCandidates(d.Edition.Model, d.Edition.App.Organisation, o, &tried)
		if len(check.Findings()) > 0 {
			out.Findings = check.Findings()
			return out, nil
		}
	}
	q, err := d.CandidatesOf(ctx, ask.Editing.of(o), &tried, c)
	if err != nil {
		return out, err
	}
	if out.Chosen, err = records.Count(ctx, d, q); err != nil {
		return out, err
	}
	if out.All, err = records.Count(ctx, d, query.Query{Object: f.Target()}); err != nil {
		return out, err
	}
	if out.Options, err = records.OptionsAmong(ctx, d, q, ask.Text); err != nil || ask.Rule == nil {
		return out, err
	}
	if ask.Record != 0 {
		of := q
		of.Filter = predicate.Keys{ask.Record}
		n, err := records.Count(ctx, d, of)
		if err != nil {
			return out, err
		}
		out.Offered = n > 0
	}
	t := trial{d, o, f.Target(), q.Edited}
	for _, leaf := range ask.Rule.Leaves() {
		if err := t.leaf(ctx, leaf.Condition, ask.Record, &out); err != nil {
			return out, err
		}
	}
	return out, nil
}

// trial is a candidate rule being tried on a record.
type trial struct {
	*Repository
	object *model.Object
	target string
	edited *query.Edited
}

// leaf explains one condition of the rule.
func (t trial) leaf(ctx context.Context, c model.Condition, record int64, out *CandidatesView) error {
	values := t.Base()
	values[predicate.EditedName] = predicate.Edited{}
	checked, _ := predicate.Check(rules.EditedScope(t.Edition.Model, t.Edition.App.Organisation, t.object), t.target, c,
		"")
	p, err := checked.Bind(values)
	if err != nil {
		return fmt.Errorf("binding a condition: %w", err)
	}
	var looked any
	if related, ok := p.(predicate.HasRelated); ok {
		n, distinct, err := t.Matched(ctx, related, t.edited)
		if err != nil {
			return err
		}
		out.Related = append(out.Related, RelatedView{Object: related.Object, Matched: n, Distinct: distinct})
		if record != 0 {
			of := related
			path, err := t.Edition.Model.Path(related.Object, related.Via.Key)
			if err != nil {
				return err
			}
			of.Where = predicate.All{related.Where, predicate.Test{Path: path, Op: predicate.Is,
				Value: &value.Record{Object: t.target, ID: record}}}
			if looked, _, err = t.Matched(ctx, of, t.edited); err != nil {
				return err
			}
		}
	}
	if record == 0 {
		return nil
	}
	holds, err := t.Prove(ctx, t.target, record, []predicate.Predicate{p}, t.edited)
	if err != nil {
		return err
	}
	if len(holds) == 0 {
		return nil
	}
	reason := ReasonView{Condition: c, Holds: holds[0], Looked: looked}
	if c.Field != "" {
		if reason.Looked, reason.Heading, err = t.looked(ctx, c.Field, record); err != nil {
			return err
		}
	}
	out.Why = append(out.Why, reason)
	return nil
}

// looked is what a condition looks at, as far as the person may see it.
func (t trial) looked(ctx context.Context, field string, record int64) (any, *table.HeadingView, error) {
	path, err := t.Edition.Model.Path(t.target, field)
	if err != nil {
		return nil, nil, err
	}
	h := table.HeadingOf(path, path.Last().Label)
	found, err := records.ByKey(ctx, t, t.target, []int64{record}, []model.Path{path})
	if err != nil {
		return nil, nil, err
	}
	if len(found) == 0 {
		return nil, nil, errors.New("the record asked about is gone")
	}
	return value.Wire(predicate.Follow(found[0], path)), &h, nil
}
