package store

import (
	"context"
	"fmt"
	"time"

	"plainpath/postgres/sqlgen"

	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/records"
	"plainpath/core/walk"
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

// desk is where a person reads and writes records, within one transaction or without.
type desk struct {
	*records.Desk
	Edition *edition.Edition
	Schema  string
	where   Where
	unit    *unit
	db      sqlx.ExtContext
}

func newDesk(db sqlx.ExtContext, w Where) *desk {
	e := w.Edition
	u := &unit{db: db, schema: w.Schema, model: e.Model, person: w.Person.ID}
	ground := records.Ground{Model: e.Model, Rules: e.Rules, Policy: e.Policy, WorkedOut: e.WorkedOut, Zone: e.Zone}
	return &desk{Desk: records.NewDesk(ground, u, w.Person, w.Now), Edition: e, Schema: w.Schema, where: w, unit: u, db: db}
}

// Space is the space as the person may see it.
func (d *desk) Space() sqlgen.Space { return d.unit.space(d) }

// atomically does work at the desk: all of it happens, or nothing. In a transaction that is
// going on it is a part of that, and takes no second connection.
func (d *desk) atomically(ctx context.Context, work func(d *desk) error) error {
	if db, ok := d.db.(*DB); ok {
		tx, err := db.BeginTxx(ctx, nil)
		if err != nil {
			return fmt.Errorf("beginning a transaction: %w", err)
		}
		defer func() { _ = tx.Rollback() }()
		if err := work(d.on(tx)); err != nil {
			return err
		}
		if err := commit(tx); err != nil {
			return fmt.Errorf("committing: %w", err)
		}
		return nil
	}
	return d.unit.Try(ctx, func() error { return work(d.on(d.db)) })
}

// on is the same desk with a cause of its own, on another connection or the same.
func (d *desk) on(db sqlx.ExtContext) *desk {
	out := *d
	u := *d.unit
	u.db = db
	out.unit, out.db, out.Desk = &u, db, d.In(&u)
	return &out
}
