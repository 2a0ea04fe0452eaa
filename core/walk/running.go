package walk

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// Give is a value that a walkthrough gives back to one that runs it.
type Give struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	// Value is an expression on what is known at the end.
	Value string `json:"value"`
}

// AtEnd is the name of the end in Scopes.
const AtEnd = "/end"

// given is a checked Give.
type given struct {
	*expr.Program
	name expr.Name
}

// single says whether it is one value and not several.
func (g given) single() bool {
	return g.name.Type.Kind != value.KindList && g.name.Type.Kind != value.KindRows
}

// Runs are the walkthroughs that steps of this one run, each once.
func (w *Walkthrough) Runs() []string {
	var out []string
	for _, s := range w.All() {
		if s.Run != nil && s.Run.Walkthrough != "" && !slices.Contains(out, s.Run.Walkthrough) {
			out = append(out, s.Run.Walkthrough)
		}
	}
	return out
}

// returns checks what the walkthrough gives back, for which scope is known at its end.
func (k *compiler) returns(scope expr.Scope) {
	k.Scopes[AtEnd] = scope
	taken := map[string]bool{}
	for i, g := range k.Def.Gives {
		at := fmt.Sprintf("/gives/%d", i)
		const consequence = "Whatever runs this walkthrough would not get the value."
		problem := model.KeyProblem(g.Key)
		if problem == "" && taken[g.Key] {
			problem = fmt.Sprintf("the key %q is taken", g.Key)
		}
		if problem != "" {
			k.Find(definition.Stop, at+"/key", problem, consequence, nil)
			continue
		}
		taken[g.Key] = true
		p := k.Expression(scope, g.Value, at+"/value", consequence)
		if p == nil {
			continue
		}
		if p.Type.Kind == value.KindScreen {
			k.Find(definition.Stop, at+"/value", "a screen as a whole cannot be given back, but what was given on it can",
				consequence, nil)
			continue
		}
		k.used = append(k.used, p.Uses...)
		back := given{p, expr.Name{Key: g.Key, Label: g.Label, Type: p.Type,
			Of: model.Referent{Document: k.Document, At: at}}}
		back.name.Type.Empty = back.single() // a way may have ended before it was known
		k.returned = append(k.returned, back)
	}
}

// run checks a step that runs another walkthrough. What that gives back is known by the step's key.
func (k *compiler) run(s *Step, at string, scope expr.Scope) expr.Scope {
	here := len(k.Code)
	after := k.ran(s, at, scope)
	if s.IfFails != nil {
		after = k.ifFails(s, at, here, after, scope)
	}
	return after
}

func (k *compiler) ran(s *Step, at string, scope expr.Scope) expr.Scope {
	c := k.In(s.Key)
	checked := act.Compile(act.Environment{Where: act.InSteps, Scope: scope, Check: c}, &s.Act, at)
	k.Scopes[s.Key] = checked.Scope
	here := k.emit(act.Instruction{Plan: checked.Plan, When: checked.When, Waits: true}, shown{step: s})
	if checked.Plan == nil || s.Run == nil || s.Run.Walkthrough == "" {
		return scope
	}
	k.used = append(k.used, checked.Uses()...)
	inner, circle := k.context.find(s.Run.Walkthrough)
	switch {
	case len(circle) > 0:
		c.Find(definition.Stop, at+"/run/walkthrough", "it would run itself: "+strings.Join(circle, " → "),
			"It would never end.", nil)
		return scope
	case inner == nil: // which is found where all there are are known
		return scope
	}
	k.shown[here].inner = inner
	if len(inner.returned) == 0 {
		return scope
	}
	t := expr.Type{Kind: value.KindScreen, Empty: checked.When != nil || s.IfFails != nil}
	for _, g := range inner.returned {
		t.Answers = append(t.Answers, g.name)
	}
	return k.know(scope, k.gives(s, at, t))
}

// find is another walkthrough, compiled; nil where there is none. Circle says over which it comes back.
func (c Context) find(key string) (inner *Program, circle []string) {
	if c.Walkthrough == nil {
		return nil, nil
	}
	return c.Walkthrough(key)
}
