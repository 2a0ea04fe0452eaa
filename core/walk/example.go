package walk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/screen"
)

// Example is a rehearsal that is kept: what somebody gives, and what is expected to come of it.
type Example struct {
	Key  string `json:"key"`
	Name string `json:"name"`
	// As is the e-mail address of the person who rehearses.
	As string `json:"as"`
	// On is the day on whose clock it runs, today when empty.
	On string `json:"on,omitempty"`
	// Taken is what is handed over, Given what is done on the screens in order. Records are named by what they are
	// called where that tells them apart.
	Taken  screen.Answers `json:"taken,omitempty"`
	Given  []Recorded     `json:"given,omitempty"`
	Expect Outcome        `json:"expect"`
}

// Outcome is what comes of a rehearsal. In its texts … stands for anything.
type Outcome struct {
	// Reached is the step where it stands, "" at the end.
	Reached string `json:"reached"`
	// Message is the closing message.
	Message string `json:"message,omitempty"`
	// Refused says why what was given could not be taken, or records not be written.
	Refused string      `json:"refused,omitempty"`
	Counts  []StepCount `json:"counts,omitempty"`
}

// StepCount is how many records a step found or wrote.
type StepCount struct {
	Step    string `json:"step"`
	Found   *int64 `json:"found,omitempty"`
	Written *int64 `json:"written,omitempty"`
}

// Difference is one thing that is otherwise than expected, in words.
type Difference struct {
	What     string `json:"what"`
	Expected string `json:"expected"`
	Now      string `json:"now"`
}

// examples checks the kept rehearsals.
func (k *compiler) examples() {
	taken := map[string]bool{}
	for i, e := range k.Def.Examples {
		at := fmt.Sprintf("/examples/%d", i)
		problem := model.KeyProblem(e.Key)
		if problem == "" && taken[e.Key] {
			problem = fmt.Sprintf("the key %q is taken", e.Key)
		}
		if problem != "" {
			k.Find(definition.Care, at+"/key", problem, "The kept rehearsal could not be told from others.", nil)
		}
		taken[e.Key] = true
		for n := range e.Given {
			k.given(&e.Given[n], fmt.Sprintf("%s/given/%d", at, n))
		}
		if e.Expect.Reached != "" {
			k.named(e.Expect.Reached, at+"/expect/reached")
		}
		for n, c := range e.Expect.Counts {
			k.named(c.Step, fmt.Sprintf("%s/expect/counts/%d/step", at, n))
		}
	}
}

// given checks what is done on a screen in a kept rehearsal.
func (k *compiler) given(r *Recorded, at string) {
	if !k.named(r.Screen, at+"/screen") {
		return
	}
	in, step := k.called(r.Screen)
	place, _ := in.At(step.Key)
	s := in.shown[place]
	if s.surface == nil {
		return
	}
	for key := range r.Answers {
		second := step.Screen != nil && step.Screen.Second != nil && step.Screen.Second.Key == key
		switch has := s.surface.Has(key); {
		case in != k.Program && (has || second): // follows by the keys it had
		case has:
			k.Mention(model.MemberMention(at+"/answers/"+key, key, s.surface.Of(key)))
		case second:
			k.Mention(model.MemberMention(at+"/answers/"+key, key,
				model.Referent{Document: k.Document, At: k.places[step.Key] + "/screen/second"}))
		case partCalled(step, key) == key:
			k.Find(definition.Care, at+"/answers", fmt.Sprintf("there is no part %q on this screen", key),
				"The kept rehearsal would stop there.", &definition.Mend{Label: "Leave it out",
					Patch: []definition.Op{{Op: "remove", Path: at + "/answers/" + key}}})
		}
	}
}

// named checks the key of a step in a kept rehearsal.
func (k *compiler) named(key, at string) bool {
	in, step := k.called(key)
	if step == nil {
		k.Find(definition.Care, at, fmt.Sprintf("there is no step %q", key), "The kept rehearsal would not hold.", nil)
		return false
	}
	if in == k.Program && step.Key == key {
		k.Mention(model.TextMention(at, key, model.Referent{Document: k.Document, At: k.places[key]}))
	}
	return true
}

