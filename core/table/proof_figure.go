package table

import (
	"context"

	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// ProofFigureView says how a total is made: of how many values, and of amounts by currency
// what they come to before and after they are converted.
type ProofFigureView struct {
	Label string `json:"label"`
	// Filled and Empty are how many of the records have a value and how many have none.
	Filled int64            `json:"filled"`
	Empty  int64            `json:"empty"`
	Pieces []ProofPieceView `json:"pieces,omitempty"`
	Total  FigureView       `json:"total"`
	// RatesOn is the day amounts were converted for.
	RatesOn any `json:"rates_on,omitempty"`
}

// ProofPieceView is the amounts of one currency.
type ProofPieceView struct {
	Value any   `json:"value"`
	Count int64 `json:"count"`
	// Rate is what they were converted by, nil where they were not to be.
	Rate *RateView `json:"rate,omitempty"`
	// Without are some of the records, where there was no rate.
	Without []value.Ref `json:"without,omitempty"`
}

// mostNamed is how many records without a rate are named.
const mostNamed = 10

func proofFigure(ctx context.Context, r records.Reader, v looked, total query.Total) (ProofFigureView, error) {
	apart := total
	apart.Converted = false
	whole := v
	whole.totals = []query.Total{total, apart, {Path: total.Path, Of: query.Count}}
	_, all, _, err := groups(ctx, r, whole, nil)
	if err != nil {
		return ProofFigureView{}, err
	}
	out := ProofFigureView{Label: Heading(total.Path), Total: figures(whole.totals, all)[0]}
	var counts []int64
	for _, c := range all.Totals[2] {
		if n, _ := c.(value.Whole); n > 0 { // amounts that are empty have no currency
			counts, out.Filled = append(counts, int64(n)), out.Filled+int64(n)
		}
	}
	out.Empty = all.Count - out.Filled
	if total.Path.Last().Kind() != value.KindMoney {
		return out, nil
	}
	for i, amount := range all.Totals[1] {
		piece := ProofPieceView{Value: value.Wire(amount), Count: counts[i]}
		if m, _ := amount.(value.Money); total.Converted && m.Currency != v.rates.house {
			if err := piece.convertedBy(ctx, r, v, total, m.Currency); err != nil {
				return out, err
			}
		}
		out.Pieces = append(out.Pieces, piece)
	}
	if total.Converted {
		out.RatesOn = value.Wire(v.rates.on)
	}
	return out, nil
}

// convertedBy names the rate, or the records for which there is none.
func (p *ProofPieceView) convertedBy(ctx context.Context, r records.Reader, v looked, total query.Total,
	currency string) error {
	for _, rate := range v.rates.views() {
		if rate.Currency == currency {
			p.Rate = &rate
		}
	}
	if p.Rate != nil && p.Rate.Rate != nil {
		return nil
	}
	q := v.query
	q.Columns, q.Limit = nil, mostNamed
	q.Filter = predicate.All{orTrue(q.Filter), predicate.InCurrency{Path: total.Path, Currency: currency}}
	records, err := records.Select(ctx, r, q)
	for _, rec := range records {
		p.Without = append(p.Without, value.Ref{ID: rec.ID, Label: rec.Label})
	}
	return err
}
