package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"net/mail"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/jmoiron/sqlx"

	"plainpath/core/edition"
	"plainpath/core/surface"
	"plainpath/core/value"
)

// AccountView is somebody who can sign in, as a builder sees them.
type AccountView struct {
	ID      int64  `db:"id" json:"id"`
	Name    string `db:"name" json:"name"`
	Email   string `db:"email" json:"email"`
	Builder bool   `db:"builder" json:"builder"`
	Active  bool   `db:"active" json:"active"`
	// LastSignIn is empty when they never signed in.
	LastSignIn *time.Time       `db:"last" json:"last_sign_in,omitempty"`
	Spaces     []MembershipView `db:"-" json:"spaces"`
}

// MembershipView is what somebody is in one space.
type MembershipView struct {
	Space string   `json:"space"`
	Roles []string `json:"roles"`
	// Organisation is the record they belong to, nought for the company's own people.
	Organisation      int64  `json:"organisation,omitempty"`
	OrganisationLabel string `json:"organisation_label,omitempty"`
}

// AccountChange is what is to become of an account.
type AccountChange struct {
	Name    string           `json:"name"`
	Email   string           `json:"email"`
	Builder bool             `json:"builder"`
	Active  bool             `json:"active"`
	Spaces  []MembershipView `json:"spaces"`
}

// SignInView is one try to sign in.
type SignInView struct {
	At time.Time `db:"at" json:"at"`
	OK bool      `db:"ok" json:"ok"`
}

// MailView is a message to somebody.
type MailView struct {
	At      time.Time `db:"at" json:"at"`
	Address string    `db:"address" json:"address"`
	Subject string    `db:"subject" json:"subject"`
	Body    string    `db:"body" json:"body"`
}

// linkLength is how long a link to choose a password holds.
const linkLength = 72 * time.Hour

// shortestPassword is how many characters a password must have, after NIST SP 800-63B-4.
const shortestPassword = 15

// Accounts looks after the people of an app.
type Accounts struct {
	DB       *DB
	Editions *Editions
	App      string
}

