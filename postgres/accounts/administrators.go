package accounts

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/model"
	"plainpath/core/value"
	"plainpath/postgres"
)

// PersonByEmail finds somebody by their address.
func PersonByEmail(ctx context.Context, db *postgres.DB, email string) (Account, error) {
	var p Account
	err := db.GetContext(ctx, &p,
		`SELECT id, email, name, builder, administrator, zone FROM plainpath.person WHERE lower(email) = lower($1)`,
		email)
	if errors.Is(err, sql.ErrNoRows) {
		return p, &postgres.RejectedError{Text: fmt.Sprintf("Nobody has the address %s.", email)}
	}
	if err != nil {
		return p, fmt.Errorf("finding %s: %w", email, err)
	}
	return p, nil
}

// AddAdministrator adds an administrator, or makes somebody one, and gives the token of a link with
// which they choose a password.
func AddAdministrator(ctx context.Context, db *postgres.DB, email, name string) (token string, err error) {
	if err := (&model.Field{Type: model.Email, Label: "The address",
		Required: true}).CheckValue(value.Text(email)); err != nil {
		return "", &postgres.RejectedError{Text: err.Error()}
	}
	if name == "" {
		return "", &postgres.RejectedError{Text: "They need a name."}
	}
	err = db.In(ctx, func(tx *sqlx.Tx) error {
		var id int64
		err := tx.GetContext(ctx, &id, `INSERT INTO plainpath.person (name, email, password_hash, builder, administrator) VALUES ($1, $2, $3, true, true)
			ON CONFLICT (lower(email)) DO UPDATE SET administrator = true, active = true RETURNING id`, name, email, noPassword)
		if err != nil {
			return fmt.Errorf("adding %s: %w", email, err)
		}
		if err := postgres.Audit(ctx, tx, 0, fmt.Sprintf("made %s (%s) an administrator", name, email)); err != nil {
			return err
		}
		token, err = link(ctx, db, tx, id)
		return err
	})
	return token, err
}

// Unlock lets somebody try to sign in again after too many attempts.
func Unlock(ctx context.Context, db *postgres.DB, p Account) error {
	return db.In(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx,
			`UPDATE plainpath.sign_in SET refused = true WHERE lower(email) = lower($1) AND NOT ok AND at > $2`,
			p.Email, db.Now().Add(-attemptSpan)); err != nil {
			return fmt.Errorf("unlocking %s: %w", p.Email, err)
		}
		return postgres.Audit(ctx, tx, 0, fmt.Sprintf("let %s (%s) try again to sign in", p.Name, p.Email))
	})
}

// Administrators lists those who can sign in.
func Administrators(ctx context.Context, db *postgres.DB) ([]AccountView, error) {
	var out []AccountView
	err := db.SelectContext(ctx, &out, `SELECT p.id, p.name, p.email, p.builder, p.administrator, p.active,
		(SELECT max(at) FROM plainpath.sign_in s WHERE lower(s.email) = lower(p.email) AND s.ok) AS last FROM plainpath.person p WHERE p.administrator AND p.active ORDER BY p.name`)
	if err != nil {
		return nil, fmt.Errorf("listing administrators: %w", err)
	}
	return out, nil
}
