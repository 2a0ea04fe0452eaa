package walk

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/access"
	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/value"
)

// Program is a checked walkthrough: a row of instructions. It is safe for use by
// several goroutines.
type Program struct {
	act.Program
	Def *Walkthrough
	// shown is, for each instruction, what people see of its step.
	shown []shown
	// Scopes are the known values at each step, by the step's key, for the builder; with [Within] behind the key
	// of a screen, those that its checks may name.
	Scopes map[string]expr.Scope
	// ahead counts the screens from each instruction on.
	ahead []ahead
	model *model.Model
	// objects are those whose fields Uses names.
	objects map[string]string
	// returned are what it gives back.
	returned []given
}

// Within is put behind the key of a screen where what is given on it is known as well.
const Within = "!"

// shown is what people see of a step: a screen or its closing, or no more than its title.
type shown struct {
	step    *Step // nil for a jump
	surface *screen.Surface
	message *expr.Template
	checks  []checked
	// inner is the walkthrough that the step runs.
	inner *Program
}

// Context is what a walkthrough is compiled in.
type Context struct {
	Model *model.Model
	// Organisation is the object people outside the company belong to.
	Organisation string
	// Roles are the keys of the roles there are.
	Roles []string
	// Walkthrough gives another walkthrough of the app, compiled, nil where there is none; or, where it would come
	// back to this one, over which. Without it there are no others.
	Walkthrough func(key string) (inner *Program, circle []string)
}

// Compile checks a walkthrough. The program can run unless a finding is a stop.
func Compile(c Context, def *Walkthrough) (*Program, *definition.Check) {
	p := &Program{Program: act.Program{Uses: map[string][]model.Path{}}, Def: def, Scopes: map[string]expr.Scope{},
		model: c.Model, objects: map[string]string{}}
	k := &compiler{Program: p, Check: definition.NewCheck(definition.Name(definition.Walkthrough, def.Key)),
		taken: map[string]bool{}, places: map[string]string{}, context: c}
	if problem := model.KeyProblem(def.Key); problem != "" {
		k.Find(definition.Stop, "/key", problem, "The walkthrough could not be opened.", nil)
	}
	if len(def.Roles) == 0 {
		k.Find(definition.Care, "/roles", "no role may start this walkthrough", "Nobody would find it in Use.", nil)
	}
	k.Roles(c.Roles, def.Roles, "/roles", "The people meant could not start it.", false)
	if len(def.Steps) == 0 {
		k.Find(definition.Stop, "/steps", "the walkthrough has no steps", "There would be nothing to walk through.",
			nil)
	}
	after, ends := k.steps(def.Steps, "/steps", k.takes(access.PersonScope(c.Model, c.Organisation)))
	if !ends && len(def.Steps) > 0 {
		k.In(def.Steps[len(def.Steps)-1].Key).Find(definition.Care, "/steps",
			"the walkthrough ends without a Finish step",
			"The person would see a bare closing screen.", &definition.Mend{Label: "Add a Finish step",
				Patch: []definition.Op{{Op: "add", Path: "/steps/-",
					Value: []byte(`{"key":"` + k.freeKey("done") +
						`","kind":"finish","finish":{"message":"Done."}}`)}}})
	}
	k.returns(after)
	k.resolveUses()
	k.countScreens()
	k.examples()
	definition.Sort(k.Findings())
	return p, k.Check
}

// takes makes what is handed over known from the first step on.
func (k *compiler) takes(scope expr.Scope) expr.Scope {
	for _, n := range screen.CheckTakes(k.Check, scope, k.Def.Takes) {
		scope = k.know(scope, n)
	}
	return scope
}

type compiler struct {
	*Program
	*definition.Check
	used  [][]string
	all   []expr.Name
	taken map[string]bool
	// places are the pointers of steps by their keys.
	places map[string]string
	// loops are the places of the repeats around what is compiled, the outermost first.
	loops   []int
	context Context
}

