package intake

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"plainpath/core/model"
	"plainpath/core/value"
)

// Typed reads text as somebody pastes it into one cell of a field, nil for empty. What can
// be read in more than one way is refused. An amount without a currency is in the one
// given. References are not read here.
func Typed(f *model.Field, text, currency string, zone *time.Location) (value.Value, error) {
	text = unprotected(strings.TrimSpace(text))
	if text == "" {
		return nil, nil
	}
	switch f.Type {
	case model.Choice:
		return chosen(f, text)
	case model.Choices:
		return severalChosen(f, text)
	case model.Picture, model.File:
		return nil, fmt.Errorf("%s cannot be pasted", f.Label)
	case model.Money:
		if !strings.ContainsFunc(text, func(r rune) bool {
			return r >= 'A' && r <= 'z' || r > 0x2000 ||
				signs[string(r)] != ""
		}) {
			text += " " + currency
		}
	}
	var found []value.Value
	var first error
	for _, form := range forms(f.Type) {
		v, err := Reading{f.Type, form}.Value(text, zone)
		switch {
		case err != nil && first == nil:
			first = err
		case err == nil && !slices.ContainsFunc(found, func(o value.Value) bool { return value.Equal(o, v) }):
			found = append(found, v)
		}
	}
	switch len(found) {
	case 0:
		return nil, first
	case 1:
		return found[0], nil
	}
	return nil, errors.New(strings.Join(readAs(found), " or ") +
		"? Write it so that it can only be read in one way, such as 2026-03-01 or 1234.50")
}

func readAs(found []value.Value) []string {
	out := make([]string, len(found))
	for i, v := range found {
		out[i] = value.Display(v)
	}
	return out
}

func forms(t model.FieldType) []string {
	var out []string
	for _, r := range readings {
		if r.Type == t {
			out = append(out, r.Form)
		}
	}
	if out == nil {
		return []string{""}
	}
	return out
}

// Protected puts a quote in front of text that a spreadsheet would run as a formula when
// it opens a CSV. Unprotected takes it away again, and nothing else.
func Protected(s string) string {
	if strings.ContainsAny(s, "=+-@\t\r") && formula(strings.TrimLeft(s, "'")) {
		return "'" + s
	}
	return s
}

func unprotected(s string) string {
	if strings.HasPrefix(s, "'") && formula(strings.TrimLeft(s, "'")) {
		return s[1:]
	}
	return s
}

func formula(s string) bool { return s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) }
