package intake

import (
	"fmt"
	"strings"
	"time"

	"plainpath/core/model"
	"plainpath/core/value"
)

// Cell reads a cell as the value of a field. References stay the text that names a
// record.
func (c *ColumnPlan) Cell(f *model.Field, cell string, zone *time.Location) (value.Value, error) {
	trimmed := strings.TrimSpace(cell)
	if f.Target() != "" {
		if trimmed == "" {
			if f.Required {
				return nil, fmt.Errorf("%s is required", f.Label)
			}
			return nil, nil
		}
		return value.Tidy(value.Text(trimmed)), nil
	}
	var v value.Value
	var err error
	switch {
	case trimmed == "":
	case f.Type == model.Number: // one of the names of a record
		return value.Text(trimmed), nil
	case f.Type == model.Choice:
		v, err = chosen(f, trimmed)
	case f.Type == model.Choices:
		v, err = severalChosen(f, trimmed)
	case c.Reading.Type.Kind() == f.Kind():
		v, err = c.Reading.Value(cell, zone)
	case f.Kind() == value.KindText:
		v = value.Text(cell)
	default:
		v, err = Reading{f.Type, c.Reading.Form}.Value(cell, zone)
	}
	if err != nil {
		return nil, err
	}
	v = value.Tidy(v)
	return v, f.CheckValue(v)
}

func severalChosen(f *model.Field, cell string) (value.Value, error) {
	var keys []string
	for _, one := range severalIn(cell) {
		v, err := chosen(f, one)
		if err != nil {
			return nil, err
		}
		keys = append(keys, value.Display(v))
	}
	return value.NewSeveral(keys...), nil
}

// severalIn takes a cell apart that holds several choices.
func severalIn(cell string) []string {
	var out []string
	for cell = strings.TrimSpace(cell); cell != ""; cell = strings.TrimSpace(cell) {
		one, rest, quoted := quotedFirst(cell)
		if !quoted {
			end := strings.IndexAny(cell, ",;|\n")
			if end < 0 {
				end = len(cell)
			}
			one, rest = strings.TrimSpace(cell[:end]), cell[end:]
		}
		if one != "" {
			out = append(out, one)
		}
		cell = strings.TrimLeft(rest, ",;|\n")
	}
	return out
}

// quotedFirst takes a text in quotes from the beginning of a cell; two quotes stand for one.
func quotedFirst(cell string) (text, rest string, ok bool) {
	if !strings.HasPrefix(cell, `"`) {
		return "", cell, false
	}
	var b strings.Builder
	for i := 1; i < len(cell); i++ {
		switch {
		case cell[i] != '"':
			b.WriteByte(cell[i])
		case i+1 < len(cell) && cell[i+1] == '"':
			b.WriteByte('"')
			i++
		default:
			rest = strings.TrimSpace(cell[i+1:])
			return b.String(), rest, rest == "" || strings.ContainsRune(",;|\n", rune(rest[0]))
		}
	}
	return "", cell, false
}

// chosen finds a choice by its label or key. Letters may be written large or small where that
// leaves but one.
func chosen(f *model.Field, cell string) (value.Value, error) {
	for _, c := range f.Choices {
		if c.Label == cell {
			return value.Text(c.Key), nil
		}
	}
	var alike []model.ChoiceValue
	for _, c := range f.Choices {
		if c.Key == cell {
			return value.Text(c.Key), nil
		}
		if strings.EqualFold(c.Label, cell) || strings.EqualFold(c.Key, cell) {
			alike = append(alike, c)
		}
	}
	switch len(alike) {
	case 0:
		return nil, fmt.Errorf("%s has no value %q", f.Label, cell)
	case 1:
		return value.Text(alike[0].Key), nil
	}
	return nil, fmt.Errorf("%q could be %s or %s of %s: write it as it is there", cell, alike[0].Label, alike[1].Label,
		f.Label)
}
