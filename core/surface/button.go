package surface

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/search"
	"plainpath/core/value"
)

// ButtonOn says what a button of a table is about.
type ButtonOn string

// A button is about the table as a whole, one row, the rows chosen, or stands in each row.
const (
	OnTable  ButtonOn = "table"
	OnOne    ButtonOn = "one"
	OnSome   ButtonOn = "some"
	OnEach   ButtonOn = "each"
	rowName           = "row"
	rowLabel          = "The row"
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

// LineKind says what a line of a reaction does.
type LineKind string

// The lines of reactions.
const (
	ChangeLine      LineKind = "change"
	WalkthroughLine LineKind = "walkthrough"
	RecordLine      LineKind = "record"
	LinkLine        LineKind = "link"
	OutLine         LineKind = "out"
	MessageLine     LineKind = "message"
)

// Line is one thing a reaction does. The member named like its kind says the rest.
type Line struct {
	Kind LineKind `json:"kind"`
	// Change sets fields of the rows, of all of them with one statement.
	Change []Setting `json:"change,omitempty"`
	// Walkthrough is opened, in a dialog if it says so.
	Walkthrough string    `json:"walkthrough,omitempty"`
	Dialog      bool      `json:"dialog,omitempty"`
	Hand        []Handing `json:"hand,omitempty"`
	// Format of the file taken out: csv or xlsx.
	Format  string `json:"format,omitempty"`
	Message string `json:"message,omitempty"`
}

// Setting says what a field is to be; a button's may depend on the row.
type Setting struct {
	Field string            `json:"field"`
	Value predicate.Operand `json:"value"`
}

// Handing gives a walkthrough one of the values it takes.
type Handing struct {
	To    string `json:"to"`
	Value string `json:"value"`
}

// button is a checked button.
type button struct {
	*Button
	offered *expr.Program
	lines   []line
}

type line struct {
	*Line
	sets []search.Set
	hand []*expr.Program
}

// about says whether the button is about rows.
func (b *Button) about() bool { return b.On != OnTable }

// changes counts the lines that change rows.
func (b *Button) changes() (n int) {
	for _, l := range b.Do {
		if l.Kind == ChangeLine {
			n++
		}
	}
	return n
}

func (c *compiler) buttons(p *part, at string) {
	taken := map[string]bool{}
	for i := range p.Table.Buttons {
		def := &p.Table.Buttons[i]
		pointer := fmt.Sprintf("%s/%d", at, i)
		if problem := model.KeyProblem(def.Key); problem != "" {
			c.find(definition.Stop, pointer+"/key", problem, "The button could not be pressed.", nil)
			continue
		}
		if taken[def.Key] {
			c.find(definition.Stop, pointer+"/key", fmt.Sprintf("two buttons have the key %q", def.Key), "Pressing one would press the other.", nil)
			continue
		}
		taken[def.Key] = true
		if !slices.Contains([]ButtonOn{OnTable, OnOne, OnSome, OnEach}, def.On) {
			c.find(definition.Stop, pointer+"/on", fmt.Sprintf("%q is not what a button can be about", def.On), "It could not be pressed.", definition.Replace("Let it be about one row", pointer+"/on", string(OnOne)))
			continue
		}
		c.button(p, def, pointer)
	}
}

func (c *compiler) button(p *part, def *Button, at string) {
	b := &button{Button: def}
	inner := *c
	if def.about() {
		inner.scope = c.scope.With(expr.Name{Key: rowName, Label: rowLabel, Type: expr.Type{Kind: value.KindRecord, Object: p.object}})
	}
	inner.findings = nil
	defer func() { c.findings = append(c.findings, inner.findings...) }()
	if def.OfferedWhen != "" {
		b.offered = inner.ofRow(def.OfferedWhen, expr.Type{Kind: value.KindYesNo}, nil, at+"/offered_when", "The button would never be offered.")
		if def.Why == "" {
			inner.find(definition.Care, at+"/why", fmt.Sprintf("“%s” does not say why it is off when it is", def.Label), "People would see a button that does nothing and not know why.", nil)
		}
	}
	if len(def.Do) == 0 {
		inner.find(definition.Stop, at+"/do", fmt.Sprintf("“%s” does nothing", def.Label), "People would press it and wait.", nil)
	}
	for i := range def.Do {
		inner.line(p, b, &def.Do[i], fmt.Sprintf("%s/do/%d", at, i))
	}
	p.buttons = append(p.buttons, b)
}

// usesRow says whether an expression depends on the row a button is about.
func usesRow(p *expr.Program) bool {
	return slices.ContainsFunc(p.Uses, func(u []string) bool { return u[0] == rowName })
}

// ofRow compiles an expression that the database must be able to compute for many rows.
func (c *compiler) ofRow(source string, want expr.Type, f *model.Field, at, consequence string) *expr.Program {
	var p *expr.Program
	var err error
	if f == nil {
		p, err = expr.CompileAs(c.scope, source, want)
	} else {
		p, err = expr.CompileFor(c.scope, source, want, f)
	}
	if err == nil {
		err = predicate.Writable(p)
	}
	if err != nil {
		c.failed(err, at, source, consequence)
		return nil
	}
	for _, u := range p.Uses {
		if u[0] != rowName {
			c.out.Uses = append(c.out.Uses, u)
		}
	}
	return p
}

func (c *compiler) line(p *part, b *button, def *Line, at string) {
	l := line{Line: def}
	switch def.Kind {
	case ChangeLine:
		if !b.about() {
			c.find(definition.Stop, at, "a button about the table has no rows to change", "Nothing would be changed.", nil)
		}
		o := c.scope.Model.Object(p.object)
		for i, s := range def.Change {
			c.set(&l, o, s, fmt.Sprintf("%s/change/%d", at, i))
		}
		if len(def.Change) == 0 {
			c.find(definition.Stop, at+"/change", "no field is set", "Nothing would be changed.", nil)
		}
	case WalkthroughLine:
		if def.Walkthrough == "" {
			c.find(definition.Stop, at+"/walkthrough", "no walkthrough is chosen", "Nothing would open.", nil)
		}
		for i, h := range def.Hand {
			pointer := fmt.Sprintf("%s/hand/%d/value", at, i)
			program, err := expr.Compile(c.scope, h.Value)
			if err != nil {
				c.failed(err, pointer, h.Value, "The walkthrough would begin without it.")
				continue
			}
			l.hand = append(l.hand, program)
			if b.On == OnSome && usesRow(program) {
				button, _, _ := strings.Cut(at, "/do/")
				c.find(definition.Care, pointer, fmt.Sprintf("“%s” is about the rows chosen, but the walkthrough is handed one", b.Label),
					"With several rows chosen it would not be known which is meant, and nothing would open.", definition.Replace("Let it be about one row", button+"/on", string(OnOne)))
			}
		}
	case RecordLine:
		if b.On != OnOne && b.On != OnEach {
			c.find(definition.Stop, at, "a record is opened from one row", "It would not be known which.", nil)
		}
	case OutLine:
		if def.Format != "csv" && def.Format != "xlsx" {
			c.find(definition.Stop, at+"/format", fmt.Sprintf("%q is not a kind of file", def.Format), "Nothing would come out.", definition.Replace("Take CSV", at+"/format", "csv"))
		}
	case LinkLine, MessageLine:
	default:
		c.find(definition.Stop, at+"/kind", fmt.Sprintf("%q is not something a button can do", def.Kind), "Nothing would happen.", nil)
	}
	b.lines = append(b.lines, l)
}

func (c *compiler) set(l *line, o *model.Object, s Setting, at string) {
	f := o.Field(s.Field)
	if f == nil || !f.Stored() {
		c.failed(&model.UnknownNameError{Name: s.Field, Object: o.Label}, at+"/field", s.Field, "The value would go nowhere.")
		return
	}
	want := expr.Type{Kind: f.Kind(), Object: f.Target()}
	if s.Value.Expression != "" {
		if p := c.ofRow(s.Value.Expression, want, f, at+"/value/expression", f.Label+" would not be set."); p != nil {
			l.sets = append(l.sets, search.Set{Field: f, Program: p})
		}
		return
	}
	v, err := value.Parse(f.Kind(), s.Value.Literal)
	if err == nil {
		err = f.CheckValue(v)
	}
	if err != nil {
		c.failed(err, at+"/value/literal", "", f.Label+" would not be set.")
		return
	}
	l.sets = append(l.sets, search.Set{Field: f, Value: v})
}
