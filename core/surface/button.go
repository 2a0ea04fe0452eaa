package surface

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/access"
	"plainpath/core/checkup"
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

// Setting sets a field of each row to a value, which may depend on the row.
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

func (c *compiler) buttons(p *part, at string) {
	taken := map[string]bool{}
	for i := range p.Table.Buttons {
		def := &p.Table.Buttons[i]
		pointer := fmt.Sprintf("%s/%d", at, i)
		if problem := model.KeyProblem(def.Key); problem != "" {
			c.find(checkup.Stop, pointer+"/key", problem, "The button could not be pressed.", nil)
			continue
		}
		if taken[def.Key] {
			c.find(checkup.Stop, pointer+"/key", fmt.Sprintf("two buttons have the key %q", def.Key), "Pressing one would press the other.", nil)
			continue
		}
		taken[def.Key] = true
		if !slices.Contains([]ButtonOn{OnTable, OnOne, OnSome, OnEach}, def.On) {
			c.find(checkup.Stop, pointer+"/on", fmt.Sprintf("%q is not what a button can be about", def.On), "It could not be pressed.", checkup.Replace("Let it be about one row", pointer+"/on", string(OnOne)))
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
			inner.find(checkup.Care, at+"/why", fmt.Sprintf("“%s” does not say why it is off when it is", def.Label), "People would see a button that does nothing and not know why.", nil)
		}
	}
	if len(def.Do) == 0 {
		inner.find(checkup.Stop, at+"/do", fmt.Sprintf("“%s” does nothing", def.Label), "People would press it and wait.", nil)
	}
	for i := range def.Do {
		inner.line(p, b, &def.Do[i], fmt.Sprintf("%s/do/%d", at, i))
	}
	p.buttons = append(p.buttons, b)
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
			c.find(checkup.Stop, at, "a button about the table has no rows to change", "Nothing would be changed.", nil)
		}
		o := c.scope.Model.Object(p.object)
		for i, s := range def.Change {
			c.set(&l, o, s, fmt.Sprintf("%s/change/%d", at, i))
		}
		if len(def.Change) == 0 {
			c.find(checkup.Stop, at+"/change", "no field is set", "Nothing would be changed.", nil)
		}
	case WalkthroughLine:
		if def.Walkthrough == "" {
			c.find(checkup.Stop, at+"/walkthrough", "no walkthrough is chosen", "Nothing would open.", nil)
		}
		for i, h := range def.Hand {
			pointer := fmt.Sprintf("%s/hand/%d/value", at, i)
			program, err := expr.Compile(c.scope, h.Value)
			if err != nil {
				c.failed(err, pointer, h.Value, "The walkthrough would begin without it.")
				continue
			}
			l.hand = append(l.hand, program)
		}
	case RecordLine:
		if b.On != OnOne && b.On != OnEach {
			c.find(checkup.Stop, at, "a record is opened from one row", "It would not be known which.", nil)
		}
	case OutLine:
		if def.Format != "csv" && def.Format != "xlsx" {
			c.find(checkup.Stop, at+"/format", fmt.Sprintf("%q is not a kind of file", def.Format), "Nothing would come out.", checkup.Replace("Take CSV", at+"/format", "csv"))
		}
	case LinkLine, MessageLine:
	default:
		c.find(checkup.Stop, at+"/kind", fmt.Sprintf("%q is not something a button can do", def.Kind), "Nothing would happen.", nil)
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

// ButtonView is a button as a person sees it.
type ButtonView struct {
	Key     string   `json:"key"`
	Label   string   `json:"label"`
	On      ButtonOn `json:"on"`
	Confirm string   `json:"confirm,omitempty"`
	// Why is said where the button is not offered.
	Why string `json:"why,omitempty"`
}

func (p *part) buttonViews(person access.Person) []ButtonView {
	out := []ButtonView{}
	for _, b := range p.buttons {
		if len(b.Roles) > 0 && !slices.ContainsFunc(b.Roles, func(r string) bool { return slices.Contains(person.Roles, r) }) {
			continue
		}
		out = append(out, ButtonView{Key: b.Key, Label: b.Label, On: b.On, Confirm: b.Confirm, Why: b.Why})
	}
	return out
}

// Press is a button being pressed.
type Press struct {
	b      *button
	Object string
	// Rows is the query for the rows it is about, with a zero Object when it is about the
	// table.
	Rows   search.Query
	values expr.Values
	part   *part
}

// NotOfferedError says in words why a button cannot be pressed.
type NotOfferedError struct{ Text string }

func (e *NotOfferedError) Error() string { return e.Text }

// Press finds a button of a table and the rows it is about, and makes sure that it is
// offered for them.
func (s *Surface) Press(ctx context.Context, r Reader, person access.Person, values expr.Values, part, key string, chosen Chosen) (*Press, error) {
	p := s.parts[part]
	if p == nil || p.Kind != TablePart {
		return nil, &NoPartError{"table", part}
	}
	i := slices.IndexFunc(p.buttons, func(b *button) bool { return b.Key == key })
	if i < 0 {
		return nil, &NoPartError{"button", key}
	}
	b := p.buttons[i]
	out := &Press{b: b, Object: p.object, values: values, part: p}
	if len(b.Roles) > 0 && !slices.ContainsFunc(b.Roles, func(r string) bool { return slices.Contains(person.Roles, r) }) {
		return nil, &NotOfferedError{"This is not for your role."}
	}
	if !b.about() {
		return out, nil
	}
	l, err := p.listing(ctx, r, values)
	if err != nil {
		return nil, err
	}
	if out.Rows, err = l.Of(r, chosen); err != nil {
		return nil, err
	}
	if err := out.offered(ctx, r, len(chosen.Keys)); err != nil || b.On == OnSome {
		return out, err
	}
	// The row stays the same one, whatever the first lines change about it.
	keys, err := ByQuery(ctx, r, out.Rows)
	out.Rows = search.Query{Object: p.object, Where: predicate.Keys(keys)}
	return out, err
}

