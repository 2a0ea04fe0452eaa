// Package surface is the common ground of a walkthrough's screen and a page: parts
// in bands, what they show and what they give out.
package surface

import (
	"cmp"

	"plainpath/core/model"
	"plainpath/core/predicate"
)

// Band is a horizontal strip of one to four columns, each a pile of parts.
type Band struct {
	Title   string   `json:"title,omitempty"`
	Columns []Column `json:"columns"`
}

// Column is a pile of parts in a band.
type Column struct {
	Parts []Part `json:"parts"`
}

// PartKind says what a part is.
type PartKind string

// The kinds of parts.
const (
	InputPart   PartKind = "input"
	TablePart   PartKind = "table"
	DetailsPart PartKind = "details"
	TextPart    PartKind = "text"
)

// Part is one thing on a surface. The member named like its kind says the rest.
type Part struct {
	Key string `json:"key"`
	// Was are earlier keys, by which arrangements of its table were kept.
	Was   []string `json:"was,omitempty"`
	Kind  PartKind `json:"kind"`
	Label string   `json:"label,omitempty"`
	// OfferedWhen is the condition, in CEL, under which the part is there.
	OfferedWhen string   `json:"offered_when,omitempty"`
	Text        string   `json:"text,omitempty"`
	Input       *Input   `json:"input,omitempty"`
	Table       *Table   `json:"table,omitempty"`
	Details     *Details `json:"details,omitempty"`
}

// Title is what people call the part.
func (p *Part) Title() string { return cmp.Or(p.Label, p.Key) }

// Input asks the person for a value.
type Input struct {
	Type     model.FieldType     `json:"type"`
	Required bool                `json:"required,omitempty"`
	Help     string              `json:"help,omitempty"`
	Choices  []model.ChoiceValue `json:"choices,omitempty"`
	// Object is what a reference input chooses from.
	Object string `json:"object,omitempty"`
	// Fits narrows what a reference input offers to what a field of a record may refer to.
	Fits    *Fits              `json:"fits,omitempty"`
	Default *predicate.Operand `json:"default,omitempty"`
	Least   *int64             `json:"least,omitempty"`
	Most    *int64             `json:"most,omitempty"`
}

// Field is the input as a field, whose checks it shares.
func (p *Part) Field() *model.Field {
	in := p.Input
	return &model.Field{Key: p.Key, Label: p.Label, Type: in.Type, Required: in.Required, Choices: in.Choices,
		Object: in.Object, Least: in.Least, Most: in.Most}
}

// Selection says how many rows of a table can be chosen.
type Selection string

// Rows can be looked at, one chosen, or several.
const (
	SelectNone    Selection = "none"
	SelectOne     Selection = "one"
	SelectSeveral Selection = "several"
)

// Table shows a list of records and gives out the rows chosen.
type Table struct {
	// Source is an expression that gives a list.
	Source  string        `json:"source"`
	Columns []TableColumn `json:"columns"`
	Select  Selection     `json:"select"`
	// Least and Most bound the number of rows chosen: without them it is one at least and
	// any number at most.
	Least *int `json:"least,omitempty"`
	Most  int  `json:"most,omitempty"`
	// Keyword names the fields that the keyword search looks in.
	Keyword []string `json:"keyword,omitempty"`
	// Views are arrangements that the builder gives to roles.
	Views []ShippedView `json:"views,omitempty"`
	// Marks set cells and rows apart.
	Marks []Mark `json:"marks,omitempty"`
	// Buttons are what people can do with the table and its rows.
	Buttons []Button `json:"buttons,omitempty"`
	// Live says what becomes of the table when records it shows change elsewhere: it says so
	// ("tell", and when empty), or is read again ("refresh").
	Live string `json:"live,omitempty"`
	// Others are objects that people can look at in the place of the table's own, all the
	// records that they may see.
	Others []Other `json:"others,omitempty"`
	// Inside is what a row opens to.
	Inside *Inside `json:"inside,omitempty"`
	// Edit lets people change cells, as far as their rights go.
	Edit bool `json:"edit,omitempty"`
	// Nothing is shown when the list is empty.
	Nothing string `json:"nothing,omitempty"`
	// Reading is shown while the list is read, Failed when it could not be, before the reason.
	Reading string `json:"reading,omitempty"`
	Failed  string `json:"failed,omitempty"`
}

// Other is an object that a table can be switched to.
type Other struct {
	Object string `json:"object"`
}

// TableColumn is one column: a path from the record, and a heading if the field's own
// will not do.
type TableColumn struct {
	Path  string `json:"path"`
	Label string `json:"label,omitempty"`
	// Above is a common heading over this column and its neighbours with the same.
	Above string `json:"above,omitempty"`
}

// Details shows fields of one record.
type Details struct {
	// Source is an expression that gives one record.
	Source string        `json:"source"`
	Fields []TableColumn `json:"fields"`
}

// fewest is how many rows have to be chosen at least.
func (t *Table) fewest() int {
	if t.Least == nil {
		return 1
	}
	return *t.Least
}
