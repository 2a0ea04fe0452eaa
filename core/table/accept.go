package table

import (
	"context"
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Accept makes a known value of the rows somebody chose, with the given fields, or says what is wrong
// with them: more or fewer than asked for, or not in the list.
func (p *Program) Accept(ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) (value.Value, string, error) {
	if c.All != nil {
		all, err := p.All(ctx, r, values, c, fields)
		if err != nil {
			return nil, "", err
		}
		n, err := all.Source.Count()
		if err != nil {
			return nil, "", err
		}
		if n > MostChosen && p.Select == SelectSeveral {
			if p.Most > 0 {
				return nil, p.tooMany(n), nil
			}
			return all, "", nil
		}
	}
	records, err := p.Read(ctx, r, values, c, fields)
	if err != nil {
		return nil, "", err
	}
	given := len(c.Keys)
	if c.All != nil {
		given = len(records)
	}
	switch {
	case p.Select == SelectOne && (given > 1 || given < min(p.fewest(), 1)):
		return nil, "choose one row", nil
	case given < p.fewest() && p.Select == SelectSeveral:
		return nil, p.tooFew(), nil
	case p.Most > 0 && given > p.Most:
		return nil, p.tooMany(int64(given)), nil
	case len(records) != given:
		return nil, "what was chosen is not in the list, or no longer; choose again", nil
	}
	return p.chosen(records), "", nil
}

func (p *Program) tooMany(n int64) string {
	if len(p.Ask) > 0 {
		return fmt.Sprintf("fill in at most %d rows; %d are filled in", p.Most, n)
	}
	return fmt.Sprintf("choose at most %d; %d are chosen", p.Most, n)
}

func (p *Program) tooFew() string {
	if len(p.Ask) > 0 {
		return fmt.Sprintf("fill in at least %d", p.fewest())
	}
	return fmt.Sprintf("choose at least %d", p.fewest())
}

// Restore makes a known value of rows that were accepted before and need not be in the list any more.
func (p *Program) Restore(ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) (value.Value, string, error) {
	if c.All != nil { // so many that they were not kept one by one
		all, err := p.All(ctx, r, values, c, fields)
		if err != nil {
			return nil, "", err
		}
		return all, "", nil
	}
	records, err := records.ByKey(ctx, r, p.object, c.Keys, fields)
	if err != nil {
		return nil, "", err
	}
	if len(records) != len(c.Keys) || len(records) < min(p.fewest(), 1) {
		return nil, "what was chosen is no longer there", nil
	}
	return p.chosen(records), "", nil
}

func (p *Program) chosen(records []*value.Record) value.Value {
	if p.Select == SelectOne {
		if len(records) == 0 {
			return nil
		}
		return records[0]
	}
	return &value.List{Object: p.object, Source: value.Records(records)}
}

// All is the rows chosen of everything that matches as a person looked at the list. It is only bound: nothing
// is read until something asks for it.
func (p *Program) All(ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) (*value.List, error) {
	l, err := p.Listing(ctx, r, values)
	if err != nil {
		return nil, err
	}
	q, err := l.Of(r, c)
	q.Columns = fields
	return &value.List{Object: p.object, Source: &records.Listed{Context: ctx, Reader: r, Query: q}}, err
}

// Read reads the chosen rows again, in the list they were chosen from and under
// the person's grant. Keys that are not in it are left out.
func (p *Program) Read(ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) ([]*value.Record, error) {
	l, err := p.Listing(ctx, r, values)
	if err != nil {
		return nil, err
	}
	q, err := l.Of(r, c)
	if err != nil {
		return nil, err
	}
	q.Columns, q.Limit = fields, MostChosen+1
	found, err := records.Select(ctx, r, q)
	if c.All != nil {
		return found, err
	}
	return records.InOrder(found, c.Keys), err
}
