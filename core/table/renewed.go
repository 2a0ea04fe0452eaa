package table

import (
	"encoding/json"
	"slices"

	"plainpath/core/model"
	"plainpath/core/predicate"
)

// Renewed is an arrangement that was kept, with the keys that fields and choices have now.
func (l *Listing) Renewed(m *model.Model, a Arrangement) Arrangement {
	today := func(path string) string { return m.Today(l.query.Object, path) }
	look := &a.Look
	look.Columns = slices.Clone(look.Columns)
	for i := range look.Columns {
		look.Columns[i].Path = today(look.Columns[i].Path)
	}
	look.Order = slices.Clone(look.Order)
	for i := range look.Order {
		look.Order[i].Path = today(look.Order[i].Path)
	}
	look.Totals = slices.Clone(look.Totals)
	for i := range look.Totals {
		look.Totals[i].Path = today(look.Totals[i].Path)
	}
	look.Filter = slices.Clone(look.Filter)
	for i, c := range look.Filter {
		c.Field = today(c.Field)
		if f := l.choiceAt(m, c.Field); f != nil {
			c.Values = slices.Clone(c.Values)
			for n := range c.Values {
				c.Values[n].Literal = todaysChoice(f, c.Values[n].Literal)
			}
			if c.Value != nil {
				c.Value = &predicate.Operand{Literal: todaysChoice(f, c.Value.Literal), Expression: c.Value.Expression}
			}
		}
		look.Filter[i] = c
	}
	look.Group = l.groupToday(m, look.Group)
	widths := make(map[string]int, len(a.Widths))
	for path, w := range a.Widths {
		widths[today(path)] = w
	}
	a.Widths = widths
	return a
}

// groupToday is a grouping with the keys of today, and what is grouped in it.
func (l *Listing) groupToday(m *model.Model, was *LookGroup) *LookGroup {
	if was == nil {
		return nil
	}
	g := *was
	g.Path = m.Today(l.query.Object, g.Path)
	if f := l.choiceAt(m, g.Path); f != nil {
		g.Hidden = slices.Clone(g.Hidden)
		for i := range g.Hidden {
			g.Hidden[i] = todaysChoice(f, g.Hidden[i])
		}
	}
	g.Then = l.groupToday(m, g.Then)
	return &g
}

// choiceAt is the field at the end of a path when it has choices.
func (l *Listing) choiceAt(m *model.Model, path string) *model.Field {
	p, err := m.Path(l.query.Object, path)
	if err != nil || !p.Last().Type.Chosen() {
		return nil
	}
	return p.Last()
}

func todaysChoice(f *model.Field, literal json.RawMessage) json.RawMessage {
	var key *string // null is the group without a value
	if json.Unmarshal(literal, &key) != nil || key == nil {
		return literal
	}
	raw, err := json.Marshal(f.TodaysChoice(*key))
	if err != nil {
		return literal
	}
	return raw
}
