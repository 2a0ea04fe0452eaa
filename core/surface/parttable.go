package surface

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/value"
)

var tableKind = partKind{kind: TablePart,
	set:   func(def *Part) bool { return def.Table != nil },
	check: (*compiler).table,
	show: func(ctx context.Context, p *part, r records.Reader, values expr.Values, g Given,
		view *PartView) (err error) {
		if view.Table, err = p.table(ctx, r, values, g.Looks[p.Key]); err != nil {
			return err
		}
		return p.keep(ctx, r, values, g.Answers[p.Key], view)
	},
	take: func(ctx context.Context, p *part, r records.Reader, values expr.Values,
		t taking) (value.Value, string, error) {
		chosen, err := parseChosen(t.raw)
		if err != nil {
			return nil, err.Error(), nil
		}
		return t.rows(p, ctx, r, values, chosen, t.fields)
	},
	known: func(ctx context.Context, page *PageProgram, p *part, r records.Reader, values expr.Values, g Given) error {
		into, _ := values[p.Key].(*value.Record)
		if err := page.selection(ctx, r, values, p, g.Answers[p.Key], into); err != nil {
			return err
		}
		if err := page.matching(ctx, r, values, p, g.Looks[p.Key], into); err != nil {
			return err
		}
		return page.edited(ctx, r, values, p, g.Edited[p.Key], into)
	},
}
