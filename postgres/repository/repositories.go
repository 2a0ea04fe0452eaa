package repository

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/postgres"
	"plainpath/postgres/documents"
)

// Repositories gives people their records in the spaces of an app. Trial follows the draft,
// production is on the release in force.
type Repositories struct {
	DB       *postgres.DB
	Editions *documents.Editions
}

// Edition is the edition that a space is on.
func (s *Repositories) Edition(ctx context.Context, p postgres.Caller) (*edition.Edition, error) {
	return s.Editions.Of(ctx, p.App, p.Space)
}

// Where is a person's place among the records, without a transaction.
func (s *Repositories) Where(ctx context.Context, p postgres.Caller) (Where, error) {
	e, err := s.Edition(ctx, p)
	if err != nil {
		return Where{}, err
	}
	return WhereOf(ctx, s.DB, p, e)
}

// Of is a person's repository for reading, and the object it is about.
func (s *Repositories) Of(ctx context.Context, p postgres.Caller, object string) (*Repository, *model.Object, error) {
	w, err := s.Where(ctx, p)
	if err != nil {
		return nil, nil, err
	}
	o := w.Edition.Model.Find(object)
	if o == nil || o.BuiltIn() {
		return nil, nil, fmt.Errorf("object %q: %w", object, postgres.ErrNotFound)
	}
	return New(s.DB, w), o, nil
}

// write carries out work on records in one transaction.
func (s *Repositories) write(ctx context.Context, p postgres.Caller, object string,
	work func(d *Repository, o *model.Object) error) error {
	reading, o, err := s.Of(ctx, p, object)
	if err != nil {
		return err
	}
	return s.DB.In(ctx, func(tx *sqlx.Tx) error { return work(New(tx, reading.Where), o) })
}
