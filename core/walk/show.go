package walk

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
)

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
	if v.Bands, err = r.bands(ctx, screen.Some{}); err != nil {
		return nil, fmt.Errorf("showing the screen %q: %w", v.Title, err)
	}
	v.Feeds, v.Reactions = here.surface.Feeds(), here.surface.Reactions()
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

// Follow computes what follows what changed on the screen where the run stands; all else is marked as the same.
func (r *Run) Follow(ctx context.Context, screenKey string, changed []string) ([]screen.BandView, error) {
	if r.Place() != screenKey {
		return nil, &MovedError{r.Place()}
	}
	r = r.innermost()
	s := r.standing()
	if s.surface == nil {
		return nil, &MovedError{r.Place()}
	}
	return r.bands(ctx, screen.Some{Anew: s.surface.Following(changed)})
}

func (r *Run) bands(ctx context.Context, some screen.Some) ([]screen.BandView, error) {
	s := r.standing()
	absent, err := r.look(ctx)
	if err != nil {
		return nil, err
	}
	some.Waiting, some.Refused = absent.Waiting, absent.Refused
	given := screen.Given{Answers: r.State.Answers[r.answered(r.State.Place)]}
	return s.surface.ShowOf(ctx, r.host, r.values, given, some)
}

// look makes known what is given so far on the screen where the run stands, as far as its parts take it of each other,
// and says which of them are not to be shown.
func (r *Run) look(ctx context.Context) (screen.Some, error) {
	s, place := r.standing(), r.State.Place
	if s.surface == nil {
		return screen.Some{}, nil
	}
	return s.surface.Look(ctx, r.host, r.values, s.parts(r.State.Answers[r.answered(place)]), r.fields(place))
}

// React carries out a reaction of the screen where the run stands.
func (r *Run) React(ctx context.Context, u records.Writer, to screen.Reacting) (act.Outcome, error) {
	r = r.innermost()
	sur := r.standing().surface
	if sur == nil {
		return act.Outcome{}, &table.MissingError{Kind: "reaction", Key: to.Key}
	}
	absent, err := r.look(ctx)
	if err == nil {
		err = absent.Refused.Of(sur.TakenBy(to.Key)...)
	}
	if err != nil {
		return act.Outcome{}, err
	}
	return sur.React(ctx, u, r.values, to)
}

// Typing takes note of what somebody gives on the screen where the run stands, over what was given there before.
func (r *Run) Typing(given screen.Answers) {
	r = r.innermost()
	at := r.answered(r.State.Place)
	all := maps.Clone(r.State.Answers[at])
	if all == nil {
		all = screen.Answers{}
	}
	maps.Copy(all, given)
	r.State.Answers[at] = all
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