func (k *compiler) freeKey(wish string) string {
	key := wish
	for n := 2; ; n++ {
		if !k.taken[key] {
			return key
		}
		key = fmt.Sprintf("%s_%d", wish, n)
	}
}

// steps compiles a row of steps and gives the scope after it, and whether it always
// ends the walkthrough.
func (k *compiler) steps(steps []Step, at string, scope expr.Scope) (expr.Scope, bool) {
	ended := false
	for i := range steps {
		s := &steps[i]
		pointer := fmt.Sprintf("%s/%d", at, i)
		if ended {
			k.In(s.Key).Find(definition.Stop, pointer,
				fmt.Sprintf("%q is never reached: the walkthrough has ended before it", s.Title),
				"Nobody would ever see it.",
				&definition.Mend{Label: "Remove it", Patch: []definition.Op{{Op: "remove", Path: pointer}}})
		}
		if problem := model.KeyProblem(s.Key); problem != "" {
			k.In(s.Key).Find(definition.Stop, pointer+"/key", problem, "Later steps could not use what it gives.", nil)
			continue
		}
		if k.taken[s.Key] || k.takesKey(s.Key) || s.Key == "person" || s.Key == "today" ||
			s.Key == "now" || s.Key == act.FailureName {
			k.In(s.Key).Find(definition.Stop, pointer+"/key", fmt.Sprintf("the key %q is taken", s.Key),
				"Later steps would use the wrong value.",
				definition.Replace("Rename it", pointer+"/key", k.freeKey(s.Key)))
			continue
		}
		k.taken[s.Key], k.places[s.Key] = true, pointer
		k.Scopes[s.Key] = scope
		var ends bool
		scope, ends = k.step(s, pointer, scope)
		ended = ended || ends
	}
	return scope, ended
}

func (k *compiler) takesKey(key string) bool {
	return slices.ContainsFunc(k.Def.Takes, func(t screen.Take) bool { return t.Key == key })
}

// emit adds an instruction for a step.
func (k *compiler) emit(i act.Instruction, s shown) int {
	if s.step != nil {
		i.Key, i.Kind, i.Title, i.Through = s.step.Key, s.step.Kind, title(s.step), s.step.Key
	}
	i.Loops = slices.Clone(k.loops)
	k.shown = append(k.shown, s)
	return k.Emit(i)
}

func (k *compiler) step(s *Step, at string, scope expr.Scope) (expr.Scope, bool) {
	switch {
	case s.Kind == ScreenStep && s.Screen != nil:
		sur := screen.CompileScreen(k.In(s.Key), scope, k.gives(s, at, expr.Type{}), s.Screen.Searches,
			s.Screen.Bands, s.Screen.Reactions, at+"/screen")
		k.used = append(append(k.used, sur.Uses...), sur.ReactionUses...)
		if len(s.Screen.Bands) == 0 {
			k.In(s.Key).Find(definition.Care, at+"/screen/bands", "this screen is empty",
				"The person would see nothing but a button.", nil)
		}
		gives := k.gives(s, at, expr.Type{Kind: value.KindScreen, Answers: k.answers(s, sur, at+"/screen")})
		within := gives
		within.Type.Answers = append(sur.Searches(), gives.Type.Answers...)
		k.Scopes[s.Key+Within] = scope.With(within)
		checks := k.checks(s, sur, scope.With(gives), at+"/screen/checks")
		k.emit(act.Instruction{Waits: true}, shown{step: s, surface: sur, checks: checks})
		return k.know(scope, gives), false
	case s.Kind == BranchStep && s.Branch != nil:
		return k.branch(s, at+"/branch", scope)
	case s.Kind == FinishStep && s.Finish != nil:
		k.finish(s, at+"/finish", scope)
		return scope, true
	case s.Kind == RepeatStep && s.Repeat != nil:
		return k.repeat(s, at+"/repeat", scope), false
	case s.Kind == ScreenStep || s.Kind == BranchStep || s.Kind == FinishStep || s.Kind == RepeatStep:
		k.In(s.Key).Find(definition.Stop, at+"/kind", fmt.Sprintf("a step of kind %q needs its settings", s.Kind),
			"The walkthrough would stop here.", nil)
		return scope, false
	}
	if s.Kind == act.RunAct {
		return k.run(s, at, scope), false
	}
	return k.act(s, at, scope)
}

