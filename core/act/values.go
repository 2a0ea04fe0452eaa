package act

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Assignment says what a field is to be. It may depend on the record at hand.
type Assignment struct {
	Field string            `json:"field"`
	Value predicate.Operand `json:"value"`
}

// assignments are checked ones.
type assignments struct {
	sets []query.Assignment
	// item is what expressions call the record at hand, "" when there is none.
	item string
	// turns is why the database cannot compute them for all records at once, nil when it can.
	turns error
}

// Sets are the keys of the fields that are set.
func (s *assignments) Sets() []string {
	out := make([]string, len(s.sets))
	for i, set := range s.sets {
		out[i] = set.Field.Key
	}
	return out
}

// RefusedError says in words why records could not be written.
type RefusedError struct {
	Step, Text string
	Err        error
}

func (e *RefusedError) Error() string { return e.Text }
func (e *RefusedError) Unwrap() error { return e.Err }

// settings checks what fields of an object are to be. Consequence is what happens where one cannot be
// set; list are the known values that the record at hand comes from.
func (c *check) settings(o *model.Object, defs []Assignment, item string, scope expr.Scope, list [][]string, at string,
	empty definition.Severity) *assignments {
	out := &assignments{item: item}
	for i, def := range defs {
		if slices.ContainsFunc(defs[:i], func(d Assignment) bool { return d.Field == def.Field }) {
			pointer := fmt.Sprintf("%s/values/%d", at, i)
			c.Find(definition.Stop, pointer+"/field", fmt.Sprintf("%q is set twice", def.Field),
				"It would not be known to what.",
				&definition.Mend{Label: "Leave this one out", Patch: []definition.Op{{Op: "remove", Path: pointer}}})
			continue
		}
		c.setting(out, o, def, scope, list, fmt.Sprintf("%s/values/%d", at, i), empty)
	}
	return out
}

func (c *check) setting(out *assignments, o *model.Object, def Assignment, scope expr.Scope, list [][]string, at string,
	empty definition.Severity) {
	f := c.Field(o, def.Field, at+"/field", "The value would go nowhere.")
	switch {
	case f == nil:
		return
	case !f.Stored():
		c.Find(definition.Stop, at+"/field", fmt.Sprintf("%s is given its value by the program", f.Label),
			"The value would be lost.",
			&definition.Mend{Label: "Remove it", Patch: []definition.Op{{Op: "remove", Path: at}}})
		return
	case def.Value.Expression == "":
		v, err := value.Parse(f.Kind(), def.Value.Literal)
		if err == nil {
			err = f.CheckValue(v)
		}
		if err != nil {
			c.Fail(err, at+"/value/literal", "", f.Label+" would not be set.")
			return
		}
		c.Mention(f.ChoiceMentions(o.Key, def.Value.Literal, at+"/value/literal")...)
		out.sets = append(out.sets, query.Assignment{Field: f, Value: v})
		return
	}
	pointer, source := at+"/value/expression", def.Value.Expression
	p := c.ExpressionFor(f, scope, source, pointer, f.Label+" would not be set.")
	if p == nil {
		return
	}
	if p.Type.Empty && f.Required {
		c.Find(empty, at+"/value", fmt.Sprintf("%q can be empty here, but %s is required", p.Source, f.Label),
			fmt.Sprintf("When it is empty the %s could not be written and the person would be stuck.",
				strings.ToLower(o.Label)),
			definition.Replace("Say what is needed where it is empty", pointer,
				fmt.Sprintf("needed(%s, %q)", p.Source, f.Label+" is needed.")))
	}
	for _, u := range p.Uses {
		if out.item == u[0] {
			for _, l := range list {
				c.uses = append(c.uses, append(slices.Clone(l), u[1:]...))
			}
			continue
		}
		c.uses = append(c.uses, u)
	}
	if out.of(p) && out.turns == nil {
		out.turns = predicate.Writable(p)
	}
	out.sets = append(out.sets, query.Assignment{Field: f, Program: p})
}

// of says whether an expression depends on the record at hand.
func (s *assignments) of(p *expr.Program) bool {
	return s.item != "" && slices.ContainsFunc(p.Uses, func(u []string) bool { return u[0] == s.item })
}

// known computes the settings that are the same for all records, and leaves the others to the database.
func (s *assignments) known(values expr.Values) ([]query.Assignment, error) {
	out := slices.Clone(s.sets)
	for i, set := range out {
		if set.Program == nil || s.of(set.Program) {
			continue
		}
		v, err := computed(set, values)
		if err != nil {
			return nil, err
		}
		out[i] = query.Assignment{Field: set.Field, Value: v}
	}
	return out, nil
}

// row computes all settings of one record.
func (s *assignments) row(values expr.Values) ([]value.Value, error) {
	row := make([]value.Value, len(s.sets))
	for i, set := range s.sets {
		var err error
		if row[i], err = computed(set, values); err != nil {
			return nil, err
		}
	}
	return row, nil
}

// with is the known values and the record at hand.
func (s *assignments) with(values expr.Values, record *value.Record) expr.Values {
	out := maps.Clone(values)
	out[s.item] = record
	return out
}

// invalidError says that a value may not be stored in its field.
type invalidError struct{ error }

func (e invalidError) Refused() string { return e.Error() }

// computed is the value of a setting, checked against its field.
func computed(set query.Assignment, values expr.Values) (value.Value, error) {
	v := set.Value
	if set.Program != nil {
		var err error
		if v, err = set.Program.Eval(values); err != nil {
			return nil, err
		}
	}
	if why, failed := v.(value.Failure); failed {
		return nil, invalidError{fmt.Errorf("%s cannot be stored: it is %s", set.Field.Label, why.Why)}
	}
	if err := set.Field.CheckValue(v); err != nil {
		return nil, invalidError{err}
	}
	return value.Tidy(v), nil
}

// refused puts a refusal in words; other errors stay as they are.
func refused(in In, what string, err error) error {
	var why records.Refusal
	if !errors.As(err, &why) {
		return err
	}
	return &RefusedError{Step: in.Through, Err: err, Text: fmt.Sprintf("%s: %s. Nothing was written.", what,
		strings.TrimRight(why.Refused(), "."))}
}
