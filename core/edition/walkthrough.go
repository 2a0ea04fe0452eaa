package edition

import (
	"reflect"
	"slices"
	"strings"

	"plainpath/core/access"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/page"
	"plainpath/core/walk"
)

func (e *Edition) walkthroughs(docs []definition.Document) error {
	runs, err := e.runs(docs)
	if err != nil {
		return err
	}
	compiled := map[string]compiledWalk{}
	var all []compiledWalk
	for _, key := range runs.order() {
		out, err := e.walkthrough(key, runs, compiled)
		if err != nil {
			return err
		}
		compiled[key] = out
		all = append(all, out)
	}
	slices.SortFunc(all, func(a, b compiledWalk) int {
		return strings.Compare(a.program.Def.Label,
			b.program.Def.Label)
	})
	for _, w := range all {
		e.Walkthroughs[w.program.Def.Key] = w.program
		e.check.Take(w.check)
	}
	return nil
}

// walkthrough compiles one; those that it runs are compiled.
func (e *Edition) walkthrough(key string, runs running, compiled map[string]compiledWalk) (compiledWalk, error) {
	c := walk.Context{Model: e.Model, Organisation: e.App.Organisation, Roles: e.roleKeys(),
		Walkthrough: func(inner string) (*walk.Program, []string) {
			if circle := runs.circle(key, inner); circle != nil {
				return nil, circle
			}
			return compiled[inner].program, nil
		}}
	docs := runs.reached(key)
	return piece(e.made, func() digest { return e.made.digests.of("walkthrough", docs, c.Roles...) },
		func() (compiledWalk, error) {
			read, err := bodies[walk.Walkthrough](docs[:1])
			if err != nil {
				return compiledWalk{}, err
			}
			p, check := walk.Compile(c, read[0])
			return compiledWalk{p, check}, nil
		})
}

func (e *Edition) roleKeys() []string {
	out := make([]string, len(e.Roles))
	for i, r := range e.Roles {
		out[i] = r.Key
	}
	return out
}

func knownInWalkthrough(e *Edition, key string) (scopes map[string][]expr.Name, wires []page.Wire) {
	w := e.Walkthroughs[key]
	if w == nil {
		return nil, nil
	}
	out := map[string][]expr.Name{}
	for step, scope := range w.Scopes {
		out[step] = scope.Names
	}
	return out, nil
}

// MayStart says whether a person may start a walkthrough.
func (e *Edition) MayStart(p access.Person, walkthrough string) bool {
	w := e.Walkthroughs[walkthrough]
	return w != nil && slices.ContainsFunc(w.Def.Roles, func(r string) bool { return slices.Contains(p.Roles, r) })
}

// walkthroughDiffers says what changes of a walkthrough.
func walkthroughDiffers(a, b *walk.Walkthrough, d *definition.Difference) {
	if a == nil {
		d.Allowed("start it", nil, b.Roles)
		return
	}
	d.Setting("its name", a.Label, b.Label)
	d.Setting("its note", a.Note, b.Note)
	was, is := steps(a), steps(b)
	for _, s := range is {
		old, existed := find(was, s.Key)
		switch {
		case !existed:
			d.Say("%s", "step “"+name(s)+"” added")
		case !reflect.DeepEqual(old, s):
			d.Say("%s", "step “"+name(s)+"” changed")
		}
	}
	for _, s := range was {
		if _, still := find(is, s.Key); !still {
			d.Say("%s", "step “"+name(s)+"” removed")
		}
	}
	d.Allowed("start it", a.Roles, b.Roles)
	if !reflect.DeepEqual(a.Gives, b.Gives) {
		d.Say("what it gives back to what runs it changed")
	}
	if !reflect.DeepEqual(a.Takes, b.Takes) {
		d.Say("what it takes from what opens it changed")
	}
	if len(d.Details) == 0 {
		d.Say("the order of its steps changed")
	}
}

func name(s walk.Step) string {
	if s.Title != "" {
		return s.Title
	}
	return s.Key
}

func find(steps []walk.Step, key string) (walk.Step, bool) {
	for _, s := range steps {
		if s.Key == key {
			return s, true
		}
	}
	return walk.Step{}, false
}

// steps are all steps of a walkthrough.
func steps(w *walk.Walkthrough) []walk.Step {
	var out []walk.Step
	for _, s := range w.All() {
		out = append(out, *s)
	}
	return out
}
