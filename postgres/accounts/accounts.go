// Package accounts knows people: how they sign in, in what browsers they are, which apps and roles they
// have, and who gave them.
package accounts

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/repository"
)

// AccountView is somebody who can sign in, as a builder sees them.
type AccountView struct {
	ID      int64  `db:"id" json:"id"`
	Name    string `db:"name" json:"name"`
	Email   string `db:"email" json:"email"`
	Builder bool   `db:"builder" json:"builder"`
	Active  bool   `db:"active" json:"active"`
	// Administrator says that they look after the accounts.
	Administrator bool `db:"administrator" json:"administrator"`
	// Picture is the key of a file, nought when there is none.
	Picture int64 `db:"picture" json:"picture,omitempty"`
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
	Name    string `json:"name"`
	Email   string `json:"email"`
	Builder bool   `json:"builder"`
	Active  bool   `json:"active"`
	// Administrator lets them look after the accounts.
	Administrator bool `json:"administrator"`
	// Picture is a file that the builder gave, nought for none.
	Picture int64            `json:"picture,omitempty"`
	Spaces  []MembershipView `json:"spaces"`
}

// SignInView is one try to sign in.
type SignInView struct {
	At time.Time `db:"at" json:"at"`
	OK bool      `db:"ok" json:"ok"`
}

// linkLength is how long a link to choose a password holds.
const linkLength = 72 * time.Hour

// Accounts looks after the people of an app, for a builder.
type Accounts struct {
	DB       *postgres.DB
	Editions *documents.Editions
	App      string
	By       Account
}

// List gives everybody.
func (a *Accounts) List(ctx context.Context) ([]AccountView, error) {
	out := []AccountView{}
	err := a.DB.SelectContext(ctx, &out, `SELECT p.id, p.name, p.email, p.builder, p.administrator, p.active, coalesce(p.picture, 0) AS picture,
		(SELECT max(at) FROM plainpath.sign_in s WHERE lower(s.email) = lower(p.email) AND s.ok) AS last FROM plainpath.person p ORDER BY NOT p.active, p.name`)
	if err != nil {
		return nil, fmt.Errorf("listing people: %w", err)
	}
	spaces, err := a.memberships(ctx)
	if err != nil {
		return nil, err
	}
	for i := range out {
		out[i].Spaces = spaces[out[i].ID]
	}
	return out, nil
}

// memberships are what everybody is in every space, by person.
func (a *Accounts) memberships(ctx context.Context) (map[int64][]MembershipView, error) {
	var rows []struct {
		Person       int64  `db:"person"`
		Space        string `db:"space"`
		Roles        string `db:"roles"`
		Organisation int64  `db:"organisation"`
	}
	err := a.DB.SelectContext(ctx, &rows, `SELECT p.id AS person, s.key AS space, coalesce(array_to_string(m.roles, ','), '') AS roles, coalesce(m.organisation, 0) AS organisation
		FROM plainpath.person p CROSS JOIN plainpath.space s LEFT JOIN plainpath.member m ON m.app = s.app AND m.space = s.key AND m.person = p.id
		WHERE s.app = $1 ORDER BY s.key`, a.App)
	if err != nil {
		return nil, fmt.Errorf("reading roles: %w", err)
	}
	named := map[string][]int64{}
	for _, r := range rows {
		if r.Organisation != 0 {
			named[r.Space] = append(named[r.Space], r.Organisation)
		}
	}
	labels := map[string]map[int64]string{}
	for space, keys := range named {
		if labels[space], err = a.organisations(ctx, space, keys); err != nil {
			return nil, err
		}
	}
	out := map[int64][]MembershipView{}
	for _, r := range rows {
		m := MembershipView{Space: r.Space, Roles: append([]string{}, postgres.Split(r.Roles)...),
			Organisation: r.Organisation}
		if r.Organisation != 0 {
			m.OrganisationLabel = labels[r.Space][r.Organisation]
			if m.OrganisationLabel == "" { // the builder may not see it
				m.OrganisationLabel = fmt.Sprintf("number %d", r.Organisation)
			}
		}
		out[r.Person] = append(out[r.Person], m)
	}
	return out, nil
}

// organisations are the labels of records that people belong to, as far as the builder
// may see them.
func (a *Accounts) organisations(ctx context.Context, space string, keys []int64) (map[int64]string, error) {
	w, err := (&repository.Repositories{DB: a.DB, Editions: a.Editions}).Where(ctx, postgres.Caller{App: a.App,
		Space:  space,
		Person: a.By.ID})
	if err != nil {
		return nil, err
	}
	out := map[int64]string{}
	if w.Edition.Model.Object(w.Edition.App.Organisation) == nil {
		return out, nil
	}
	found, err := records.ByKey(ctx, repository.New(a.DB, w), w.Edition.App.Organisation, keys, nil)
	var denied *access.DeniedError
	if err != nil && !errors.As(err, &denied) {
		return nil, fmt.Errorf("reading the organisations of people: %w", err)
	}
	for _, r := range found {
		out[r.ID] = r.Label
	}
	return out, nil
}

