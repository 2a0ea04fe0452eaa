package surface

import (
	"context"
	"fmt"

	"plainpath/core/checkup"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// Inside is the table that a row opens to: the records that refer to it, and what opens
// in them, to any depth.
type Inside struct {
	Label string `json:"label"`
	// Object and Field name the reference that points at the row.
	Object string `json:"object"`
	Field  string `json:"field"`
	// Table says how it is shown; its source is the row.
	Table Table `json:"table"`
}

// mostInside bounds how deep tables may lie in each other.
const mostInside = 8

// inside checks the table that rows of an object open to.
func (c *compiler) inside(p *part, def *Inside, at string, depth int) {
	o := c.scope.Model.Object(def.Object)
	if o == nil {
		c.failed(UnknownObject(c.scope.Model, def.Object), at+"/object", def.Object, "Rows would open to nothing.")
		return
	}
	f := o.Field(def.Field)
	if f == nil || f.Target() != p.object {
		c.find(checkup.Stop, at+"/field", fmt.Sprintf("%s have no reference %q to these rows", o.Plural, def.Field), "Rows would open to nothing.", nil)
		return
	}
	if depth > mostInside {
		c.find(checkup.Stop, at, fmt.Sprintf("tables lie more than %d deep in each other", mostInside), "Nobody would find their way back.", nil)
		return
	}
	inner := &part{Part: &Part{Key: p.Key, Kind: TablePart, Label: def.Label, Table: &def.Table}, object: def.Object, via: f}
	c.shown(inner, at+"/table")
	p.inside = inner
	if def.Table.Inside != nil {
		c.inside(inner, def.Table.Inside, at+"/table/inside", depth+1)
	}
}

// Into is the list that a row opens to. The row must be in this list.
func (l *Listing) Into(ctx context.Context, r Reader, key int64) (*Listing, error) {
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
	m := r.Space().Model
	path, err := m.Path(l.inside.object, l.inside.via.Key)
	if err != nil {
		return nil, err
	}
	where := predicate.Test{Path: path, Op: predicate.Is, Value: &value.Record{Object: l.query.Object, ID: key, Label: found[0].Label}}
	out := NewListing(m.Object(l.inside.object), where, nil)
	out.columns, out.keyword, out.edit, out.inside = l.inside.columns, l.inside.keyword, l.inside.Table.Edit, l.inside.inside
	out.marks, out.values = l.inside.marks, l.values
	return out, nil
}

// insideView is the table that rows open to, without rows.
func (p *part) insideView() *PartView {
	if p.inside == nil {
		return nil
	}
	t := p.inside.Table
	view := &TableView{Object: p.inside.object, Select: SelectNone, Nothing: t.Nothing, Chosen: []value.Ref{}, Rows: RowsView{Columns: []HeadingView{}, Rows: []RowView{}}, Inside: p.inside.insideView()}
	for _, k := range p.inside.keyword {
		view.Keyword = append(view.Keyword, Heading(k))
	}
	return &PartView{Key: p.Key, Kind: TablePart, Label: p.inside.Label, Table: view}
}
