package screen

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Details shows fields of one record.
type Details struct {
	// Source is an expression that gives one record.
	Source string         `json:"source"`
	Fields []table.Column `json:"fields"`
}

// DetailView is one field of details.
type DetailView struct {
	Heading table.HeadingView `json:"heading"`
	Value   any               `json:"value"`
}

var detailsKind = partKind{DetailsPart, func(def *Part) bool { return def.Details != nil }, checkDetails}

type details struct {
	source   *expr.Program
	object   string
	headings table.Headings
}

func checkDetails(c *compiler, p *part, at string) content {
	source := c.program(p.Details.Source, expr.Type{Kind: value.KindRecord}, at+"/source",
		"There would be nothing to show.")
	if source == nil {
		return nil
	}
	object := source.Type.Object
	return &details{source, object,
		table.CheckColumns(c.Check, c.scope.Model, object, p.Details.Fields, at+"/fields")}
}

func (d *details) show(ctx context.Context, r records.Reader, values expr.Values, _ Given, view *PartView) error {
	v, err := d.source.Eval(values)
	if err != nil {
		return err
	}
	record, ok := v.(*value.Record)
	if ok {
		found, err := records.ByKey(ctx, r, d.object, []int64{record.ID}, d.headings.Paths())
		if err != nil {
			return err
		}
		record = nil
		if len(found) > 0 {
			record = found[0]
		}
	}
	view.Details = make([]DetailView, len(d.headings))
	paths := d.headings.Paths()
	for i, h := range d.headings.Views() {
		view.Details[i] = DetailView{h, value.Wire(predicate.Follow(record, paths[i]))}
	}
	return nil
}
