package walk

import (
	"context"
	"fmt"
	"slices"

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
	effects []act.Effect
}

// Start begins a run with what is handed over and goes on to its first screen.
func (p *Program) Start(ctx context.Context, h records.Writer, taken screen.Answers,
	trace func(act.Entry)) (*Run, error) {
	r := &Run{program: p, host: h, Trace: trace, State: State{Answers: map[string]screen.Answers{}, Taken: taken},
		values: baseValues(h)}
	if err := r.take(ctx); err != nil {
		return r, err
	}
	return r, r.advance(ctx, 0)
}

// take makes known values of what was handed over.
func (r *Run) take(ctx context.Context) error {
	var problems []model.Problem
	for key := range r.State.Taken {
		if !slices.ContainsFunc(r.program.Def.Takes, func(t Take) bool { return t.Key == key }) {
			problems = append(problems, model.Problem{Pointer: "/" + key, Text: "the walkthrough takes no such value"})
		}
	}
	for _, t := range r.program.Def.Takes {
		v, problem, err := screen.Taken(ctx, r.host, t.field(), r.State.Taken[t.Key], r.program.Uses[t.Key])
		if err != nil {
			return err
		}
		if problem != "" {
			problems = append(problems, model.Problem{Pointer: "/" + t.Key, Text: problem})
		}
		r.values[t.Key] = v
	}
	if len(problems) > 0 {
		return &InvalidError{problems}
	}
	return nil
}

// Resume takes up a run where its state says.
func (p *Program) Resume(ctx context.Context, h records.Writer, s State) (*Run, error) {
	r := &Run{program: p, host: h, State: s, values: baseValues(h)}
	if r.State.Answers == nil {
		r.State.Answers = map[string]screen.Answers{}
	}
	if err := r.take(ctx); err != nil {
		return r, err
	}
	return r, r.rebuild(ctx)
}

func baseValues(h records.Writer) expr.Values {
	now := value.NewInstant(h.Now())
	return expr.Values{"person": h.Person().Value(), "now": now, "today": value.DateOf(h.Now())}
}

// rebuild makes the known values again from the trail: answers are taken as they
// were given, searches are bound as they were.
func (r *Run) rebuild(ctx context.Context) error {
	now, today := r.values["now"], r.values["today"]
	m := r.machine()
	for _, v := range r.State.Trail {
		at, ok := r.program.At(v.Step)
		if !ok {
			return fmt.Errorf("the walkthrough no longer has a step %q", v.Step)
		}
		then := value.NewInstant(v.At)
		r.values["now"], r.values["today"] = then, value.DateOf(v.At.In(r.host.Now().Location()))
		i := &r.program.Code[at]
		switch {
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
			if err := m.Restore(ctx, i, v.Kept); err != nil {
				return err
			}
		}
	}
	r.values["now"], r.values["today"] = now, today
	return nil
}

func (r *Run) fields(screen string) func(part string) []model.Path {
	return func(part string) []model.Path { return r.program.Uses[screen+"."+part] }
}

// machine carries out the steps of the run.
func (r *Run) machine() *act.Machine {
	return &act.Machine{Program: &r.program.Program, Writer: r.host, Values: r.values, Trace: r.Trace}
}

// Answer takes what the person gave on a screen and goes on to the next one. The
// errors a person can do something about are *InvalidError, *MovedError and
// *act.RefusedError; after any error the run must be thrown away.
func (r *Run) Answer(ctx context.Context, screen string, a screen.Answers) error {
	if r.State.Closed || r.State.Place != screen {
		return &MovedError{r.State.Place}
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
		r.State.Answers[screen] = a
		r.values[screen] = given
	}
	r.State.Trail = append(r.State.Trail, act.Visit{Step: screen, At: r.host.Now()})
	return r.advance(ctx, r.program.Code[at].Next)
}

// Back returns to a screen answered before. Answers given since are kept and offered
// again. What was written cannot be unwritten: behind it there is no going back.
func (r *Run) Back(screen string) error {
	if at, ok := r.program.At(r.State.Place); ok {
		if s := r.program.shown[at].step.Screen; s != nil && s.NoBack {
			return &InvalidError{[]model.Problem{{Text: "there is no going back from this screen"}}}
		}
	}
	for n := len(r.State.Trail) - 1; n >= 0; n-- {
		v := r.State.Trail[n]
		if v.Wrote() {
			break
		}
		if v.Step == screen && r.kindOf(screen) == ScreenStep {
			for _, gone := range r.State.Trail[n:] {
				delete(r.values, gone.Step)
			}
			r.State.Trail = r.State.Trail[:n]
			r.State.Place, r.State.Closed = screen, false
			return nil
		}
	}
	return &InvalidError{[]model.Problem{{Text: "records were written after that screen, so there is no going back to it"}}}
}

// advance carries out steps until one waits for the person or the end is reached.
func (r *Run) advance(ctx context.Context, at int) error {
	m := r.machine()
	stopped, err := m.Run(ctx, at)
	if err != nil {
		return err
	}
	r.State.Trail = append(r.State.Trail, m.Trail...)
	r.effects = append(r.effects, m.Effects...)
	r.State.Place, r.State.Closed = "", true
	if stopped < len(r.program.Code) {
		r.State.Place = r.program.Code[stopped].Key
		r.State.Closed = r.program.Code[stopped].Kind == FinishStep
	}
	return r.renew(ctx, m, stopped)
}

