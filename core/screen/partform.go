package screen

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Form lets people change a record or add one. It saves by itself, under the same rules as everything else.
type Form struct {
	// Source is an expression that gives the record to change; without one a record of Object is added.
	Source string      `json:"source,omitempty"`
	Object string      `json:"object,omitempty"`
	Fields []FormField `json:"fields"`
	// Columns is how many fields stand beside each other, from one to four; one where it is nought.
	Columns int `json:"columns,omitempty"`
	// Values are what fields of a new record begin with; those that people cannot change here stay so.
	Values []act.Assignment `json:"values,omitempty"`
	// Save is the label of the button, "Save" or "Add" when empty; Next offers to add another one after it.
	Save string `json:"save,omitempty"`
	Next bool   `json:"next,omitempty"`
}

// FormField is a field in a form.
type FormField struct {
	Field string `json:"field"`
	// Group is the heading of a group that begins with the field.
	Group string `json:"group,omitempty"`
	// ReadOnly says that it is only shown.
	ReadOnly bool `json:"read_only,omitempty"`
	// Wide lets it take the whole width.
	Wide bool `json:"wide,omitempty"`
}

// FormPartView is a form as a person sees it, before the record is read.
type FormPartView struct {
	Object string `json:"object"`
	// Label is what one record is called.
	Label string `json:"label"`
	// Record is the key of the one to change, nought for one to be added; with None there is none to change.
	Record  int64           `json:"record"`
	None    bool            `json:"none,omitempty"`
	Fields  []FormFieldView `json:"fields"`
	Columns int             `json:"columns"`
	// Currency is what amounts are in unless another is given.
	Currency string `json:"currency,omitempty"`
	Save     string `json:"save,omitempty"`
	Next     bool   `json:"next,omitempty"`
}

// FormFieldView is a field of a form.
type FormFieldView struct {
	Heading  table.HeadingView `json:"heading"`
	Help     string            `json:"help,omitempty"`
	Required bool              `json:"required,omitempty"`
	Group    string            `json:"group,omitempty"`
	ReadOnly bool              `json:"read_only,omitempty"`
	Wide     bool              `json:"wide,omitempty"`
}

// mostBeside is how many fields of a form stand beside each other at most.
const mostBeside = 4

var formKind = partKind{FormPart, func(def *Part) bool { return def.Form != nil }, checkForm}

type form struct {
	*Form
	// source gives the record, nil where one is added.
	source   *expr.Program
	object   *model.Object
	begins   act.Settings
	currency string
	views    []FormFieldView
}

func checkForm(c *compiler, p *part, at string) content {
	f := &form{Form: p.Form, currency: c.scope.Model.Currency}
	if f.Source != "" {
		f.source = c.program(f.Source, expr.Type{Kind: value.KindRecord}, at+"/source", "There would be nothing to change.")
		if f.source == nil {
			return nil
		}
		f.object = c.scope.Model.Object(f.source.Type.Object)
	} else {
		f.object = c.Object(c.scope.Model, f.Object, at+"/object", "There would be nothing to add.")
	}
	if f.object == nil {
		return nil
	}
	if f.Columns < 0 || f.Columns > mostBeside {
		c.Find(definition.Stop, at+"/columns", fmt.Sprintf("%d fields cannot stand beside each other; from 1 to %d can",
			f.Columns, mostBeside), "The form could not be shown.",
			&definition.Mend{Label: "One below the other",
				Patch: []definition.Op{{Op: "remove", Path: at + "/columns"}}})
	}
	f.checkFields(c, at)
	if f.Source == "" {
		f.begins = act.CheckSettings(act.Environment{Where: act.InReactions, Scope: c.scope, Check: c.Check}, f.object,
			f.Values, at)
		c.out.Uses = append(c.out.Uses, f.begins.Uses...)
		f.checkRequired(c, at)
	} else if len(f.Values) > 0 {
		c.Find(definition.Stop, at+"/values", "only a new record begins with values", "They would not be set.",
			&definition.Mend{Label: "Leave them out", Patch: []definition.Op{{Op: "remove", Path: at + "/values"}}})
	}
	return f
}

