package table

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// RateView is the rate that amounts of a currency were converted by.
type RateView struct {
	Currency string `json:"currency"`
	// Day is the day the rate is of, Rate what one of the currency is worth in that of the
	// house; both are empty when there is none.
	Day  any `json:"day"`
	Rate any `json:"rate"`
}

// rates converts amounts by the latest rates up to a day. Each is read when it is needed.
type rates struct {
	on    value.Date
	house string
	table *model.RateTable
	read  func(value.Text) (*value.Record, error)
	known map[string]*value.Record
}

// ratesOn prepares the rates of a day, today's for "". It is a *query.LookError when
// there are no rates or the person may not see them.
func ratesOn(r records.Reader, day string) (*rates, error) {
	m := r.Model()
	if m.Rates == nil {
		return nil, wrongLook("Amounts cannot be converted: the app names no rates.")
	}
	g, err := r.Grant(m.Rates.Object)
	if err != nil {
		return nil, err
	}
	if !g.MaySee() || !g.SeesField(m.Rates.Currency) || !g.SeesField(m.Rates.Day) || !g.SeesField(m.Rates.Rate) {
		return nil, wrongLook("Amounts cannot be converted: you may not see the rates.")
	}
	out := &rates{house: m.Currency, table: m.Rates, known: map[string]*value.Record{}}
	out.on, _ = r.Base()["today"].(value.Date)
	if day != "" {
		v, err := value.ParseDate(day)
		if err != nil {
			return nil, wrongLook("%q is no day whose rates there could be.", day)
		}
		out.on = v
	}
	return out, nil
}

// reading lets the rates be read.
func (c *rates) reading(ctx context.Context, r records.Reader) error {
	if c == nil {
		return nil
	}
	var paths [3]model.Path
	for i, field := range []string{c.table.Currency, c.table.Day, c.table.Rate} {
		var err error
		if paths[i], err = r.Model().Path(c.table.Object, field); err != nil {
			return fmt.Errorf("finding the rates: %w", err)
		}
	}
	c.read = func(currency value.Text) (*value.Record, error) {
		found, err := records.Select(ctx, r, query.Query{Object: c.table.Object, Limit: 1, Columns: paths[1:],
			Order: []query.Order{{Path: paths[1], Desc: true}}, Latest: true,
			Filter: predicate.All{predicate.Test{Path: paths[0], Op: predicate.Is, Value: currency},
				predicate.Test{Path: paths[1], Op: predicate.LessOrEqual, Value: c.on},
				predicate.Test{Path: paths[2], Op: predicate.IsNotEmpty}}})
		if err != nil || len(found) == 0 {
			return nil, err
		}
		return found[0], nil
	}
	return nil
}

// Convert gives an amount in the currency of the house, exactly, false when there is no
// rate for it.
func (c *rates) Convert(m value.Money) (value.Money, bool, error) {
	if m.Currency == c.house {
		return m, true, nil
	}
	rate, have := c.known[m.Currency]
	if !have {
		var err error
		if rate, err = c.read(value.Text(m.Currency)); err != nil {
			return m, false, fmt.Errorf("reading the rate of %s: %w", m.Currency, err)
		}
		c.known[m.Currency] = rate
	}
	if rate == nil {
		return m, false, nil
	}
	by, ok := rate.Fields[c.table.Rate].(value.Decimal)
	return value.Money{Amount: m.Amount.Mul(by.Decimal), Currency: c.house}, ok, nil
}

// views are the rates that were asked for, by currency.
func (c *rates) views() []RateView {
	if c == nil {
		return nil
	}
	var out []RateView
	for currency, rate := range c.known {
		v := RateView{Currency: currency}
		if rate != nil {
			v.Day, v.Rate = value.Wire(rate.Fields[c.table.Day]), value.Wire(rate.Fields[c.table.Rate])
		}
		out = append(out, v)
	}
	slices.SortFunc(out, func(a, b RateView) int { return strings.Compare(a.Currency, b.Currency) })
	return out
}
