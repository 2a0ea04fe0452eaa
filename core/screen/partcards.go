package screen

import (
	"context"

	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/table"
)

var cardsKind = partKind{CardsPart, func(def *Part) bool { return def.Cards != nil }, checkCards}

type cards struct{ *table.CardsProgram }

func checkCards(c *compiler, p *part, at string) content {
	owner := table.Owner{Key: p.Key, Label: p.Label, Was: p.Was, Parts: c.parts}
	program := table.CompileCards(c.Check, c.scope, owner, p.Cards, at)
	if program == nil {
		return nil
	}
	c.out.Uses = append(c.out.Uses, program.Uses...)
	return &cards{program}
}

func (p *cards) show(ctx context.Context, r records.Reader, values expr.Values, _ Given, view *PartView) (err error) {
	view.Cards, err = p.Show(ctx, r, values)
	return err
}

func (p *cards) list(which string) *table.Program { return p.List(which) }
