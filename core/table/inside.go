package table

import (
	"context"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Inside is what a row opens to: the records that refer to it, and what opens in them, to
// any depth.
type Inside struct {
	Label string `json:"label"`
	// Object and Field name the reference that points at the row.
	Object string `json:"object"`
	Field  string `json:"field"`
	// Shows says what they are shown as, a table when it is empty.
	Shows InsideKind `json:"shows,omitempty"`
	// Table says how they are shown, as a table or, with its columns, on cards; its source
	// is the row.
	Table Table `json:"table"`
	Chart *Bars `json:"chart,omitempty"`
}

// InsideKind says what the records that a row opens to are shown as.
type InsideKind string

// Records stand in a table or each on a card, or make bars of a chart.
const (
	AsTable InsideKind = "table"
	AsCards InsideKind = "cards"
	AsChart InsideKind = "chart"
)

// Bars are one for each group of records: how many there are, or a total of them.
type Bars struct {
	By    LookGroup  `json:"by,omitzero"`
	Total *LookTotal `json:"total,omitempty"`
}

// mostInside bounds how deep tables may lie in each other.
const mostInside = 8

// inside checks the table that rows of an object open to.
func (c *compiler) inside(p *Program, def *Inside, at string, depth int) {
	o := c.Object(c.scope.Model, def.Object, at+"/object", "Rows would open to nothing.")
	if o == nil {
		return
	}
	f := o.Field(def.Field)
	if f == nil || f.Target() != p.object {
		c.Find(definition.Stop, at+"/field", fmt.Sprintf("%s have no reference %q to these rows", o.Plural, def.Field),
			"Rows would open to nothing.", nil)
		return
	}
	c.Mention(model.TextMention(at+"/field", def.Field, model.Referent{Object: def.Object, Field: def.Field}))
	if depth > mostInside {
		c.Find(definition.Stop, at, fmt.Sprintf("tables lie more than %d deep in each other", mostInside),
			"Nobody would find their way back.", nil)
		return
	}
	inner := &Program{Table: &def.Table, owner: p.owner, object: def.Object, via: f, insideAs: def}
	inner.owner.Label, inner.owner.Was = def.Label, nil
	p.inside = inner
	switch def.Table.Select {
	case SelectNone, SelectOne, SelectSeveral, "":
	default:
		c.noSelection(&def.Table, at+"/table")
	}
	if def.Table.Source != "" {
		c.Find(definition.Stop, at+"/table/source", "what a row opens to is fed by the row",
			"It would show something else than it says.", definition.Replace("Feed it by the row", at+"/table/source",
				""))
	}
	switch def.Shows {
	case AsChart:
		c.chart(o, def.Chart, at+"/chart")
		return
	case AsTable, AsCards, "":
	default:
		c.Find(definition.Stop, at+"/shows", fmt.Sprintf("records cannot be shown as %q", def.Shows),
			"Rows would open to nothing.", definition.Replace("Show a table", at+"/shows", string(AsTable)))
	}
	c.shown(inner, at+"/table")
	c.buttons(inner, at+"/table/buttons")
	if def.Table.Inside != nil {
		c.inside(inner, def.Table.Inside, at+"/table/inside", depth+1)
	}
}

func (c *compiler) chart(o *model.Object, def *Bars, at string) {
	if def == nil {
		c.Find(definition.Stop, at, "the chart is made of nothing", "Rows would open to nothing.", nil)
		return
	}
	c.Path(c.scope.Model, o.Key, def.By.Path, at+"/by/path", "There would be no bars.", func(by model.Path) error {
		return query.CheckGrouping(query.Grouping{Path: by, Span: def.By.Span})
	})
	if def.Total == nil {
		return
	}
	c.Path(c.scope.Model, o.Key, def.Total.Path, at+"/total/path", "The bars would have no length.",
		func(of model.Path) error {
			return query.CheckTotal(query.Total{Path: of, Of: def.Total.Of, Converted: def.Total.Converted})
		})
}

// Into is the list that a row opens to. The row must be in this list.
func (l *Listing) Into(ctx context.Context, r records.Reader, key int64) (*Listing, error) {
	if l.inside == nil {
		return nil, wrongLook("The rows of this table do not open.")
	}
	found, err := l.Among(ctx, r, []int64{key}, nil)
	if err != nil {
		return nil, err
	}
	if len(found) == 0 {
		return nil, wrongLook("This row is not in the table any more.")
	}
	m := r.Model()
	path, err := m.Path(l.inside.object, l.inside.via.Key)
	if err != nil {
		return nil, err
	}
	where := predicate.Test{Path: path, Op: predicate.Is, Value: &value.Record{Object: l.query.Object, ID: key,
		Label: found[0].Label}}
	out := NewListing(m.Object(l.inside.object), where, nil)
	out.headings, out.keyword, out.edit, out.inside = l.inside.headings, l.inside.keyword, l.inside.Table.Edit,
		l.inside.inside
	out.marks, out.buttons, out.values = l.inside.marks, l.inside.buttons, l.values
	return out, nil
}

// InsideView is what rows open to, without rows.
type InsideView struct {
	Label string     `json:"label"`
	Shows InsideKind `json:"shows"`
	Chart *Bars      `json:"chart,omitempty"`
	Table *View      `json:"table"`
}

func (p *Program) insideView(r records.Reader) *InsideView {
	in := p.inside
	if in == nil {
		return nil
	}
	out := &InsideView{Label: in.owner.Label, Shows: in.insideAs.Shows, Chart: in.insideAs.Chart, Table: in.bare(r)}
	if out.Table.Select == "" {
		out.Table.Select = SelectNone
	}
	if out.Shows == "" {
		out.Shows = AsTable
	}
	return out
}