func (f *form) checkFields(c *compiler, at string) {
	if len(f.Fields) == 0 {
		c.Find(definition.Care, at+"/fields", "the form has no fields", "There would be nothing to fill in.", nil)
	}
	for i, def := range f.Fields {
		pointer := fmt.Sprintf("%s/fields/%d", at, i)
		field := c.Field(f.object, def.Field, pointer+"/field", "It would be missing in the form.")
		if field == nil {
			continue
		}
		if slices.ContainsFunc(f.Fields[:i], func(d FormField) bool { return d.Field == def.Field }) {
			c.Find(definition.Stop, pointer+"/field", fmt.Sprintf("%s stands in the form twice", field.Label),
				"It would not be known which is meant.",
				&definition.Mend{Label: "Leave this one out", Patch: []definition.Op{{Op: "remove", Path: pointer}}})
			continue
		}
		path, err := c.scope.Model.Path(f.object.Key, field.Key)
		if err != nil {
			continue
		}
		v := fieldView(path)
		v.Group, v.ReadOnly, v.Wide = def.Group, v.ReadOnly || def.ReadOnly, def.Wide
		f.views = append(f.views, v)
	}
}

// checkRequired finds fields that a new record must have and nobody gives.
func (f *form) checkRequired(c *compiler, at string) {
	for i := range f.object.Fields {
		field := &f.object.Fields[i]
		if !field.Required || !field.Stored() || field.HasDefault() || f.begins.Sets(field.Key) || f.edits(field.Key) {
			continue
		}
		mend := &definition.Mend{Label: "Ask for it", Patch: []definition.Op{{Op: "add", Path: at + "/fields/-",
			Value: fmt.Appendf(nil, `{"field":%q}`, field.Key)}}}
		if slices.ContainsFunc(f.Fields, func(d FormField) bool { return d.Field == field.Key }) {
			mend = nil
		}
		c.Find(definition.Stop, at+"/fields", fmt.Sprintf("%s needs %s, which is not asked for", f.object.Label, field.Label),
			"None could be added.", mend)
	}
}

// edits says whether people can change a field here.
func (f *form) edits(field string) bool {
	return slices.ContainsFunc(f.views, func(v FormFieldView) bool { return v.Heading.Path == field && !v.ReadOnly })
}

// record is the key of the record to change, nought where one is added, false where there is none.
func (f *form) record(values expr.Values) (int64, bool, error) {
	if f.source == nil {
		return 0, true, nil
	}
	v, err := f.source.Eval(values)
	if err != nil {
		return 0, false, err
	}
	record, ok := v.(*value.Record)
	if !ok || record == nil {
		return 0, false, nil
	}
	return record.ID, true, nil
}

func (f *form) show(_ context.Context, _ records.Reader, values expr.Values, _ Given, view *PartView) error {
	key, there, err := f.record(values)
	view.Form = f.view(key)
	view.Form.None = !there
	return err
}

func (f *form) view(record int64) *FormPartView {
	return &FormPartView{Object: f.object.Key, Label: f.object.Label, Record: record, Fields: f.views,
		Columns: max(1, f.Columns), Currency: f.currency, Save: f.Save, Next: f.Next}
}

// OpenForm is a form of a surface with the record that it stands at.
type OpenForm struct {
	Object *model.Object
	// Record is the key of the one to change, nought for one to be added.
	Record int64
	form   *form
	values expr.Values
}

// Form is one of the forms on the surface, with what is known.
func (s *Surface) Form(values expr.Values, key string) (*OpenForm, error) {
	if p := s.parts[key]; p != nil {
		if f, ok := p.content.(*form); ok {
			record, there, err := f.record(values)
			if err != nil {
				return nil, err
			}
			if there {
				return &OpenForm{f.object, record, f, values}, nil
			}
		}
	}
	return nil, &table.MissingError{Kind: "form", Key: key}
}