// Came is what came of a rehearsal that did not fail for reasons of its own.
func (p *Program) Came(r *Rehearsal, refused error) (Outcome, error) {
	out := Outcome{}
	if r.Run != nil {
		out.Reached = r.Run.Place()
	}
	if refused == nil {
		refused = r.Stopped
	}
	if refused != nil {
		out.Refused = saidOf(refused)
	}
	for _, e := range r.Trace {
		at, ok := p.At(e.Step)
		if !ok || p.Code[at].Plan == nil {
			continue
		}
		switch {
		case e.Kind == act.SearchAct:
			out.count(e.Step).found(e.Found)
		case p.Code[at].Plan.Writes() != "":
			out.count(e.Step).written(e.Written)
		}
	}
	if r.Run == nil || !r.Run.State.Closed {
		return out, nil
	}
	at, ok := p.At(r.Run.State.Place)
	if !ok || p.shown[at].message == nil {
		return out, nil
	}
	message, err := p.shown[at].message.Render(r.Run.values)
	out.Message = message.String()
	return out, err
}

// count is the count of a step, of all its turns together.
func (o *Outcome) count(step string) *StepCount {
	n := slices.IndexFunc(o.Counts, func(c StepCount) bool { return c.Step == step })
	if n < 0 {
		n = len(o.Counts)
		o.Counts = append(o.Counts, StepCount{Step: step})
	}
	return &o.Counts[n]
}

func (c *StepCount) found(n int64)   { c.Found = plus(c.Found, n) }
func (c *StepCount) written(n int64) { c.Written = plus(c.Written, n) }

func plus(sum *int64, n int64) *int64 {
	if sum != nil {
		n += *sum
	}
	return &n
}

// saidOf is what a person is told, of several things the first.
func saidOf(err error) string {
	var invalid *InvalidError
	if errors.As(err, &invalid) && len(invalid.Problems) > 0 {
		return invalid.Problems[0].Text
	}
	var refused *act.RefusedError
	if errors.As(err, &refused) {
		return refused.Text
	}
	return err.Error()
}

// Differences are what is otherwise now than expected. Counts are compared where one is expected.
func (p *Program) Differences(expected, now Outcome) []Difference {
	var out []Difference
	note := func(what, expected, now string) { out = append(out, Difference{what, expected, now}) }
	if expected.Reached != now.Reached {
		note("It comes to", p.stepTitle(expected.Reached), p.stepTitle(now.Reached))
	}
	if !alike(expected.Refused, now.Refused) {
		note("It is refused", expected.Refused, now.Refused)
	}
	if expected.Message != "" && !alike(expected.Message, now.Message) {
		note("The closing message", expected.Message, now.Message)
	}
	for _, e := range expected.Counts {
		var is StepCount
		for _, n := range now.Counts {
			if n.Step == e.Step {
				is = n
			}
		}
		if e.Found != nil && (is.Found == nil || *is.Found != *e.Found) {
			note(p.stepTitle(e.Step)+" finds", number(e.Found), number(is.Found))
		}
		if e.Written != nil && (is.Written == nil || *is.Written != *e.Written) {
			note(p.stepTitle(e.Step)+" writes", number(e.Written), number(is.Written))
		}
	}
	return out
}

func number(n *int64) string {
	if n == nil {
		return "not done"
	}
	return fmt.Sprint(*n)
}

func (p *Program) stepTitle(step string) string {
	if step == "" {
		return "the end"
	}
	if title := p.TitleOf(step); title != "" {
		return title
	}
	return step
}

// alike says whether a text is as expected, where … stands for anything.
func alike(expected, text string) bool {
	parts := strings.Split(expected, "…")
	if len(parts) == 1 {
		return expected == text
	}
	rest, ok := strings.CutPrefix(text, parts[0])
	if !ok {
		return false
	}
	last := parts[len(parts)-1]
	for _, part := range parts[1 : len(parts)-1] {
		_, after, found := strings.Cut(rest, part)
		if !found {
			return false
		}
		rest = after
	}
	return strings.HasSuffix(rest, last)
}

