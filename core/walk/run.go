package walk

import (
	"context"
	"fmt"
	"maps"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Run is a run being carried on. It is used by one goroutine, within one transaction.
type Run struct {
	State State
	// Trace is told what each step did; nil when nobody asks.
	Trace func(act.Entry)

	program *Program
	host    records.Writer
	values  expr.Values
	// machine carries out the steps; its trail is that of the state.
	machine *act.Machine
	// inside is the run of a walkthrough that the step runs where this one stands, nil where it runs none.
	inside  *Run
	effects []act.Effect
}

// on is a run of a program at its beginning.
func (p *Program) on(h records.Writer, s State, trace func(act.Entry)) *Run {
	r := &Run{State: s, Trace: trace, program: p, host: h}
	if r.State.Answers == nil {
		r.State.Answers = map[string]screen.Answers{}
	}
	r.afresh()
	return r
}

// afresh forgets what is known.
func (r *Run) afresh() {
	now := value.NewInstant(r.host.Now())
	r.values = expr.Values{"person": r.host.Person().Value(), "now": now, "today": value.DateOf(r.host.Now())}
	r.machine = &act.Machine{Program: &r.program.Program, Writer: r.host, Values: r.values, Trace: r.Trace}
	r.inside = nil
}

// Start begins a run with what is handed over and goes on to its first screen.
func (p *Program) Start(ctx context.Context, h records.Writer, taken screen.Answers,
	trace func(act.Entry)) (*Run, error) {
	r := p.on(h, State{Taken: taken}, trace)
	return r, r.begin(ctx)
}

func (r *Run) begin(ctx context.Context) error {
	if err := r.take(ctx); err != nil {
		return err
	}
	return r.advance(ctx, 0)
}

// take makes known values of what was handed over.
func (r *Run) take(ctx context.Context) error {
	taken, problems, err := screen.TakeAll(ctx, r.host, r.program.Def.Takes, r.State.Taken,
		func(key string) []model.Path { return r.program.Uses[key] })
	if err != nil {
		return err
	}
	maps.Copy(r.values, taken)
	if len(problems) > 0 {
		return &InvalidError{problems}
	}
	return nil
}

// Resume takes up a run where its state says.
func (p *Program) Resume(ctx context.Context, h records.Writer, s State) (*Run, error) {
	r := p.on(h, s, nil)
	return r, r.rebuild(ctx)
}

// rebuild makes the known values again from the trail: answers are taken as they
// were given, searches are bound as they were.
func (r *Run) rebuild(ctx context.Context) error {
	if err := r.take(ctx); err != nil {
		return err
	}
	now, today := r.values["now"], r.values["today"]
	err := r.machine.Retrace(ctx, r.State.Trail, func(v act.Visit, at int) error {
		then := value.NewInstant(v.At)
		r.values["now"], r.values["today"] = then, value.DateOf(v.At.In(r.host.Now().Location()))
		i := &r.program.Code[at]
		switch {
		case v.Failed != "":
			r.machine.Fail(i, v.Failed)
		case v.LeftOut:
			r.values[v.Step] = nil
		case i.Kind == ScreenStep:
			given, problems, err := r.again(ctx, r.program.shown[at])
			if err != nil {
				return err
			}
			if len(problems) > 0 {
				return &InvalidError{[]model.Problem{{Text: fmt.Sprintf("what was given on %q no longer holds: %s",
					i.Title, problems[0].Text)}}}
			}
			r.values[v.Step] = given
		case i.Plan != nil:
			return r.restore(ctx, at, v)
		}
		return nil
	})
	r.values["now"], r.values["today"] = now, today
	if err != nil || r.State.Inside == nil {
		return err
	}
	at, _, err := r.here()
	if err != nil || r.program.shown[at].inner == nil {
		return fmt.Errorf("the walkthrough runs none at %q: %w", r.State.Place, err)
	}
	r.inside = r.program.shown[at].inner.on(r.host, *r.State.Inside, nil)
	return r.inside.rebuild(ctx)
}

// restore makes known again what an act gave.
func (r *Run) restore(ctx context.Context, at int, v act.Visit) error {
	if r.program.shown[at].inner != nil && v.Value != nil { // which there is none of once a repeat around it is over
		return r.giveBack(ctx, at, v.Kept)
	}
	return r.machine.Restore(ctx, &r.program.Code[at], v.Kept)
}

func (r *Run) fields(screen string) func(part string) []model.Path {
	return func(part string) []model.Path { return r.program.Uses[screen+"."+part] }
}

// Answer takes what the person gave on a screen and goes on to the next one. The
// errors a person can do something about are *InvalidError, *MovedError and
// *act.RefusedError; after any error the run must be thrown away.
func (r *Run) Answer(ctx context.Context, screen string, a screen.Answers) error {
	if own, ok := r.own(screen); ok {
		return r.answerInside(ctx, own, a)
	}
	if r.State.Closed || r.Place() != screen {
		return &MovedError{r.Place()}
	}
	at, ok := r.program.At(screen)
	if !ok {
		return &MovedError{r.State.Place}
	}
	if r.program.shown[at].surface != nil {
		given, problems, err := r.given(ctx, r.program.shown[at], a)
		if err != nil {
			return err
		}
		if len(problems) > 0 {
			return &InvalidError{problems}
		}
		r.State.Answers[r.answered(screen)] = a
		r.values[screen] = given
	}
	r.machine.Trail = append(r.machine.Trail, act.Visit{Step: screen, At: r.host.Now()})
	r.State.Trail = r.machine.Trail
	return r.advance(ctx, r.program.Code[at].Next)
}

// advance carries out steps until one waits for the person or the end is reached.
func (r *Run) advance(ctx context.Context, at int) error {
	m := r.machine
	before := len(m.Trail)
	m.Written = 0
	r.State.Inside = nil
	for {
		stopped, err := m.Run(ctx, at)
		if err != nil {
			return err
		}
		r.State.Trail = m.Trail
		r.State.Place, r.State.Closed = "", true
		if stopped < len(r.program.Code) {
			r.State.Place = r.program.Code[stopped].Key
			r.State.Closed = r.program.Code[stopped].Kind == FinishStep
		}
		if r.kindOf(r.State.Place) != act.RunAct {
			r.effects = m.Effects
			return r.renew(ctx, before, stopped)
		}
		failed, err := r.tryInside(ctx, stopped, func() error {
			if err := r.enter(ctx, stopped); err != nil {
				return err
			}
			return r.leave(ctx)
		})
		switch {
		case err != nil:
			return err
		case failed:
			at = r.program.Code[stopped].Fails
		case r.inside != nil:
			r.effects = m.Effects
			r.State.Inside = &r.inside.State
			return nil
		default:
			at = r.program.Code[stopped].Next
		}
	}
}

func (r *Run) kindOf(step string) act.Kind {
	at, ok := r.program.At(step)
	if !ok {
		return ""
	}
	return r.program.Code[at].Kind
}

// Listing is the list behind a table on the screen.
func (r *Run) Listing(ctx context.Context, part string) (*table.Listing, error) {
	r = r.innermost()
	sur, err := r.surface(ctx, part)
	if err != nil {
		return nil, err
	}
	return sur.Listing(ctx, r.host, r.values, part)
}

// Options finds records for a reference input on the screen.
func (r *Run) Options(ctx context.Context, part, text string) ([]value.Ref, error) {
	r = r.innermost()
	sur, err := r.surface(ctx, part)
	if err != nil {
		return nil, err
	}
	return sur.Options(ctx, r.host, r.values, part, text)
}

// Form is a form on the screen.
func (r *Run) Form(ctx context.Context, _ records.Reader, part string) (*screen.OpenForm, error) {
	r = r.innermost()
	sur, err := r.surface(ctx, part)
	if err != nil {
		return nil, err
	}
	return sur.Form(r.values, part)
}

func (r *Run) surface(ctx context.Context, part string) (*screen.Surface, error) {
	if sur := r.standing().surface; sur != nil {
		absent, err := r.look(ctx)
		if err == nil {
			err = absent.Refused.Of(part)
		}
		return sur, err
	}
	return nil, &table.MissingError{Kind: "part", Key: part}
}

// Screens name the screen, as that of its walkthrough, by its key and those that it had before.
func (r *Run) Screens() []string {
	r = r.innermost()
	_, i, err := r.here()
	if err != nil {
		return nil
	}
	out := []string{i.Key}
	if step := r.standing().step; step != nil {
		out = append(out, step.Was...)
	}
	for n := range out {
		out[n] = "walkthrough/" + r.program.Def.Key + "/" + out[n]
	}
	return out
}

func (r *Run) here() (int, *act.Instruction, error) {
	at, ok := r.program.At(r.State.Place)
	if !ok {
		return 0, nil, &MovedError{r.State.Place}
	}
	return at, &r.program.Code[at], nil
}

// TitleOf is the title of a step, "" where there is none.
func (p *Program) TitleOf(place string) string {
	if _, step := p.called(place); step != nil {
		return title(step)
	}
	return ""
}