// noPassword is kept of a password until one is chosen: none is the same as it.
const noPassword = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// Invite adds somebody and gives the token of a link with which they choose a password.
func (a *Accounts) Invite(ctx context.Context, c AccountChange) (token string, err error) {
	if err := a.check(ctx, c); err != nil {
		return "", err
	}
	err = a.DB.In(ctx, func(tx *sqlx.Tx) error {
		id, err := addPerson(ctx, tx, NewPerson{c.Name, c.Email, c.Builder, c.Administrator}, noPassword)
		if err := taken(c, err); err != nil {
			return err
		}
		if err := a.give(ctx, tx, id, c); err != nil {
			return err
		}
		if err := postgres.Audit(ctx, tx, a.By.ID, fmt.Sprintf("invited %s (%s)", c.Name, c.Email),
			c.said()...); err != nil {
			return err
		}
		token, err = link(ctx, a.DB, tx, id)
		return err
	})
	return token, err
}

// said is what somebody is to be, in sentences.
func (c AccountChange) said() []string {
	var out []string
	for is, words := range map[string]bool{"may build": c.Builder, "looks after the accounts": c.Administrator,
		"may not sign in": !c.Active} {
		if words {
			out = append(out, is)
		}
	}
	slices.Sort(out)
	for _, s := range c.Spaces {
		if len(s.Roles) > 0 {
			out = append(out, fmt.Sprintf("in %s: %s", s.Space, strings.Join(s.Roles, ", ")))
		}
	}
	return out
}

func taken(c AccountChange, err error) error {
	if code, _, _ := postgres.Violated(err); code == "23505" {
		return records.Wrong("email", "somebody has the address %s already", c.Email)
	}
	if err != nil {
		return fmt.Errorf("storing %s: %w", c.Name, err)
	}
	return nil
}

func (a *Accounts) check(ctx context.Context, c AccountChange) error {
	out := &records.ProblemsError{}
	find := func(field, format string, args ...any) {
		out.Problems = append(out.Problems, records.Wrong(field, format, args...).Problems...)
	}
	if strings.TrimSpace(c.Name) == "" {
		find("name", "a name is required")
	}
	if err := (&model.Field{Type: model.Email, Label: "The address",
		Required: true}).CheckValue(value.Text(c.Email)); err != nil {
		find("email", "%s", err)
	}
	e, err := a.Editions.Draft(ctx, a.App)
	if err != nil {
		return err
	}
	for _, s := range c.Spaces {
		for _, role := range s.Roles {
			if !e.HasRole(role) {
				find("spaces", "there is no role %q", role)
			}
		}
		if s.Organisation == 0 {
			continue
		}
		known, err := a.organisations(ctx, s.Space, []int64{s.Organisation})
		if err != nil {
			return err
		}
		if known[s.Organisation] == "" {
			find("spaces", "what they belong to in %s is not among the records you may see", s.Space)
		}
	}
	if len(out.Problems) > 0 {
		return out
	}
	return nil
}

// give gives an account its picture, and its roles in every space.
func (a *Accounts) give(ctx context.Context, tx *sqlx.Tx, person int64, c AccountChange) error {
	if c.Picture != 0 {
		res, err := tx.ExecContext(ctx, `UPDATE plainpath.file f SET kept = true WHERE id = $1 AND app = $2 AND preview IS NOT NULL
			AND (added_by = $3 OR EXISTS (SELECT 1 FROM plainpath.person p WHERE p.id = $4 AND p.picture = f.id))`, c.Picture, a.App, a.By.ID, person)
		if err != nil {
			return fmt.Errorf("keeping a picture: %w", err)
		}
		if n, err := res.RowsAffected(); err == nil && n == 0 {
			return records.Wrong("picture",
				"the picture has not arrived, or is none; take a PNG, JPEG, GIF or WebP file")
		}
	}
	if _, err := tx.ExecContext(ctx, `UPDATE plainpath.person SET picture = nullif($2, 0) WHERE id = $1`, person,
		c.Picture); err != nil {
		return fmt.Errorf("keeping a picture: %w", err)
	}
	return a.join(ctx, tx, person, c.Spaces)
}

func (a *Accounts) join(ctx context.Context, tx *sqlx.Tx, person int64, spaces []MembershipView) error {
	for _, s := range spaces {
		if err := JoinWithin(ctx, tx, a.App, person, s); err != nil {
			return err
		}
	}
	return nil
}

// Change changes an account. Whoever is no longer active is signed out at once. Nobody
// can shut themselves out.
func (a *Accounts) Change(ctx context.Context, id int64, c AccountChange) error {
	if err := a.check(ctx, c); err != nil {
		return err
	}
	if id == a.By.ID && (!c.Active || !c.Administrator) {
		return &postgres.RejectedError{Text: "You cannot shut yourself out. Ask another administrator to do it."}
	}
	return a.DB.In(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx,
			`UPDATE plainpath.person SET name = $2, email = $3, builder = $4, active = $5, administrator = $6 WHERE id = $1`, id, c.Name, c.Email, c.Builder, c.Active, c.Administrator)
		if err := taken(c, err); err != nil {
			return err
		}
		if n, err := res.RowsAffected(); err == nil && n == 0 {
			return fmt.Errorf("person %d: %w", id, postgres.ErrNotFound)
		}
		if !c.Active {
			if err := signOutEverywhere(ctx, tx, id); err != nil {
				return err
			}
		}
		if err := postgres.Audit(ctx, tx, a.By.ID, fmt.Sprintf("changed the account of %s (%s)", c.Name, c.Email),
			c.said()...); err != nil {
			return err
		}
		return a.give(ctx, tx, id, c)
	})
}

