package runs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"

	"github.com/jmoiron/sqlx"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/screen"
	"plainpath/core/value"
	"plainpath/core/walk"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// Rehearsal asks for a replay of the draft on trial.
type Rehearsal struct {
	App, Walkthrough string
	// As is the person whose rights hold.
	As int64
	// Taken is what is handed over.
	Taken    screen.Answers
	Recorded []walk.Recorded
	// Remembered are answers of earlier rehearsals, to fill screens in with.
	Remembered []walk.Recorded
	// Recall gives what is remembered, in the place of what is recorded.
	Recall bool
	// Upto stops before the screen of that name is answered.
	Upto string
	// StopWhen is a condition on what is known; it stops before the first screen is answered where it holds.
	StopWhen string
	// On is the day on whose clock it runs, today when empty.
	On string
	// Typing is what is given so far on the screen that it comes to, nil for nothing.
	Typing *walk.Recorded
	// Keep keeps the records written; otherwise they are put back.
	Keep bool
	// By is the builder who rehearses.
	By int64
}

// Rehearsed is what a rehearsal came to.
type Rehearsed struct {
	View  *walk.View  `json:"view"`
	Trace []act.Entry `json:"trace"`
	// Given are the recorded answers that still fit.
	Given []walk.Recorded `json:"given"`
	// Stopped says why the next one did not, and Problems where.
	Stopped  string          `json:"stopped,omitempty"`
	Problems []model.Problem `json:"problems,omitempty"`
	Kept     bool            `json:"kept"`
	// Held says that it stopped because the condition holds.
	Held bool `json:"held,omitempty"`
	// Samples are the known values where the rehearsal has come to, in words.
	Samples map[string]string `json:"samples"`
}

// Rehearse replays the draft. Look, when given, is called with the run where it stands.
func (r *Runs) Rehearse(ctx context.Context, ask Rehearsal,
	look func(*repository.Repository, *walk.Run) error) (Rehearsed, error) {
	out := Rehearsed{Trace: []act.Entry{}, Given: []walk.Recorded{}}
	program, w, err := r.rehearsable(ctx, ask)
	if err != nil {
		return out, err
	}
	if ask.StopWhen != "" {
		if err := program.Understood(ask.StopWhen); err != nil {
			return out, &postgres.RejectedError{Text: "It cannot stop there: " + err.Error()}
		}
	}
	// What was handed over before may not be taken any more.
	maps.DeleteFunc(ask.Taken, func(key string, _ json.RawMessage) bool {
		return !slices.ContainsFunc(program.Def.Takes, func(t screen.Take) bool { return t.Key == key })
	})
	work := func(q sqlx.ExtContext) error {
		d := rehearsed(q, w, ask.Walkthrough)
		d.Cause["by"] = strconv.FormatInt(ask.By, 10)
		if ask.Keep {
			d.Unit.Rehearsed = nil
		}
		done, err := program.Rehearse(ctx, d, walk.Replay{Taken: ask.Taken, Recorded: ask.Recorded,
			Remembered: ask.Remembered, Recall: ask.Recall, Upto: ask.Upto,
			StopWhen: ask.StopWhen, Typing: ask.Typing})
		out.Trace = append(out.Trace, done.Trace...)
		out.Given, out.Held = append(out.Given, done.Given...), done.Held
		if err != nil {
			return err
		}
		if done.Stopped != nil {
			out.Stopped = done.Stopped.Error()
			var invalid *walk.InvalidError
			if errors.As(done.Stopped, &invalid) {
				out.Problems = invalid.Problems
			}
		}
		if out.View, err = done.Run.Show(ctx); err != nil {
			return err
		}
		if out.Samples, err = done.Run.Samples(); err != nil {
			return err
		}
		if look != nil {
			if err := look(d, done.Run); err != nil {
				return err
			}
		}
		out.Kept = ask.Keep && done.Run.State.Closed
		return nil
	}
	if !ask.Keep {
		return out, r.DB.Tried(ctx, work)
	}
	err = r.DB.In(ctx, func(tx *sqlx.Tx) error {
		if err := work(tx); err != nil {
			return err
		}
		if !out.Kept { // it did not come to its end
			return postgres.ErrDryRun
		}
		return nil
	})
	if errors.Is(err, postgres.ErrDryRun) {
		err = nil
	}
	return out, err
}

// rehearsable is a walkthrough of the draft that can be run, and where its rehearsal is.
func (r *Runs) rehearsable(ctx context.Context, ask Rehearsal) (*walk.Program, repository.Where, error) {
	e, err := r.Editions.Draft(ctx, ask.App)
	if err != nil {
		return nil, repository.Where{}, err
	}
	p := e.Walkthroughs[ask.Walkthrough]
	if p == nil {
		return nil, repository.Where{}, fmt.Errorf("walkthrough %q: %w", ask.Walkthrough, postgres.ErrNotFound)
	}
	if findings := e.Of(definition.Name(definition.Walkthrough, ask.Walkthrough)); definition.Blocks(findings) {
		return nil, repository.Where{}, &definition.BlockedError{What: "the walkthrough cannot run", Findings: findings}
	}
	w, err := repository.WhereOf(ctx, r.DB, postgres.Caller{App: ask.App, Space: postgres.Trial, Person: ask.As}, e)
	if err == nil && ask.On != "" {
		if w.Now, err = morning(ask.On, e); err != nil {
			err = &postgres.RejectedError{Text: err.Error()}
		}
	}
	return p, w, err
}

// RehearseOptions finds records for a reference input on that screen.
func (r *Runs) RehearseOptions(ctx context.Context, ask Rehearsal, part, text string) ([]value.Ref, error) {
	var refs []value.Ref
	_, err := r.Rehearse(ctx, ask, func(_ *repository.Repository, run *walk.Run) error {
		var err error
		refs, err = run.Options(ctx, part, text)
		return err
	})
	return refs, err
}
