package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"github.com/jmoiron/sqlx"

	"plainpath/core/model"
	"plainpath/core/value"
)

// PersonByEmail finds somebody by their address.
func (db *DB) PersonByEmail(ctx context.Context, email string) (Account, error) {
	var p Account
	err := db.GetContext(ctx, &p, `SELECT id, email, name, builder, administrator, zone FROM plainpath.person WHERE lower(email) = lower($1)`, email)
	if errors.Is(err, sql.ErrNoRows) {
		return p, &RejectedError{fmt.Sprintf("Nobody has the address %s.", email)}
	}
	if err != nil {
		return p, fmt.Errorf("finding %s: %w", email, err)
	}
	return p, nil
}

// AddAdministrator adds an administrator, or makes somebody one, and gives the token of a link with
// which they choose a password.
func (db *DB) AddAdministrator(ctx context.Context, email, name string) (token string, err error) {
	if err := (&model.Field{Type: model.Email, Label: "The address", Required: true}).CheckValue(value.Text(email)); err != nil {
		return "", &RejectedError{err.Error()}
	}
	if name == "" {
		return "", &RejectedError{"They need a name."}
	}
	err = db.in(ctx, func(tx *sqlx.Tx) error {
		var id int64
		err := tx.GetContext(ctx, &id, `INSERT INTO plainpath.person (name, email, password_hash, builder, administrator) VALUES ($1, $2, $3, true, true)
			ON CONFLICT (lower(email)) DO UPDATE SET administrator = true, active = true RETURNING id`, name, email, noPassword)
		if err != nil {
			return fmt.Errorf("adding %s: %w", email, err)
		}
		if err := audit(ctx, tx, 0, fmt.Sprintf("made %s (%s) an administrator", name, email)); err != nil {
			return err
		}
		token, err = db.link(ctx, tx, id)
		return err
	})
	return token, err
}

// Unlock lets somebody try to sign in again after too many attempts.
func (db *DB) Unlock(ctx context.Context, p Account) error {
	return db.in(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.sign_in SET refused = true WHERE lower(email) = lower($1) AND NOT ok AND at > $2`, p.Email, db.Now().Add(-attemptSpan)); err != nil {
			return fmt.Errorf("unlocking %s: %w", p.Email, err)
		}
		return audit(ctx, tx, 0, fmt.Sprintf("let %s (%s) try again to sign in", p.Name, p.Email))
	})
}

// Administrators lists those who can sign in.
func (db *DB) Administrators(ctx context.Context) ([]AccountView, error) {
	var out []AccountView
	err := db.SelectContext(ctx, &out, `SELECT p.id, p.name, p.email, p.builder, p.administrator, p.active,
		(SELECT max(at) FROM plainpath.sign_in s WHERE lower(s.email) = lower(p.email) AND s.ok) AS last FROM plainpath.person p WHERE p.administrator AND p.active ORDER BY p.name`)
	if err != nil {
		return nil, fmt.Errorf("listing administrators: %w", err)
	}
	return out, nil
}
