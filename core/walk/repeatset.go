package walk

import (
	"fmt"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// setting finds out how a repeat is done for all records at once, or why it cannot be.
type setting struct {
	*compiler
	step   *Step
	repeat *Repeat
	list   *expr.Program
	// outer is what is known around the repeat.
	outer expr.Scope
	// code are its instructions as they are done turn by turn.
	code []act.Instruction
	set  act.AtOnce
	// written are the objects of which acts before write records, writes those of which any does.
	written, writes map[string]bool
	// writers are the steps that write, in order.
	writers []*Step
	why     string
	// mend lets it be done at once, nil where nothing simple does.
	mend *definition.Mend
}

// asSet gives a repeat as sets, or why its turns have to be done one by one, and what mends that.
func (k *compiler) asSet(s *Step, list *expr.Program, outer expr.Scope, code []act.Instruction) (*act.AtOnce, string,
	*definition.Mend) {
	t := &setting{compiler: k, step: s, repeat: s.Repeat, list: list, outer: outer, code: code,
		written: map[string]bool{}, writes: map[string]bool{}}
	if list.Type.Kind != value.KindList {
		return nil, "the rows are not stored", k.addForEach(s)
	}
	for _, i := range code {
		if i.Plan != nil && i.Plan.Writes() != "" {
			t.writes[i.Plan.Writes()] = true
		}
	}
	t.steps(s.Repeat.Steps, nil)
	if t.why != "" {
		return nil, t.why, t.mend
	}
	t.set.Freezes = len(t.set.Code) > 1 || len(t.set.Parts) > 1
	return &t.set, "", nil
}

func (t *setting) refuse(format string, args ...any) { t.refuseBut(nil, format, args...) }

// refuseBut refuses what a mend would let be done at once.
func (t *setting) refuseBut(mend *definition.Mend, format string, args ...any) {
	if t.why == "" {
		t.why, t.mend = fmt.Sprintf(format, args...), mend
	}
}

func (t *setting) steps(steps []Step, conds []act.Cond) {
	for i := range steps {
		s := &steps[i]
		switch {
		case t.why != "":
		case s.Kind == BranchStep && s.Branch != nil:
			t.branch(s, conds)
		case s.Kind == RepeatStep:
			t.refuse("it holds another repeat")
		case s.IfFails != nil:
			t.refuseBut(t.withoutFailing(s), "%q says what is done if it fails", title(s))
		default:
			t.act(s, t.onlyWhen(s, conds))
		}
	}
}

// onlyWhen adds the condition of an act to those of the records that it is done to.
func (t *setting) onlyWhen(s *Step, conds []act.Cond) []act.Cond {
	if s.OnlyWhen == "" {
		return conds
	}
	n := slices.IndexFunc(t.code, func(i act.Instruction) bool { return i.Key == s.Key })
	if n < 0 || t.code[n].When == nil {
		t.refuse("%q has a mistake", title(s))
		return conds
	}
	when := t.code[n].When
	if err := predicate.Writable(when); err != nil {
		t.refuse("the database cannot tell when %q is done", title(s))
	}
	t.reads(when.Uses, title(s), s)
	return append(slices.Clone(conds), act.Cond{Program: when})
}

// branch makes the conditions of a branch those of the records that go each way.
func (t *setting) branch(s *Step, conds []act.Cond) {
	n := slices.IndexFunc(t.code, func(i act.Instruction) bool { return i.Key == s.Key && len(i.Ways) > 0 })
	if n < 0 {
		t.refuse("%q has a mistake", title(s))
		return
	}
	ways := t.code[n].Ways
	before := slices.Clone(conds)
	for i, w := range s.Branch.Ways {
		when := ways[i].When
		if when == nil {
			t.refuse("%q has a mistake", title(s))
			return
		}
		if err := predicate.Writable(when); err != nil {
			t.refuse("the database cannot tell which go the way %q", w.Title)
			return
		}
		t.reads(when.Uses, "the way "+w.Title, s)
		t.steps(w.Steps, append(slices.Clone(before), act.Cond{Program: when}))
		before = append(before, act.Cond{Program: when, Not: true})
	}
	t.steps(s.Branch.Otherwise, before)
}

// act compiles an act for all records that go its way.
func (t *setting) act(s *Step, conds []act.Cond) {
	n := slices.IndexFunc(t.code, func(i act.Instruction) bool { return i.Key == s.Key })
	if n < 0 || t.code[n].Plan == nil {
		t.refuse("%q has a mistake", title(s))
		return
	}
	t.reads(t.code[n].Plan.Uses(), title(s), s)
	if t.why != "" {
		return
	}
	part := t.part(conds)
	all := s.Act
	all.OnlyWhen = ""
	item := t.repeat.Item
	switch {
	case s.Kind == act.AddAct && s.Add != nil && s.Add.ForEach == "":
		add := *s.Add
		add.ForEach, add.Item, all.Add = part, item, &add
	case s.Kind == act.ChangeAct && s.Change != nil && s.Change.Of == item:
		change := *s.Change
		change.Of, all.Change = part, &change
		if change.Their == nil {
			change.Item = item
		}
	case s.Kind == act.RemoveAct && s.Remove != nil && s.Remove.Of == item:
		remove := *s.Remove
		remove.Of, all.Remove = part, &remove
	default:
		t.refuseBut(t.before(s, t.code[n].Plan.Uses()), "%q is not something that is done to each of them", title(s))
		return
	}
	scope := t.outer.With(expr.Name{Key: part, Type: expr.Type{Kind: value.KindList, Object: t.list.Type.Object}})
	check := definition.NewCheck(t.Document)
	plan := act.Compile(act.Environment{Where: act.InSteps, Scope: scope, Check: check.In(s.Key)}, &all, "").Plan
	if plan == nil || definition.Blocks(check.Findings()) {
		t.refuse("%q uses what each turn gives, or what the database cannot compute", title(s))
		return
	}
	i := t.code[n]
	i.Plan, i.When = plan, nil
	t.set.Code = append(t.set.Code, i)
	t.written[plan.Writes()] = true
	t.writers = append(t.writers, s)
}

// part is the name of the records for which conditions hold.
func (t *setting) part(conds []act.Cond) string {
	for _, p := range t.set.Parts {
		if slices.Equal(p.Conds, conds) {
			return p.Name
		}
	}
	name := fmt.Sprintf("all_of_%s_%d", t.repeat.Item, len(t.set.Parts)+1)
	for n := 2; ; n++ {
		if _, known := t.outer.Find(name); !known {
			break
		}
		name = fmt.Sprintf("all_of_%s_%d_%d", t.repeat.Item, len(t.set.Parts)+1, n)
	}
	t.set.Parts = append(t.set.Parts, act.Subset{Name: name, Conds: conds})
	return name
}

// reads refuses what would read something that an earlier turn, or an act before in the same one, writes.
func (t *setting) reads(uses [][]string, who string, s *Step) {
	for _, use := range uses {
		if use[0] != t.repeat.Item {
			if n, ok := t.outer.Find(use[0]); ok && n.Type.Kind == value.KindList && t.writes[n.Type.Object] {
				t.refuse("%s reads %s, which each turn may change", who, n.Label)
			}
			continue
		}
		object := t.list.Type.Object
		for _, key := range use[1:] {
			o := t.outer.Model.Object(object)
			if o == nil {
				break
			}
			f := o.Field(key)
			switch {
			case t.written[object], f != nil && f.Type == model.WorkedOut && len(t.written) > 0:
				t.refuseBut(t.first(s), "%s reads what a step before it wrote", who)
			case f == nil && len(t.written) > 0: // records that refer to it
				t.refuseBut(t.first(s), "%s reads what a step before it may have written", who)
			}
			if f == nil {
				break
			}
			object = f.Target()
		}
	}
}
