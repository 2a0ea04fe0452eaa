package walk

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

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
	if r.program.shown[at].inner != nil && !v.LeftOut {
		return r.giveBack(ctx, at, v.Kept)
	}
	return r.machine.Restore(ctx, &r.program.Code[at], v.Kept)
}

func (r *Run) fields(screen string) func(part string) []model.Path {
	return func(part string) []model.Path { return r.program.Uses[screen+"."+part] }
}

// turnsOf are the turns of the repeats under way that a step is in, as in "2" or "2.1", "" where it is in none.
func (r *Run) turnsOf(step string) string {
	at, ok := r.program.At(step)
	if !ok {
		return ""
	}
	var turns []string
	waiting := r.machine.Waiting()
	for _, loop := range r.program.Code[at].Loops {
		if turn, under := waiting[loop]; under {
			turns = append(turns, strconv.Itoa(turn.Number))
		}
	}
	return strings.Join(turns, ".")
}

// turns are those of the repeats under way where the run stands; those inside a walkthrough that it runs stand behind
// a stroke.
func (r *Run) turns() string {
	own := r.turnsOf(r.State.Place)
	if r.inside == nil {
		return own
	}
	within := r.inside.turns()
	if own == "" && within == "" {
		return ""
	}
	return own + inside + within
}

// done counts the steps that were carried out.
func (r *Run) done() int {
	n := len(r.State.Trail)
	if r.inside != nil {
		n += r.inside.done()
	}
	return n
}

// answered is what answers of a screen are kept by.
func (r *Run) answered(screen string) string { return placed(screen, r.turnsOf(screen)) }

