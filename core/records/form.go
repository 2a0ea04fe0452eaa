package records

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/value"
)

// FormView is one record ready to be edited, or a new one with its defaults.
type FormView struct {
	// ID is nought for a record not added yet.
	ID    int64  `json:"id"`
	Label string `json:"label"`
	// Values are by field, as they travel.
	Values    map[string]any `json:"values"`
	MayChange bool           `json:"may_change"`
	MayRemove bool           `json:"may_remove"`
	// Fixed are the fields the person may not set.
	Fixed []string `json:"fixed"`
}

// Saving is what somebody entered for a record.
type Saving struct {
	// Values are the fields that were changed; Seen what they were before, for a record
	// that is stored already.
	Values map[string]json.RawMessage `json:"values"`
	Before map[string]json.RawMessage `json:"before,omitempty"`
}

// MeanwhileError says that somebody else changed a field meanwhile.
type MeanwhileError struct {
	Field        *model.Field
	Theirs, Ours json.RawMessage
}

func (e *MeanwhileError) Error() string {
	return fmt.Sprintf("Somebody else changed %s meanwhile.", e.Field.Label)
}

// Form is one record ready to be edited, or with key nought a new one with the defaults.
func (d *Repository) Form(ctx context.Context, o *model.Object, id int64) (FormView, error) {
	out := FormView{ID: id, Values: map[string]any{}, Fixed: []string{}}
	grant, err := d.Grant(o.Key)
	if err != nil {
		return out, err
	}
	doing := access.Changing
	if id == 0 {
		doing = access.Adding
	}
	for i := range o.Fields {
		if f := &o.Fields[i]; !f.Stored() || !grant.Sets(doing, f.Key) {
			out.Fixed = append(out.Fixed, f.Key)
		}
	}
	if id == 0 {
		blank, err := d.Blank(o)
		if err != nil {
			return out, err
		}
		for i, f := range blank.Fields {
			out.Values[f.Key] = value.Wire(blank.Rows[0][i])
		}
		return out, nil
	}
	record, err := d.WholeRecord(ctx, o, id)
	if err != nil {
		return out, err
	}
	if out.MayChange, out.MayRemove, err = d.Mays(ctx, o, id); err != nil {
		return out, err
	}
	out.Label = record.Label
	for i := range o.Fields {
		out.Values[o.Fields[i].Key] = value.Wire(record.Get(o.Fields[i].Key))
	}
	return out, nil
}

// Mays says whether the person may change a record and remove it.
func (d *Repository) Mays(ctx context.Context, o *model.Object, id int64) (change, remove bool, err error) {
	if change, err = d.can(ctx, access.Changing, o, id); err == nil {
		remove, err = d.can(ctx, access.Removing, o, id)
	}
	return change, remove, err
}

// Save adds a record (key nought) or changes one, as somebody entered it. The errors a person can do
// something about are *ProblemsError and *MeanwhileError.
func (d *Repository) Save(ctx context.Context, o *model.Object, id int64, in Saving) (FormView, error) {
	in.Values, in.Before = renewed(o, in.Values), renewed(o, in.Before)
	fields, row, err := d.Parse(ctx, o, in.Values)
	if err != nil {
		return FormView{}, err
	}
	d.Cause["by_hand"] = "yes"
	if id == 0 {
		if err := missing(o, in.Values); err != nil {
			return FormView{}, err
		}
		keys, err := d.Add(ctx, "", Addition{Object: o, Fields: fields, Rows: [][]value.Value{row}})
		if err != nil {
			return FormView{}, err
		}
		return d.Form(ctx, o, keys[0])
	}
	if len(fields) > 0 {
		now, err := d.unchanged(ctx, o, id, in)
		if err != nil {
			return FormView{}, err
		}
		if err := d.MayChange(ctx, o, []int64{id}, fields); err != nil { // also where nothing differs
			return FormView{}, err
		}
		if fields, row = differing(now, fields, row); len(fields) > 0 {
			if err := d.Change(ctx, "", Changing{Object: o, Keys: []int64{id}, Fields: fields,
				Rows: [][]value.Value{row}}); err != nil {
				return FormView{}, err
			}
		}
	}
	return d.Form(ctx, o, id)
}

// differing are the fields whose values are not what the record has already: what is saved again
// as it is has not changed.
func differing(now *value.Record, fields []*model.Field, row []value.Value) ([]*model.Field, []value.Value) {
	var differ []*model.Field
	var values []value.Value
	for i, f := range fields {
		if !value.Same(now.Get(f.Key), row[i]) {
			differ, values = append(differ, f), append(values, row[i])
		}
	}
	return differ, values
}

