package walk

import (
	"context"
	"fmt"
	"maps"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/search"
	"plainpath/core/surface"
	"plainpath/core/value"
)

// add writes the records of an Add step, all of them in one go.
func (r *Run) add(ctx context.Context, i *instruction, e *Entry) ([]int64, error) {
	o := r.program.model.Object(i.step.Add.Object)
	e.Object = o.Key
	grant, err := r.host.Space().Grant(o.Key)
	if err != nil {
		return nil, err
	}
	if !grant.MayAdd() {
		return nil, &WriteError{Step: i.step.Key, Text: fmt.Sprintf("%s may not add %s. Nothing was written.", r.host.Person().Name, strings.ToLower(o.Plural))}
	}
	a := Addition{Object: o}
	for _, s := range i.add.sets {
		a.Fields = append(a.Fields, s.field)
	}
	fallbacks, err := defaults(o, &a)
	if err != nil {
		return nil, err
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
		a.Rows = append(a.Rows, append(row, fallbacks...))
	}
	if len(a.Rows) == 0 {
		return nil, r.knowAdded(ctx, i.step, nil)
	}
	keys, err := r.host.Add(ctx, i.step.Key, a)
	if err != nil {
		return nil, err
	}
	if err := r.visible(ctx, o, keys, i.step.Key); err != nil {
		return nil, err
	}
	e.Written = int64(len(keys))
	e.Note = "written together, in one go"
	return keys, r.knowAdded(ctx, i.step, keys)
}

// defaults adds the fields that have a default and are not set.
func defaults(o *model.Object, a *Addition) ([]value.Value, error) {
	set := map[string]bool{}
	for _, f := range a.Fields {
		set[f.Key] = true
	}
	var out []value.Value
	for n := range o.Fields {
		f := &o.Fields[n]
		if len(f.Default) == 0 || set[f.Key] || !f.Stored() {
			continue
		}
		v, err := value.Parse(f.Kind(), f.Default)
		if err != nil {
			return nil, fmt.Errorf("the default of %s: %w", f.Label, err)
		}
		a.Fields = append(a.Fields, f)
		out = append(out, v)
	}
	return out, nil
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

// visible makes sure that nobody adds records outside the rows that are theirs.
func (r *Run) visible(ctx context.Context, o *model.Object, keys []int64, step string) error {
	n, err := surface.CountOf(ctx, r.host, search.Query{Object: o.Key, Where: predicate.Keys(keys)})
	if err != nil {
		return err
	}
	if n != int64(len(keys)) {
		return &WriteError{Step: step, Text: fmt.Sprintf("%d of the %s would not be among those %s may see. Nothing was written.",
			int64(len(keys))-n, strings.ToLower(o.Plural), r.host.Person().Name)}
	}
	return nil
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