// List gives everybody.
func (a *Accounts) List(ctx context.Context) ([]AccountView, error) {
	out := []AccountView{}
	err := a.DB.SelectContext(ctx, &out, `SELECT p.id, p.name, p.email, p.builder, p.active,
		(SELECT max(at) FROM plainpath.sign_in s WHERE lower(s.email) = lower(p.email) AND s.ok) AS last FROM plainpath.person p ORDER BY NOT p.active, p.name`)
	if err != nil {
		return nil, fmt.Errorf("listing people: %w", err)
	}
	e, err := a.Editions.Draft(ctx, a.App)
	if err != nil {
		return nil, err
	}
	for i := range out {
		if out[i].Spaces, err = a.memberships(ctx, e, out[i].ID); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (a *Accounts) memberships(ctx context.Context, e *edition.Edition, person int64) ([]MembershipView, error) {
	var rows []struct {
		Space        string        `db:"space"`
		Schema       string        `db:"schema"`
		Roles        string        `db:"roles"`
		Organisation sql.NullInt64 `db:"organisation"`
	}
	err := a.DB.SelectContext(ctx, &rows, `SELECT s.key AS space, s.schema, coalesce(array_to_string(m.roles, ','), '') AS roles, m.organisation FROM plainpath.space s
		LEFT JOIN plainpath.member m ON m.app = s.app AND m.space = s.key AND m.person = $2 WHERE s.app = $1 ORDER BY s.key`, a.App, person)
	if err != nil {
		return nil, fmt.Errorf("reading the roles of person %d: %w", person, err)
	}
	out := make([]MembershipView, len(rows))
	for i, r := range rows {
		out[i] = MembershipView{Space: r.Space, Roles: append([]string{}, split(r.Roles)...), Organisation: r.Organisation.Int64}
		o := e.Model.Object(e.App.Organisation)
		if out[i].Organisation == 0 || o == nil {
			continue
		}
		err := a.DB.GetContext(ctx, &out[i].OrganisationLabel, fmt.Sprintf(`SELECT coalesce((SELECT %q::text FROM %q.%q WHERE id = $1), '')`, o.LabelField, r.Schema, o.Key), out[i].Organisation)
		if err != nil {
			return nil, fmt.Errorf("reading the organisation of person %d: %w", person, err)
		}
	}
	return out, nil
}

// Invite adds somebody and writes them a message with a link to choose a password.
func (a *Accounts) Invite(ctx context.Context, c AccountChange, by Account) (int64, error) {
	if err := a.check(ctx, c); err != nil {
		return 0, err
	}
	var id int64
	err := a.DB.in(ctx, func(tx *sqlx.Tx) error {
		// Nobody knows this password; the link replaces it.
		hash, err := HashPassword(rand.Text())
		if err != nil {
			return fmt.Errorf("inviting %s: %w", c.Name, err)
		}
		err = tx.GetContext(ctx, &id, `INSERT INTO plainpath.person (name, email, password_hash, builder) VALUES ($1, $2, $3, $4) RETURNING id`, c.Name, c.Email, hash, c.Builder)
		if err := taken(c, err); err != nil {
			return err
		}
		if err := a.join(ctx, tx, id, c.Spaces); err != nil {
			return err
		}
		return a.link(ctx, tx, id, c.Email, "Your invitation", fmt.Sprintf("%s invites you to work with Plain Path.", by.Name))
	})
	return id, err
}

func taken(c AccountChange, err error) error {
	if code, _, _ := violated(err); code == "23505" {
		return wrong("email", "somebody has the address %s already", c.Email)
	}
	if err != nil {
		return fmt.Errorf("storing %s: %w", c.Name, err)
	}
	return nil
}

func (a *Accounts) check(ctx context.Context, c AccountChange) error {
	out := &RecordError{}
	if strings.TrimSpace(c.Name) == "" {
		out.Problems = append(out.Problems, wrong("name", "a name is needed").Problems...)
	}
	if p, err := mail.ParseAddress(c.Email); err != nil || p.Address != c.Email {
		out.Problems = append(out.Problems, wrong("email", "%q is not an e-mail address such as name@company.example", c.Email).Problems...)
	}
	e, err := a.Editions.Draft(ctx, a.App)
	if err != nil {
		return err
	}
	for _, s := range c.Spaces {
		for _, role := range s.Roles {
			if !e.HasRole(role) {
				out.Problems = append(out.Problems, wrong("spaces", "there is no role %q", role).Problems...)
			}
		}
	}
	if len(out.Problems) > 0 {
		return out
	}
	return nil
}

func (a *Accounts) join(ctx context.Context, tx *sqlx.Tx, person int64, spaces []MembershipView) error {
	for _, s := range spaces {
		roles := s.Roles
		if roles == nil {
			roles = []string{}
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO plainpath.member (app, space, person, roles, organisation) VALUES ($1, $2, $3, $4, nullif($5, 0))
			ON CONFLICT (app, space, person) DO UPDATE SET roles = excluded.roles, organisation = excluded.organisation`, a.App, s.Space, person, roles, s.Organisation)
		if err != nil {
			return fmt.Errorf("giving roles in %s: %w", s.Space, err)
		}
	}
	return nil
}

// Change changes an account. Whoever is no longer active is signed out at once. Nobody
// can shut themselves out.
func (a *Accounts) Change(ctx context.Context, id int64, c AccountChange, by Account) error {
	if err := a.check(ctx, c); err != nil {
		return err
	}
	if id == by.ID && (!c.Active || !c.Builder) {
		return &RejectedError{"You cannot shut yourself out. Ask another builder to do it."}
	}
	return a.DB.in(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx, `UPDATE plainpath.person SET name = $2, email = $3, builder = $4, active = $5 WHERE id = $1`, id, c.Name, c.Email, c.Builder, c.Active)
		if err := taken(c, err); err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err == nil && n == 0 {
			return fmt.Errorf("person %d: %w", id, ErrNotFound)
		}
		if !c.Active {
			if err := signOutEverywhere(ctx, tx, id); err != nil {
				return err
			}
		}
		return a.join(ctx, tx, id, c.Spaces)
	})
}

func signOutEverywhere(ctx context.Context, tx *sqlx.Tx, person int64) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.session WHERE person = $1`, person); err != nil {
		return fmt.Errorf("signing out: %w", err)
	}
	return nil
}

// Reset ends somebody's sessions and writes them a link to choose a new password. The old
// one no longer works.
func (a *Accounts) Reset(ctx context.Context, id int64) error {
	return a.DB.in(ctx, func(tx *sqlx.Tx) error {
		hash, err := HashPassword(rand.Text())
		if err != nil {
			return fmt.Errorf("resetting a password: %w", err)
		}
		var email string
		err = tx.GetContext(ctx, &email, `UPDATE plainpath.person SET password_hash = $2 WHERE id = $1 AND active RETURNING email`, id, hash)
		if errors.Is(err, sql.ErrNoRows) {
			return fmt.Errorf("person %d: %w", id, ErrNotFound)
		}
		if err != nil {
			return fmt.Errorf("resetting a password: %w", err)
		}
		if err := signOutEverywhere(ctx, tx, id); err != nil {
			return err
		}
		return a.link(ctx, tx, id, email, "Choose a new password", "Your password was reset.")
	})
}

// link writes somebody a message with a link to choose a password. Earlier links no
// longer hold.
func (a *Accounts) link(ctx context.Context, tx *sqlx.Tx, person int64, email, subject, text string) error {
	token := rand.Text()
	if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.password_link WHERE person = $1`, person); err != nil {
		return fmt.Errorf("making a link: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO plainpath.password_link (token_hash, person, expires_at) VALUES ($1, $2, $3)`, hashToken(token), person, a.DB.Now().Add(linkLength)); err != nil {
		return fmt.Errorf("making a link: %w", err)
	}
	body := text + "\n\nChoose a password within three days:\n/password/" + token
	if _, err := tx.ExecContext(ctx, `INSERT INTO plainpath.mail (person, address, subject, body) VALUES ($1, $2, $3, $4)`, person, email, subject, body); err != nil {
		return fmt.Errorf("writing a message: %w", err)
	}
	return nil
}

// ErrBadLink says that a link to choose a password does not hold, or no longer.
var ErrBadLink = errors.New("this link does not hold, or no longer; ask for a new one")

// SetPassword chooses a password by the link of an invitation or a reset.
func (a *Accounts) SetPassword(ctx context.Context, token, password string) error {
	if n := utf8.RuneCountInString(password); n < shortestPassword || n > 200 {
		return wrong("password", "a password has %d characters at least; a few words will do", shortestPassword)
	}
	hash, err := HashPassword(password)
	if err != nil {
		return fmt.Errorf("choosing a password: %w", err)
	}
	return a.DB.in(ctx, func(tx *sqlx.Tx) error {
		var person int64
		err := tx.GetContext(ctx, &person, `DELETE FROM plainpath.password_link WHERE token_hash = $1 AND expires_at > $2 RETURNING person`, hashToken(token), a.DB.Now())
		if errors.Is(err, sql.ErrNoRows) {
			return ErrBadLink
		}
		if err != nil {
			return fmt.Errorf("choosing a password: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.person SET password_hash = $2 WHERE id = $1 AND active`, person, hash); err != nil {
			return fmt.Errorf("choosing a password: %w", err)
		}
		return signOutEverywhere(ctx, tx, person)
	})
}

// SignIns lists the latest tries to sign in of somebody, the latest first.
func (a *Accounts) SignIns(ctx context.Context, id int64) ([]SignInView, error) {
	out := []SignInView{}
	err := a.DB.SelectContext(ctx, &out, `SELECT s.at, s.ok FROM plainpath.sign_in s JOIN plainpath.person p ON lower(p.email) = lower(s.email) WHERE p.id = $1 ORDER BY s.at DESC LIMIT 50`, id)
	if err != nil {
		return nil, fmt.Errorf("listing sign-ins: %w", err)
	}
	return out, nil
}

// Mail lists the latest messages to somebody, the latest first.
func (a *Accounts) Mail(ctx context.Context, id int64) ([]MailView, error) {
	out := []MailView{}
	if err := a.DB.SelectContext(ctx, &out, `SELECT at, address, subject, body FROM plainpath.mail WHERE person = $1 ORDER BY id DESC LIMIT 20`, id); err != nil {
		return nil, fmt.Errorf("listing messages: %w", err)
	}
	return out, nil
}

// Organisations finds records somebody can belong to, in a space.
func (s *Desks) Organisations(ctx context.Context, p Place, text string) ([]value.Ref, error) {
	w, err := s.where(ctx, p)
	if err != nil {
		return nil, err
	}
	if w.Edition.Model.Object(w.Edition.App.Organisation) == nil {
		return []value.Ref{}, nil
	}
	return surface.Options(ctx, newDesk(s.DB.DB, w), w.Edition.App.Organisation, text)
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