func (p *Press) offered(ctx context.Context, r Reader, keys int) error {
	n, err := CountOf(ctx, r, p.Rows)
	switch {
	case err != nil:
		return err
	case n == 0:
		return &NotOfferedError{"Choose a row first."}
	case p.b.On != OnSome && n != 1:
		return &NotOfferedError{"Choose one row; this is about one at a time."}
	case keys > 0 && int(n) < keys:
		return &NotOfferedError{"Some of the rows are not in the table any more. Choose again."}
	case p.b.offered == nil:
		return nil
	}
	off := p.Rows
	off.Where = predicate.All{orTrue(p.Rows.Where), predicate.Not{Of: predicate.Formula{Program: p.b.offered, Values: p.values, Record: rowName}}}
	without, err := CountOf(ctx, r, off)
	if err != nil || without == 0 {
		return err
	}
	why := p.b.Why
	if why == "" {
		why = fmt.Sprintf("“%s” is offered only where %s.", p.b.Label, p.b.offered.Source)
	}
	if n > 1 {
		why = fmt.Sprintf("For %d of the %d rows: %s", without, n, why)
	}
	return &NotOfferedError{why}
}

// Off says for rows, by key, why a button in each row is off there.
func (s *Surface) Off(ctx context.Context, r Reader, values expr.Values, part string, keys []int64) (map[string][]int64, error) {
	p := s.parts[part]
	out := map[string][]int64{}
	if p == nil || p.Kind != TablePart {
		return out, &NoPartError{"table", part}
	}
	for _, b := range p.buttons {
		if b.offered == nil || !b.about() {
			continue
		}
		found, err := ByQuery(ctx, r, search.Query{Object: p.object, Where: predicate.All{predicate.Keys(keys),
			predicate.Not{Of: predicate.Formula{Program: b.offered, Values: values, Record: rowName}}}})
		if err != nil {
			return nil, err
		}
		out[b.Key] = found
	}
	return out, nil
}

// ByQuery gives the keys of the records of a query.
func ByQuery(ctx context.Context, r Reader, q search.Query) ([]int64, error) {
	records, _, err := SelectOf(ctx, r, q)
	out := make([]int64, len(records))
	for i, rec := range records {
		out[i] = rec.ID
	}
	return out, err
}

// Effect is something the browser does after a button was pressed.
type Effect struct {
	Kind        LineKind                   `json:"kind"`
	Walkthrough string                     `json:"walkthrough,omitempty"`
	Dialog      bool                       `json:"dialog,omitempty"`
	Hand        map[string]json.RawMessage `json:"hand,omitempty"`
	Object      string                     `json:"object,omitempty"`
	Record      int64                      `json:"record,omitempty"`
	Format      string                     `json:"format,omitempty"`
	Message     string                     `json:"message,omitempty"`
}

// Changer changes fields of the records of a query with one statement and gives how many
// there were.
type Changer interface {
	ChangeAll(ctx context.Context, c search.Change) (int64, error)
}

// Do carries the lines out, in order. What is left to the browser is an effect.
func (p *Press) Do(ctx context.Context, r Reader, w Changer) (changed int64, effects []Effect, err error) {
	effects = []Effect{}
	for _, l := range p.b.lines {
		switch l.Kind {
		case ChangeLine:
			n, err := w.ChangeAll(ctx, search.Change{Query: p.Rows, Sets: l.sets, Values: p.values, Record: rowName})
			if err != nil {
				return 0, nil, err
			}
			changed += n
		case RecordLine:
			keys, err := ByQuery(ctx, r, p.Rows)
			if err != nil || len(keys) == 0 {
				return 0, nil, err
			}
			effects = append(effects, Effect{Kind: l.Kind, Object: p.Object, Record: keys[0]})
		case WalkthroughLine:
			hand, err := p.hand(ctx, r, l)
			if err != nil {
				return 0, nil, err
			}
			effects = append(effects, Effect{Kind: l.Kind, Walkthrough: l.Walkthrough, Dialog: l.Dialog, Hand: hand})
		default:
			effects = append(effects, Effect{Kind: l.Kind, Format: l.Format, Message: strings.ReplaceAll(l.Message, "{n}", fmt.Sprint(changed))})
		}
	}
	return changed, effects, nil
}

// hand computes what a walkthrough is given.
func (p *Press) hand(ctx context.Context, r Reader, l line) (map[string]json.RawMessage, error) {
	values := p.values
	if p.b.about() {
		var fields []model.Path
		for _, h := range l.hand {
			fields = append(fields, FieldsUsed(r.Space().Model, p.Object, []string{rowName}, h.Uses)...)
		}
		q := p.Rows
		q.Columns, q.Limit = fields, 1
		records, _, err := SelectOf(ctx, r, q)
		if err != nil || len(records) == 0 {
			return nil, err
		}
		values = expr.Values{}
		for k, v := range p.values {
			values[k] = v
		}
		values[rowName] = records[0]
	}
	out := map[string]json.RawMessage{}
	for i, h := range l.hand {
		v, err := h.Eval(values)
		if err != nil {
			return nil, fmt.Errorf("handing over %s: %w", l.Hand[i].To, err)
		}
		if out[l.Hand[i].To], err = json.Marshal(value.Wire(v)); err != nil {
			return nil, fmt.Errorf("handing over %s: %w", l.Hand[i].To, err)
		}
	}
	return out, nil
}
