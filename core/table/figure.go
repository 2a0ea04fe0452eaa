package table

import (
	"context"
	"fmt"

	"github.com/shopspring/decimal"

	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Reckoned is one figure over a list, and over how many records it is made.
type Reckoned struct {
	Count int64 `json:"count"`
	// Total is what is made of a field, nil where the figure is the count.
	Total *FigureView `json:"total,omitempty"`
	whole query.Figure
}

// Figure counts the list, or makes a total of a field of it.
func (l *Listing) Figure(ctx context.Context, r records.Reader, total *LookTotal) (Reckoned, error) {
	var out Reckoned
	look := Look{}
	if total != nil {
		look.Totals = []LookTotal{*total}
	}
	v, err := l.look(r, look)
	if err != nil {
		return out, err
	}
	if total == nil {
		v.query.Order, v.query.Columns = nil, nil
		if out.Count, err = records.Count(ctx, r, v.query); err != nil {
			return out, fmt.Errorf("counting: %w", err)
		}
		return out, nil
	}
	_, all, _, err := groups(ctx, r, v, nil)
	if err != nil {
		return out, err
	}
	out.Count, out.Total, out.whole = all.Count, &figures(v.totals, all)[0], all.Totals[0]
	return out, nil
}

// changePlaces is to how many places a change in percent is rounded.
const changePlaces = 1

// Change is by how many percent the figure is more than another, negative where it is less; false where that means
// nothing: from nought, of days, of amounts of several currencies or of different ones.
func (f Reckoned) Change(from Reckoned) (decimal.Decimal, bool) {
	is, unit, ok := f.number()
	was, other, too := from.number()
	if !ok || !too || unit != other || was.Sign() <= 0 {
		return decimal.Zero, false
	}
	return is.Sub(was).Mul(decimal.NewFromInt(100)).DivRound(was, changePlaces), true
}

// number is the figure as a number, with its currency.
func (f Reckoned) number() (n decimal.Decimal, currency string, ok bool) {
	if f.Total == nil {
		return decimal.NewFromInt(f.Count), "", true
	}
	if len(f.whole) != 1 {
		return n, "", false
	}
	switch v := f.whole[0].(type) {
	case value.Whole:
		return decimal.NewFromInt(int64(v)), "", true
	case value.Decimal:
		return v.Decimal, "", true
	case value.Money:
		return v.Amount, v.Currency, true
	}
	return n, "", false
}
