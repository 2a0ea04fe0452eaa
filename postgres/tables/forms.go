package tables

import (
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/act"
	"plainpath/core/model"
	"plainpath/core/page"
	"plainpath/core/records"
	"plainpath/core/screen"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// standing is a page or a screen with what is known there.
type standing interface {
	React(ctx context.Context, u records.Writer, to screen.Reacting) (act.Outcome, error)
	Form(ctx context.Context, r records.Reader, part string) (*screen.OpenForm, error)
}

// pageStanding is a page as somebody has it before them.
type pageStanding struct {
	*page.Program
	given screen.Given
}

// React carries out a reaction of the page.
func (p pageStanding) React(ctx context.Context, u records.Writer, to screen.Reacting) (act.Outcome, error) {
	return p.Program.React(ctx, u, p.given, to)
}

// Form is one of its forms.
func (p pageStanding) Form(ctx context.Context, r records.Reader, part string) (*screen.OpenForm, error) {
	return p.Program.Form(ctx, r, p.given, part)
}

// recordStanding is a record on its own page.
type recordStanding struct{ *screen.OpenForm }

// React finds no reaction there.
func (recordStanding) React(context.Context, records.Writer, screen.Reacting) (act.Outcome, error) {
	return act.Outcome{}, postgres.ErrNotFound
}

// Form is the form of the record.
func (r recordStanding) Form(context.Context, records.Reader, string) (*screen.OpenForm, error) {
	return r.OpenForm, nil
}

// part is the part that a place names.
func (at TableAt) part() string {
	switch {
	case at.Page != nil:
		return at.Page.Part
	case at.Run != nil:
		return at.Run.Part
	case at.Rehearsal != nil:
		return at.Rehearsal.Part
	}
	return ""
}

// FormEditing is what somebody has entered so far in a form: about which record, and what.
type FormEditing struct {
	Record int64                      `json:"record"`
	Values map[string]json.RawMessage `json:"values"`
}

// FormSaved is a record as it is after it was saved.
type FormSaved struct {
	records.FormView
	// PutBack says that it was tried in a rehearsal.
	PutBack bool `json:"put_back,omitempty"`
}

// onForm finds a form and does something with it. It is told when the form is about another record by now.
func (t *Tables) onForm(ctx context.Context, p postgres.Caller, at TableAt, record *int64,
	work func(d *repository.Repository, f *screen.OpenForm) error) error {
	return t.surface(ctx, p, at, func(d *repository.Repository, s standing) error {
		f, err := s.Form(ctx, d, at.part())
		if err != nil {
			return err
		}
		if record != nil && *record != f.Record {
			return &postgres.RejectedError{Text: "The form is about another record by now. What you entered was not saved."}
		}
		return work(d, f)
	})
}

// Form reads the record of a form, or makes a new one with what it begins with.
func (t *Tables) Form(ctx context.Context, p postgres.Caller, at TableAt) (records.FormView, error) {
	var out records.FormView
	err := t.onForm(ctx, p, at, nil, func(d *repository.Repository, f *screen.OpenForm) error {
		var err error
		out, err = formOf(ctx, d, f, f.Record)
		return err
	})
	return out, err
}

// formOf is a record as a form shows it: no more than its fields.
func formOf(ctx context.Context, d *repository.Repository, f *screen.OpenForm, record int64) (records.FormView, error) {
	out, err := d.Form(ctx, f.Object, record)
	if err != nil {
		return out, err
	}
	return out, f.Narrow(&out)
}

// SaveForm changes the record of a form or adds it, in one transaction.
func (t *Tables) SaveForm(ctx context.Context, p postgres.Caller, at TableAt, record int64,
	in records.Saving) (FormSaved, error) {
	var out FormSaved
	err := t.onForm(ctx, p, at, &record, func(d *repository.Repository, f *screen.OpenForm) error {
		in, err := f.Saving(in)
		if err != nil {
			return err
		}
		return d.Atomically(ctx, func(d *repository.Repository) error {
			d.Cause["form"] = at.part()
			var err error
			out, err = postgres.Once(ctx, d.Db, func() (FormSaved, error) {
				saved, err := d.Save(ctx, f.Object, record, in)
				if err != nil {
					return FormSaved{}, err
				}
				saved, err = formOf(ctx, d, f, saved.ID)
				return FormSaved{FormView: saved}, err
			})
			return err
		})
	})
	out.PutBack = at.Rehearsal != nil
	return out, err
}

// FitForm says which references entered in a form point at records that they may not.
func (t *Tables) FitForm(ctx context.Context, p postgres.Caller, at TableAt, in FormEditing) ([]model.Problem, error) {
	out := []model.Problem{}
	err := t.onForm(ctx, p, at, &in.Record, func(d *repository.Repository, f *screen.OpenForm) error {
		problems, err := d.Unfit(ctx, records.EditingOf(f.Object, in.Record, in.Values))
		out = append(out, problems...)
		return err
	})
	return out, err
}

// FormOptions finds the records that a reference in a form may point at, by words.
func (t *Tables) FormOptions(ctx context.Context, p postgres.Caller, at TableAt, field string, in FormEditing,
	text string) ([]value.Ref, error) {
	var out []value.Ref
	err := t.onForm(ctx, p, at, &in.Record, func(d *repository.Repository, f *screen.OpenForm) error {
		of := f.Object.Field(field)
		if of == nil || of.Target() == "" || !f.Edits(field) {
			return fmt.Errorf("reference %q: %w", field, postgres.ErrNotFound)
		}
		var err error
		out, err = d.Options(ctx, f.Object, of, repository.Editing{ID: in.Record, Values: in.Values}, text)
		return err
	})
	return out, err
}
