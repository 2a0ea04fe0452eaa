package screen

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/predicate"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

var detailsKind = partKind{kind: DetailsPart,
	set:   func(def *Part) bool { return def.Details != nil },
	check: (*compiler).details,
	show: func(ctx context.Context, p *part, r records.Reader, values expr.Values, _ Given,
		view *PartView) (err error) {
		view.Details, err = p.details(ctx, r, values)
		return err
	},
}

func (c *compiler) details(p *part, at string) {
	d := p.Details
	p.source = c.program(d.Source, expr.Type{Kind: value.KindRecord}, at+"/source", "There would be nothing to show.")
	if p.source == nil {
		return
	}
	p.object = p.source.Type.Object
	p.headings = table.CheckColumns(c.Check, c.scope.Model, p.object, d.Fields, at+"/fields")
}

func (p *part) details(ctx context.Context, r records.Reader, values expr.Values) ([]DetailView, error) {
	v, err := p.source.Eval(values)
	if err != nil {
		return nil, err
	}
	record, ok := v.(*value.Record)
	if ok {
		found, err := records.ByKey(ctx, r, p.object, []int64{record.ID}, p.headings.Paths())
		if err != nil {
			return nil, err
		}
		record = nil
		if len(found) > 0 {
			record = found[0]
		}
	}
	out := make([]DetailView, len(p.headings))
	paths := p.headings.Paths()
	for i, h := range p.headings.Views() {
		out[i] = DetailView{h, value.Wire(predicate.Follow(record, paths[i]))}
	}
	return out, nil
}
