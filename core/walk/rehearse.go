package walk

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
)

// RehearsedKeys is where the keys of records added in a rehearsal begin: the nth record
// added gets this and n. The range fits the whole numbers of a browser.
const RehearsedKeys = 9_000_000_000_000_000

// Recorded is what was done on a screen in an earlier rehearsal.
type Recorded struct {
	Screen string `json:"screen"`
	// Turns are those of the repeats that the screen is in, as in "2" or "2.1"; those where it stands when empty.
	Turns string `json:"turns,omitempty"`
	// Pressed are the buttons of tables that were pressed before it was answered, in order.
	Pressed []Pressed `json:"pressed,omitempty"`
	// Answers are what was given; nil on a screen that is not answered yet.
	Answers screen.Answers `json:"answers,omitzero"`
}

// Pressed is a button of a table that was pressed for rows of it, or a reaction of the screen that was set going.
type Pressed struct {
	Part   string `json:"part,omitempty"`
	Button string `json:"button,omitempty"`
	// Reaction is set going, Given what was given on the screen by then.
	Reaction string         `json:"reaction,omitempty"`
	Given    screen.Answers `json:"given,omitempty"`
	// Chosen are the rows; a reaction has one at most.
	Chosen table.Chosen `json:"chosen"`
	// Confirmed are the lines whose questions were answered with yes.
	Confirmed []int `json:"confirmed,omitempty"`
}

// Rehearsal is a run replayed from the start.
type Rehearsal struct {
	Run   *Run
	Trace []act.Entry
	// Given are the answers that could be replayed.
	Given []Recorded
	// Stopped says why the rest could not be, nil when all were.
	Stopped error
	// Held says that it stopped because the condition holds.
	Held bool
	// Named are the answers that were replayed with their records called by their names, where that was asked for;
	// Files are the keys of the files that were given.
	Files []int64
	// Pinned counts the records that are known by their keys alone.
	Named  []Recorded
	Pinned int
}

// Replay says what is rehearsed.
type Replay struct {
	// Taken is what is handed over.
	Taken screen.Answers
	// Recorded are the answers that are replayed; Remembered ones only fill screens in.
	Recorded, Remembered []Recorded
	// Recall replays what is remembered, and not what is recorded.
	Recall bool
	// Upto stops before the screen of that name is answered.
	Upto string
	// StopWhen is a condition on what is known; it stops before the first screen is answered where it holds.
	StopWhen string
	// Names asks for the answers with names in the place of keys.
	Names bool
	// Typing is what is given so far on the screen that it comes to, nil for nothing; on another screen it is nothing.
	Typing *Recorded
}

// Rehearse starts a run and replays recorded answers until one does not fit, or a screen is reached. The host's
// transaction decides whether what it wrote is kept. With an error of the run it gives how far it came.
func (p *Program) Rehearse(ctx context.Context, h records.Writer, replay Replay) (*Rehearsal, error) {
	out := &Rehearsal{}
	run, err := p.Start(ctx, h, replay.Taken, func(e act.Entry) { out.Trace = append(out.Trace, e) })
	out.Run = run
	if err != nil {
		return out, err
	}
	for _, a := range replay.Remembered {
		run.State.Answers[placed(a.Screen, a.Turns)] = a.Answers
	}
	err = out.play(ctx, replay)
	if t := replay.Typing; t != nil && t.Screen == run.Place() && t.Turns == run.turns() {
		run.Typing(t.Answers)
	}
	if err == nil && !run.State.Closed {
		here := run.innermost()
		err = here.reports(ctx, here.State.Answers[here.answered(here.State.Place)])
	}
	return out, err
}

// play gives the recorded answers, one after the other, until one does not fit.
func (out *Rehearsal) play(ctx context.Context, replay Replay) (err error) {
	run := out.Run
	for !run.State.Closed {
		a, any := replay.next(run, len(out.Given))
		if !any {
			break
		}
		if out.Held, err = run.holds(replay.StopWhen); out.Held || err != nil {
			return err
		}
		if a.Screen != run.Place() || a.Turns != "" && a.Turns != run.turns() {
			out.Stopped = &MovedError{run.Place()}
			break
		}
		if out.Stopped, err = run.presses(ctx, a.Pressed); err != nil || out.Stopped != nil || a.Answers == nil {
			return err
		}
		if goesOn, err := out.replay(ctx, a, replay.Names); !goesOn || err != nil {
			return err
		}
	}
	return nil
}

// holds says whether a condition holds of what is known where the run stands. Where it names what is not known there it
// does not.
func (r *Run) holds(condition string) (bool, error) {
	if condition == "" {
		return false, nil
	}
	r = r.innermost()
	p, err := expr.CompileAs(r.program.Scopes[r.State.Place], condition, expr.Type{Kind: value.KindYesNo})
	if err != nil {
		return false, nil //nolint:nilerr // it is about something that is known later
	}
	return p.True(r.values)
}

// Understood says what keeps a condition from holding anywhere in the walkthrough, nil when it may hold somewhere.
func (p *Program) Understood(condition string) error {
	var last error
	for _, scope := range p.Scopes {
		_, err := expr.CompileAs(scope, condition, expr.Type{Kind: value.KindYesNo})
		if err == nil {
			return nil
		}
		last = err
	}
	return last
}

// next is what is given where the run stands, after so many answers.
func (p Replay) next(run *Run, given int) (Recorded, bool) {
	place := run.Place()
	if p.Upto != "" && place == p.Upto {
		return Recorded{}, false
	}
	if !p.Recall {
		if given < len(p.Recorded) {
			return p.Recorded[given], true
		}
		return Recorded{}, false
	}
	turns := run.turns()
	for _, a := range p.Remembered {
		if a.Screen == place && a.Turns == turns && a.Answers != nil {
			return a, true
		}
	}
	return Recorded{}, false
}

