package accounts

import (
	"context"
	"crypto/rand"
	"database/sql"
	"errors"
	"fmt"
	"time"
	"unicode/utf8"

	"github.com/jmoiron/sqlx"

	"plainpath/postgres"
)

// Errors of signing in. Which of the two it was is not told to the person.
var (
	ErrWrongPassword   = errors.New("the e-mail address and the password do not belong together")
	ErrTooManyAttempts = errors.New("too many attempts; wait a few minutes and try again")
	ErrNoSession       = errors.New("you are not signed in, or no longer")
)

// How often a password may be wrong within attemptSpan: in one browser or from all that the person
// never signed in with, and from one address for whomever. Whoever has signed in with a browser
// before is not shut out by what others try.
const (
	attemptSpan        = 10 * time.Minute
	mostAttempts       = 8
	mostFromOneAddress = 40
)

// Lengths, in bytes, beyond which nothing is looked at.
const (
	longestEmail = 320
	longestAgent = 300
)

const (
	sessionLength = 12 * time.Hour
	deviceLength  = 180 * 24 * time.Hour
)

// SigningIn is what somebody signs in with, and from where.
type SigningIn struct {
	Email, Password string
	From            From
}

// From is where a request comes from.
type From struct {
	// Address is that of the client, Agent what its browser calls itself.
	Address, Agent string
	// Device is the token that a browser got when somebody signed in with it, "" when nobody has.
	Device string
}

// Signed is a session that began. The tokens go to the browser and are kept nowhere else; Device is
// "" where it has one.
type Signed struct {
	Session
	Token, Device string
}

// SignIn checks a password and begins a session. The try counts before it is made, so that many at
// once are no way around the limits.
func SignIn(ctx context.Context, db *postgres.DB, in SigningIn) (Signed, error) {
	if len(in.Email) > longestEmail || utf8.RuneCountInString(in.Password) > postgres.LongestPassword {
		return Signed{}, ErrWrongPassword
	}
	device, err := deviceOf(ctx, db, in)
	if err != nil {
		return Signed{}, err
	}
	try, err := try(ctx, db, in, device)
	if err != nil {
		return Signed{}, err
	}
	ok, account, err := check(ctx, db, in.Email, in.Password)
	if err != nil || !ok {
		return Signed{}, errors.Join(err, errIf(err == nil, ErrWrongPassword))
	}
	var out Signed
	err = db.In(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.sign_in SET ok = true WHERE id = $1`, try); err != nil {
			return fmt.Errorf("signing in: %w", err)
		}
		out, err = begin(ctx, db, tx, account, in.From)
		if err == nil && device == nil {
			out.Device, err = trust(ctx, db, tx, account.ID)
		}
		return err
	})
	return out, err
}

func errIf(holds bool, err error) error {
	if holds {
		return err
	}
	return nil
}

// deviceOf is the hash of the browser's token where the person signed in with it before, else nil.
func deviceOf(ctx context.Context, db *postgres.DB, in SigningIn) ([]byte, error) {
	var out []byte
	err := db.GetContext(ctx, &out, `SELECT d.token_hash FROM plainpath.device d JOIN plainpath.person p ON p.id = d.person
		WHERE d.token_hash = $1 AND d.expires_at > $2 AND lower(p.email) = lower($3)`, postgres.HashToken(in.From.Device), db.Now(), in.Email)
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return nil, fmt.Errorf("signing in: %w", err)
	}
	return out, nil
}

// try notes a try to sign in, as failed until it has succeeded. Beyond the limits it is
// ErrTooManyAttempts.
func try(ctx context.Context, db *postgres.DB, in SigningIn, device []byte) (int64, error) {
	var id int64
	err := db.GetContext(ctx, &id,
		`INSERT INTO plainpath.sign_in (email, at, ok, address, device) VALUES ($1, $2, false, $3, $4) RETURNING id`,
		in.Email, db.Now(), in.From.Address, device)
	if err != nil {
		return 0, fmt.Errorf("signing in: %w", err)
	}
	since := db.Now().Add(-attemptSpan)
	var failed struct{ Account, Address int }
	if device != nil {
		err = db.GetContext(ctx, &failed.Account, `SELECT count(*) FROM plainpath.sign_in WHERE lower(email) = lower($1) AND device = $2 AND NOT ok AND NOT refused AND at > $3
			AND id > coalesce((SELECT max(id) FROM plainpath.sign_in WHERE lower(email) = lower($1) AND device = $2 AND ok), 0)`, in.Email, device, since)
	} else {
		err = db.GetContext(ctx, &failed, `SELECT (SELECT count(*) FROM plainpath.sign_in WHERE lower(email) = lower($1) AND device IS NULL AND NOT ok AND NOT refused AND at > $3
				AND id > coalesce((SELECT max(id) FROM plainpath.sign_in WHERE lower(email) = lower($1) AND device IS NULL AND ok), 0)) AS account,
			(SELECT count(*) FROM plainpath.sign_in WHERE address = $2 AND device IS NULL AND NOT ok AND NOT refused AND at > $3) AS address`, in.Email, in.From.Address, since)
	}
	if err != nil {
		return 0, fmt.Errorf("signing in: %w", err)
	}
	if failed.Account <= mostAttempts && failed.Address <= mostFromOneAddress {
		return id, nil
	}
	if _, err := db.ExecContext(ctx, `UPDATE plainpath.sign_in SET refused = true WHERE id = $1`, id); err != nil {
		return 0, fmt.Errorf("signing in: %w", err)
	}
	return 0, ErrTooManyAttempts
}

// nobody is compared with when there is no such person, so that the answer takes as
// long either way.
const nobody = "$argon2id$v=19$m=19456,t=2,p=1$cGxhaW5wYXRocGxhaW5wYQ$W1qmRk5cfaU+CS9nMxzbyTjQ3sbMJ7SSVzMkN0nAsKA"

func check(ctx context.Context, db *postgres.DB, email, password string) (bool, Account, error) {
	var found struct {
		Account
		Hash string `db:"password_hash"`
	}
	err := db.GetContext(ctx, &found,
		`SELECT id, email, name, builder, administrator, zone, password_hash FROM plainpath.person WHERE lower(email) = lower($1) AND active`, email)
	if errors.Is(err, sql.ErrNoRows) {
		found.Hash = nobody
	} else if err != nil {
		return false, Account{}, fmt.Errorf("signing in: %w", err)
	}
	same, err := db.Passwords.Same(ctx, password, found.Hash)
	return same && found.ID != 0, found.Account, err
}

// begin begins a session.
func begin(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, account Account, from From) (Signed, error) {
	out := Signed{Session: Session{Account: account, CSRF: rand.Text()}, Token: rand.Text()}
	err := tx.GetContext(ctx, &out.Number,
		`INSERT INTO plainpath.session (token_hash, person, csrf, created_at, expires_at, address, agent) VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING id`,
		postgres.HashToken(out.Token), account.ID, out.CSRF, db.Now(), db.Now().Add(sessionLength), from.Address,
		from.Agent[:min(len(from.Agent), longestAgent)])
	if err != nil {
		return out, fmt.Errorf("beginning a session: %w", err)
	}
	return out, nil
}

// trust notes that somebody has proved who they are with a browser, and gives what it is known by.
func trust(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, person int64) (string, error) {
	token := rand.Text()
	if _, err := tx.ExecContext(ctx,
		`INSERT INTO plainpath.device (token_hash, person, expires_at) VALUES ($1, $2, $3)`, postgres.HashToken(token),
		person, db.Now().Add(deviceLength)); err != nil {
		return "", fmt.Errorf("noting a browser: %w", err)
	}
	return token, nil
}
