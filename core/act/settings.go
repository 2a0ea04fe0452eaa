package act

import (
	"errors"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Settings are what fields of a new record begin with, checked. The zero value sets none.
type Settings struct {
	sets []query.Assignment
	// Uses are the known values that they depend on.
	Uses [][]string
}

// CheckSettings checks what fields of a new record of an object begin with. Pointers are below the given one, in its
// member values.
func CheckSettings(p Environment, o *model.Object, defs []Assignment, at string) Settings {
	c := &check{Environment: p, Check: p.Check}
	of := c.settings(o, defs, "", p.Scope, nil, at, definition.Care)
	return Settings{of.sets, c.uses}
}

// Sets says whether a field begins with something.
func (s Settings) Sets(field string) bool {
	for _, set := range s.sets {
		if set.Field.Key == field {
			return true
		}
	}
	return false
}

// Values are the settings by field. One that cannot be stored in its field is empty, and a problem with the field as
// its pointer.
func (s Settings) Values(values expr.Values) (map[string]value.Value, []model.Problem, error) {
	out := map[string]value.Value{}
	var problems []model.Problem
	for _, set := range s.sets {
		v, err := computed(set, values)
		var invalid invalidError
		if errors.As(err, &invalid) {
			problems = append(problems, model.Problem{Pointer: "/" + set.Field.Key, Text: err.Error()})
		} else if err != nil {
			return nil, nil, err
		}
		out[set.Field.Key] = v
	}
	return out, problems, nil
}
