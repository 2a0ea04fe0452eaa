package table

import (
	"fmt"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
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
	Do []act.Line `json:"do"`
}

// button is a checked button.
type button struct {
	*Button
	offered *expr.Program
	lines   *act.Lines
}

// about says whether the button is about rows.
func (b *Button) about() bool { return b.On != OnTable }

// changesFirst says whether a line changes the rows before another that is about them.
func (b *Button) changesFirst() bool {
	changed := false
	for _, l := range act.EveryLine(b.Do, "") {
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
		inner.scope = c.scope.With(act.Row(p.object))
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

// lines checks what a button does.
func (c *compiler) lines(p *Program, b *button, at string) {
	env := act.Environment{Where: act.InLines, Scope: c.scope, Check: c.Check, Parts: p.owner.Parts, Outset: at}
	if b.about() {
		env.Rows, env.One = p.object, b.On == OnOne || b.On == OnEach
	}
	b.lines = act.CompileLines(env, b.Do, b.Label, at+"/do")
	for _, u := range b.lines.Uses {
		c.use(u)
	}
}
