package walk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"strings"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/value"
)

// A screen of a walkthrough that a step runs is called by the key of the step and, behind a stroke, by its own, as in
// "customer/details".
const inside = "/"

// Place is where the run stands: the screen that waits, or the Finish step reached.
func (r *Run) Place() string {
	if r.inside != nil {
		return r.State.Place + inside + r.inside.Place()
	}
	return r.State.Place
}

// innermost is the run that waits for the person: this one, or that of a walkthrough that it runs.
func (r *Run) innermost() *Run {
	if r.inside != nil {
		return r.inside.innermost()
	}
	return r
}

// own is the screen of the walkthrough inside that a place names.
func (r *Run) own(place string) (string, bool) {
	if r.inside == nil {
		return "", false
	}
	return strings.CutPrefix(place, r.State.Place+inside)
}

// enter begins the walkthrough that a step runs, with what the step hands over.
func (r *Run) enter(ctx context.Context, at int) error {
	i, m := &r.program.Code[at], r.machine
	handed := m.Effects[len(m.Effects)-1]
	m.Effects = m.Effects[:len(m.Effects)-1]
	inner := r.program.shown[at].inner
	state := State{Taken: handed.Hand, Answers: r.answersInside(i.Key)}
	r.inside = inner.on(r.host, state, r.traceInside(i))
	err := r.inside.begin(ctx)
	var invalid *InvalidError
	if errors.As(err, &invalid) {
		return &act.RefusedError{Step: i.Key, Text: fmt.Sprintf("“%s” could not begin: %s", inner.Def.Label,
			invalid.Problems[0].Text)}
	}
	return err
}

// answersInside are the answers that were given before in the walkthrough that a step runs.
func (r *Run) answersInside(step string) map[string]screen.Answers {
	out := map[string]screen.Answers{}
	for place, a := range r.State.Answers {
		if own, ok := strings.CutPrefix(place, r.answered(step)+inside); ok {
			out[own] = a
		}
	}
	return out
}

func (r *Run) traceInside(i *act.Instruction) func(act.Entry) {
	if r.Trace == nil {
		return nil
	}
	return func(e act.Entry) {
		e.Step, e.Title = i.Key+inside+e.Step, i.Title+": "+e.Title
		r.Trace(e)
	}
}

// kept is what is kept of a walkthrough that was run.
type kept struct {
	// Values are what it gave back, the keys of lists and rows that are not stored aside.
	Values []json.RawMessage          `json:"values,omitempty"`
	Lists  map[string]records.Ranges  `json:"lists,omitempty"`
	Rows   map[string]json.RawMessage `json:"rows,omitempty"`
	// Screens counts those that were answered.
	Screens int `json:"screens,omitempty"`
}

// answerInside answers a screen of the walkthrough inside, and goes on where that has come to its end.
func (r *Run) answerInside(ctx context.Context, screen string, a screen.Answers) error {
	at, i, err := r.here()
	if err != nil {
		return err
	}
	failed, err := r.tryInside(ctx, at, func() error {
		if err := r.inside.Answer(ctx, screen, a); err != nil {
			return err
		}
		r.State.Inside = &r.inside.State
		return r.leave(ctx)
	})
	switch {
	case err != nil:
		return err
	case failed:
		return r.advance(ctx, i.Fails)
	case r.inside != nil:
		return nil
	}
	return r.advance(ctx, i.Next)
}

// leave makes known what the walkthrough inside gave back, if it is at its end.
func (r *Run) leave(ctx context.Context) error {
	if !r.inside.State.Closed {
		return nil
	}
	return r.returned(ctx)
}

// tryInside does something in the walkthrough that a step runs. Where it is refused and the step says what is done
// instead, what it wrote since somebody was last waited for is taken back, it is left, and failed is true.
func (r *Run) tryInside(ctx context.Context, at int, do func() error) (failed bool, err error) {
	i, m := &r.program.Code[at], r.machine
	if i.Fails == 0 {
		return false, do()
	}
	visit, trail := act.Visit{Step: i.Key, At: r.host.Now(), LeftOut: true}, len(m.Trail)
	var screens int
	if r.inside != nil {
		visit.Kept, screens = r.inside.wrote(), r.inside.program.answeredIn(r.inside.State.Trail)
		if r.innermost().standing().surface != nil {
			screens++ // which is being answered
		}
	}
	err = r.host.Try(ctx, do)
	var refused *act.RefusedError
	if !errors.As(err, &refused) {
		return false, err
	}
	if r.inside != nil {
		r.keepAnswers(i.Key, r.inside)
		r.inside = nil
	}
	visit.Failed = refused.Text
	if visit.Value, err = json.Marshal(kept{Screens: screens}); err != nil {
		return true, fmt.Errorf("keeping where %q came to: %w", i.Title, err)
	}
	m.Trail = append(m.Trail[:trail], visit)
	m.Failed(i, refused.Text)
	return true, nil
}

