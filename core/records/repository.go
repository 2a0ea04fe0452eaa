package records

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"time"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/rules"
	"plainpath/core/value"
)

// Ground is what work is done on: the model of an app and what must hold of its records.
type Ground struct {
	Model  *model.Model
	Rules  *rules.Book
	Policy *access.Policy
	// WorkedOut is how a field is worked out, false for one that is not.
	WorkedOut func(object, field string) (query.WorkedOut, bool)
	// Zone is the time zone of the house.
	Zone *time.Location
}

// Repository reads and writes records for one person within one unit, under their rights and the rules. It is
// the one door to records: defaults, rights, rules and the comparison of what several people edit are
// seen to here, whoever writes.
type Repository struct {
	ground Ground
	unit   Unit
	person access.Person
	now    time.Time
	grants map[string]access.Grant
	// Cause goes into the history with every record written.
	Cause map[string]string
}

// NewRepository is a person's. Now is the time it is, in the zone of the house.
func NewRepository(g Ground, u Unit, person access.Person, now time.Time) *Repository {
	return &Repository{ground: g, unit: u, person: person, now: now.In(g.Zone), grants: map[string]access.Grant{},
		Cause: map[string]string{}}
}

// In is the same repository in another unit, with a cause of its own.
func (d *Repository) In(u Unit) *Repository {
	out := NewRepository(d.ground, u, d.person, d.now)
	maps.Copy(out.Cause, d.Cause)
	return out
}

// Try does something and takes back what it wrote when it fails; the unit goes on.
func (d *Repository) Try(ctx context.Context, do func() error) error { return d.unit.Try(ctx, do) }

// Tell tells people something, and gives the names of those who are told.
func (d *Repository) Tell(ctx context.Context, n Notice) ([]string, error) {
	n.At = d.now
	return d.unit.Tell(ctx, n)
}

// Model is what the records are.
func (d *Repository) Model() *model.Model { return d.ground.Model }

// Person is whose it is.
func (d *Repository) Person() access.Person { return d.person }

// Now is the time it is.
func (d *Repository) Now() time.Time { return d.now }

// Zone is the time zone of the person, or that of the house.
func (d *Repository) Zone() *time.Location { return cmp.Or(d.person.Zone, d.ground.Zone) }

// Grant is what the person may do with an object.
func (d *Repository) Grant(object string) (access.Grant, error) {
	if g, ok := d.grants[object]; ok {
		return g, nil
	}
	g, err := d.ground.Policy.Grant(d.ground.Model, d.person, object, d.Base())
	if err == nil {
		d.grants[object] = g
	}
	return g, err
}

// WorkedOut is how a field is worked out, false for one that is not.
func (d *Repository) WorkedOut(object, field string) (query.WorkedOut, bool) {
	return d.ground.WorkedOut(object, field)
}

// Base is what conditions may know besides records.
func (d *Repository) Base() expr.Values {
	return expr.Values{"person": d.person.Value(), "today": value.DateOf(d.now), "now": value.NewInstant(d.now)}
}

// Select reads the records of a query.
func (d *Repository) Select(ctx context.Context, q query.Query) (Page, error) {
	return d.unit.Select(ctx, d, q)
}

// Count counts the records of a query, order and limit aside.
func (d *Repository) Count(ctx context.Context, q query.Query) (int64, error) {
	return d.unit.Count(ctx, d, q)
}

// Groups counts the records of a query and makes totals, by groups in groups, or over all without one.
func (d *Repository) Groups(ctx context.Context, q query.Query, by []query.Grouping,
	totals []query.Total) ([]query.Piece, error) {
	return d.unit.Groups(ctx, d, q, by, totals)
}

// Steps counts all records of an object, and how many are left after each condition in turn.
func (d *Repository) Steps(ctx context.Context, object string, steps []query.Step) ([]int64, error) {
	return d.unit.Steps(ctx, d, object, steps)
}

// Holding is what is so of a record, false where there is no such record.
func (d *Repository) Holding(ctx context.Context, h query.Holding) (query.Held, bool, error) {
	return d.unit.Holding(ctx, d, h)
}

// Written is a query in the language of the database.
func (d *Repository) Written(q query.Query) (string, error) { return d.unit.Written(d, q) }

// Prove answers which predicates hold of a record; nothing when there is no such record.
func (d *Repository) Prove(ctx context.Context, object string, key int64, tests []predicate.Predicate,
	edited *query.Edited) ([]bool, error) {
	return d.unit.Prove(ctx, d, query.Proof{Object: object, Key: key, Tests: tests, Edited: edited})
}

// Matched counts the records a condition on related records matches, and how many different records
// those point at.
func (d *Repository) Matched(ctx context.Context, p predicate.HasRelated,
	edited *query.Edited) (matched, distinct int64, err error) {
	return d.unit.Matched(ctx, d, p, edited)
}

// Record reads a record with some of its fields. One that is not there or not the person's is
// ErrNotFound.
func (d *Repository) Record(ctx context.Context, o *model.Object, id int64, paths []model.Path) (*value.Record, error) {
	found, err := ByKey(ctx, d, o.Key, []int64{id}, paths)
	var denied *access.DeniedError
	if errors.As(err, &denied) || err == nil && len(found) == 0 {
		return nil, fmt.Errorf("%s %d: %w", o.Key, id, ErrNotFound)
	}
	if err != nil {
		return nil, err
	}
	return found[0], nil
}

// WholeRecord reads a record with all its fields.
func (d *Repository) WholeRecord(ctx context.Context, o *model.Object, id int64) (*value.Record, error) {
	paths, err := FieldPaths(d.Model(), o)
	if err != nil {
		return nil, err
	}
	return d.Record(ctx, o, id, paths)
}

// FieldPaths are the paths to the fields of an object.
func FieldPaths(m *model.Model, o *model.Object) ([]model.Path, error) {
	out := make([]model.Path, len(o.Fields))
	for i := range o.Fields {
		var err error
		if out[i], err = m.Path(o.Key, o.Fields[i].Key); err != nil {
			return nil, err
		}
	}
	return out, nil
}