// act checks a step that is an act. What it gives is known from then on by the step's key.
func (k *compiler) act(s *Step, at string, scope expr.Scope) (expr.Scope, bool) {
	checked := act.Compile(act.Environment{Where: act.InSteps, Scope: scope, Check: k.In(s.Key)}, &s.Act, at)
	k.Scopes[s.Key] = checked.Scope
	here := k.emit(act.Instruction{Plan: checked.Plan, When: checked.When, Waits: s.Kind == act.ConfirmAct},
		shown{step: s})
	if s.Notify != nil {
		k.In(s.Key).Roles(k.context.Roles, s.Notify.Roles, at+"/notify/roles", "The people meant would not be told.", true)
	}
	after := scope
	if checked.Plan != nil {
		k.used = append(k.used, checked.Uses()...)
		if gives, any := checked.Gives(); any {
			gives.Empty = gives.Empty || s.IfFails != nil
			after = k.know(scope, k.gives(s, at, gives))
		}
	}
	if s.IfFails == nil {
		return after, false
	}
	if s.Kind == act.ConfirmAct || checked.Plan != nil && checked.Plan.Writes() == "" && s.Kind != act.GatherAct {
		k.In(s.Key).Find(definition.Care, at+"/if_fails", "this is never refused", "What is done then would never be done.",
			&definition.Mend{Label: "Leave it out", Patch: []definition.Op{{Op: "remove", Path: at + "/if_fails"}}})
	}
	return k.ifFails(s, at, here, after, scope), false
}

// ifFails compiles what is done where the instruction at a place is refused, and gives what is known after either:
// after is what it makes known itself, scope what was known before.
func (k *compiler) ifFails(s *Step, at string, here int, after, scope expr.Scope) expr.Scope {
	if len(s.IfFails) == 0 {
		k.In(s.Key).Find(definition.Care, at+"/if_fails", "nothing is done if it fails", "Nobody would know that it did.", nil)
	}
	// Before it the walkthrough jumps over what is done if it fails; known afterwards is what either way gives.
	jump := k.emit(act.Instruction{}, shown{})
	k.Code[here].Fails = len(k.Code)
	inner, _ := k.steps(s.IfFails, at+"/if_fails", scope.With(act.Failure()))
	k.Code[jump].Next = len(k.Code)
	return k.either(after, inner, scope)
}

// either adds to what is known after one way what is known on another one only, which may be empty.
func (k *compiler) either(after, other, before expr.Scope) expr.Scope {
	for _, n := range other.Names {
		_, known := before.Find(n.Key)
		if _, too := after.Find(n.Key); known || too || n.Key == act.FailureName {
			continue
		}
		n.Type.Empty = true
		after = after.With(n)
	}
	return after
}

// gives is what a step makes known by its key.
func (k *compiler) gives(s *Step, at string, t expr.Type) expr.Name {
	return expr.Name{Key: s.Key, Label: title(s), Type: t, Of: model.Referent{Document: k.Document, At: at}}
}

// Adds says whether the walkthrough, or one that it runs, adds records of an object.
func (p *Program) Adds(object string) bool {
	return slices.ContainsFunc(p.shown, func(s shown) bool { return s.inner != nil && s.inner.Adds(object) }) ||
		slices.ContainsFunc(p.Code, func(i act.Instruction) bool {
			return i.Plan != nil && i.Kind == act.AddAct && i.Plan.Writes() == object
		})
}

func title(s *Step) string {
	if s.Title != "" {
		return s.Title
	}
	return s.Key
}

