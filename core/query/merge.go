package query

import (
	"maps"
	"slices"

	"github.com/shopspring/decimal"

	"plainpath/core/value"
)

// Group is the records that have values in common.
type Group struct {
	// Keys are the values, one for each grouping: a date for the first day of a month or year, nil for none.
	Keys  []value.Value
	Count int64
	// Totals are in the order they were asked for.
	Totals []Figure
}

// Piece is a part of a group: those of its records whose amounts are of the same currencies.
type Piece struct {
	Keys  []value.Value
	Count int64
	// Parts are those of each total.
	Parts []Part
}

// Part is what the values of one currency come to, "" for values without one.
type Part struct {
	Currency string
	// Value is their sum where a total is an average.
	Value value.Value
	// Count is how many there are where a total is an average.
	Count int64
	// Failed is why one of them could not be computed, "" where all could.
	Failed string
}

// Merge puts the pieces of groups together, which come one after another, and all of them to the
// whole. More says that there are more groups than were read, so that the whole is not known. The
// rates are for totals that are converted.
func Merge(pieces []Piece, by []Grouping, totals []Total,
	rates Converter) (groups []Group, all Group, more bool, err error) {
	if len(by) > 0 && len(pieces) > MostGroups {
		pieces, more = pieces[:MostGroups], true
	}
	var merging []*merger
	whole := newMerger(totals)
	for _, p := range pieces {
		last := len(groups) - 1
		if last < 0 || !slices.EqualFunc(groups[last].Keys, p.Keys, value.Same) {
			groups = append(groups, Group{Keys: p.Keys})
			merging = append(merging, newMerger(totals))
			last++
		}
		groups[last].Count += p.Count
		all.Count += p.Count
		for _, m := range []*merger{merging[last], whole} {
			if err := m.take(p.Parts); err != nil {
				return nil, all, false, err
			}
		}
	}
	if more && len(groups) > 1 { // the last may be only a piece
		groups = groups[:len(groups)-1]
	}
	for i := range groups {
		if groups[i].Totals, err = merging[i].figures(rates); err != nil {
			return nil, all, false, err
		}
	}
	all.Totals, err = whole.figures(rates)
	return groups, all, more, err
}

// merger is the totals of one group while its pieces are put together.
type merger struct {
	totals []Total
	parts  []map[string]Part
	// failed is why some of the values of a total could not be computed, nil where all could.
	failed []value.Value
}

func newMerger(totals []Total) *merger {
	m := &merger{totals: totals, parts: make([]map[string]Part, len(totals)), failed: make([]value.Value, len(totals))}
	for i := range m.parts {
		m.parts[i] = map[string]Part{}
	}
	return m
}

func (m *merger) take(parts []Part) error {
	for i, p := range parts {
		// the same whatever the order
		if p.Failed != "" && (m.failed[i] == nil || p.Failed < value.Display(m.failed[i])) {
			m.failed[i] = value.Failure{Why: p.Failed}
		}
		if p.Value == nil {
			continue
		}
		both, err := m.parts[i][p.Currency].with(p, m.totals[i].Of)
		if err != nil {
			return err
		}
		m.parts[i][p.Currency] = both
	}
	return nil
}

// with is two parts of the same currency put together.
func (p Part) with(o Part, of Aggregate) (Part, error) {
	if p.Value == nil {
		return o, nil
	}
	if of == Sum || of == Average || of == Count {
		v, err := value.Arith("+", p.Value, o.Value)
		return Part{Value: v, Count: p.Count + o.Count}, err
	}
	order, _ := value.Compare(o.Value, p.Value)
	if of == Least && order < 0 || of == Greatest && order > 0 {
		return o, nil
	}
	return p, nil
}

func (m *merger) figures(rates Converter) ([]Figure, error) {
	out := make([]Figure, len(m.totals))
	for i, t := range m.totals {
		out[i] = Figure{}
		parts := make([]Part, 0, len(m.parts[i]))
		for _, currency := range slices.Sorted(maps.Keys(m.parts[i])) {
			parts = append(parts, m.parts[i][currency])
		}
		if t.Converted {
			var err error
			if parts, err = converted(parts, t.Of, rates); err != nil {
				return nil, err
			}
		}
		if m.failed[i] != nil && t.Of != Count { // part of a total is no total
			out[i] = Figure{m.failed[i]}
			continue
		}
		for _, p := range parts {
			if t.Of == Average {
				p.Value = p.average()
			}
			out[i] = append(out[i], p.Value)
		}
	}
	return out, nil
}

// converted is the parts that have a rate put together, and after them the others.
func converted(parts []Part, of Aggregate, rates Converter) ([]Part, error) {
	var all Part
	var others []Part
	for _, p := range parts {
		amount, _ := p.Value.(value.Money)
		v, ok, err := rates.Convert(amount)
		if err != nil {
			return nil, err
		}
		if !ok {
			others = append(others, p)
		} else if all, err = all.with(Part{Value: v, Count: p.Count}, of); err != nil {
			return nil, err
		}
	}
	if all.Value == nil {
		return others, nil
	}
	return append([]Part{all}, others...), nil
}

// average divides as expressions do: to 12 places, half away from zero.
func (p Part) average() value.Value {
	n := decimal.NewFromInt(p.Count)
	switch x := p.Value.(type) {
	case value.Money:
		return value.Money{Amount: x.Amount.DivRound(n, value.DivisionPlaces), Currency: x.Currency}
	case value.Decimal:
		return value.Decimal{Decimal: x.DivRound(n, value.DivisionPlaces)}
	}
	return nil
}