// replay gives one recorded answer again, and says whether it goes on from there.
func (out *Rehearsal) replay(ctx context.Context, a Recorded, names bool) (bool, error) {
	run := out.Run
	before := run.done()
	given, err := run.real(a.Answers)
	if err != nil {
		return false, err
	}
	if given, err = run.found(ctx, given); err != nil {
		var called *screen.CalledError
		if errors.As(err, &called) {
			out.Stopped = err
			return false, nil
		}
		return false, err
	}
	if names {
		named, pinned, err := run.named(ctx, given)
		if err != nil {
			return false, err
		}
		out.Named = append(out.Named, Recorded{Screen: a.Screen, Pressed: a.Pressed, Answers: named})
		out.Pinned += pinned
		if here := run.innermost().standing(); here.surface != nil {
			out.Files = append(out.Files, here.surface.GivenFiles(given)...)
		}
	}
	if err := run.innermost().reports(ctx, given); err != nil {
		return false, err
	}
	if err := run.Answer(ctx, a.Screen, given); err != nil {
		var invalid *InvalidError
		if errors.As(err, &invalid) && run.done() == before {
			out.Stopped = err
			return false, nil
		}
		return false, err
	}
	out.Given = append(out.Given, a)
	return true, nil
}

// reports tells what the searches of the screen where the run stands find with what is given on it.
func (r *Run) reports(ctx context.Context, given screen.Answers) error {
	s := r.standing()
	if s.surface == nil || len(s.surface.Searches()) == 0 {
		return nil
	}
	absent, err := s.surface.Look(ctx, r.host, r.values, s.parts(given), r.fields(r.State.Place))
	if err != nil {
		return err
	}
	entries, err := s.surface.Reports(ctx, r.host, r.values, absent)
	for _, e := range entries {
		r.traced(e)
	}
	return err
}

// presses presses buttons again. The first error says why one could not be pressed any more.
func (r *Run) presses(ctx context.Context, pressed []Pressed) (stopped, err error) {
	for _, p := range pressed {
		raw, err := json.Marshal(p.Chosen)
		if err != nil {
			return nil, fmt.Errorf("reading what %s was pressed for: %w", p.Button, err)
		}
		real, err := r.real(screen.Answers{p.Part: raw})
		if err != nil {
			return nil, err
		}
		var chosen table.Chosen
		if err := json.Unmarshal(real[p.Part], &chosen); err != nil {
			return nil, fmt.Errorf("reading what %s was pressed for: %w", p.Button, err)
		}
		start := time.Now()
		done, err := r.press(ctx, p, chosen)
		var off *act.NotOfferedError
		var gone *table.MissingError
		if errors.As(err, &off) || errors.As(err, &gone) {
			return err, nil
		}
		if err != nil {
			return nil, err
		}
		if done != nil {
			r.traced(act.Entry{Step: r.Place(), Kind: act.ChangeAct, Title: "“" + done.Label() + "” pressed",
				Report: act.Report{Written: done.changed}, Micros: time.Since(start).Microseconds()})
		}
	}
	return nil, nil
}

func (r *Run) traced(e act.Entry) {
	if r.Trace != nil {
		r.Trace(e)
	}
}

// done is a button that was pressed.
type done struct {
	*table.Press
	changed int64
}

// press presses a button, or sets a reaction going, whose lines tell themselves what they did, and gives none.
func (r *Run) press(ctx context.Context, p Pressed, chosen table.Chosen) (*done, error) {
	if p.Reaction != "" {
		r.Typing(p.Given)
		to := screen.Reacting{Key: p.Reaction, Confirmed: p.Confirmed, Trace: r.traced}
		if len(chosen.Keys) > 0 {
			to.Row = chosen.Keys[0]
		}
		_, err := r.React(ctx, r.host, to)
		return nil, err
	}
	list, err := r.Listing(ctx, p.Part)
	if err != nil {
		return nil, err
	}
	press, err := list.Press(ctx, r.host, p.Button, chosen)
	if err != nil {
		return nil, err
	}
	out, err := press.Do(ctx, r.host, p.Confirmed, nil)
	return &done{press, out.Changed}, err
}

// real puts the keys that records have now in the place of those they had in the
// rehearsals before: the nth record added then is the nth added now. What a person typed
// stays as it is, whatever it looks like.
func (r *Run) real(a screen.Answers) (screen.Answers, error) {
	added := r.wrote().Added
	if len(added) == 0 || added[0] > RehearsedKeys {
		return a, nil
	}
	out := screen.Answers{}
	for part, raw := range a {
		d := json.NewDecoder(bytes.NewReader(raw))
		d.UseNumber()
		var v any
		if err := d.Decode(&v); err != nil {
			return nil, fmt.Errorf("reading what was given for %s: %w", part, err)
		}
		var err error
		if out[part], err = json.Marshal(realKeys(v, added, false)); err != nil {
			return nil, fmt.Errorf("writing what was given for %s: %w", part, err)
		}
	}
	return out, nil
}

// realKeys are the members of an answer that hold keys of records: that of a record, and those
// of chosen rows.
func realKeys(v any, added []int64, key bool) any {
	switch x := v.(type) {
	case map[string]any:
		for name, member := range x {
			x[name] = realKeys(member, added, name == "id" || name == "keys" || name == "except")
		}
	case []any:
		for i := range x {
			x[i] = realKeys(x[i], added, key)
		}
	case json.Number:
		n, err := x.Int64()
		if i := n - RehearsedKeys - 1; key && err == nil && i >= 0 && i < int64(len(added)) {
			return added[i]
		}
	}
	return v
}
