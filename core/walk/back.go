package walk

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"plainpath/core/model"
)

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
	if r.inside != nil { // what was given there is offered again, too
		r.keepAnswers(s.Place, r.inside)
	}
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