// Reset ends somebody's sessions and gives the token of a link with which they choose a new
// password. The old one no longer works.
func (a *Accounts) Reset(ctx context.Context, id int64) (token string, err error) {
	return Reset(ctx, a.DB, id, a.By.ID)
}

// Reset is Accounts.Reset for whom nobody asks, which is the command line.
func Reset(ctx context.Context, db *postgres.DB, id, by int64) (token string, err error) {
	err = db.In(ctx, func(tx *sqlx.Tx) error {
		var name string
		err := tx.GetContext(ctx, &name,
			`UPDATE plainpath.person SET password_hash = $2 WHERE id = $1 AND active RETURNING name`, id, noPassword)
		if errors.Is(err, sql.ErrNoRows) {
			return fmt.Errorf("person %d: %w", id, postgres.ErrNotFound)
		}
		if err != nil {
			return fmt.Errorf("resetting a password: %w", err)
		}
		if err := signOutEverywhere(ctx, tx, id); err != nil {
			return err
		}
		if err := postgres.Audit(ctx, tx, by, "reset the password of "+name); err != nil {
			return err
		}
		token, err = link(ctx, db, tx, id)
		return err
	})
	return token, err
}

// link makes a token with which somebody chooses a password. Earlier ones no longer hold.
func link(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, person int64) (string, error) {
	token := rand.Text()
	if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.password_link WHERE person = $1`, person); err != nil {
		return "", fmt.Errorf("making a link: %w", err)
	}
	if _, err := tx.ExecContext(ctx,
		`INSERT INTO plainpath.password_link (token_hash, person, expires_at) VALUES ($1, $2, $3)`,
		postgres.HashToken(token), person, db.Now().Add(linkLength)); err != nil {
		return "", fmt.Errorf("making a link: %w", err)
	}
	return token, nil
}

// ErrBadLink says that a link to choose a password does not hold, or no longer.
var ErrBadLink = errors.New("this link does not hold, or no longer; ask for a new one")

// SetPassword chooses a password by the link of an invitation or a reset, and gives what the
// browser is known by from then on. The password is not looked at before the link is.
func SetPassword(ctx context.Context, db *postgres.DB, token, password string) (device string, err error) {
	if err := postgres.CheckPassword(password); err != nil {
		return "", err
	}
	var person int64
	err = db.GetContext(ctx, &person,
		`SELECT l.person FROM plainpath.password_link l JOIN plainpath.person p ON p.id = l.person WHERE l.token_hash = $1 AND l.expires_at > $2 AND p.active`, postgres.HashToken(token), db.Now())
	if errors.Is(err, sql.ErrNoRows) {
		return "", ErrBadLink
	}
	if err != nil {
		return "", fmt.Errorf("choosing a password: %w", err)
	}
	hash, err := db.Passwords.Hash(ctx, password)
	if err != nil {
		return "", err
	}
	err = db.In(ctx, func(tx *sqlx.Tx) error {
		res, err := tx.ExecContext(ctx, `DELETE FROM plainpath.password_link WHERE token_hash = $1`,
			postgres.HashToken(token))
		if err != nil {
			return fmt.Errorf("choosing a password: %w", err)
		}
		if n, err := res.RowsAffected(); err == nil && n == 0 {
			return ErrBadLink // used meanwhile
		}
		if res, err = tx.ExecContext(ctx, `UPDATE plainpath.person SET password_hash = $2 WHERE id = $1 AND active`,
			person, hash); err != nil {
			return fmt.Errorf("choosing a password: %w", err)
		}
		if n, err := res.RowsAffected(); err == nil && n == 0 {
			return ErrBadLink // shut out meanwhile
		}
		if err := signOutEverywhere(ctx, tx, person); err != nil {
			return err
		}
		if err := postgres.Audit(ctx, tx, person, "chose a password by a link"); err != nil {
			return err
		}
		device, err = trust(ctx, db, tx, person)
		return err
	})
	return device, err
}

// SignIns lists the latest tries to sign in of somebody, the latest first.
func (a *Accounts) SignIns(ctx context.Context, id int64) ([]SignInView, error) {
	out := []SignInView{}
	err := a.DB.SelectContext(ctx, &out,
		`SELECT s.at, s.ok FROM plainpath.sign_in s JOIN plainpath.person p ON lower(p.email) = lower(s.email) WHERE p.id = $1 ORDER BY s.at DESC LIMIT 50`, id)
	if err != nil {
		return nil, fmt.Errorf("listing sign-ins: %w", err)
	}
	return out, nil
}
