package accounts

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// Account is a person as they sign in.
type Account struct {
	ID      int64  `db:"id" json:"id"`
	Email   string `db:"email" json:"email"`
	Name    string `db:"name" json:"name"`
	Builder bool   `db:"builder" json:"builder"`
	// Administrator says that they look after the accounts.
	Administrator bool `db:"administrator" json:"administrator"`
	// Zone is the time zone of the person's own, "" for that of the app.
	Zone string `db:"zone" json:"-"`
}

// ZoneOf is the time zone that somebody has set, "" for none.
func ZoneOf(ctx context.Context, db *postgres.DB, person int64) (string, error) {
	var zone string
	err := db.GetContext(ctx, &zone, `SELECT coalesce(max(zone), '') FROM plainpath.person WHERE id = $1`, person)
	if err != nil {
		return "", fmt.Errorf("finding a time zone: %w", err)
	}
	return zone, nil
}

// SetZone sets the time zone in which somebody enters and sees times, that of the app for "".
func SetZone(ctx context.Context, db *postgres.DB, person int64, zone string) error {
	if _, err := time.LoadLocation(zone); err != nil || zone == "Local" {
		return &postgres.RejectedError{Text: fmt.Sprintf("There is no time zone %q. Choose one such as Europe/Dublin.",
			zone)}
	}
	if _, err := db.ExecContext(ctx, `UPDATE plainpath.person SET zone = $2 WHERE id = $1`, person, zone); err != nil {
		return fmt.Errorf("setting the time zone: %w", err)
	}
	return nil
}

// NewPerson is somebody who is to be able to sign in.
type NewPerson struct {
	Name, Email            string
	Builder, Administrator bool
}

// AddPerson adds somebody who can sign in and gives their key.
func AddPerson(ctx context.Context, db *postgres.DB, p NewPerson, password string) (int64, error) {
	hash, err := db.Passwords.Hash(ctx, password)
	if err != nil {
		return 0, err
	}
	return addPerson(ctx, db, p, hash)
}

// AddPersonWithoutPassword adds somebody who can sign in once they have chosen a password by a link.
// Whoever has the address already is taken for them.
func AddPersonWithoutPassword(ctx context.Context, db *postgres.DB, p NewPerson) (int64, error) {
	var id int64
	err := db.GetContext(ctx, &id, `SELECT id FROM plainpath.person WHERE lower(email) = lower($1)`, p.Email)
	if err == nil {
		return id, nil
	}
	if !errors.Is(err, sql.ErrNoRows) {
		return 0, fmt.Errorf("adding %s: %w", p.Name, err)
	}
	return addPerson(ctx, db, p, noPassword)
}

// addPerson adds somebody with what is kept of their password, which is noPassword until they have
// chosen one.
func addPerson(ctx context.Context, q sqlx.QueryerContext, p NewPerson, hash string) (int64, error) {
	var id int64
	err := sqlx.GetContext(ctx, q, &id,
		`INSERT INTO plainpath.person (name, email, password_hash, builder, administrator) VALUES ($1, $2, $3, $4, $5) RETURNING id`, p.Name, p.Email, hash, p.Builder, p.Administrator)
	if err != nil {
		return 0, fmt.Errorf("adding %s: %w", p.Name, err)
	}
	return id, nil
}

// Join makes a person a member of a space of an app; organisation is nought for the
// company's own people.
func Join(ctx context.Context, db *postgres.DB, app, space string, person int64, roles []string,
	organisation int64) error {
	return JoinWithin(ctx, db, app, person, MembershipView{Space: space, Roles: roles, Organisation: organisation})
}

// JoinWithin gives somebody a membership within a transaction.
func JoinWithin(ctx context.Context, q sqlx.ExecerContext, app string, person int64, m MembershipView) error {
	roles := append([]string{}, m.Roles...) // never NULL
	_, err := q.ExecContext(ctx, `INSERT INTO plainpath.member (app, space, person, roles, organisation) VALUES ($1, $2, $3, $4, nullif($5, 0))
		ON CONFLICT (app, space, person) DO UPDATE SET roles = excluded.roles, organisation = excluded.organisation`, app, m.Space, person, roles, m.Organisation)
	if err != nil {
		return fmt.Errorf("making a person a member of %s: %w", m.Space, err)
	}
	return nil
}

// Member is a person with their roles in a space.
type Member struct {
	access.Person
	RoleLabels []string `json:"role_labels"`
}

// Members lists the people of a space.
func Members(ctx context.Context, db *postgres.DB, app, space string, e *edition.Edition) ([]Member, error) {
	var ids []int64
	err := db.SelectContext(ctx, &ids, `SELECT m.person FROM plainpath.member m JOIN plainpath.person p ON p.id = m.person
		WHERE m.app = $1 AND m.space = $2 AND p.active ORDER BY p.name`, app, space)
	if err != nil {
		return nil, fmt.Errorf("listing people: %w", err)
	}
	out := make([]Member, 0, len(ids))
	for _, id := range ids {
		w, err := repository.WhereOf(ctx, db, postgres.Caller{App: app, Space: space, Person: id}, e)
		if err != nil {
			return nil, err
		}
		m := Member{Person: w.Person}
		for _, r := range m.Roles {
			m.RoleLabels = append(m.RoleLabels, e.Policy.Label(r))
		}
		out = append(out, m)
	}
	return out, nil
}
