package surface

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/records"
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
	p.columns = c.columns(p.object, d.Fields, at+"/fields")
}
