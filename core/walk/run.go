package walk

import (
	"context"
	"fmt"
	"slices"
	"time"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/surface"
	"plainpath/core/value"
)

// Run is a run being carried on. It is used by one goroutine, within one transaction.
type Run struct {
	State State
	// Trace is told what each step did; nil when nobody asks.
	Trace func(Entry)

	program *Program
	host    records.Writer
	values  expr.Values
}

// Start begins a run with what is handed over and goes on to its first screen.
func (p *Program) Start(ctx context.Context, h records.Writer, taken surface.Answers, trace func(Entry)) (*Run, error) {
	r := &Run{program: p, host: h, Trace: trace, State: State{Answers: map[string]surface.Answers{}, Taken: taken},
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
		v, problem, err := surface.Taken(ctx, r.host, t.field(), r.State.Taken[t.Key], r.program.uses[t.Key])
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
		r.State.Answers = map[string]surface.Answers{}
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
	for _, v := range r.State.Trail {
		at, ok := r.program.at[v.Step]
		if !ok {
			return fmt.Errorf("the walkthrough no longer has a step %q", v.Step)
		}
		then := value.NewInstant(v.At)
		r.values["now"], r.values["today"] = then, value.DateOf(v.At.In(r.host.Now().Location()))
		i := &r.program.code[at]
		switch {
		case i.step.Kind == ScreenStep:
			given, problems, err := i.surface.Restore(ctx, r.host, r.values, r.State.Answers[v.Step], r.fields(i))
			if err != nil {
				return err
			}
			if len(problems) > 0 {
				return &InvalidError{[]model.Problem{{Text: fmt.Sprintf("what was given on %q no longer holds: %s",
					title(i.step), problems[0].Text)}}}
			}
			r.values[v.Step] = given
		case i.plan != nil:
			if err := r.know(ctx, i, v.Kept); err != nil {
				return err
			}
		}
	}
	r.values["now"], r.values["today"] = now, today
	return nil
}

func (r *Run) fields(i *instruction) func(part string) []model.Path {
	return func(part string) []model.Path { return r.program.uses[i.step.Key+"."+part] }
}

// Answer takes what the person gave on a screen and goes on to the next one. The
// errors a person can do something about are *InvalidError, *MovedError and
// *act.RefusedError; after any error the run must be thrown away.
func (r *Run) Answer(ctx context.Context, screen string, a surface.Answers) error {
	if r.State.Closed || r.State.Place != screen {
		return &MovedError{r.State.Place}
	}
	at := r.program.at[screen]
	i := &r.program.code[at]
	given, problems, err := i.surface.Accept(ctx, r.host, r.values, a, r.fields(i))
	if err != nil {
		return err
	}
	if len(problems) > 0 {
		return &InvalidError{problems}
	}
	r.State.Answers[screen] = a
	r.State.Trail = append(r.State.Trail, Visit{Step: screen, At: r.host.Now()})
	r.values[screen] = given
	return r.advance(ctx, i.next)
}

// Back returns to a screen answered before. Answers given since are kept and offered
// again. What was written cannot be unwritten: behind it there is no going back.
func (r *Run) Back(screen string) error {
	for n := len(r.State.Trail) - 1; n >= 0; n-- {
		v := r.State.Trail[n]
		if v.Wrote() {
			break
		}
		if v.Step == screen && r.program.code[r.program.at[screen]].step.Kind == ScreenStep {
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
	for at < len(r.program.code) {
		i := &r.program.code[at]
		if i.step == nil {
			at = i.next
			continue
		}
		switch i.step.Kind {
		case ScreenStep:
			r.State.Place = i.step.Key
			r.trace(Entry{Step: i.step.Key, Kind: ScreenStep, Title: title(i.step)})
			return nil
		case FinishStep:
			r.State.Place, r.State.Closed = i.step.Key, true
			r.trace(Entry{Step: i.step.Key, Kind: FinishStep, Title: title(i.step)})
			return nil
		}
		next, err := r.work(ctx, i)
		if err != nil {
			return err
		}
		at = next
	}
	r.State.Place, r.State.Closed = "", true
	return nil
}

func (r *Run) work(ctx context.Context, i *instruction) (int, error) {
	start := time.Now()
	visit := Visit{Step: i.step.Key, At: r.host.Now()}
	entry := Entry{Step: i.step.Key, Kind: i.step.Kind, Title: title(i.step)}
	next := i.next
	var err error
	if i.plan != nil {
		var done act.Done
		done, err = i.plan.Do(ctx, r.host, r.in(i))
		visit.Kept, entry.Report = done.Kept, done.Report
		r.values[i.step.Key] = done.Value
	} else {
		next, err = r.branch(i, &entry)
	}
	if err != nil {
		return 0, fmt.Errorf("at the step %q: %w", title(i.step), err)
	}
	entry.Micros = time.Since(start).Microseconds()
	r.trace(entry)
	r.State.Trail = append(r.State.Trail, visit)
	return next, nil
}

func (r *Run) trace(e Entry) {
	if r.Trace != nil {
		r.Trace(e)
	}
}

// in is what an act is carried out with.
func (r *Run) in(i *instruction) act.In {
	return act.In{Values: r.values, Through: i.step.Key, Title: title(i.step), Columns: r.program.uses[i.step.Key],
		Figures: r.Trace != nil}
}

// know makes known again what a step gave.
func (r *Run) know(ctx context.Context, i *instruction, kept act.Kept) error {
	v, err := i.plan.Restore(ctx, r.host, r.in(i), kept)
	if err == nil {
		r.values[i.step.Key] = v
	}
	return err
}

func (r *Run) branch(i *instruction, e *Entry) (int, error) {
	for n, w := range i.ways {
		if w.when == nil {
			e.Note = "otherwise"
			return w.next, nil
		}
		ok, err := w.when.True(r.values)
		if err != nil {
			return 0, err
		}
		if ok {
			e.Note = i.step.Branch.Ways[n].Title
			return w.next, nil
		}
	}
	return i.next, nil
}

// Show computes what the person sees where the run stands.
func (r *Run) Show(ctx context.Context) (*View, error) {
	v := &View{Step: r.State.Place, Closed: r.State.Closed, Bands: []surface.BandView{}}
	r.count(v)
	if r.State.Place == "" {
		v.Title, v.Message = r.program.Def.Label, expr.Say("The walkthrough is finished.")
		return v, nil
	}
	i := &r.program.code[r.program.at[r.State.Place]]
	v.Title = title(i.step)
	var err error
	if v.Bands, err = i.surface.Show(ctx, r.host, r.values, r.State.Answers[i.step.Key]); err != nil {
		return nil, fmt.Errorf("showing the screen %q: %w", v.Title, err)
	}
	if i.step.Kind == FinishStep {
		v.Go = i.step.Finish.Go
		v.Message, err = i.message.Render(r.values)
		return v, err
	}
	v.Next = i.step.Screen.Next
	v.Back = r.lastScreen()
	return v, nil
}

func (r *Run) lastScreen() string {
	for n := len(r.State.Trail) - 1; n >= 0; n-- {
		v := r.State.Trail[n]
		if v.Wrote() {
			return ""
		}
		if r.program.code[r.program.at[v.Step]].step.Kind == ScreenStep {
			return v.Step
		}
	}
	return ""
}

// count says which screen this is and how many there are at most.
func (r *Run) count(v *View) {
	for _, visit := range r.State.Trail {
		if r.program.code[r.program.at[visit.Step]].step.Kind == ScreenStep {
			v.Screen++
		}
	}
	v.Of = v.Screen
	if !v.Closed {
		v.Screen++
		v.Of += r.program.screens[r.program.at[r.State.Place]]
	}
}

// Listing is the list behind a table on the screen.
func (r *Run) Listing(ctx context.Context, part string) (*surface.Listing, error) {
	i, err := r.here()
	if err != nil {
		return nil, err
	}
	return i.surface.Listing(ctx, r.host, r.values, part)
}

// Options finds records for a reference input on the screen.
func (r *Run) Options(ctx context.Context, part, text string) ([]value.Ref, error) {
	i, err := r.here()
	if err != nil {
		return nil, err
	}
	return i.surface.Options(ctx, r.host, r.values, part, text)
}

// Screens are the key of the screen and those that it had before.
func (r *Run) Screens() []string {
	i, err := r.here()
	if err != nil {
		return nil
	}
	return append([]string{i.step.Key}, i.step.Was...)
}

func (r *Run) here() (*instruction, error) {
	at, ok := r.program.at[r.State.Place]
	if !ok {
		return nil, &MovedError{r.State.Place}
	}
	return &r.program.code[at], nil
}

// TitleOf is the title of a step.
func (p *Program) TitleOf(step string) string {
	at, ok := p.at[step]
	if !ok {
		return ""
	}
	return title(p.code[at].step)
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
