package table

import (
	"encoding/json"
	"slices"
	"strings"
	"unicode/utf8"

	"plainpath/core/predicate"
)

// What one look may ask for: more than anybody reads, and less than would keep the database busy
// for others.
const (
	mostWords      = 20
	mostText       = 500
	mostConditions = 100
	mostDepth      = 10
	mostAmong      = 1000
	mostOrders     = 10
	mostColumns    = 100
	mostTotals     = 30
	mostHidden     = 1000
	mostLevels     = 3
	mostPlace      = 20_000
)

// bounded says what of a look is beyond all bounds.
func (look Look) bounded() error {
	conditions, among, deep := measured(look.Filter)
	for _, b := range []struct {
		has, most int
		what      string
	}{
		{utf8.RuneCountInString(look.Text), mostText, "characters to look for"},
		{len(strings.Fields(look.Text)), mostWords, "words to look for"},
		{conditions, mostConditions, "conditions"},
		{deep, mostDepth, "conditions within one another"},
		{among, mostAmong, "values to compare with"},
		{len(look.Order), mostOrders, "orders"},
		{len(look.Columns), mostColumns, "columns"},
		{len(look.Totals), mostTotals, "totals"},
	} {
		if b.has > b.most {
			return wrongLook("These are %d %s, and at most %d can be asked for at once. Take some away.", b.has, b.what,
				b.most)
		}
	}
	levels := 0
	for g := look.Group; g != nil; g = g.Then {
		if levels++; levels > mostLevels {
			return wrongLook("There can be groups in groups %d deep.", mostLevels)
		}
		if len(g.Hidden) > mostHidden {
			return wrongLook("At most %d groups can be hidden.", mostHidden)
		}
	}
	switch {
	case slices.ContainsFunc(look.Deeper, func(raw json.RawMessage) bool { return len(raw) > mostPlace }),
		len(look.Deeper) > mostLevels, look.Size < 0 || len(look.After) > mostPlace || len(look.Within) > mostPlace:
		return wrongLook("The place in the list cannot be read. Begin at the first page again.")
	}
	return nil
}

// measured counts conditions with those inside them, the most values that one compares with, and how
// deep they stand within one another.
func measured(all []predicate.Condition) (count, among, deep int) {
	for _, c := range all {
		inner := append(append([]predicate.Condition{}, c.All...), c.Any...)
		if c.Related != nil {
			inner = append(inner, c.Related.Where)
		}
		n, a, d := measured(inner)
		count, among, deep = count+1+n, max(among, a, len(c.Values)), max(deep, d+1)
	}
	return count, among, deep
}