// keepAnswers takes over the answers that were given in a walkthrough that a step ran.
func (r *Run) keepAnswers(step string, inner *Run) {
	under := r.answered(step) + inside
	maps.DeleteFunc(r.State.Answers, func(place string, _ screen.Answers) bool {
		return strings.HasPrefix(place, under)
	})
	for place, a := range inner.State.Answers {
		r.State.Answers[under+place] = a
	}
}

// returned makes known what the walkthrough inside gave back, now that it is at its end.
func (r *Run) returned(ctx context.Context) error {
	at, i, err := r.here()
	if err != nil {
		return err
	}
	inner := r.inside
	r.inside = nil
	visit := act.Visit{Step: i.Key, At: r.host.Now(), Kept: inner.wrote()}
	k, err := inner.gave(ctx)
	if err != nil {
		return fmt.Errorf("at the end of %q: %w", i.Title, err)
	}
	if visit.Value, err = json.Marshal(k); err != nil {
		return fmt.Errorf("keeping what %q gave back: %w", i.Title, err)
	}
	r.keepAnswers(i.Key, inner)
	if !visit.Wrote() {
		state := inner.State
		state.Answers = nil // they are among those of this run
		if visit.Inside, err = json.Marshal(state); err != nil {
			return fmt.Errorf("keeping where %q came to: %w", i.Title, err)
		}
	}
	r.machine.Trail = append(r.machine.Trail, visit)
	r.machine.Effects = append(r.machine.Effects, inner.effects...)
	return r.giveBack(ctx, at, visit.Kept)
}

// wrote is what a run wrote.
func (r *Run) wrote() act.Kept {
	var out act.Kept
	for _, v := range r.State.Trail {
		out.Added = append(out.Added, v.Added...)
		out.Changed = append(out.Changed, v.Changed...)
		out.Removed += v.Removed
	}
	if r.inside != nil {
		more := r.inside.wrote()
		out.Added = append(out.Added, more.Added...)
		out.Changed = append(out.Changed, more.Changed...)
		out.Removed += more.Removed
	}
	return out
}

// gave is what a run at its end gives back, as it is kept.
func (r *Run) gave(ctx context.Context) (kept, error) {
	out := kept{Screens: r.program.answeredIn(r.State.Trail), Lists: map[string]records.Ranges{},
		Rows: map[string]json.RawMessage{}}
	for _, g := range r.program.returned {
		v, err := g.Eval(r.values)
		if err != nil {
			return out, fmt.Errorf("giving back %s: %w", g.name.Label, err)
		}
		if why, failed := v.(value.Failure); failed {
			return out, &act.RefusedError{Text: fmt.Sprintf("%s cannot be given back: it is %s.", g.name.Label, why.Why)}
		}
		if list, ok := v.(*value.List); ok {
			q, err := records.QueryOf(list)
			if err == nil {
				out.Lists[g.name.Key], err = records.Keys(ctx, r.host, q)
			}
			if err != nil {
				return out, fmt.Errorf("giving back %s: %w", g.name.Label, err)
			}
			continue
		}
		if rows, ok := v.(value.Rows); ok {
			if out.Rows[g.name.Key], err = act.ColumnsOf(g.name.Type.Answers).Keep(rows); err != nil {
				return out, fmt.Errorf("giving back %s: %w", g.name.Label, err)
			}
		}
		if !g.single() {
			continue
		}
		raw, err := json.Marshal(value.Wire(v))
		if err != nil {
			return out, fmt.Errorf("giving back %s: %w", g.name.Label, err)
		}
		out.Values = append(out.Values, raw)
	}
	return out, nil
}

