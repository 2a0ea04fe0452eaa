package repository

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"time"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
)

// Person is somebody with the rights they have in a space. Who is no member has none.
func Person(ctx context.Context, db *postgres.DB, app, space string, id int64,
	e *edition.Edition) (access.Person, error) {
	var row struct {
		Name         string        `db:"name"`
		Email        string        `db:"email"`
		Roles        string        `db:"roles"`
		Organisation sql.NullInt64 `db:"organisation"`
		Schema       string        `db:"schema"`
		Zone         string        `db:"zone"`
	}
	err := db.GetContext(ctx, &row, `SELECT p.name, p.email, p.zone, coalesce(array_to_string(m.roles, ','), '') AS roles, m.organisation, s.schema
		FROM plainpath.person p JOIN plainpath.space s ON s.app = $1 AND s.key = $2
		LEFT JOIN plainpath.member m ON m.person = p.id AND m.app = $1 AND m.space = $2 WHERE p.id = $3 AND p.active`, app, space, id)
	if errors.Is(err, sql.ErrNoRows) {
		return access.Person{}, fmt.Errorf("person %d: %w", id, postgres.ErrNotFound)
	}
	if err != nil {
		return access.Person{}, fmt.Errorf("reading person %d: %w", id, err)
	}
	p := access.Person{ID: id, Name: row.Name, Email: row.Email, Roles: postgres.Split(row.Roles)}
	if row.Zone != "" {
		if p.Zone, err = time.LoadLocation(row.Zone); err != nil {
			return p, fmt.Errorf("finding the time zone of %s: %w", p.Name, err)
		}
	}
	if object := e.Model.Object(e.App.Organisation); row.Organisation.Valid && object != nil {
		p.Organisation = &value.Record{Object: object.Key, ID: row.Organisation.Int64}
		if p.Colleagues, err = colleagues(ctx, db, app, space, row.Organisation.Int64); err != nil {
			return p, err
		}
		d := New(db, Where{Edition: e, Schema: row.Schema, Person: p, Now: db.Now()})
		found, err := records.ByKey(ctx, d, object.Key, []int64{p.Organisation.ID}, nil)
		var denied *access.DeniedError
		switch {
		case errors.As(err, &denied): // it still bounds what the person sees; only its name stays unknown
		case err != nil:
			return p, fmt.Errorf("reading the organisation of %s: %w", p.Name, err)
		case len(found) == 1:
			p.Organisation = found[0]
		}
	}
	return p, nil
}

// mostColleagues bounds how many people of one organisation know of each other.
const mostColleagues = 1000

// colleagues are the people who belong to an organisation.
func colleagues(ctx context.Context, db *postgres.DB, app, space string, organisation int64) ([]int64, error) {
	var out []int64
	err := db.SelectContext(ctx, &out,
		`SELECT person FROM plainpath.member WHERE app = $1 AND space = $2 AND organisation = $3 ORDER BY person LIMIT $4`, app, space, organisation, mostColleagues)
	if err != nil {
		return nil, fmt.Errorf("finding the people of an organisation: %w", err)
	}
	return out, nil
}

// roleKeys are the keys of the roles there are.
func roleKeys(e *edition.Edition) []string {
	out := make([]string, len(e.Roles))
	for i, r := range e.Roles {
		out[i] = r.Key
	}
	slices.Sort(out)
	return out
}
