package screen

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Accept checks what a person gave and makes known values of it: one by part. Fields
// says which fields of a chosen record are used later. Problems point at parts.
func (s *Surface) Accept(ctx context.Context, r records.Reader, values expr.Values, answers Answers,
	fields func(part string) []model.Path) (*value.Record, []model.Problem, error) {
	return s.take(ctx, r, values, answers, fields, (*table.Program).Accept, true)
}

// Restore makes known values of an answer that was accepted before. Rows chosen then
// need not be in their list any more, for what was done since may have taken them out
// of it, but the person must still be allowed to see them.
func (s *Surface) Restore(ctx context.Context, r records.Reader, values expr.Values, answers Answers,
	fields func(part string) []model.Path) (*value.Record, []model.Problem, error) {
	return s.take(ctx, r, values, answers, fields, (*table.Program).Restore, false)
}

func (s *Surface) take(ctx context.Context, r records.Reader, values expr.Values, answers Answers,
	fields func(string) []model.Path, rows table.Taker, fresh bool) (*value.Record, []model.Problem, error) {
	out := &value.Record{Fields: map[string]value.Value{}}
	if len(s.needs) > 0 {
		before := values[s.own]
		values[s.own] = out
		defer func() { values[s.own] = before }()
	}
	wrong := map[string]bool{}
	var problems []model.Problem
	for key := range answers {
		if s.parts[key] == nil && s.searches[key] == nil {
			problems = append(problems, model.Problem{Pointer: "/" + key, Text: "there is no such part on this screen"})
		}
	}
	absent := Some{Waiting: map[string]Waiting{}, Refused: Refusals{}}
	for _, key := range s.order {
		if s.searches[key] != nil {
			list, err := s.find(ctx, r, values, key, answers, fields(key), &absent)
			if err != nil {
				return nil, nil, err
			}
			out.Fields[key] = list
			defer delete(out.Fields, key) // it is known on the screen alone
			continue
		}
		name, gives := s.answer(key)
		if !gives {
			continue
		}
		p := s.parts[key]
		wrong[key] = slices.ContainsFunc(s.needs[key], func(n string) bool { return wrong[n] })
		offered, err := p.isOffered(values)
		if err != nil {
			return nil, nil, err
		}
		if !offered {
			if t := nothing(name.Type); t != nil {
				out.Fields[key] = t
			}
			continue
		}
		v, problem, err := p.content.(giver).take(ctx, r, values,
			taking{answers[key], fields(fieldsOf(name)), rows, fresh})
		switch {
		case err != nil:
			return nil, nil, fmt.Errorf("taking %q: %w", p.Label, err)
		case wrong[key]: // what it follows is to be mended first
		case problem != "":
			wrong[key] = true
			problems = append(problems, model.Problem{Pointer: "/" + name.Key, Text: problem})
		case v != nil:
			out.Fields[name.Key] = v
			if err := keepKeys(answers, name.Key, v); err != nil {
				return nil, nil, err
			}
		}
	}
	return out, problems, nil
}

// Taken makes a known value of what was given for a field, or says what is wrong with it.
func Taken(ctx context.Context, r records.Reader, f *model.Field, raw json.RawMessage,
	fields []model.Path) (value.Value, string, error) {
	v, err := value.Parse(f.Kind(), raw)
	if err != nil {
		return nil, err.Error(), nil
	}
	if err := f.CheckValue(v); err != nil {
		return nil, err.Error(), nil
	}
	given, ok := v.(*value.Record)
	if !ok {
		return v, "", nil
	}
	record, problem, err := records.Referred(ctx, r, f, given.ID, fields)
	if record == nil {
		return nil, problem, err
	}
	return record, "", nil
}

// keepKeys puts the keys of the rows that all matching came to in the place of the answer:
// what is done next may change which match.
func keepKeys(answers Answers, part string, v value.Value) error {
	list, ok := v.(*value.List)
	if !ok {
		return nil
	}
	if c, err := table.ParseChosen(answers[part]); err != nil || c.All == nil {
		return err
	}
	records, kept := list.Source.(value.Records)
	if !kept {
		return nil
	}
	var err error
	answers[part], err = json.Marshal(records.Refs())
	return err
}
