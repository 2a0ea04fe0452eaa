// Package act is what can be done: one set of verbs, for the steps of walkthroughs as for what a
// button sets going. An act is checked once, which gives a Plan; a plan is carried out in a unit of
// work as often as its place is reached. Each act has a file of its own, and kinds lists them.
package act

import (
	"context"
	"encoding/json"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Kind says what an act does.
type Kind string

// The acts.
const (
	SearchAct   Kind = "search"
	AddAct      Kind = "add"
	ChangeAct   Kind = "change"
	RemoveAct   Kind = "remove"
	WorkOutAct  Kind = "work_out"
	GatherAct   Kind = "gather"
	RunAct      Kind = "run"
	NotifyAct   Kind = "notify"
	SayAct      Kind = "say"
	OpenAct     Kind = "open"
	CopyLinkAct Kind = "copy_link"
	DownloadAct Kind = "download"

	ConfirmAct   Kind = "confirm"
	SetAct       Kind = "set"
	ReadAgainAct Kind = "read_again"
	HoldAct      Kind = "hold"
)

// Act is one thing that is done. The member named like its kind says the rest.
type Act struct {
	Kind Kind `json:"kind"`
	// OnlyWhen is a condition, in CEL, on what is known; where it does not hold the act is left out.
	OnlyWhen string    `json:"only_when,omitempty"`
	Search   *Search   `json:"search,omitempty"`
	Add      *Add      `json:"add,omitempty"`
	Change   *Change   `json:"change,omitempty"`
	Remove   *Remove   `json:"remove,omitempty"`
	WorkOut  *WorkOut  `json:"work_out,omitempty"`
	Gather   *Gather   `json:"gather,omitempty"`
	Run      *Run      `json:"run,omitempty"`
	Notify   *Notify   `json:"notify,omitempty"`
	Say      *Say      `json:"say,omitempty"`
	Open     *Open     `json:"open,omitempty"`
	Download *Download `json:"download,omitempty"`

	Confirm   *Confirm   `json:"confirm,omitempty"`
	Set       *Set       `json:"set,omitempty"`
	ReadAgain *ReadAgain `json:"read_again,omitempty"`
	Hold      *Hold      `json:"hold,omitempty"`
}

// Where is a set of places that acts stand in.
type Where int

// Acts stand in the steps of walkthroughs, in the lines of buttons and in those of reactions.
const (
	InSteps Where = 1 << iota
	InLines
	// InReactions is in what something that happens on a page sets going.
	InReactions
)

// kind is one kind of act: what it is called, where it may stand, and how it is checked.
type kind struct {
	name  Kind
	words string
	where Where
	check func(c *check, a *Act, at string) Plan
}

// kinds are all acts there are.
var kinds = []kind{
	{SearchAct, "search for records", InSteps | InLines | InReactions, checkSearch},
	{AddAct, "add records", InSteps | InLines | InReactions, checkAdd},
	{ChangeAct, "change records", InSteps | InLines | InReactions, checkChange},
	{RemoveAct, "remove records", InSteps | InLines | InReactions, checkRemove},
	{WorkOutAct, "work out a value", InSteps | InLines | InReactions, checkWorkOut},
	{GatherAct, "gather rows", InSteps, checkGather},
	{RunAct, "run a walkthrough", InSteps | InLines | InReactions, checkRun},
	{NotifyAct, "notify people", InSteps | InLines | InReactions, checkNotify},
	{SayAct, "say a message", InSteps | InLines | InReactions, checkSay},
	{ConfirmAct, "ask whether to go on", InSteps | InLines | InReactions, checkConfirm},
	{OpenAct, "open a record or a page", InSteps | InLines | InReactions, checkOpen},
	{SetAct, "set an input", InLines | InReactions, checkSet},
	{ReadAgainAct, "read again", InLines | InReactions, checkReadAgain},
	{HoldAct, "show a text while it goes on", InLines | InReactions, checkHold},
	{CopyLinkAct, "copy a link to the page", InLines, checkCopyLink},
	{DownloadAct, "download a file or rows", InLines | InReactions, checkDownload},
}

// words are what a kind of act is called.
func words(k Kind) string {
	for _, kind := range kinds {
		if kind.name == k {
			return kind.words
		}
	}
	return string(k)
}

// View is an act as it is offered to a builder.
type View struct {
	Kind  Kind   `json:"kind"`
	Words string `json:"words"`
	// InSteps, InLines and InReactions say where it may stand.
	InSteps     bool `json:"in_steps"`
	InLines     bool `json:"in_lines"`
	InReactions bool `json:"in_reactions"`
}

// Views are all acts there are, in the order they are offered.
func Views() []View {
	out := make([]View, len(kinds))
	for i, k := range kinds {
		out[i] = View{k.name, k.words, k.where&InSteps != 0, k.where&InLines != 0, k.where&InReactions != 0}
	}
	return out
}

// Environment is what surrounds an act where it stands.
type Environment struct {
	Where Where
	Scope expr.Scope
	// Check gathers what is found.
	Check *definition.Check
	// Rows is the object of the rows that a button is about, of which one is known as RowName; "" where
	// there are none. One says that it is about one row at a time.
	Rows string
	One  bool
	// Parts are what stands on the page or screen.
	Parts []Part
	// Outset is the pointer to what the act is set going by, such as a button.
	Outset string
}

// Part is something on the page or screen that acts may name. An input has the type of its value.
type Part struct {
	expr.Name
	// Table says that it shows rows, which can be downloaded.
	Table bool
}

// RowName is what the rows that a button is about are called one by one.
const RowName = "row"

// Row is the row that a button or a reaction is about, of an object, as it is known.
func Row(object string) expr.Name {
	return expr.Name{Key: RowName, Label: "The row", Type: expr.Type{Kind: value.KindRecord, Object: object}}
}

// Plan is a checked act. It is safe for use by several goroutines.
type Plan interface {
	// Gives is the type of what is known under the act's key from then on, false when nothing is.
	Gives() (expr.Type, bool)
	// Uses are the known values that it depends on.
	Uses() [][]string
	// Writes is the object of which it may write records, "" when it writes none.
	Writes() string
	// Do carries the act out.
	Do(ctx context.Context, u records.Writer, in In) (Done, error)
	// Restore makes known again what the act gave, from what was kept of it.
	Restore(ctx context.Context, u records.Writer, in In, kept Kept) (value.Value, error)
}

// In is what an act is carried out with.
type In struct {
	Values expr.Values
	// Through is the step, button or part that the history names.
	Through string
	// Title is what people call the step.
	Title string
	// Rows is the query of the rows that a button is about.
	Rows query.Query
	// Columns are the fields that are used later of what the act gives.
	Columns []model.Path
	// Within are the fields that are used later of a value within what the act gives, by its key.
	Within func(key string) []model.Path
	// Written is how many records the acts before it wrote.
	Written int64
	// Figures says that somebody wants to know how much was looked at.
	Figures bool
}

// Kept is what is kept of an act that was carried out, between two screens.
type Kept struct {
	// Added are the keys of the records it added, Changed of those it changed.
	Added   records.Ranges `json:"added,omitempty"`
	Changed records.Ranges `json:"changed,omitempty"`
	// Removed counts the records it removed.
	Removed int64 `json:"removed,omitempty"`
	// Value is the value it worked out.
	Value json.RawMessage `json:"value,omitempty"`
	// Inside is where a walkthrough that it ran came to, as long as there is a way back into it.
	Inside json.RawMessage `json:"inside,omitempty"`
}

// Wrote says whether records were written, which cannot be unwritten.
func (k Kept) Wrote() bool { return len(k.Added) > 0 || len(k.Changed) > 0 || k.Removed > 0 }

// Done is what came of an act.
type Done struct {
	Value   value.Value
	Kept    Kept
	Report  Report
	Effects []Effect
}

// Report is what an act did, for the trace.
type Report struct {
	// Looked is how many records of the object the person can see, Found how many of
	// them the search found.
	Object  string `json:"object,omitempty"`
	Looked  int64  `json:"looked"`
	Found   int64  `json:"found"`
	Written int64  `json:"written"`
	// Values are what the act worked with, in words.
	Values []NamedValue `json:"values,omitempty"`
	// Records are some of those that were written, as they are then.
	Records []WrittenRecord `json:"records,omitempty"`
	Note    string          `json:"note,omitempty"`
}

// WrittenRecord is a record that was written, in words.
type WrittenRecord struct {
	Label  string       `json:"label"`
	Values []NamedValue `json:"values"`
}

// NamedValue is a value with what it is called.
type NamedValue struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// Shown are the values of names, in words.
func Shown(values expr.Values, uses [][]string) []NamedValue {
	var out []NamedValue
	for _, u := range uses {
		v, name := values[u[0]], u[0]
		for _, part := range u[1:] {
			name += "." + part
			if rec, ok := v.(*value.Record); ok {
				v = rec.Get(part)
			}
		}
		out = append(out, NamedValue{name, said(v)})
	}
	return out
}

// Checked is an act that was checked.
type Checked struct {
	// Plan is nil when a finding keeps it from being carried out.
	Plan Plan
	// When is the condition under which it is carried out, nil for always.
	When *expr.Program
	// Scope is what its values may name: what is known at its place, and the record at hand.
	Scope expr.Scope
}

// Uses are the known values that the act depends on.
func (c Checked) Uses() [][]string {
	if c.When == nil {
		return c.Plan.Uses()
	}
	return append(slices.Clone(c.Plan.Uses()), c.When.Uses...)
}

// Gives is the type of what is known under the act's key from then on, false when nothing is. What may be left
// out may be empty.
func (c Checked) Gives() (expr.Type, bool) {
	t, any := c.Plan.Gives()
	t.Empty = t.Empty || c.When != nil
	return t, any
}

// Compile checks an act.
func Compile(p Environment, a *Act, at string) Checked {
	c := &check{Environment: p, Check: p.Check}
	var when *expr.Program
	if a.OnlyWhen != "" {
		when = c.ExpressionOf(expr.Type{Kind: value.KindYesNo}, c.Scope, a.OnlyWhen, at+"/only_when",
			"It would never be done.")
		if when == nil { // it is not done whatever the condition was meant to be
			return Checked{Scope: p.Scope}
		}
		c.Scope = c.Scope.Where(when)
	}
	for _, k := range kinds {
		if k.name == a.Kind && k.where&p.Where != 0 {
			plan := k.check(c, a, at)
			if plan != nil && c.Rows != "" && !c.One && (k.name != RunAct && namesRow(plan.Uses()) ||
				when != nil && namesRow(when.Uses)) {
				c.Find(definition.Stop, at, "this is about one row, and the button is about the rows chosen",
					"With several rows chosen it would not be known which is meant.",
					definition.Replace("Let it be about one row", c.Outset+"/on", "one"))
			}
			return Checked{plan, when, c.inner()}
		}
	}
	c.Find(definition.Stop, at+"/kind", "there is no act “"+string(a.Kind)+"” here", "Nothing would happen.", nil)
	return Checked{Scope: p.Scope}
}

func namesRow(uses [][]string) bool {
	return slices.ContainsFunc(uses, func(u []string) bool { return u[0] == RowName })
}

// given is whether the member that says what an act does is there; it is a finding when it is not.
func given[T any](c *check, a *Act, member *T, at string) bool {
	if member == nil {
		c.Find(definition.Stop, at+"/kind", "an act of kind “"+string(a.Kind)+"” needs its settings",
			"It would stop here.", nil)
	}
	return member != nil
}

// check is an act being checked.
type check struct {
	Environment
	*definition.Check
	uses [][]string
	// atHand are the records that are at hand one by one.
	atHand []expr.Name
}

// inner is what is known inside the act.
func (c *check) inner() expr.Scope {
	scope := c.Scope
	for _, n := range c.atHand {
		scope = scope.With(n)
	}
	return scope
}

// basis is what most plans have in common.
type basis struct {
	uses   [][]string
	gives  *expr.Type
	writes string
}

func (b *basis) Uses() [][]string { return b.uses }
func (b *basis) Writes() string   { return b.writes }
func (b *basis) Gives() (expr.Type, bool) {
	if b.gives == nil {
		return expr.Type{}, false
	}
	return *b.gives, true
}

// Restore gives nothing.
func (b *basis) Restore(context.Context, records.Writer, In, Kept) (value.Value, error) {
	return nil, nil
}