// FormOf is a form with all fields of a record.
func FormOf(m *model.Model, o *model.Object, record int64) (*OpenForm, error) {
	f := &form{Form: &Form{Columns: 2}, source: nil, object: o, currency: m.Currency}
	paths, err := records.FieldPaths(m, o)
	if err != nil {
		return nil, err
	}
	for _, p := range paths {
		f.views = append(f.views, fieldView(p))
	}
	return &OpenForm{Object: o, Record: record, form: f}, nil
}

// fieldView is a field at the end of a path as a form shows it.
func fieldView(p model.Path) FormFieldView {
	f := p.Last()
	return FormFieldView{Heading: table.HeadingOf(p, f.Label), Help: f.Help, Required: f.Required,
		ReadOnly: !f.Stored(), Wide: f.Type == model.LongText}
}

// View is the form as a person sees it.
func (o *OpenForm) View() *FormPartView { return o.form.view(o.Record) }

// Shows says whether a field stands in the form, Edits whether people can change it there.
func (o *OpenForm) Shows(field string) bool {
	return slices.ContainsFunc(o.form.views, func(v FormFieldView) bool { return v.Heading.Path == field })
}

// Edits says whether people can change a field in the form.
func (o *OpenForm) Edits(field string) bool { return o.form.edits(field) }

// Begins are what fields of a new record begin with, besides their defaults, and those that cannot.
func (o *OpenForm) Begins() (map[string]value.Value, []model.Problem, error) {
	if o.Record != 0 {
		return nil, nil, nil
	}
	return o.form.begins.Values(o.values)
}

// Narrow leaves of a record, as it is edited anywhere, no more than the fields of the form, and lets a new one begin
// as the form says.
func (o *OpenForm) Narrow(view *records.FormView) error {
	if view.ID == 0 {
		begins, _, err := o.Begins() // what cannot be is said when it is saved
		if err != nil {
			return fmt.Errorf("beginning the form: %w", err)
		}
		for key, v := range begins {
			view.Values[key] = value.Wire(v)
		}
	}
	for key := range view.Values {
		if !o.Shows(key) {
			delete(view.Values, key)
		} else if !o.Edits(key) && !slices.Contains(view.Fixed, key) {
			view.Fixed = append(view.Fixed, key)
		}
	}
	view.Fixed = slices.DeleteFunc(view.Fixed, func(key string) bool { return !o.Shows(key) })
	return nil
}

// Saving is what was entered and, for a new record, what it begins with besides. A field that cannot be changed in the
// form, or that cannot begin as it should, is a [records.ProblemsError].
func (o *OpenForm) Saving(in records.Saving) (records.Saving, error) {
	all := map[string]json.RawMessage{}
	var problems []model.Problem
	for key, v := range in.Values {
		f := o.Object.Find(key)
		if f == nil || !o.Edits(f.Key) {
			problems = append(problems, model.Problem{Pointer: "/" + key,
				Text: fmt.Sprintf("%q cannot be changed in this form", key)})
			continue
		}
		all[f.Key] = v
	}
	begins, wrong, err := o.Begins()
	if err != nil {
		return in, fmt.Errorf("beginning the form: %w", err)
	}
	for _, p := range wrong {
		if _, given := all[p.Pointer[1:]]; !given {
			problems = append(problems, p)
		}
	}
	if len(problems) > 0 {
		return in, &records.ProblemsError{Problems: problems}
	}
	for key, v := range begins {
		if _, given := all[key]; given {
			continue
		}
		if all[key], err = json.Marshal(value.Wire(v)); err != nil {
			return in, fmt.Errorf("beginning the form: %w", err)
		}
	}
	in.Values = all
	return in, nil
}