// placed is what answers of a place in some turns of repeats are kept by.
func placed(place, turns string) string {
	key, place, deeper := strings.Cut(place, inside)
	own, turns, _ := strings.Cut(turns, inside)
	if own != "" {
		key += "@" + own
	}
	if deeper {
		key += inside + placed(place, turns)
	}
	return key
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

// answerInside answers a screen of the walkthrough inside, and goes on where that has come to its end.
func (r *Run) answerInside(ctx context.Context, screen string, a screen.Answers) error {
	if err := r.inside.Answer(ctx, screen, a); err != nil {
		return err
	}
	r.State.Inside = &r.inside.State
	if !r.inside.State.Closed {
		return nil
	}
	at, _, err := r.here()
	if err == nil {
		err = r.returned(ctx)
	}
	if err != nil {
		return err
	}
	return r.advance(ctx, r.program.Code[at].Next)
}

// Back returns to a screen answered before. Answers given since are kept and offered
// again. What was written cannot be unwritten: behind it there is no going back.
func (r *Run) Back(ctx context.Context, screen string) error {
	if s := r.innermost().standing().step; s != nil && s.Screen != nil && s.Screen.NoBack {
		return &InvalidError{[]model.Problem{{Text: "there is no going back from this screen"}}}
	}
	if own, ok := r.own(screen); ok {
		err := r.inside.Back(ctx, own)
		r.State.Inside = &r.inside.State
		return err
	}
	if r.inside == nil || !r.inside.wrote().Wrote() {
		for n := len(r.State.Trail) - 1; n >= 0 && !r.State.Trail[n].Wrote(); n-- {
			if back, err := r.backTo(ctx, n, screen); back || err != nil {
				return err
			}
		}
	}
	return &InvalidError{[]model.Problem{{Text: "records were written after that screen, so there is no going back to it"}}}
}

// backTo returns to a screen if it was answered at a place of the trail, or in the walkthrough run there.
func (r *Run) backTo(ctx context.Context, n int, screen string) (bool, error) {
	v := r.State.Trail[n]
	own, within := strings.CutPrefix(screen, v.Step+inside)
	if within = within && v.Inside != nil; !within && (v.Step != screen || r.kindOf(screen) != ScreenStep) {
		return false, nil
	}
	s := &r.State
	s.Trail, s.Place, s.Closed, s.Inside = s.Trail[:n], v.Step, false, nil
	r.afresh()
	if !within {
		return true, r.rebuild(ctx)
	}
	var state State
	if err := json.Unmarshal(v.Inside, &state); err != nil {
		return true, fmt.Errorf("reading where %q came to: %w", v.Step, err)
	}
	if err := r.rebuild(ctx); err != nil {
		return true, err
	}
	state.Answers = r.answersInside(v.Step)
	s.Inside = &state
	at, ok := r.program.At(v.Step)
	if !ok || r.program.shown[at].inner == nil {
		return true, &MovedError{v.Step}
	}
	r.inside = r.program.shown[at].inner.on(r.host, state, nil)
	err := r.inside.Back(ctx, own)
	s.Inside = &r.inside.State
	return true, err
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
		if err := r.enter(ctx, stopped); err != nil {
			return err
		}
		if !r.inside.State.Closed {
			r.effects = m.Effects
			r.State.Inside = &r.inside.State
			return nil
		}
		if err := r.returned(ctx); err != nil {
			return err
		}
		at = r.program.Code[stopped].Next
	}
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
	if r.inside != nil {
		return r.showInside(ctx)
	}
	v := &View{Step: r.State.Place, Closed: r.State.Closed, Bands: []screen.BandView{}, Turns: r.machine.Turns()}
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
	if v.Bands, err = here.surface.Show(ctx, r.host, r.values, r.State.Answers[r.answered(i.Key)]); err != nil {
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

// showInside shows where the walkthrough inside stands.
func (r *Run) showInside(ctx context.Context) (*View, error) {
	v, err := r.inside.Show(ctx)
	if err != nil {
		return nil, err
	}
	v.Step = r.State.Place + inside + v.Step
	if s := r.innermost().standing().step; s == nil || s.Screen == nil || !s.Screen.NoBack {
		v.Back = r.lastScreen()
	}
	screen, of := v.Screen, v.Of
	r.count(v)
	before := r.program.answeredIn(r.State.Trail)
	if v.Screen = before + screen; v.Of > 0 { // those of the walkthrough inside are ahead of the step
		at, _, err := r.here()
		if err != nil {
			return nil, err
		}
		if v.Of -= r.program.shown[at].inner.ahead[0].screens; of > 0 {
			v.Of += of
		} else {
			v.Of = 0
		}
	}
	v.Turns = append(r.machine.Turns(), v.Turns...)
	v.Effects = append(slices.Clone(r.effects), v.Effects...)
	return v, nil
}

// ask shows a question in the place of a screen.
func (r *Run) ask(ctx context.Context, i *act.Instruction, v *View) error {
	v.Back, v.Effects = r.lastScreen(), nil
	asked, err := r.machine.Asked(ctx, i)
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

// lastScreen is the screen to go back to, "" where there is none.
func (r *Run) lastScreen() string {
	if r.inside != nil {
		if last := r.inside.lastScreen(); last != "" {
			return r.State.Place + inside + last
		}
		if r.inside.wrote().Wrote() {
			return ""
		}
	}
	return r.program.lastIn(r.State.Trail)
}

// count says which screen this is and how many there are at most, if that can be known.
func (r *Run) count(v *View) {
	v.Screen = r.program.answeredIn(r.State.Trail)
	v.Of = v.Screen
	at, ok := r.program.At(r.State.Place)
	if v.Closed || !ok {
		return
	}
	if r.program.Code[at].Kind == ScreenStep {
		v.Screen++
	}
	ahead := r.program.ahead[at]
	for loop, turn := range r.machine.Waiting() {
		body := r.program.ahead[loop+1].less(r.program.ahead[r.program.Code[loop].Loop.Exit])
		ahead = ahead.and(body, turn.Of-turn.Number)
	}
	if v.Of += ahead.screens; ahead.open {
		v.Of = 0
	}
}

// Listing is the list behind a table on the screen.
func (r *Run) Listing(ctx context.Context, part string) (*table.Listing, error) {
	r = r.innermost()
	sur, err := r.surface(part)
	if err != nil {
		return nil, err
	}
	return sur.Listing(ctx, r.host, r.values, part)
}

// Options finds records for a reference input on the screen.
func (r *Run) Options(ctx context.Context, part, text string) ([]value.Ref, error) {
	r = r.innermost()
	sur, err := r.surface(part)
	if err != nil {
		return nil, err
	}
	return sur.Options(ctx, r.host, r.values, part, text)
}

func (r *Run) surface(part string) (*screen.Surface, error) {
	if sur := r.standing().surface; sur != nil {
		return sur, nil
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
