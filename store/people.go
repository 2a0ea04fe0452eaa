package store

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/surface"
	"plainpath/core/value"
)

// Account is a person as they sign in.
type Account struct {
	ID      int64  `db:"id" json:"id"`
	Email   string `db:"email" json:"email"`
	Name    string `db:"name" json:"name"`
	Builder bool   `db:"builder" json:"builder"`
	// Zone is the time zone of the person's own, "" for that of the app.
	Zone string `db:"zone" json:"-"`
}

// Session is a signed-in account. CSRF must come back with every change.
type Session struct {
	Account
	CSRF string `db:"csrf"`
}

// Errors of signing in. Which of the two it was is not told to the person.
var (
	ErrWrongPassword   = errors.New("the e-mail address and the password do not belong together")
	ErrTooManyAttempts = errors.New("too many attempts; wait a few minutes and try again")
	ErrNoSession       = errors.New("you are not signed in, or no longer")
)

const (
	sessionLength = 12 * time.Hour
	// mostAttempts wrong passwords within attemptSpan lock an address for that long.
	mostAttempts = 8
	attemptSpan  = 10 * time.Minute
)

// passwordCost follows the second recommended option of RFC 9106 with less memory,
// so that many can sign in at once.
var passwordCost = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// HashPassword makes what is kept of a password.
func HashPassword(password string) (string, error) {
	return argon2id.CreateHash(password, passwordCost)
}

// SignIn checks a password and begins a session. The token goes to the browser and is
// kept nowhere else.
func (db *DB) SignIn(ctx context.Context, email, password string) (token string, s Session, err error) {
	var failed int
	err = db.GetContext(ctx, &failed, `SELECT count(*) FROM plainpath.sign_in s WHERE lower(email) = lower($1) AND NOT ok AND at > $2
		AND at > coalesce((SELECT max(at) FROM plainpath.sign_in WHERE lower(email) = lower($1) AND ok), '-infinity')`,
		email, db.Now().Add(-attemptSpan))
	if err != nil {
		return "", s, fmt.Errorf("signing in: %w", err)
	}
	if failed >= mostAttempts {
		return "", s, ErrTooManyAttempts
	}
	ok, account, err := db.check(ctx, email, password)
	if err != nil {
		return "", s, err
	}
	if _, err := db.ExecContext(ctx, `INSERT INTO plainpath.sign_in (email, at, ok) VALUES ($1, $2, $3)`, email, db.Now(), ok); err != nil {
		return "", s, fmt.Errorf("signing in: %w", err)
	}
	if !ok {
		return "", s, ErrWrongPassword
	}
	token = rand.Text()
	s = Session{Account: account, CSRF: rand.Text()}
	_, err = db.ExecContext(ctx, `INSERT INTO plainpath.session (token_hash, person, csrf, expires_at) VALUES ($1, $2, $3, $4)`,
		hashToken(token), account.ID, s.CSRF, db.Now().Add(sessionLength))
	if err != nil {
		return "", s, fmt.Errorf("beginning a session: %w", err)
	}
	return token, s, nil
}

// nobody is compared with when there is no such person, so that the answer takes as
// long either way.
var nobody, _ = HashPassword("nobody")

func (db *DB) check(ctx context.Context, email, password string) (bool, Account, error) {
	var found struct {
		Account
		Hash string `db:"password_hash"`
	}
	err := db.GetContext(ctx, &found, `SELECT id, email, name, builder, zone, password_hash FROM plainpath.person WHERE lower(email) = lower($1) AND active`, email)
	if errors.Is(err, sql.ErrNoRows) {
		found.Hash = nobody
	} else if err != nil {
		return false, Account{}, fmt.Errorf("signing in: %w", err)
	}
	same, err := argon2id.ComparePasswordAndHash(password, found.Hash)
	if err != nil {
		return false, Account{}, fmt.Errorf("comparing passwords: %w", err)
	}
	return same && found.ID != 0, found.Account, nil
}

