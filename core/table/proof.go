package table

import (
	"context"
	"fmt"
	"strings"
	"time"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// ProofView says where a list comes from: how many records there are and how many are
// left after each condition in turn.
type ProofView struct {
	// Kind is what the records are called.
	Kind  string          `json:"kind"`
	All   int64           `json:"all"`
	Steps []ProofStepView `json:"steps"`
	// Shown is how many records the list has, each of them once.
	Shown  int64 `json:"shown"`
	Micros int64 `json:"micros"`
	// Figures say how the totals that were asked for are made.
	Figures []ProofFigureView `json:"figures,omitempty"`
	// SQL is the search as it is sent, for those who want it.
	SQL string `json:"sql,omitempty"`
}

// WithoutRights leaves out what only those who build are told: the SQL, and how many
// records there are that the person may not see.
func (p *ProofView) WithoutRights() {
	p.SQL = ""
	if len(p.Steps) > 0 && p.Steps[0].By == byRights {
		p.All, p.Steps = p.Steps[0].Left, p.Steps[1:]
	}
}

// ProofStepView is one condition: whose it is, what it says, and how many records are left
// after it.
type ProofStepView struct {
	// By is rights, search or look: what the role may see, what the builder set, what the
	// person asked.
	By    string `json:"by"`
	Words string `json:"words"`
	Left  int64  `json:"left"`
}

// ProofRecordView says of one record why it is in a list or not.
type ProofRecordView struct {
	Label string           `json:"label"`
	In    bool             `json:"in"`
	Steps []ProofHoldsView `json:"steps"`
}

// ProofHoldsView is whether one condition holds of the record, and what it looked at.
type ProofHoldsView struct {
	By    string    `json:"by"`
	Words string    `json:"words"`
	Holds bool      `json:"holds"`
	Saw   []SawView `json:"saw"`
}

// SawView is a value that a condition looked at, empty when there is none or the person
// may not see it.
type SawView struct {
	Label string `json:"label"`
	Value string `json:"value"`
}

// Who a condition is from.
const (
	byRights = "rights"
	bySearch = "search"
	byLook   = "look"
)

type proofStep struct {
	query.Step
	by, words string
}

func (l *Listing) proofSteps(r records.Reader, look Look) ([]proofStep, looked, error) {
	look.After = ""
	v, err := l.look(r, look)
	if err != nil {
		return nil, v, err
	}
	g, err := r.Grant(l.query.Object)
	if err != nil {
		return nil, v, err
	}
	var out []proofStep
	if !g.Unlimited() {
		out = append(out, proofStep{query.Step{Where: g.Rows()}, byRights, predicate.Words(g.Rows())})
	}
	for _, p := range query.Split(l.found) {
		out = append(out, proofStep{query.Step{Where: p}, bySearch, predicate.Words(p)})
	}
	if l.limit > 0 {
		out = append(out, proofStep{query.Step{Where: l.query.Where}, bySearch,
			fmt.Sprintf("is among the first %d", l.limit)})
	}
	for _, p := range query.Split(v.query.Filter) {
		out = append(out, proofStep{query.Step{Where: p, Visible: true}, byLook, predicate.Words(p)})
	}
	return out, v, nil
}

func bare(steps []proofStep) []query.Step {
	out := make([]query.Step, len(steps))
	for i, s := range steps {
		out[i] = s.Step
	}
	return out
}

// Proof counts the list condition by condition.
func (l *Listing) Proof(ctx context.Context, r records.Reader, look Look) (ProofView, error) {
	out := ProofView{Kind: r.Model().Object(l.query.Object).Plural, Steps: []ProofStepView{}}
	steps, v, err := l.proofSteps(r, look)
	if err != nil {
		return out, err
	}
	start := time.Now()
	if out.Shown, err = records.Count(ctx, r, v.query); err != nil {
		return out, err
	}
	out.Micros = time.Since(start).Microseconds()
	left, err := r.Steps(ctx, l.query.Object, bare(steps))
	if err != nil {
		return out, fmt.Errorf("counting condition by condition: %w", err)
	}
	out.All = left[0]
	for i, s := range steps {
		out.Steps = append(out.Steps, ProofStepView{By: s.by, Words: s.words, Left: left[i+1]})
	}
	for _, t := range v.totals {
		f, err := proofFigure(ctx, r, v, t)
		if err != nil {
			return out, err
		}
		out.Figures = append(out.Figures, f)
	}
	v.query.Limit = PageSize
	out.SQL, err = r.Written(v.query)
	return out, err
}

// ProofOf says why a record is in the list or not. The caller makes sure that whoever
// asks may know of the record.
func (l *Listing) ProofOf(ctx context.Context, r records.Reader, look Look, key int64,
	label string) (ProofRecordView, error) {
	out := ProofRecordView{Label: label, In: true, Steps: []ProofHoldsView{}}
	steps, _, err := l.proofSteps(r, look)
	if err != nil {
		return out, err
	}
	var saw []model.Path
	for _, s := range steps {
		saw = append(saw, query.Paths(r.Model(), l.query.Object, s.Where)...)
	}
	held, found, err := r.Holding(ctx, query.Holding{Object: l.query.Object, Key: key, Steps: bare(steps), Saw: saw})
	if err != nil || !found {
		return out, err
	}
	at := 0
	for i, s := range steps {
		holds := held.Holds[i]
		h := ProofHoldsView{By: s.by, Words: s.words, Holds: holds, Saw: []SawView{}}
		for _, p := range query.Paths(r.Model(), l.query.Object, s.Where) {
			text := held.Saw[at]
			at++
			if t, err := time.Parse("2006-01-02T15:04:05.999999Z07:00", text); err == nil &&
				p.Last().Kind() == value.KindInstant {
				text = value.Display(value.NewInstant(t.In(r.Zone())))
			}
			labels := make([]string, len(p.Fields))
			for n, f := range p.Fields {
				labels[n] = f.Label
			}
			h.Saw = append(h.Saw, SawView{strings.Join(labels, " › "), text})
		}
		out.In = out.In && holds
		out.Steps = append(out.Steps, h)
	}
	return out, nil
}
