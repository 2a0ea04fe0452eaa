package walk

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/surface"
	"plainpath/core/value"
)

// add writes the records of an Add step, all of them in one go.
func (r *Run) add(ctx context.Context, i *instruction, e *Entry) ([]int64, error) {
	o := r.program.model.Object(i.step.Add.Object)
	e.Object = o.Key
	a := Addition{Object: o}
	for _, s := range i.add.sets {
		a.Fields = append(a.Fields, s.field)
	}
	turns, err := r.turns(i)
	if err != nil {
		return nil, err
	}
	for _, values := range turns {
		row, err := r.row(i, o, values)
		if err != nil {
			return nil, err
		}
		a.Rows = append(a.Rows, row)
	}
	if len(a.Rows) == 0 {
		return nil, r.knowAdded(ctx, i.step, nil)
	}
	keys, err := r.host.Add(ctx, i.step.Key, a)
	var refused Refusal
	if errors.As(err, &refused) {
		return nil, &WriteError{Step: i.step.Key, Err: err,
			Text: fmt.Sprintf("The %s could not be added: %s. Nothing was written.", strings.ToLower(o.Label), strings.TrimRight(refused.Refused(), "."))}
	}
	if err != nil {
		return nil, err
	}
	e.Written = int64(len(keys))
	e.Note = "written together, in one go"
	return keys, r.knowAdded(ctx, i.step, keys)
}

// turns gives the known values of each record to be added.
func (r *Run) turns(i *instruction) ([]expr.Values, error) {
	if i.add.forEach == nil {
		return []expr.Values{r.values}, nil
	}
	v, err := i.add.forEach.Eval(r.values)
	if err != nil {
		return nil, err
	}
	l, ok := v.(*value.List)
	if !ok {
		return nil, nil
	}
	records, err := l.Source.All()
	if err != nil {
		return nil, err
	}
	out := make([]expr.Values, len(records))
	for n, rec := range records {
		out[n] = maps.Clone(r.values)
		out[n][i.step.Add.Item] = rec
	}
	return out, nil
}

func (r *Run) row(i *instruction, o *model.Object, values expr.Values) ([]value.Value, error) {
	row := make([]value.Value, len(i.add.sets))
	for n, s := range i.add.sets {
		row[n] = s.literal
		if s.program != nil {
			var err error
			if row[n], err = s.program.Eval(values); err != nil {
				return nil, err
			}
		}
		if err := s.field.CheckValue(row[n]); err != nil {
			return nil, &WriteError{Step: i.step.Key, Err: err,
				Text: fmt.Sprintf("The %s could not be added: %s. Nothing was written.", strings.ToLower(o.Label), err)}
		}
	}
	return row, nil
}

// knowAdded makes what an Add step added known by the step's key.
func (r *Run) knowAdded(ctx context.Context, s *Step, keys []int64) error {
	records, err := surface.ByKey(ctx, r.host, s.Add.Object, keys, r.program.uses[s.Key])
	if err != nil {
		return err
	}
	switch {
	case s.Add.ForEach != "":
		r.values[s.Key] = &value.List{Object: s.Add.Object, Source: value.Records(records)}
	case len(records) == 1:
		r.values[s.Key] = records[0]
	}
	return nil
}