// giveBack makes known what the walkthrough that a step ran gave back.
func (r *Run) giveBack(ctx context.Context, at int, of act.Kept) error {
	inner, key := r.program.shown[at].inner, r.program.Code[at].Key
	if inner == nil || len(inner.returned) == 0 {
		return nil
	}
	var k kept
	if err := json.Unmarshal(of.Value, &k); err != nil {
		return fmt.Errorf("reading what %q gave back: %w", r.program.Code[at].Title, err)
	}
	row, err := inner.columns().Row(ctx, r.host, k.Values,
		func(name string) []model.Path { return r.program.Uses[key+"."+name] })
	if err != nil {
		return fmt.Errorf("reading what %q gave back: %w", r.program.Code[at].Title, err)
	}
	for _, g := range inner.returned {
		name := key + "." + g.name.Key
		if raw, ok := k.Rows[g.name.Key]; ok {
			row.Fields[g.name.Key], err = act.ColumnsOf(g.name.Type.Answers).Rows(ctx, r.host, raw,
				func(column string) []model.Path { return r.program.Uses[name+"."+column] })
		} else if !g.single() {
			row.Fields[g.name.Key], err = r.listOf(ctx, g.name.Type, k.Lists[g.name.Key], name)
		}
		if err != nil {
			return fmt.Errorf("reading what %q gave back: %w", r.program.Code[at].Title, err)
		}
	}
	r.values[key] = row
	return nil
}

// listOf is a list that was given back; rows that are not known are none.
func (r *Run) listOf(ctx context.Context, t expr.Type, keys records.Ranges, name string) (value.Value, error) {
	if t.Kind == value.KindRows {
		return value.Rows{}, nil
	}
	return records.List(ctx, r.host, t.Object, keys, r.program.Uses[name])
}

// columns are the single values that a walkthrough gives back.
func (p *Program) columns() act.Columns {
	var out act.Columns
	for _, g := range p.returned {
		if g.single() {
			out = append(out, act.Column{Key: g.name.Key, Label: g.name.Label, Kind: g.name.Type.Kind,
				Object: g.name.Type.Object})
		}
	}
	return out
}

// answeredIn counts the screens that were answered in a trail.
func (p *Program) answeredIn(trail []act.Visit) int {
	n := 0
	for _, v := range trail {
		at, ok := p.At(v.Step)
		switch {
		case !ok || v.LeftOut && v.Failed == "":
		case p.Code[at].Kind == ScreenStep:
			n++
		case p.shown[at].inner != nil:
			var k kept
			if json.Unmarshal(v.Value, &k) == nil {
				n += k.Screens
			}
		}
	}
	return n
}

// lastIn is the screen that was answered last in a trail, "" where records were written since.
func (p *Program) lastIn(trail []act.Visit) string {
	for n := len(trail) - 1; n >= 0; n-- {
		v := trail[n]
		at, ok := p.At(v.Step)
		switch {
		case v.Wrote():
			return ""
		case !ok || v.LeftOut:
		case p.Code[at].Kind == ScreenStep:
			return v.Step
		case p.shown[at].inner != nil && v.Inside != nil:
			var state State
			if json.Unmarshal(v.Inside, &state) == nil {
				if last := p.shown[at].inner.lastIn(state.Trail); last != "" {
					return v.Step + inside + last
				}
			}
		}
	}
	return ""
}

// called is the step that a place names, and the walkthrough that it is in; nil where there is none. Steps know the
// keys they had.
func (p *Program) called(place string) (*Program, *Step) {
	key, rest, deeper := strings.Cut(place, inside)
	step := p.stepCalled(key)
	if step == nil || !deeper {
		return p, step
	}
	if at, ok := p.At(step.Key); ok && p.shown[at].inner != nil {
		return p.shown[at].inner.called(rest)
	}
	return p, nil
}

// nowCalled is a place as it is called now.
func (p *Program) nowCalled(place string) string {
	key, rest, deeper := strings.Cut(place, inside)
	step := p.stepCalled(key)
	if step == nil {
		return place
	}
	if at, ok := p.At(step.Key); deeper && ok && p.shown[at].inner != nil {
		return step.Key + inside + p.shown[at].inner.nowCalled(rest)
	}
	return step.Key
}