func (r *Run) kindOf(step string) act.Kind {
	at, ok := r.program.At(step)
	if !ok {
		return ""
	}
	return r.program.Code[at].Kind
}

// Show computes what the person sees where the run stands.
func (r *Run) Show(ctx context.Context) (*View, error) {
	v := &View{Step: r.State.Place, Closed: r.State.Closed, Bands: []screen.BandView{}}
	r.count(v)
	if r.State.Place == "" {
		v.Title, v.Message = r.program.Def.Label, expr.Say("The walkthrough is finished.")
		return v, nil
	}
	at, i, err := r.here()
	if err != nil {
		return nil, err
	}
	v.Title, v.Effects = i.Title, r.effects
	if i.Kind == act.ConfirmAct {
		return v, r.ask(ctx, i, v)
	}
	here := r.program.shown[at]
	if v.Bands, err = here.surface.Show(ctx, r.host, r.values, r.State.Answers[i.Key]); err != nil {
		return nil, fmt.Errorf("showing the screen %q: %w", v.Title, err)
	}
	if i.Kind == FinishStep {
		v.Go = here.step.Finish.Go
		v.Message, err = here.message.Render(r.values)
		return v, err
	}
	s := here.step.Screen
	v.Next, v.Cancel, v.Later, v.Second, v.NoProgress = s.Next, s.Cancel, s.Later, s.Second, s.NoProgress
	if !s.NoBack {
		v.Back, v.BackLabel = r.lastScreen(), s.Back
	}
	return v, nil
}

// ask shows a question in the place of a screen.
func (r *Run) ask(ctx context.Context, i *act.Instruction, v *View) error {
	v.Back, v.Effects = r.lastScreen(), nil
	asked, err := r.machine().Asked(ctx, i)
	if err != nil {
		return fmt.Errorf("asking %q: %w", i.Title, err)
	}
	for _, e := range asked {
		v.Question, v.Next = e.Message, e.Yes
	}
	for _, e := range r.effects {
		if e.Kind != act.ConfirmAct {
			v.Effects = append(v.Effects, e)
		}
	}
	return nil
}

func (r *Run) lastScreen() string {
	for n := len(r.State.Trail) - 1; n >= 0; n-- {
		v := r.State.Trail[n]
		if v.Wrote() {
			return ""
		}
		if r.kindOf(v.Step) == ScreenStep {
			return v.Step
		}
	}
	return ""
}

// count says which screen this is and how many there are at most.
func (r *Run) count(v *View) {
	for _, visit := range r.State.Trail {
		if r.kindOf(visit.Step) == ScreenStep {
			v.Screen++
		}
	}
	v.Of = v.Screen
	at, ok := r.program.At(r.State.Place)
	if v.Closed || !ok {
		return
	}
	v.Of += r.program.screens[at]
	if r.program.Code[at].Kind == ScreenStep {
		v.Screen++
	}
}

// Listing is the list behind a table on the screen.
func (r *Run) Listing(ctx context.Context, part string) (*table.Listing, error) {
	sur, err := r.surface(part)
	if err != nil {
		return nil, err
	}
	return sur.Listing(ctx, r.host, r.values, part)
}

// Options finds records for a reference input on the screen.
func (r *Run) Options(ctx context.Context, part, text string) ([]value.Ref, error) {
	sur, err := r.surface(part)
	if err != nil {
		return nil, err
	}
	return sur.Options(ctx, r.host, r.values, part, text)
}

func (r *Run) surface(part string) (*screen.Surface, error) {
	at, _, err := r.here()
	if err != nil {
		return nil, err
	}
	if sur := r.program.shown[at].surface; sur != nil {
		return sur, nil
	}
	return nil, &table.MissingError{Kind: "part", Key: part}
}

// Screens are the key of the screen and those that it had before.
func (r *Run) Screens() []string {
	at, i, err := r.here()
	if err != nil {
		return nil
	}
	return append([]string{i.Key}, r.program.shown[at].step.Was...)
}

func (r *Run) here() (int, *act.Instruction, error) {
	at, ok := r.program.At(r.State.Place)
	if !ok {
		return 0, nil, &MovedError{r.State.Place}
	}
	return at, &r.program.Code[at], nil
}

// TitleOf is the title of a step.
func (p *Program) TitleOf(step string) string {
	at, ok := p.At(step)
	if !ok {
		return ""
	}
	return p.Code[at].Title
}

// Samples writes the known values of the run in words, by the path an expression takes
// to them, for the builder to pick from.
func (r *Run) Samples() (map[string]string, error) {
	out := map[string]string{}
	for key, v := range r.values {
		if err := sample(out, key, v, 3); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func sample(out map[string]string, path string, v value.Value, depth int) error {
	switch x := v.(type) {
	case *value.List:
		n, err := x.Source.Count()
		if err != nil {
			return err
		}
		out[path] = fmt.Sprintf("%d records", n)
	case value.Rows:
		out[path] = fmt.Sprintf("%d rows", len(x))
	case *value.Record:
		if x.Object != "" {
			out[path] = x.Label
		}
		for key, field := range x.Fields {
			if depth > 0 {
				if err := sample(out, path+"."+key, field, depth-1); err != nil {
					return err
				}
			}
		}
	default:
		out[path] = value.Display(v)
	}
	return nil
}
