package walk

import (
	"context"
	"fmt"
	"maps"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/screen"
	"plainpath/core/value"
)

// answers are what a screen gives out: its parts, and whether the second way on was taken.
func (k *compiler) answers(s *Step, sur *screen.Surface, at string) []expr.Name {
	second := s.Screen.Second
	if second == nil {
		return sur.Answers
	}
	at += "/second"
	problem := model.KeyProblem(second.Key)
	switch {
	case problem != "":
		k.In(s.Key).Find(definition.Stop, at+"/key", problem, "Nothing could tell which way was taken.", nil)
	case sur.Has(second.Key) || slices.ContainsFunc(sur.Searches(), called(second.Key)):
		k.In(s.Key).Find(definition.Stop, at+"/key", fmt.Sprintf("the key %q is taken by a part", second.Key),
			"Nothing could tell which way was taken.", definition.Replace("Rename it", at+"/key", second.Key+"_pressed"))
	case second.Label == "":
		k.In(s.Key).Find(definition.Care, at+"/label", "the second button says nothing",
			"The person would not know what it does.", nil)
	}
	return append(slices.Clone(sur.Answers), expr.Name{Key: second.Key, Label: second.Label,
		Type: expr.Type{Kind: value.KindYesNo}, Of: model.Referent{Document: k.Document, At: at}})
}

func called(key string) func(expr.Name) bool { return func(n expr.Name) bool { return n.Key == key } }

// checked is a check of a screen, ready to be held.
type checked struct {
	holds   *expr.Program
	message *expr.Template
	part    string
}

func (k *compiler) checks(s *Step, sur *screen.Surface, scope expr.Scope, at string) []checked {
	var out []checked
	c := k.In(s.Key)
	for i, def := range s.Screen.Checks {
		pointer := fmt.Sprintf("%s/%d", at, i)
		const consequence = "Nobody could go on from the screen."
		p := c.ExpressionOf(expr.Type{Kind: value.KindYesNo}, scope, def.Expression, pointer+"/expression", consequence)
		t := c.Text(scope, def.Message, pointer+"/message", "Nobody would be told what is wrong.")
		if def.Message == "" {
			c.Find(definition.Care, pointer+"/message", "this check says nothing",
				"The person would not know what to mend.", nil)
		}
		if def.Part != "" && !sur.Has(def.Part) {
			c.Find(definition.Stop, pointer+"/part", fmt.Sprintf("there is no part %q on this screen", def.Part),
				"It would be said nowhere.", &definition.Mend{Label: "Say it above all",
					Patch: []definition.Op{{Op: "remove", Path: pointer + "/part"}}})
			continue
		}
		if def.Part != "" {
			c.Mention(model.TextMention(pointer+"/part", def.Part, sur.Of(def.Part)))
		}
		if p == nil || t == nil {
			continue
		}
		k.used = append(append(k.used, p.Uses...), t.Uses...)
		out = append(out, checked{p, t, def.Part})
	}
	return out
}

// hold gives what does not hold of what was given on a screen.
func (r *Run) hold(s shown) ([]model.Problem, error) {
	var out []model.Problem
	for _, c := range s.checks {
		holds, err := c.holds.True(r.values)
		if err != nil {
			return nil, err
		}
		if holds {
			continue
		}
		said, err := c.message.Render(r.values)
		if err != nil {
			return nil, err
		}
		problem := model.Problem{Text: said.String()}
		if c.part != "" {
			problem.Pointer = "/" + c.part
		}
		out = append(out, problem)
	}
	return out, nil
}

// given takes what was given on a screen, or says what is wrong with it.
func (r *Run) given(ctx context.Context, s shown, a screen.Answers) (*value.Record, []model.Problem, error) {
	key := s.step.Key
	parts := s.parts(a)
	given, problems, err := s.surface.Accept(ctx, r.host, r.values, parts, r.fields(key))
	if err != nil || len(problems) > 0 {
		return nil, problems, err
	}
	for name, raw := range parts {
		a[name] = raw // rows that all matching came to
	}
	if err := s.second(a, given); err != nil {
		return nil, []model.Problem{{Pointer: "/" + s.step.Screen.Second.Key, Text: err.Error()}}, nil
	}
	before := r.values[key]
	r.values[key] = given
	problems, err = r.hold(s)
	if err != nil || len(problems) > 0 {
		r.values[key] = before
	}
	return given, problems, err
}

// again makes known again what was given on a screen.
func (r *Run) again(ctx context.Context, s shown) (*value.Record, []model.Problem, error) {
	all := r.State.Answers[r.answered(s.step.Key)]
	a := s.parts(all)
	given, problems, err := s.surface.Restore(ctx, r.host, r.values, a, r.fields(s.step.Key))
	if err == nil && len(problems) == 0 {
		err = s.second(all, given)
	}
	return given, problems, err
}

// parts are the answers of the parts, without the way that was taken.
func (s shown) parts(a screen.Answers) screen.Answers {
	if s.step.Screen == nil || s.step.Screen.Second == nil {
		return a
	}
	out := maps.Clone(a)
	delete(out, s.step.Screen.Second.Key)
	return out
}

// second makes known whether the second way on was taken.
func (s shown) second(a screen.Answers, given *value.Record) error {
	if s.step.Screen == nil || s.step.Screen.Second == nil {
		return nil
	}
	key := s.step.Screen.Second.Key
	v, err := value.Parse(value.KindYesNo, a[key])
	if err != nil {
		return err
	}
	given.Fields[key] = value.YesNo(v == value.YesNo(true))
	return nil
}

// Keep keeps what somebody typed on the screen where the run stands, as it is, to be offered again.
func (r *Run) Keep(typed screen.Answers) {
	if r.inside != nil {
		r.inside.Keep(typed)
		return
	}
	s := r.standing()
	if typed == nil || r.State.Closed || s.surface == nil {
		return
	}
	kept := screen.Answers{}
	for key, raw := range typed {
		if s.surface.Has(key) {
			kept[key] = raw
		}
	}
	r.State.Answers[r.answered(r.State.Place)] = kept
}
