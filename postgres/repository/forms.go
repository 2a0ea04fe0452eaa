package repository

import (
	"context"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/postgres"
)

// Form reads one record, or with key nought makes a new one with the defaults.
func (s *Repositories) Form(ctx context.Context, p postgres.Caller, object string, id int64) (records.FormView, error) {
	d, o, err := s.Of(ctx, p, object)
	if err != nil {
		return records.FormView{}, err
	}
	return d.Form(ctx, o, id)
}

// Save adds a record (key nought) or changes one. The errors a person can do something
// about are *records.ProblemsError and *records.MeanwhileError.
func (s *Repositories) Save(ctx context.Context, p postgres.Caller, object string, id int64,
	in records.Saving) (records.FormView, error) {
	var out records.FormView
	err := s.write(ctx, p, object, func(d *Repository, o *model.Object) error {
		var err error
		out, err = postgres.Once(ctx, d.Db, func() (records.FormView, error) { return d.Save(ctx, o, id, in) })
		return err
	})
	return out, err
}

// Remove takes a record away.
func (s *Repositories) Remove(ctx context.Context, p postgres.Caller, object string, id int64) error {
	return s.write(ctx, p, object, func(d *Repository, o *model.Object) error {
		_, err := postgres.Once(ctx, d.Db, func() (bool, error) {
			if _, err := d.WholeRecord(ctx, o, id); err != nil {
				return false, err
			}
			d.Cause["by_hand"] = "yes"
			return true, d.Remove(ctx, "", o, []int64{id})
		})
		return err
	})
}
