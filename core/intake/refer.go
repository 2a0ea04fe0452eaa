package intake

import (
	"slices"
	"strings"

	"plainpath/core/model"
	"plainpath/core/value"
)

// candidate is what the cells of a column might name: a unique column or field.
type candidate struct {
	target Target
	// named are words that tell what it is of.
	named string
	holds Holder
}

// MatchColumns finds the columns whose values are those of a unique column of another
// sheet, or of a unique field of an object, and keeps the best match of each. Holds asks
// which values a field of stored records has.
func MatchColumns(found []FoundSheet, m *model.Model, holds func(*model.Object, *model.Field) Holder) error {
	fields := uniqueFields(m, holds)
	for i := range found {
		if found[i].Analysis == nil {
			continue
		}
		candidates := append(uniqueColumns(found), fields...)
		for c := range found[i].Analysis.Columns {
			column := &found[i].Analysis.Columns[c]
			best, err := column.best(slices.DeleteFunc(slices.Clone(candidates), func(to candidate) bool {
				// A sheet refers to itself only where several rows name one: a parent, a leader.
				return to.target.Object == "" && to.target.Sheet == i && (to.target.Column == c || column.Unique)
			}))
			if err != nil {
				return err
			}
			if best == nil {
				continue
			}
			if found[i].Matches == nil {
				found[i].Matches = map[int]Match{}
			}
			found[i].Matches[c] = *best
		}
	}
	return nil
}

func (c *Column) best(candidates []candidate) (*Match, error) {
	if !c.MayRefer() {
		return nil, nil
	}
	var best *Match
	for _, to := range candidates {
		if c.Guess.Type == model.Whole && !alikeWords(c.Heading, to.named) {
			continue // small numbers match by chance
		}
		m, err := c.Match(to.target, to.holds)
		if err != nil {
			return nil, err
		}
		if m != nil && (best == nil || m.Matches > best.Matches) {
			best = m
		}
	}
	return best, nil
}

// uniqueColumns are those of all sheets.
func uniqueColumns(found []FoundSheet) []candidate {
	var out []candidate
	for i := range found {
		if found[i].Analysis == nil || found[i].Hidden {
			continue
		}
		for c := range found[i].Analysis.Columns {
			if column := &found[i].Analysis.Columns[c]; column.Unique && column.MayRefer() {
				out = append(out, candidate{Target{Sheet: i, Column: c, Label: found[i].Name + " › " + column.Heading},
					found[i].Name + " " + column.Heading, column.Holds})
			}
		}
	}
	return out
}

func uniqueFields(m *model.Model, holds func(*model.Object, *model.Field) Holder) []candidate {
	var out []candidate
	for _, key := range m.Keys() {
		o := m.Object(key)
		for i := range o.Fields {
			f := &o.Fields[i]
			if f.Unique && (f.Kind() == value.KindText || f.Kind() == value.KindWhole) {
				out = append(out, candidate{Target{Object: key, Field: f.Key, Label: o.Label + " › " + f.Label},
					o.Label + " " + f.Label, holds(o, f)})
			}
		}
	}
	return out
}

// alikeWords says whether two names have a word in common, in the singular or plural.
func alikeWords(a, b string) bool {
	for _, x := range strings.Fields(strings.ToLower(a)) {
		for _, y := range strings.Fields(strings.ToLower(b)) {
			if len(x) > 3 && inflect.Singular(x) == inflect.Singular(y) {
				return true
			}
		}
	}
	return false
}
