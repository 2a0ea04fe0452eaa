package repository

import (
	"context"
	"fmt"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres"
)

// RecordView is one record as a person may see it.
type RecordView struct {
	Object string              `json:"object"`
	Kind   string              `json:"kind"`
	ID     int64               `json:"id"`
	Label  string              `json:"label"`
	Fields []screen.DetailView `json:"fields"`
	// Page is the one by which people with the person's roles see such a record, "" where it is seen as all are.
	Page string `json:"page,omitempty"`
	// Form is what the record is changed with, where the person may.
	Form *screen.FormPartView `json:"form,omitempty"`
	// MayRemove says that the person may remove it.
	MayRemove bool `json:"may_remove,omitempty"`
}

// Record reads one record as a person may see it. Whether it is not there or not theirs
// is not told apart.
func (s *Repositories) Record(ctx context.Context, p postgres.Caller, object string, id int64) (RecordView, error) {
	var out RecordView
	d, o, err := s.Of(ctx, p, object)
	if err != nil {
		return out, err
	}
	paths, err := records.FieldPaths(d.Edition.Model, o)
	if err != nil {
		return out, err
	}
	record, err := d.Record(ctx, o, id, paths)
	if err != nil {
		return out, err
	}
	out = RecordView{Object: o.Key, Kind: o.Label, ID: id, Label: record.Label}
	for _, p := range paths {
		out.Fields = append(out.Fields, screen.DetailView{Heading: table.HeadingOf(p, p.Last().Label),
			Value: value.Wire(record.Get(p.Last().Key))})
	}
	if err := out.may(ctx, d, o); err != nil {
		return out, err
	}
	out.Page, err = d.Edition.RecordPage(ctx, d, d.Where.Person, o.Key, id)
	return out, err
}

// may says what the person may do with the record.
func (v *RecordView) may(ctx context.Context, d *Repository, o *model.Object) error {
	change, remove, err := d.Mays(ctx, o, v.ID)
	if err != nil {
		return err
	}
	if v.MayRemove = remove; !change {
		return nil
	}
	form, err := screen.FormOf(d.Edition.Model, o, v.ID)
	if err == nil {
		v.Form = form.View()
	}
	return err
}

// Find finds records of an object by text, as a person may see them.
func (s *Repositories) Find(ctx context.Context, p postgres.Caller, object, text string) ([]value.Ref, error) {
	w, err := s.Where(ctx, p)
	if err != nil {
		return nil, err
	}
	o := w.Edition.Model.Find(object)
	if o == nil {
		return nil, fmt.Errorf("object %q: %w", object, postgres.ErrNotFound)
	}
	return records.Options(ctx, New(s.DB, w), o.Key, text)
}
