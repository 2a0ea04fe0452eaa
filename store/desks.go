package store

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/edition"
	"plainpath/core/model"
)

// Place is a space of an app, and who is at work in it.
type Place struct {
	App    string `json:"app"`
	Space  string `json:"space"`
	Person int64  `json:"person"`
}

// Desks gives people their desks in the spaces of an app. Trial follows the draft,
// production is on the release in force.
type Desks struct {
	DB       *DB
	Editions *Editions
}

func (s *Desks) edition(ctx context.Context, p Place) (*edition.Edition, error) {
	return s.Editions.of(ctx, p.App, p.Space)
}

// where is a person's place among the records, without a transaction.
func (s *Desks) where(ctx context.Context, p Place) (Where, error) {
	e, err := s.edition(ctx, p)
	if err != nil {
		return Where{}, err
	}
	return s.DB.where(ctx, p, e)
}

func (db *DB) where(ctx context.Context, p Place, e *edition.Edition) (Where, error) {
	schema, err := db.Schema(ctx, p.App, p.Space)
	if err != nil {
		return Where{}, err
	}
	return db.whereIn(ctx, schema, p, e)
}

// whereIn is where in a space whose schema is known.
func (db *DB) whereIn(ctx context.Context, schema string, p Place, e *edition.Edition) (Where, error) {
	who, err := db.Person(ctx, p.App, p.Space, p.Person, e)
	if err != nil {
		return Where{}, err
	}
	return Where{Edition: e, Schema: schema, Person: who, Now: db.Now()}, nil
}

// desk is a person's desk for reading, and the object it is about.
func (s *Desks) desk(ctx context.Context, p Place, object string) (*desk, *model.Object, error) {
	w, err := s.where(ctx, p)
	if err != nil {
		return nil, nil, err
	}
	o := w.Edition.Model.Find(object)
	if o == nil || o.BuiltIn() {
		return nil, nil, fmt.Errorf("object %q: %w", object, ErrNotFound)
	}
	return newDesk(s.DB, w), o, nil
}

// write carries out work at a desk in one transaction.
func (s *Desks) write(ctx context.Context, p Place, object string, work func(d *desk, o *model.Object) error) error {
	reading, o, err := s.desk(ctx, p, object)
	if err != nil {
		return err
	}
	return s.DB.in(ctx, func(tx *sqlx.Tx) error { return work(newDesk(tx, reading.where), o) })
}
