package store

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"time"

	"plainpath/postgres/sqlgen"

	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/core/query"
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

// desk reads and writes records for one person within one transaction.
type desk struct {
	Where
	db sqlx.ExtContext
	// cause goes into the history with every record written.
	cause map[string]string
	// rehearsed counts the records added when keys are to come from the rehearsals'
	// range; nil otherwise.
	rehearsed *int64
	grants    map[string]access.Grant
}

func newDesk(db sqlx.ExtContext, w Where) *desk {
	w.Now = w.Now.In(w.Edition.Zone)
	return &desk{Where: w, db: db, cause: map[string]string{}, grants: map[string]access.Grant{}}
}

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
	if _, err := d.db.ExecContext(ctx, "SAVEPOINT work"); err != nil {
		return fmt.Errorf("beginning a part of a transaction: %w", err)
	}
	if err := work(d.on(d.db)); err != nil {
		if _, back := d.db.ExecContext(context.WithoutCancel(ctx), "ROLLBACK TO SAVEPOINT work"); back != nil {
			return errors.Join(err, back)
		}
		return err
	}
	if _, err := d.db.ExecContext(ctx, "RELEASE SAVEPOINT work"); err != nil {
		return fmt.Errorf("ending a part of a transaction: %w", err)
	}
	return nil
}

// on is the same desk with a cause of its own, on another connection or the same.
func (d *desk) on(db sqlx.ExtContext) *desk {
	out := newDesk(db, d.Where)
	maps.Copy(out.cause, d.cause)
	out.rehearsed = d.rehearsed
	return out
}

func (d *desk) Person() access.Person { return d.Where.Person }
func (d *desk) Now() time.Time        { return d.Where.Now }
func (d *desk) Zone() *time.Location  { return cmp.Or(d.Where.Person.Zone, d.Edition.Zone) }

func (d *desk) Model() *model.Model { return d.Edition.Model }

// Grant is what the person may do with an object.
func (d *desk) Grant(object string) (access.Grant, error) {
	if g, ok := d.grants[object]; ok {
		return g, nil
	}
	g, err := d.Edition.Policy.Grant(d.Edition.Model, d.Where.Person, object, d.Base())
	if err == nil {
		d.grants[object] = g
	}
	return g, err
}

// WorkedOut is how a field is worked out, false for one that is not.
func (d *desk) WorkedOut(object, field string) (query.WorkedOut, bool) {
	return d.Edition.WorkedOut(object, field)
}

// Space is the space as the person may see it.
func (d *desk) Space() sqlgen.Space {
	return sqlgen.Space{Model: d.Edition.Model, Schema: d.Schema, Worked: d.WorkedOut, Grant: d.Grant}
}
