package screen

import (
	"context"
	"encoding/json"

	"plainpath/core/expr"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

var tableKind = partKind{TablePart, func(def *Part) bool { return def.Table != nil }, checkTable}

type tabled struct {
	*Part
	table *table.Program
}

func checkTable(c *compiler, p *part, at string) content {
	owner := table.Owner{Key: p.Key, Label: p.Label, Was: p.Was, Parts: c.parts}
	program := table.Compile(c.Check, c.scope, owner, p.Table, at)
	if program == nil {
		return nil
	}
	c.out.Uses = append(c.out.Uses, program.Uses...)
	if gives, any := program.Gives(); any {
		c.out.Answers = append(c.out.Answers, expr.Name{Key: p.Key, Label: p.Label, Of: p.at, Type: gives})
	}
	return &tabled{p.Part, program}
}

func (p *tabled) show(ctx context.Context, r records.Reader, values expr.Values, g Given, view *PartView) (err error) {
	if view.Table, err = p.table.Show(ctx, r, values, g.Looks[p.Key]); err != nil {
		return err
	}
	return p.keep(ctx, r, values, g.Answers[p.Key], view)
}

func (p *tabled) take(ctx context.Context, r records.Reader, values expr.Values,
	t taking) (value.Value, string, error) {
	if len(p.Table.Ask) > 0 {
		return p.table.Answered(ctx, r, values, t.raw, t.fields, t.rows)
	}
	chosen, err := table.ParseChosen(t.raw)
	if err != nil {
		return nil, err.Error(), nil
	}
	return t.rows(p.table, ctx, r, values, chosen, t.fields)
}

func (p *tabled) know(ctx context.Context, r records.Reader, values expr.Values, g Given, used Used) error {
	into, _ := values[p.Key].(*value.Record)
	if into == nil {
		return nil
	}
	if err := p.selection(ctx, r, values, g.Answers[p.Key], used, into); err != nil {
		return err
	}
	if err := p.matching(ctx, r, values, g.Looks[p.Key], used, into); err != nil {
		return err
	}
	return p.edited(ctx, r, values, g.Edited[p.Key], used, into)
}

// keep shows the rows chosen earlier that are still in the list, and says so when
// some are not.
func (p *tabled) keep(ctx context.Context, r records.Reader, values expr.Values, earlier json.RawMessage,
	view *PartView) error {
	chosen, err := p.table.Earlier(earlier)
	if err != nil || len(chosen) == 0 {
		return nil //nolint:nilerr // what cannot be read was not chosen
	}
	var c table.Chosen
	given := map[int64]table.ChosenRow{}
	for _, row := range chosen {
		c.Keys = append(c.Keys, row.ID)
		given[row.ID] = row
	}
	records, err := p.table.Read(ctx, r, values, c, nil)
	if err != nil {
		return err
	}
	for _, rec := range records {
		view.Table.Chosen = append(view.Table.Chosen,
			table.ChosenRow{Ref: value.Ref{ID: rec.ID, Label: rec.Label}, Values: given[rec.ID].Values})
	}
	if len(records) < len(c.Keys) {
		view.Lost = "What was chosen here before is no longer in the list. Please choose again."
	}
	return nil
}
