// Package repository gives people records in the spaces of an app: a records.Repository over a unit of work in
// PostgreSQL, and what is asked of single records there.
package repository

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/records"
	"plainpath/core/walk"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// Where says on what records work is done: an edition of an app, a space of it, and
// the person whose rights hold.
type Where struct {
	Edition *edition.Edition
	Schema  string
	Person  access.Person
	Now     time.Time
}

// The first keys given to records of a rehearsal: a range of their own, so that the
// same record has the same key at every replay. Both fit a browser's whole numbers.
const (
	rehearsedKeys    = walk.RehearsedKeys
	rehearsedNumbers = 900_000_000
)

// Repository is where a person reads and writes records, within one transaction or without.
type Repository struct {
	*records.Repository
	Edition *edition.Edition
	Schema  string
	Where   Where
	Unit    *unit
	Db      sqlx.ExtContext
}

// New is a person's repository on a connection or in a transaction.
func New(db sqlx.ExtContext, w Where) *Repository {
	e := w.Edition
	u := &unit{db: db, schema: w.Schema, model: e.Model, person: w.Person.ID}
	ground := records.Ground{Model: e.Model, Rules: e.Rules, Policy: e.Policy, WorkedOut: e.WorkedOut, Zone: e.Zone}
	return &Repository{Repository: records.NewRepository(ground, u, w.Person, w.Now), Edition: e, Schema: w.Schema,
		Where: w, Unit: u,
		Db: db}
}

// Space is the space as the person may see it.
func (d *Repository) Space() sqlgen.Space { return d.Unit.space(d) }

// Atomically does work on records: all of it happens, or nothing. In a transaction that is
// going on it is a part of that, and takes no second connection.
func (d *Repository) Atomically(ctx context.Context, work func(d *Repository) error) error {
	if db, ok := d.Db.(*postgres.DB); ok {
		tx, err := db.BeginTxx(ctx, nil)
		if err != nil {
			return fmt.Errorf("beginning a transaction: %w", err)
		}
		defer func() { _ = tx.Rollback() }()
		if err := work(d.on(tx)); err != nil {
			return err
		}
		if err := postgres.Commit(tx); err != nil {
			return fmt.Errorf("committing: %w", err)
		}
		return nil
	}
	return d.Unit.Try(ctx, func() error { return work(d.on(d.Db)) })
}

// on is the same repository with a cause of its own, on another connection or the same.
func (d *Repository) on(db sqlx.ExtContext) *Repository {
	out := *d
	u := *d.Unit
	u.db = db
	out.Unit, out.Db, out.Repository = &u, db, d.In(&u)
	return &out
}
