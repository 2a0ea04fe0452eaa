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

// Mark sets a cell, or the row, apart when a condition holds: by a word always, and by a
// colour and perhaps an icon with it.
type Mark struct {
	// When is a condition, in CEL, on the row, which it calls "row", and on what is known.
	When string `json:"when"`
	// Column is the path of the column whose cell is marked; empty marks the row.
	Column string `json:"column,omitempty"`
	// Colour is good, care, bad or plain; Says is the word that goes with it.
	Colour string `json:"colour"`
	Says   string `json:"says"`
	// Icon is one of the icons of marks, none when it is empty.
	Icon string `json:"icon,omitempty"`
}

var (
	markColours = []string{"good", "care", "bad", "plain"}
	markIcons   = []string{"", "alert", "check", "clock", "flag", "lock", "star", "tool"}
)

// MarkView is a mark that holds for a row.
type MarkView struct {
	Column string `json:"column,omitempty"`
	Colour string `json:"colour"`
	Says   string `json:"says"`
	Icon   string `json:"icon,omitempty"`
}

// mark is a checked mark, and the fields of the row it looks at.
type mark struct {
	*Mark
	when  *expr.Program
	paths []model.Path
}

func (c *compiler) marks(p *Program, at string) {
	inner := *c
	inner.scope = c.scope.With(act.Row(p.object))
	for i := range p.Marks {
		m := &p.Marks[i]
		pointer := fmt.Sprintf("%s/%d", at, i)
		if !slices.Contains(markColours, m.Colour) {
			c.Find(definition.Stop, pointer+"/colour", fmt.Sprintf("%q is not a colour of marks", m.Colour),
				"The mark could not be shown.", definition.Replace("Make it care", pointer+"/colour", "care"))
		}
		if !slices.Contains(markIcons, m.Icon) {
			c.Find(definition.Stop, pointer+"/icon", fmt.Sprintf("%q is not an icon of marks", m.Icon),
				"The mark could not be shown.", definition.Replace("Do without", pointer+"/icon", ""))
		}
		if m.Says == "" {
			c.Find(definition.Care, pointer+"/says", "this mark has no word",
				"People who do not see its colour would not know of it.", nil)
		}
		if of := slices.IndexFunc(p.headings,
			func(col heading) bool { return col.path.String() == m.Column }); of >= 0 {
			c.Mention(p.headings[of].path.Mentions(p.object, pointer+"/column")...)
		} else if m.Column != "" {
			c.Find(definition.Stop, pointer+"/column", fmt.Sprintf("the table has no column %q", m.Column),
				"The mark would not be shown.", nil)
		}
		when := c.ExpressionOf(expr.Type{Kind: value.KindYesNo}, inner.scope, m.When, pointer+"/when",
			"The mark would never be shown.")
		if when == nil {
			continue
		}
		c.usesBut(act.RowName, when)
		p.marks = append(p.marks, mark{m, when, records.FieldsUsed(c.scope.Model, p.object, []string{act.RowName},
			when.Uses)})
	}
}

// marked gives the marks that hold for a record.
func (l *Listing) marked(rec *value.Record) ([]MarkView, error) {
	if len(l.marks) == 0 {
		return nil, nil
	}
	values := expr.Values{}
	for k, v := range l.values {
		values[k] = v
	}
	values[act.RowName] = rec
	var out []MarkView
	for _, m := range l.marks {
		ok, err := m.when.True(values)
		if err != nil {
			return nil, fmt.Errorf("marking rows where %q: %w", m.When, err)
		}
		if ok {
			out = append(out, MarkView{m.Column, m.Colour, m.Says, m.Icon})
		}
	}
	return out, nil
}