// named is an answer of a screen with its records called by their names, and how many of them could not be.
func (r *Run) named(ctx context.Context, a screen.Answers) (screen.Answers, int, error) {
	r = r.innermost()
	if s := r.standing(); s.surface != nil {
		return s.surface.Named(ctx, r.host, r.values, a, r.fields(r.State.Place))
	}
	return a, 0, nil
}

// found is an answer of a screen with the records found that it calls by their names.
func (r *Run) found(ctx context.Context, a screen.Answers) (screen.Answers, error) {
	r = r.innermost()
	if s := r.standing(); s.surface != nil {
		return s.surface.Found(ctx, r.host, r.values, a, r.fields(r.State.Place))
	}
	return a, nil
}

// standing is what is shown where the run stands.
func (r *Run) standing() shown {
	at, ok := r.program.At(r.State.Place)
	if !ok {
		return shown{}
	}
	return r.program.shown[at]
}

// Renewed are answers as they are called now: screens and their parts know the keys they had.
func (p *Program) Renewed(given []Recorded) []Recorded {
	out := make([]Recorded, len(given))
	for i, r := range given {
		out[i] = r
		_, step := p.called(r.Screen)
		if step == nil || step.Screen == nil {
			continue
		}
		out[i].Screen = p.nowCalled(r.Screen)
		if r.Answers != nil {
			out[i].Answers = screen.Answers{}
			for key, raw := range r.Answers {
				out[i].Answers[partCalled(step, key)] = raw
			}
		}
		out[i].Pressed = slices.Clone(r.Pressed)
		for n := range out[i].Pressed {
			out[i].Pressed[n].Part = partCalled(step, r.Pressed[n].Part)
		}
	}
	return out
}

func (p *Program) stepCalled(key string) *Step {
	if at, ok := p.At(key); ok {
		return p.shown[at].step
	}
	for _, s := range p.shown {
		if s.step != nil && slices.Contains(s.step.Was, key) {
			return s.step
		}
	}
	return nil
}

func partCalled(step *Step, key string) string {
	if step.Screen == nil {
		return key
	}
	was := key
	for part := range screen.Parts(step.Screen.Bands) {
		if part.Key == key {
			return key
		}
		if slices.Contains(part.Was, key) {
			was = part.Key
		}
	}
	return was
}

// FoundTaken is what is handed over, with the records found that are named by what they are called.
func (p *Program) FoundTaken(ctx context.Context, r records.Reader, taken screen.Answers) (screen.Answers, error) {
	return p.eachTaken(taken, func(raw json.RawMessage, of func() (query.Query, error)) (json.RawMessage, error) {
		return screen.FoundRefs(ctx, r, raw, of)
	})
}

// NamedTaken is what is handed over, with its records called by their names, and how many could not be.
func (p *Program) NamedTaken(ctx context.Context, r records.Reader, taken screen.Answers) (screen.Answers, int, error) {
	pinned := 0
	out, err := p.eachTaken(taken, func(raw json.RawMessage, of func() (query.Query, error)) (json.RawMessage, error) {
		named, kept, err := screen.NamedRefs(ctx, r, raw, of)
		pinned += kept
		return named, err
	})
	return out, pinned, err
}

func (p *Program) eachTaken(taken screen.Answers,
	each func(json.RawMessage, func() (query.Query, error)) (json.RawMessage, error)) (screen.Answers, error) {
	out := screen.Answers{}
	for _, t := range p.Def.Takes {
		raw, given := taken[t.Key]
		if !given {
			continue
		}
		out[t.Key] = raw
		object := t.Field().Target()
		if object == "" {
			continue
		}
		var err error
		of := func() (query.Query, error) { return query.Query{Object: object}, nil }
		if out[t.Key], err = each(raw, of); err != nil {
			return nil, err
		}
	}
	return out, nil
}
