package search

import (
	"fmt"
	"maps"
	"slices"

	"github.com/shopspring/decimal"

	"plainpath/core/model"
	"plainpath/core/value"
)

// Aggregate says what is made of the values of a field.
type Aggregate string

// The aggregates. Empty values take no part in them.
const (
	Sum      Aggregate = "sum"
	Average  Aggregate = "average"
	Least    Aggregate = "least"
	Greatest Aggregate = "greatest"
	// Count is how many values there are.
	Count Aggregate = "count"
)

// Total is an aggregate of a field.
type Total struct {
	Path model.Path
	Of   Aggregate
	// Converted says that amounts of all currencies are put together by their rates.
	Converted bool
}

// Figure is what a total comes to: one value, none when all were empty, a value.Failure where
// one of the values failed, or one for each currency, which are never put together without a rate. A converted total comes first,
// and after it what could not be converted, by currency.
type Figure []value.Value

// Converter gives amounts in the currency of the house, false when there is no rate.
type Converter interface {
	Convert(m value.Money) (value.Money, bool, error)
}

// CheckTotal says why a total cannot be made.
func CheckTotal(t Total) error {
	f := t.Path.Last()
	if t.Converted && f.Kind() != value.KindMoney {
		return &LookError{fmt.Sprintf("%s is no amount of money that could be converted.", f.Label)}
	}
	ordered, added := false, false
	switch f.Kind() {
	case value.KindWhole:
		ordered, added = true, f.Type != model.Number
	case value.KindDecimal, value.KindMoney:
		ordered, added = true, true
	case value.KindDate, value.KindInstant:
		ordered = true
	}
	switch t.Of {
	case Count:
		return nil
	case Sum, Average:
		if added {
			return nil
		}
	case Least, Greatest:
		if ordered {
			return nil
		}
	}
	return &LookError{fmt.Sprintf("There is no %s of %s.", t.Of, f.Label)}
}

// aggregate is the SQL a total is made from.
func aggregate(t Total, x string) []string {
	switch t.Of {
	case Sum:
		return []string{"sum(" + x + ")"}
	case Average:
		return []string{"sum(" + x + ")", "count(" + x + ")"}
	case Least:
		return []string{"min(" + x + ")"}
	case Count:
		return []string{"count(" + x + ")"}
	}
	return []string{"max(" + x + ")"}
}

// merger is the totals of one group while its pieces are put together.
type merger struct {
	totals []Total
	pieces []map[string]piece
	// failed is why some of the values of a total could not be computed, nil where all could.
	failed []value.Value
}

// piece is what the values of one currency come to, "" for values without one.
type piece struct {
	v     value.Value
	count int64
}

func newMerger(totals []Total) *merger {
	m := &merger{totals: totals, pieces: make([]map[string]piece, len(totals)), failed: make([]value.Value, len(totals))}
	for i := range m.pieces {
		m.pieces[i] = map[string]piece{}
	}
	return m
}

func (m *merger) take(g *Groups, row []any) error {
	at := g.split
	for i, t := range m.totals {
		kind := t.Path.Last().Kind()
		if (t.Of == Sum || t.Of == Average) && kind == value.KindWhole {
			kind = value.KindDecimal
		}
		currency := ""
		if n := g.currencies[i]; n >= 0 {
			currency, _ = row[n].(string)
		}
		var v value.Value
		var err error
		switch {
		case t.Of == Count:
			v, err = Decode(value.KindWhole, row[at])
		case kind == value.KindMoney:
			v, err = money(row[at], row[g.currencies[i]])
		default:
			v, err = Decode(kind, row[at])
		}
		if err != nil {
			return fmt.Errorf("reading a total of %s: %w", t.Path.Last().Label, err)
		}
		at++
		p := piece{v: v}
		if t.Of == Average {
			p.count, _ = row[at].(int64)
			at++
		}
		if g.fails[i] {
			why, failed := row[at].(string)
			if at++; failed && (m.failed[i] == nil || why < value.Display(m.failed[i])) { // the same whatever the order
				m.failed[i] = value.Failure{Why: why}
			}
		}
		if v != nil {
			if p, err = m.pieces[i][currency].with(p, t.Of); err != nil {
				return err
			}
			m.pieces[i][currency] = p
		}
	}
	return nil
}

// with is two pieces of the same currency put together.
func (p piece) with(o piece, of Aggregate) (piece, error) {
	if p.v == nil {
		return o, nil
	}
	if of == Sum || of == Average || of == Count {
		v, err := value.Arith("+", p.v, o.v)
		return piece{v, p.count + o.count}, err
	}
	order, _ := value.Compare(o.v, p.v)
	if of == Least && order < 0 || of == Greatest && order > 0 {
		return o, nil
	}
	return p, nil
}

func (m *merger) figures(rates Converter) ([]Figure, error) {
	out := make([]Figure, len(m.totals))
	for i, t := range m.totals {
		out[i] = Figure{}
		pieces := make([]piece, 0, len(m.pieces[i]))
		for _, currency := range slices.Sorted(maps.Keys(m.pieces[i])) {
			pieces = append(pieces, m.pieces[i][currency])
		}
		if t.Converted {
			var err error
			if pieces, err = converted(pieces, t.Of, rates); err != nil {
				return nil, err
			}
		}
		if m.failed[i] != nil && t.Of != Count { // part of a total is no total
			out[i] = Figure{m.failed[i]}
			continue
		}
		for _, p := range pieces {
			if t.Of == Average {
				p.v = p.average()
			}
			out[i] = append(out[i], p.v)
		}
	}
	return out, nil
}

// converted is the pieces that have a rate put together, and after them the others.
func converted(pieces []piece, of Aggregate, rates Converter) ([]piece, error) {
	var all piece
	var others []piece
	for _, p := range pieces {
		amount, _ := p.v.(value.Money)
		v, ok, err := rates.Convert(amount)
		if err != nil {
			return nil, err
		}
		if !ok {
			others = append(others, p)
		} else if all, err = all.with(piece{v, p.count}, of); err != nil {
			return nil, err
		}
	}
	if all.v == nil {
		return others, nil
	}
	return append([]piece{all}, others...), nil
}

// average divides as expressions do: to 12 places, half away from zero.
func (p piece) average() value.Value {
	n := decimal.NewFromInt(p.count)
	switch x := p.v.(type) {
	case value.Money:
		return value.Money{Amount: x.Amount.DivRound(n, value.DivisionPlaces), Currency: x.Currency}
	case value.Decimal:
		return value.Decimal{Decimal: x.DivRound(n, value.DivisionPlaces)}
	}
	return nil
}
