package surface

import (
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Accept checks what a person gave and makes known values of it: one by part. Fields
// says which fields of a chosen record are used later. Problems point at parts.
func (s *Surface) Accept(ctx context.Context, r records.Reader, values expr.Values, answers Answers,
	fields func(part string) []model.Path) (*value.Record, []model.Problem, error) {
	return s.take(ctx, r, values, answers, fields, (*part).acceptRows, true)
}

// Restore makes known values of an answer that was accepted before. Rows chosen then
// need not be in their list any more, for what was done since may have taken them out
// of it, but the person must still be allowed to see them.
func (s *Surface) Restore(ctx context.Context, r records.Reader, values expr.Values, answers Answers,
	fields func(part string) []model.Path) (*value.Record, []model.Problem, error) {
	return s.take(ctx, r, values, answers, fields, (*part).restoreRows, false)
}

// rowsTaker makes a value of the rows chosen in a table, or says what is wrong.
type rowsTaker func(p *part, ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) (value.Value, string, error)

func (s *Surface) take(ctx context.Context, r records.Reader, values expr.Values, answers Answers,
	fields func(string) []model.Path, rows rowsTaker, fresh bool) (*value.Record, []model.Problem, error) {
	out := &value.Record{Fields: map[string]value.Value{}}
	var problems []model.Problem
	for key := range answers {
		if s.parts[key] == nil {
			problems = append(problems, model.Problem{Pointer: "/" + key, Text: "there is no such part on this screen"})
		}
	}
	for _, name := range s.Answers {
		p := s.parts[name.Key]
		offered, err := p.isOffered(values)
		if err != nil {
			return nil, nil, err
		}
		if !offered {
			continue
		}
		v, problem, err := p.take(ctx, r, values, answers[name.Key], fields(name.Key), rows, fresh)
		switch {
		case err != nil:
			return nil, nil, fmt.Errorf("taking %q: %w", p.Label, err)
		case problem != "":
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

// take makes a value of what was given for a part. What is fresh is held to what it may be now.
func (p *part) take(ctx context.Context, r records.Reader, values expr.Values, raw json.RawMessage, fields []model.Path,
	rows rowsTaker, fresh bool) (value.Value, string, error) {
	return kindOf(p.Kind).take(ctx, p, r, values, taking{raw, fields, rows, fresh})
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

func (p *part) acceptRows(ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) (value.Value, string, error) {
	if c.All != nil {
		all, err := p.all(ctx, r, values, c, fields)
		if err != nil {
			return nil, "", err
		}
		n, err := all.Source.Count()
		if err != nil {
			return nil, "", err
		}
		if n > mostChosen && p.Table.Select == SelectSeveral {
			if p.Table.Most > 0 {
				return nil, fmt.Sprintf("choose at most %d; %d are chosen", p.Table.Most, n), nil
			}
			return all, "", nil
		}
	}
	records, err := p.chosen(ctx, r, values, c, fields)
	if err != nil {
		return nil, "", err
	}
	given := len(c.Keys)
	if c.All != nil {
		given = len(records)
	}
	switch {
	case p.Table.Select == SelectOne && (given > 1 || given < min(p.Table.fewest(), 1)):
		return nil, "choose one row", nil
	case given < p.Table.fewest() && p.Table.Select == SelectSeveral:
		return nil, fmt.Sprintf("choose at least %d", p.Table.fewest()), nil
	case p.Table.Most > 0 && given > p.Table.Most:
		return nil, fmt.Sprintf("choose at most %d; %d are chosen", p.Table.Most, given), nil
	case len(records) != given:
		return nil, "what was chosen is not in the list, or no longer; choose again", nil
	}
	return p.selection(records), "", nil
}

// all is everything that matches as a person looked at the list, read when it is asked for.
func (p *part) all(ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) (*value.List, error) {
	l, err := p.listing(ctx, r, values)
	if err != nil {
		return nil, err
	}
	q, err := l.Of(r, c)
	q.Columns = fields
	return &value.List{Object: p.object, Source: &records.Listed{Context: ctx, Reader: r, Query: q}}, err
}

func (p *part) restoreRows(ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) (value.Value, string, error) {
	if c.All != nil { // so many that they were not kept one by one
		all, err := p.all(ctx, r, values, c, fields)
		if err != nil {
			return nil, "", err
		}
		return all, "", nil
	}
	records, err := records.ByKey(ctx, r, p.object, c.Keys, fields)
	if err != nil {
		return nil, "", err
	}
	if len(records) != len(c.Keys) || len(records) < min(p.Table.fewest(), 1) {
		return nil, "what was chosen is no longer there", nil
	}
	return p.selection(records), "", nil
}

func (p *part) selection(records []*value.Record) value.Value {
	if p.Table.Select == SelectOne {
		if len(records) == 0 {
			return nil
		}
		return records[0]
	}
	return &value.List{Object: p.object, Source: value.Records(records)}
}

// chosen reads the chosen rows again, in the list they were chosen from and under
// the person's grant. Keys that are not in it are left out.
func (p *part) chosen(ctx context.Context, r records.Reader, values expr.Values, c Chosen,
	fields []model.Path) ([]*value.Record, error) {
	l, err := p.listing(ctx, r, values)
	if err != nil {
		return nil, err
	}
	q, err := l.Of(r, c)
	if err != nil {
		return nil, err
	}
	q.Columns, q.Limit = fields, mostChosen+1
	found, err := records.Select(ctx, r, q)
	if c.All != nil {
		return found, err
	}
	return records.InOrder(found, c.Keys), err
}