func hashToken(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

// Session finds the session of a token.
func (db *DB) Session(ctx context.Context, token string) (Session, error) {
	var s Session
	err := db.GetContext(ctx, &s, `SELECT p.id, p.email, p.name, p.builder, p.zone, s.csrf FROM plainpath.session s JOIN plainpath.person p ON p.id = s.person
		WHERE s.token_hash = $1 AND s.expires_at > $2 AND p.active`, hashToken(token), db.Now())
	if errors.Is(err, sql.ErrNoRows) {
		return s, ErrNoSession
	}
	if err != nil {
		return s, fmt.Errorf("finding the session: %w", err)
	}
	return s, nil
}

// ZoneOf is the time zone that somebody has set, "" for none.
func (db *DB) ZoneOf(ctx context.Context, person int64) (string, error) {
	var zone string
	err := db.GetContext(ctx, &zone, `SELECT coalesce(max(zone), '') FROM plainpath.person WHERE id = $1`, person)
	if err != nil {
		return "", fmt.Errorf("finding a time zone: %w", err)
	}
	return zone, nil
}

// SetZone sets the time zone in which somebody enters and sees times, that of the app for "".
func (db *DB) SetZone(ctx context.Context, person int64, zone string) error {
	if _, err := time.LoadLocation(zone); err != nil || zone == "Local" {
		return &RejectedError{fmt.Sprintf("There is no time zone %q. Choose one such as Europe/Dublin.", zone)}
	}
	if _, err := db.ExecContext(ctx, `UPDATE plainpath.person SET zone = $2 WHERE id = $1`, person, zone); err != nil {
		return fmt.Errorf("setting the time zone: %w", err)
	}
	return nil
}

// SignOut ends a session.
func (db *DB) SignOut(ctx context.Context, token string) error {
	if _, err := db.ExecContext(ctx, `DELETE FROM plainpath.session WHERE token_hash = $1`, hashToken(token)); err != nil {
		return fmt.Errorf("signing out: %w", err)
	}
	return nil
}

// AddPerson adds somebody who can sign in and gives their key.
func (db *DB) AddPerson(ctx context.Context, name, email, password string, builder bool) (int64, error) {
	return addPerson(ctx, db, name, email, password, builder)
}

func addPerson(ctx context.Context, q sqlx.QueryerContext, name, email, password string, builder bool) (int64, error) {
	hash, err := HashPassword(password)
	if err != nil {
		return 0, fmt.Errorf("hashing a password: %w", err)
	}
	var id int64
	err = sqlx.GetContext(ctx, q, &id, `INSERT INTO plainpath.person (name, email, password_hash, builder) VALUES ($1, $2, $3, $4) RETURNING id`, name, email, hash, builder)
	if err != nil {
		return 0, fmt.Errorf("adding %s: %w", name, err)
	}
	return id, nil
}

// Join makes a person a member of a space of an app; organisation is nought for the
// company's own people.
func (db *DB) Join(ctx context.Context, app, space string, person int64, roles []string, organisation int64) error {
	return join(ctx, db, app, person, MembershipView{Space: space, Roles: roles, Organisation: organisation})
}

func join(ctx context.Context, q sqlx.ExecerContext, app string, person int64, m MembershipView) error {
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
func (db *DB) Members(ctx context.Context, app, space string, e *edition.Edition) ([]Member, error) {
	var ids []int64
	err := db.SelectContext(ctx, &ids, `SELECT m.person FROM plainpath.member m JOIN plainpath.person p ON p.id = m.person
		WHERE m.app = $1 AND m.space = $2 AND p.active ORDER BY p.name`, app, space)
	if err != nil {
		return nil, fmt.Errorf("listing people: %w", err)
	}
	out := make([]Member, 0, len(ids))
	for _, id := range ids {
		p, err := db.Person(ctx, app, space, id, e)
		if err != nil {
			return nil, err
		}
		m := Member{Person: p}
		for _, r := range p.Roles {
			m.RoleLabels = append(m.RoleLabels, e.Policy.Label(r))
		}
		out = append(out, m)
	}
	return out, nil
}

// Person is somebody with the rights they have in a space. Who is no member has none.
func (db *DB) Person(ctx context.Context, app, space string, id int64, e *edition.Edition) (access.Person, error) {
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
		return access.Person{}, fmt.Errorf("person %d: %w", id, ErrNotFound)
	}
	if err != nil {
		return access.Person{}, fmt.Errorf("reading person %d: %w", id, err)
	}
	p := access.Person{ID: id, Name: row.Name, Email: row.Email, Roles: split(row.Roles)}
	if row.Zone != "" {
		if p.Zone, err = time.LoadLocation(row.Zone); err != nil {
			return p, fmt.Errorf("finding the time zone of %s: %w", p.Name, err)
		}
	}
	if object := e.Model.Object(e.App.Organisation); row.Organisation.Valid && object != nil {
		p.Organisation = &value.Record{Object: object.Key, ID: row.Organisation.Int64}
		d := newDesk(db, Where{Edition: e, Schema: row.Schema, Person: p, Now: db.Now()})
		found, err := surface.ByKey(ctx, d, object.Key, []int64{p.Organisation.ID}, nil)
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

func split(list string) []string {
	if list == "" {
		return nil
	}
	return strings.Split(list, ",")
}

// attemptsKept is how long it is known who tried to sign in.
const attemptsKept = 90 * 24 * time.Hour

// mostDropped bounds what is removed at once, so that nothing waits for it.
const mostDropped = 5000

// dropExpired removes sessions that have ended and old attempts to sign in, some at a time.
func (db *DB) dropExpired(ctx context.Context) error {
	for _, old := range []struct {
		sql    string
		before time.Time
	}{
		{`DELETE FROM plainpath.session WHERE token_hash IN (SELECT token_hash FROM plainpath.session WHERE expires_at < $1 LIMIT $2)`, db.Now()},
		{`DELETE FROM plainpath.sign_in WHERE id IN (SELECT id FROM plainpath.sign_in WHERE at < $1 ORDER BY id LIMIT $2)`, db.Now().Add(-attemptsKept)},
	} {
		if _, err := db.ExecContext(ctx, old.sql, old.before, mostDropped); err != nil {
			return fmt.Errorf("removing what has expired: %w", err)
		}
	}
	return nil
}
