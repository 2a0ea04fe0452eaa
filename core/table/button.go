package table

import (
	"fmt"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// ButtonOn says what a button of a table is about.
type ButtonOn string

// A button is about the table as a whole, one row, the rows chosen, or stands in each row.
const (
	OnTable ButtonOn = "table"
	OnOne   ButtonOn = "one"
	OnSome  ButtonOn = "some"
	OnEach  ButtonOn = "each"

	rowLabel = "The row"
)

// Button is a reaction to its being pressed: what people can do with a table or its rows.
type Button struct {
	Key   string   `json:"key"`
	Label string   `json:"label"`
	On    ButtonOn `json:"on"`
	// OfferedWhen is a condition, in CEL, on each row it is about, which it calls "row", and
	// on what is known. Why is said when it does not hold.
	OfferedWhen string `json:"offered_when,omitempty"`
	Why         string `json:"why,omitempty"`
	// Roles may press it; none means everybody who sees the table.
	Roles []string `json:"roles,omitempty"`
	// Confirm is asked first.
	Confirm string `json:"confirm,omitempty"`
	// Do are the lines carried out, one after another; one that fails stops the rest.
	Do []Line `json:"do"`
}

// Line is one thing a button does. What it gives is known to the lines after it by its key.
type Line struct {
	Key string `json:"key,omitempty"`
	act.Act
}

// button is a checked button.
type button struct {
	*Button
	offered *expr.Program
	program act.Program
	// hold is what is shown while the lines are carried out.
	hold string
}

// about says whether the button is about rows.
func (b *Button) about() bool { return b.On != OnTable }

// changesFirst says whether a line changes the rows before another that is about them.
func (b *Button) changesFirst() bool {
	changed := false
	for _, l := range b.Do {
		if changed && l.Kind != act.SayAct && l.Kind != act.CopyLinkAct {
			return true
		}
		changed = changed || l.Kind == act.ChangeAct || l.Kind == act.RemoveAct
	}
	return false
}

func (c *compiler) buttons(p *Program, at string) {
	taken := map[string]bool{}
	for i := range p.Buttons {
		def := &p.Buttons[i]
		pointer := fmt.Sprintf("%s/%d", at, i)
		if problem := model.KeyProblem(def.Key); problem != "" {
			c.Find(definition.Stop, pointer+"/key", problem, "The button could not be pressed.", nil)
			continue
		}
		if taken[def.Key] {
			c.Find(definition.Stop, pointer+"/key", fmt.Sprintf("two buttons have the key %q", def.Key),
				"Pressing one would press the other.", nil)
			continue
		}
		taken[def.Key] = true
		if !slices.Contains([]ButtonOn{OnTable, OnOne, OnSome, OnEach}, def.On) {
			c.Find(definition.Stop, pointer+"/on", fmt.Sprintf("%q is not what a button can be about", def.On),
				"It could not be pressed.", definition.Replace("Let it be about one row", pointer+"/on", string(OnOne)))
			continue
		}
		c.button(p, def, pointer)
	}
}

func (c *compiler) button(p *Program, def *Button, at string) {
	b := &button{Button: def}
	inner := *c
	if def.about() {
		inner.scope = c.scope.With(expr.Name{Key: act.RowName, Label: rowLabel,
			Type: expr.Type{Kind: value.KindRecord, Object: p.object}})
	}
	if def.OfferedWhen != "" {
		b.offered = inner.ForRecords(expr.Type{Kind: value.KindYesNo}, inner.scope, def.OfferedWhen,
			at+"/offered_when", "The button would never be offered.")
		inner.usesBut(act.RowName, b.offered)
		if def.Why == "" {
			inner.Find(definition.Care, at+"/why", fmt.Sprintf("“%s” does not say why it is off when it is", def.Label),
				"People would see a button that does nothing and not know why.", nil)
		}
	}
	if len(def.Do) == 0 {
		inner.Find(definition.Stop, at+"/do", fmt.Sprintf("“%s” does nothing", def.Label),
			"People would press it and wait.", nil)
	}
	inner.lines(p, b, at)
	p.buttons = append(p.buttons, b)
}

// usesBut notes the known values that an expression depends on, but for one.
func (c *compiler) usesBut(name string, p *expr.Program) {
	if p == nil {
		return
	}
	for _, u := range p.Uses {
		if u[0] != name {
			c.use(u)
		}
	}
}

// lines checks what a button does. What a line gives is known to those after it.
func (c *compiler) lines(p *Program, b *button, at string) {
	place := act.Environment{Where: act.InLines, Scope: c.scope, Check: c.Check, Parts: p.owner.Parts, Outset: at}
	if b.about() {
		place.Rows, place.One = p.object, b.On == OnOne || b.On == OnEach
	}
	var given []expr.Name
	var used [][]string
	wrote := false
	for i := range b.Do {
		def, pointer := &b.Do[i], fmt.Sprintf("%s/do/%d", at, i)
		checked := act.Compile(place, &def.Act, pointer)
		plan := checked.Plan
		if plan == nil {
			continue
		}
		if def.Kind == act.ConfirmAct && wrote {
			c.Find(definition.Stop, pointer, "this is asked after records were changed",
				"Whoever says no would be too late.", nil)
		}
		wrote = wrote || plan.Writes() != ""
		if hold, ok := plan.(*act.HoldPlan); ok && b.hold == "" {
			b.hold = hold.Text
		}
		b.program.Emit(act.Instruction{Key: def.Key, Kind: def.Kind, Title: b.Label, Plan: plan, When: checked.When,
			Waits: def.Kind == act.ConfirmAct})
		for _, u := range checked.Uses() {
			_, own := place.Scope.Find(u[0])
			switch {
			case own && slices.ContainsFunc(given, func(n expr.Name) bool { return n.Key == u[0] }):
				used = append(used, u)
			case u[0] != act.RowName:
				c.use(u)
			}
		}
		gives, any := checked.Gives()
		if !any || def.Key == "" {
			continue
		}
		_, taken := place.Scope.Find(def.Key)
		switch problem := model.KeyProblem(def.Key); {
		case problem != "":
			c.Find(definition.Stop, pointer+"/key", problem, "Later lines could not use what it gives.", nil)
		case taken:
			c.Find(definition.Stop, pointer+"/key", fmt.Sprintf("the key %q is taken", def.Key),
				"Later lines would use the wrong value.", nil)
		default:
			n := expr.Name{Key: def.Key, Label: def.Key, Type: gives,
				Of: model.Referent{Document: c.Document, At: pointer}}
			given, place.Scope = append(given, n), place.Scope.With(n)
		}
	}
	b.program.Uses = map[string][]model.Path{}
	for _, n := range given {
		b.program.Uses[n.Key] = records.FieldsUsed(c.scope.Model, n.Type.Object, []string{n.Key}, used)
	}
}
