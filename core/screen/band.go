package screen

import (
	"cmp"
	"encoding/json"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/value"
)

// Band is a horizontal strip of columns, each a pile of parts.
type Band struct {
	Title string `json:"title,omitempty"`
	// Stands says how the columns stand to each other, and whether the band is folded; side by side when it is empty.
	Stands Standing `json:"stands,omitempty"`
	// OfferedWhen is the condition, in CEL, under which the band and what is in it is there.
	OfferedWhen string   `json:"offered_when,omitempty"`
	Columns     []Column `json:"columns"`
}

// Standing is how a band stands.
type Standing string

// Columns stand side by side where nothing else is said.
const (
	// AsTabs shows one column at a time, each behind its title.
	AsTabs Standing = "tabs"
	// Folded shows the title of the band alone until it is opened; Unfolded shows all until it is folded.
	Folded   Standing = "folded"
	Unfolded Standing = "unfolded"
)

// Standings are the ways in which a band can stand other than side by side.
var Standings = []Standing{AsTabs, Folded, Unfolded}

// Column is a pile of parts in a band.
type Column struct {
	// Title is what the column is called as a tab; without one it is called as its first part.
	Title string `json:"title,omitempty"`
	// Width is its share of the band, 1 where nothing is said.
	Width int    `json:"width,omitempty"`
	Parts []Part `json:"parts"`
}

// Bounds of what stands beside each other, and of the share that a column has.
const (
	mostColumns = 4
	mostTabs    = 12
	widest      = 12
)

// BandView is a band as a person sees it.
type BandView struct {
	Title  string   `json:"title,omitempty"`
	Stands Standing `json:"stands,omitempty"`
	// Absent says that the band is not offered; nothing is in it then.
	Absent  bool         `json:"absent,omitempty"`
	Columns []ColumnView `json:"columns"`
}

// ColumnView is a column of a band as a person sees it.
type ColumnView struct {
	Title string     `json:"title,omitempty"`
	Width int        `json:"width"`
	Parts []PartView `json:"parts"`
}

// band checks a band, and gives the condition under which it is there, nil for always.
func (c *compiler) band(def *Band, at string) *expr.Program {
	most, how, mend := mostColumns, "side by side", &definition.Mend{Label: "Show them as tabs",
		Patch: []definition.Op{{Op: "add", Path: at + "/stands", Value: json.RawMessage(`"tabs"`)}}}
	if def.Stands == AsTabs {
		most, how, mend = mostTabs, "as tabs", nil
	}
	if len(def.Columns) > most {
		c.Find(definition.Care, at+"/columns", fmt.Sprintf("%d columns stand %s, and %d is the most that can be read",
			len(def.Columns), how, most), "People would hardly find what they look for.", mend)
	}
	folds := def.Stands == Folded || def.Stands == Unfolded
	switch {
	case folds && def.Title == "":
		c.Find(definition.Care, at+"/title", "a band that is folded needs a title", "Nobody would know what is in it.", nil)
	case !folds && def.Stands != "" && def.Stands != AsTabs:
		c.Find(definition.Stop, at+"/stands", fmt.Sprintf("a band cannot stand %q", def.Stands),
			"It could not be shown.", &definition.Mend{Label: "Side by side",
				Patch: []definition.Op{{Op: "remove", Path: at + "/stands"}}})
	}
	for i, column := range def.Columns {
		if column.Width < 0 || column.Width > widest {
			at := fmt.Sprintf("%s/columns/%d/width", at, i)
			c.Find(definition.Stop, at, fmt.Sprintf("a column is 1 to %d wide", widest), "It could not be shown.",
				&definition.Mend{Label: "As wide as the others",
					Patch: []definition.Op{{Op: "remove", Path: at}}})
		}
	}
	if def.OfferedWhen == "" {
		return nil
	}
	return c.program(def.OfferedWhen, expr.Type{Kind: value.KindYesNo}, at+"/offered_when",
		"What is in the band would never be shown.")
}

// view is the band without its parts.
func (b *Band) view() BandView {
	out := BandView{Title: b.Title, Stands: b.Stands, Columns: make([]ColumnView, len(b.Columns))}
	for i, column := range b.Columns {
		out.Columns[i] = ColumnView{Title: column.Title, Width: max(column.Width, 1), Parts: []PartView{}}
		if b.Stands == AsTabs && column.Title == "" {
			out.Columns[i].Title = fmt.Sprint(i + 1)
			if len(column.Parts) > 0 {
				out.Columns[i].Title = cmp.Or(column.Parts[0].Label, out.Columns[i].Title)
			}
		}
	}
	return out
}
