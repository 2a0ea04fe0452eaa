package records

import (
	"fmt"
	"slices"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// defaults are the fields that have a default and are not set.
func (d *Repository) defaults(o *model.Object, fields []*model.Field) ([]query.Assignment, error) {
	set := map[string]bool{}
	for _, f := range fields {
		set[f.Key] = true
	}
	var out []query.Assignment
	for i := range o.Fields {
		f := &o.Fields[i]
		if set[f.Key] || !f.Stored() || len(f.Default) == 0 {
			continue
		}
		v, err := value.Parse(f.Kind(), f.Default)
		if err != nil {
			return nil, fmt.Errorf("the default of %s: %w", f.Label, err)
		}
		out = append(out, query.Assignment{Field: f, Value: v})
	}
	for _, c := range d.ground.Rules.Of(o.Key).Defaults {
		if set[c.Field.Key] {
			continue
		}
		v, err := c.Value(d.Base())
		if err != nil {
			return nil, fmt.Errorf("the default of %s: %w", c.Field.Label, err)
		}
		out = append(out, query.Assignment{Field: c.Field, Value: v})
	}
	return out, nil
}

// withDefaults adds the fields that have a default and are not set.
func (d *Repository) withDefaults(a Addition) (Addition, error) {
	defaults, err := d.defaults(a.Object, a.Fields)
	if err != nil || len(defaults) == 0 {
		return a, err
	}
	fields, _ := setFields(defaults)
	out := Addition{Object: a.Object, Fields: slices.Concat(a.Fields, fields), Rows: make([][]value.Value, len(a.Rows))}
	for i, row := range a.Rows {
		out.Rows[i] = slices.Clone(row)
		for _, s := range defaults {
			out.Rows[i] = append(out.Rows[i], s.Value)
		}
	}
	return out, nil
}

// Blank is a new record with its defaults.
func (d *Repository) Blank(o *model.Object) (Addition, error) {
	return d.withDefaults(Addition{Object: o, Rows: [][]value.Value{nil}})
}

// setValues are the values that are the same for all records, as one row.
func setValues(sets []query.Assignment) [][]value.Value {
	row := make([]value.Value, len(sets))
	for i, s := range sets {
		row[i] = s.Value
	}
	return [][]value.Value{row}
}

// setFields are the fields that are set, and their keys.
func setFields(sets []query.Assignment) (fields []*model.Field, keys []string) {
	for _, s := range sets {
		fields, keys = append(fields, s.Field), append(keys, s.Field.Key)
	}
	return fields, keys
}
