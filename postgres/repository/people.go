package repository

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
)

// Member is a person as one of a space, as stored.
type Member struct {
	Name         string        `db:"name"`
	Email        string        `db:"email"`
	Zone         string        `db:"zone"`
	Roles        string        `db:"roles"`
	Organisation sql.NullInt64 `db:"organisation"`
	// Schema is that of the space.
	Schema string `db:"schema"`
}

// What a Member is read of, where s is the space: its columns, and the tables with the key of the person put in.
const (
	MemberColumns = "p.name, p.email, p.zone, coalesce(array_to_string(m.roles, ','), '') AS roles, m.organisation, s.schema"
	MemberTables  = "JOIN plainpath.person p ON p.id = %s AND p.active " +
		"LEFT JOIN plainpath.member m ON m.person = p.id AND m.app = s.app AND m.space = s.key"
)

// Where is where a member works in an edition, with the rights they have. Who is a member of no role has none. What
// belongs to their organisation is read through q.
func (m Member) Where(ctx context.Context, q sqlx.ExtContext, now time.Time, at postgres.Caller,
	e *edition.Edition) (Where, error) {
	w := Where{Edition: e, Schema: m.Schema, Now: now}
	var err error
	w.Person, err = m.person(ctx, q, w, at)
	return w, err
}

// WhereOf is where a person works in an edition.
func WhereOf(ctx context.Context, db *postgres.DB, at postgres.Caller, e *edition.Edition) (Where, error) {
	var m Member
	err := db.GetContext(ctx, &m, "SELECT "+MemberColumns+" FROM plainpath.space s "+fmt.Sprintf(MemberTables, "$3")+
		" WHERE s.app = $1 AND s.key = $2", at.App, at.Space, at.Person)
	if errors.Is(err, sql.ErrNoRows) {
		return Where{}, fmt.Errorf("person %d: %w", at.Person, postgres.ErrNotFound)
	}
	if err != nil {
		return Where{}, fmt.Errorf("reading person %d: %w", at.Person, err)
	}
	return m.Where(ctx, db, db.Now(), at, e)
}

func (m Member) person(ctx context.Context, q sqlx.ExtContext, w Where, at postgres.Caller) (access.Person, error) {
	p := access.Person{ID: at.Person, Name: m.Name, Email: m.Email, Roles: postgres.Split(m.Roles)}
	var err error
	if m.Zone != "" {
		if p.Zone, err = time.LoadLocation(m.Zone); err != nil {
			return p, fmt.Errorf("finding the time zone of %s: %w", p.Name, err)
		}
	}
	object := w.Edition.Model.Object(w.Edition.App.Organisation)
	if !m.Organisation.Valid || object == nil {
		return p, nil
	}
	p.Organisation = &value.Record{Object: object.Key, ID: m.Organisation.Int64}
	if p.Colleagues, err = colleagues(ctx, q, at, m.Organisation.Int64); err != nil {
		return p, err
	}
	w.Person = p
	found, err := records.ByKey(ctx, New(q, w), object.Key, []int64{p.Organisation.ID}, nil)
	var denied *access.DeniedError
	switch {
	case errors.As(err, &denied): // it still bounds what the person sees; only its name stays unknown
	case err != nil:
		return p, fmt.Errorf("reading the organisation of %s: %w", p.Name, err)
	case len(found) == 1:
		p.Organisation = found[0]
	}
	return p, nil
}

// mostColleagues bounds how many people of one organisation know of each other.
const mostColleagues = 1000

// colleagues are the people who belong to an organisation.
func colleagues(ctx context.Context, q sqlx.QueryerContext, at postgres.Caller, organisation int64) ([]int64, error) {
	var out []int64
	err := sqlx.SelectContext(ctx, q, &out,
		`SELECT person FROM plainpath.member WHERE app = $1 AND space = $2 AND organisation = $3 ORDER BY person LIMIT $4`,
		at.App, at.Space, organisation, mostColleagues)
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