// renewed are values by field with the keys that the fields have now: whoever sends them may have
// opened the form before a release.
func renewed(o *model.Object, given map[string]json.RawMessage) map[string]json.RawMessage {
	out := make(map[string]json.RawMessage, len(given))
	for key, v := range given {
		if f := o.Find(key); f != nil {
			key = f.Key
		}
		out[key] = v
	}
	return out
}

// Parse reads what was entered and finds everything that is wrong with it on its own.
func (d *Repository) Parse(ctx context.Context, o *model.Object,
	given map[string]json.RawMessage) ([]*model.Field, []value.Value, error) {
	var fields []*model.Field
	var row []value.Value
	out := &ProblemsError{}
	given = renewed(o, given)
	for key := range given {
		if f := o.Field(key); f == nil || !f.Stored() {
			out.Problems = append(out.Problems,
				model.Problem{Pointer: "/" + key, Text: fmt.Sprintf("%s has no field %q that can be set", o.Label,
					key)})
		}
	}
	for i := range o.Fields {
		f := &o.Fields[i]
		raw, ok := given[f.Key]
		if !ok || !f.Stored() {
			continue
		}
		v, err := value.Parse(f.Kind(), raw)
		if err == nil {
			err = f.CheckValue(v)
		}
		if r, isRecord := v.(*value.Record); isRecord && err == nil {
			r.Object = f.Target()
			found, problem, readErr := Referred(ctx, d, f, r.ID, nil)
			if readErr != nil {
				return nil, nil, readErr
			}
			if found == nil {
				err = errors.New(problem)
			}
		}
		if err != nil {
			out.Problems = append(out.Problems, model.Problem{Pointer: "/" + f.Key, Text: err.Error()})
			continue
		}
		fields, row = append(fields, f), append(row, v)
	}
	if len(out.Problems) > 0 {
		return nil, nil, out
	}
	return fields, row, nil
}

// missing finds the fields a new record needs and was not given.
func missing(o *model.Object, given map[string]json.RawMessage) error {
	out := &ProblemsError{}
	for i := range o.Fields {
		f := &o.Fields[i]
		if _, ok := given[f.Key]; !ok && f.Required && f.Stored() && !f.HasDefault() {
			out.Problems = append(out.Problems, model.Problem{Pointer: "/" + f.Key, Text: f.Label + " is required"})
		}
	}
	if len(out.Problems) > 0 {
		return out
	}
	return nil
}

// unchanged makes sure that the fields to be changed still hold what the person saw, and gives the
// record.
func (d *Repository) unchanged(ctx context.Context, o *model.Object, id int64, in Saving) (*value.Record, error) {
	if err := d.unit.Lock(ctx, o.Key, []int64{id}); err != nil {
		return nil, err
	}
	now, err := d.WholeRecord(ctx, o, id)
	if err != nil {
		return nil, err
	}
	for key := range in.Before {
		if _, err := d.meanwhile(o, now, key, in); err != nil {
			return nil, err
		}
	}
	return now, nil
}

// meanwhile compares what a field held when somebody saw it with what it holds. If both
// changed it to something different that is a *MeanwhileError, with the value of theirs.
func (d *Repository) meanwhile(o *model.Object, now *value.Record, key string, in Saving) (any, error) {
	f, raw := o.Field(key), in.Before[key]
	if f == nil || raw == nil {
		return nil, nil
	}
	seen, err := value.Parse(f.Kind(), raw)
	if err != nil {
		return nil, Wrong(key, "%s", err)
	}
	if r, ok := seen.(*value.Record); ok {
		r.Object = f.Target()
	}
	held := now.Get(key)
	if held == nil && seen == nil || value.Equal(held, seen) {
		return nil, nil
	}
	theirs, err := json.Marshal(value.Wire(held))
	if err != nil {
		return nil, fmt.Errorf("writing %s: %w", f.Label, err)
	}
	ours := in.Values[key]
	same, err := value.Parse(f.Kind(), ours)
	if r, ok := same.(*value.Record); ok {
		r.Object = f.Target()
	}
	if err == nil && (held == nil && same == nil || value.Equal(held, same)) {
		return nil, nil // both want the same
	}
	return value.Wire(held), &MeanwhileError{f, theirs, ours}
}