func (k *compiler) know(scope expr.Scope, n expr.Name) expr.Scope {
	k.all = append(k.all, n)
	return scope.With(n)
}

func (k *compiler) branch(s *Step, at string, scope expr.Scope) (expr.Scope, bool) {
	here := k.emit(act.Instruction{}, shown{step: s})
	after := scope
	allEnd := true
	var jumps []int
	body := func(steps []Step, pointer string, scope expr.Scope) {
		inner, ends := k.steps(steps, pointer, scope)
		after = k.either(after, inner, scope)
		jumps = append(jumps, k.emit(act.Instruction{}, shown{}))
		allEnd = allEnd && ends
	}
	if len(s.Branch.Ways) == 0 {
		k.In(s.Key).Find(definition.Care, at+"/ways", "this branch has only one way",
			"Everybody would go the same way.",
			nil)
	}
	var ways []act.Way
	for i := range s.Branch.Ways {
		w := &s.Branch.Ways[i]
		pointer := fmt.Sprintf("%s/ways/%d", at, i)
		p := k.In(s.Key).ExpressionOf(expr.Type{Kind: value.KindYesNo}, scope, w.When, pointer+"/when",
			"Nobody would ever go this way.")
		if p != nil {
			k.used = append(k.used, p.Uses...)
		}
		ways = append(ways, act.Way{When: p, Title: w.Title, Next: len(k.Code)})
		body(w.Steps, pointer+"/steps", scope.Where(p))
	}
	ways = append(ways, act.Way{Next: len(k.Code)})
	body(s.Branch.Otherwise, at+"/otherwise", scope)
	for _, j := range jumps {
		k.Code[j].Next = len(k.Code)
	}
	k.Code[here].Ways = ways
	return after, allEnd
}

// buttons says of buttons that stand by themselves that nothing would come of them.
func (k *compiler) buttons(s *Step, bands []screen.Band, at string) {
	for part, below := range screen.Parts(bands) {
		if part.Kind == screen.ButtonPart {
			k.In(s.Key).Find(definition.Stop, at+below+"/kind", "a button does not stand by itself on a closing screen",
				"Nothing would happen when it is pressed.", nil)
		}
	}
}

func (k *compiler) finish(s *Step, at string, scope expr.Scope) {
	t := k.In(s.Key).Text(scope, s.Finish.Message, at+"/message", "The closing screen could not be shown.")
	if t != nil {
		k.used = append(k.used, t.Uses...)
	}
	if g := s.Finish.Go; g != "" && g != GoHome && g != GoAgain {
		k.In(s.Key).Find(definition.Stop, at+"/go", fmt.Sprintf("there is no way to %q from the closing screen", g),
			"The closing button would lead home.", definition.Replace("Lead home", at+"/go", GoHome))
	}
	k.buttons(s, s.Finish.Bands, at)
	sur := screen.Compile(k.In(s.Key), scope, s.Finish.Bands, at)
	k.used = append(k.used, sur.Uses...)
	k.emit(act.Instruction{Waits: true}, shown{step: s, surface: sur, message: t})
}

// resolveUses works out which fields of which known value later steps need, so that
// just those are read.
func (k *compiler) resolveUses() {
	for _, n := range k.all {
		if n.Type.Kind != value.KindScreen {
			k.resolve(n.Key, n.Type, []string{n.Key})
		}
		k.resolveParts(n.Type, []string{n.Key})
	}
}

// resolveParts does so for what is given on a screen, and in the rows of a list.
func (k *compiler) resolveParts(t expr.Type, prefix []string) {
	for _, a := range t.Answers {
		path := append(slices.Clone(prefix), a.Key)
		k.resolve(strings.Join(path, "."), a.Type, path)
		k.resolveParts(a.Type, path)
	}
}

func (k *compiler) resolve(name string, t expr.Type, prefix []string) {
	if fields := records.FieldsUsed(k.model, t.Object, prefix, k.used); len(fields) > 0 {
		k.Uses[name], k.objects[name] = fields, t.Object
	}
}
