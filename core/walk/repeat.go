package walk

import (
	"fmt"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// RepeatStep does its steps for each of a list.
const RepeatStep act.Kind = "repeat"

// Repeat does steps for each record or row of a list, which is known by Item meanwhile. What they add and change is
// known afterwards, of all turns together; of a screen in it, and of what a walkthrough gave back, there is a row for
// each turn, with what was given and, by Item, for what.
type Repeat struct {
	// ForEach is an expression that gives the list.
	ForEach string `json:"for_each"`
	Item    string `json:"item"`
	Steps   []Step `json:"steps"`
}

// repeat compiles a repeat: as sets where its turns do not depend on each other, and else turn by turn.
func (k *compiler) repeat(s *Step, at string, scope expr.Scope) expr.Scope {
	c := k.In(s.Key)
	if s.Repeat.ForEach == "" {
		c.Find(definition.Stop, at+"/for_each", "nothing says for each of which list", "Nothing would be done.", nil)
		return scope
	}
	list := c.List(scope, s.Repeat.ForEach, at+"/for_each", "It would not be known for what it is to be done.")
	if list == nil {
		return scope
	}
	item, ok := k.item(s, scope, list.Type, at)
	if !ok {
		return scope
	}
	k.used = append(k.used, list.Uses...)
	inner := scope.With(item)
	k.Scopes[s.Key] = inner
	if len(s.Repeat.Steps) == 0 {
		c.Find(definition.Care, at+"/steps", "nothing is done for each of them", "The repeat would do nothing.", nil)
	}
	before := len(k.used)
	given := k.turns(s, list, item, scope, at)
	k.used = append(k.used[:before:before], act.OfItem(k.used[before:], item.Key, list.Uses)...)
	for _, n := range given {
		scope = k.know(scope, n)
	}
	return scope
}

// item is what is at hand of the list.
func (k *compiler) item(s *Step, scope expr.Scope, list expr.Type, at string) (expr.Name, bool) {
	key := s.Repeat.Item
	problem := model.KeyProblem(key)
	if _, known := scope.Find(key); problem == "" && known {
		problem = fmt.Sprintf("the key %q is taken", key)
	}
	if problem != "" {
		wish := "each_" + list.Object
		if list.Object == "" {
			wish = "each_row"
		}
		k.In(s.Key).Find(definition.Stop, at+"/item", "what is at hand needs a name: "+problem,
			"Its fields could not be used.", &definition.Mend{Label: "Call it " + wish,
				Patch: []definition.Op{{Op: "add", Path: at + "/item", Value: []byte(`"` + wish + `"`)}}})
		return expr.Name{}, false
	}
	n := expr.Name{Key: key, Label: "What is at hand", Type: expr.Type{Kind: value.KindRecord, Object: list.Object}}
	if list.Kind == value.KindRows {
		n.Type = expr.Type{Kind: value.KindScreen, Answers: list.Answers}
	}
	return n, true
}

// turns compiles the steps of a repeat, and gives what is known of all turns together.
func (k *compiler) turns(s *Step, list *expr.Program, item expr.Name, outer expr.Scope, at string) []expr.Name {
	begin := k.emit(act.Instruction{Loop: &act.Loop{List: list, Item: item.Key}}, shown{step: s})
	loop := k.Code[begin].Loop
	first := len(k.Code)
	k.loops = append(k.loops, begin)
	after, ends := k.steps(s.Repeat.Steps, at+"/steps", outer.With(item))
	if ends {
		k.In(s.Key).Find(definition.Stop, at+"/steps", "the walkthrough ends inside this repeat",
			"Only the first turn would be done.", nil)
	}
	end := k.emit(act.Instruction{Again: true}, shown{})
	k.loops = k.loops[:len(k.loops)-1]
	loop.Exit, loop.Rows = end+1, map[string]act.TurnRows{}
	loop.Waits = slices.ContainsFunc(k.Code[first:end], func(i act.Instruction) bool { return i.Waits })
	var given []expr.Name
	for n := first; n < end; n++ {
		i := &k.Code[n]
		if i.Kind == act.OpenAct || i.Kind == act.SayAct && !loop.Waits {
			k.In(i.Key).Find(definition.Stop, at+"/steps", fmt.Sprintf("%q would be done once for each of them", i.Title),
				"The person would see it very often.", nil)
		}
		name, known := after.Find(i.Key)
		if !known {
			continue
		}
		if name, known = k.together(i, name, item, loop); known {
			given = append(given, name)
		}
	}
	if !loop.Waits {
		var mend *definition.Mend
		if loop.AtOnce, loop.Turns, mend = k.asSet(s, list, outer, k.Code[first:end]); mend != nil {
			k.In(s.Key).Find(definition.Care, at, "it is done turn by turn: "+loop.Turns, "With very many it takes long.", mend)
		}
	}
	return given
}

// together is what is known of all turns of a repeat of what an instruction gives in each, false for nothing.
func (k *compiler) together(i *act.Instruction, name, item expr.Name, loop *act.Loop) (expr.Name, bool) {
	kind := name.Type.Kind
	switch {
	case i.Plan != nil && i.Plan.Writes() != "" && (kind == value.KindRecord || kind == value.KindList):
		name.Type = expr.Type{Kind: value.KindList, Object: i.Plan.Writes()}
		return name, true
	case loop.Waits && (kind == value.KindScreen || kind == value.KindRows):
		answers := slices.Clone(name.Type.Answers)
		if item.Type.Kind == value.KindRecord &&
			!slices.ContainsFunc(answers, func(n expr.Name) bool { return n.Key == item.Key }) {
			answers = append([]expr.Name{item}, answers...)
		}
		columns := act.ColumnsOf(answers)
		answers = slices.DeleteFunc(answers, func(n expr.Name) bool {
			return !slices.ContainsFunc(columns, func(c act.Column) bool { return c.Key == n.Key })
		})
		loop.Rows[i.Key] = act.TurnRows{Columns: columns, Several: kind == value.KindRows}
		name.Type = expr.Type{Kind: value.KindRows, Answers: answers}
		return name, len(columns) > 0
	}
	return name, false
}
