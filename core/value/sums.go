package value

import (
	"cmp"
	"slices"
)

// Sums adds numbers or amounts up exactly, amounts of each currency for themselves. The zero Sums is nought.
type Sums struct{ of []sum }

type sum struct {
	currency string
	value    Value
}

// Add adds a value; what is empty adds nothing. A sum that cannot be computed is a Failure from then on.
func (s *Sums) Add(v Value) {
	if v == nil {
		return
	}
	var currency string
	if m, ok := v.(Money); ok {
		currency = m.Currency
	}
	i := slices.IndexFunc(s.of, func(x sum) bool { return x.currency == currency })
	if i < 0 {
		s.of = append(s.of, sum{currency, v})
		return
	}
	together, err := Arith("+", s.of[i].value, v)
	if err != nil {
		together = Failure{err.Error()}
	}
	s.of[i].value = together
}

// Values are the sums, in the order of their currencies.
func (s *Sums) Values() []Value {
	slices.SortFunc(s.of, func(a, b sum) int { return cmp.Compare(a.currency, b.currency) })
	out := make([]Value, len(s.of))
	for i, x := range s.of {
		out[i] = x.value
	}
	return out
}
