// Package screen is the common ground of a walkthrough's screen and a page: parts in bands,
// checked, shown and accepted. Each kind of part is an entry of one list.
package screen

import (
	"cmp"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/table"
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
	OfferedWhen string       `json:"offered_when,omitempty"`
	Text        string       `json:"text,omitempty"`
	Input       *Input       `json:"input,omitempty"`
	Table       *table.Table `json:"table,omitempty"`
	Details     *Details     `json:"details,omitempty"`
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

// Details shows fields of one record.
type Details struct {
	// Source is an expression that gives one record.
	Source string         `json:"source"`
	Fields []table.Column `json:"fields"`
}
