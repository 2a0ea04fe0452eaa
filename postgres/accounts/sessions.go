package accounts

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/records"
	"plainpath/postgres"
)

// Session is a signed-in account. CSRF must come back with every change.
type Session struct {
	Account
	CSRF string `db:"csrf"`
	// Number tells the sessions of a person apart.
	Number int64 `db:"number"`
}

// SessionItem is one session of a person, as they see it.
type SessionItem struct {
	ID      int64     `db:"id" json:"id"`
	Began   time.Time `db:"began" json:"began"`
	Address string    `db:"address" json:"address"`
	// Agent is what the browser calls itself.
	Agent string `db:"agent" json:"agent"`
	// Here says that it is the one that asks.
	Here bool `db:"-" json:"here"`
}

// SessionOf finds the session of a token.
func SessionOf(ctx context.Context, db *postgres.DB, token string) (Session, error) {
	var s Session
	err := db.GetContext(ctx, &s, `SELECT p.id, p.email, p.name, p.builder, p.administrator, p.zone, s.csrf, s.id AS number FROM plainpath.session s JOIN plainpath.person p ON p.id = s.person
		WHERE s.token_hash = $1 AND s.expires_at > $2 AND p.active`, postgres.HashToken(token), db.Now())
	if errors.Is(err, sql.ErrNoRows) {
		return s, ErrNoSession
	}
	if err != nil {
		return s, fmt.Errorf("finding the session: %w", err)
	}
	return s, nil
}

// Sessions lists the sessions of whoever asks, the latest first.
func Sessions(ctx context.Context, db *postgres.DB, of Session) ([]SessionItem, error) {
	out := []SessionItem{}
	err := db.SelectContext(ctx, &out,
		`SELECT id, created_at AS began, address, agent FROM plainpath.session WHERE person = $1 AND expires_at > $2 ORDER BY id DESC LIMIT 100`, of.ID, db.Now())
	if err != nil {
		return nil, fmt.Errorf("listing sessions: %w", err)
	}
	for i := range out {
		out[i].Here = out[i].ID == of.Number
	}
	return out, nil
}

// EndSession ends one session of whoever asks.
func EndSession(ctx context.Context, db *postgres.DB, of Session, id int64) error {
	res, err := db.ExecContext(ctx, `DELETE FROM plainpath.session WHERE person = $1 AND id = $2`, of.ID, id)
	if err != nil {
		return fmt.Errorf("ending a session: %w", err)
	}
	if n, err := res.RowsAffected(); err == nil && n == 0 {
		return fmt.Errorf("session %d: %w", id, postgres.ErrNotFound)
	}
	return nil
}

// EndOtherSessions signs whoever asks out everywhere else.
func EndOtherSessions(ctx context.Context, db *postgres.DB, of Session) error {
	return db.In(ctx, func(tx *sqlx.Tx) error {
		if err := endOthers(ctx, tx, of); err != nil {
			return err
		}
		return postgres.Audit(ctx, tx, of.ID, "signed out everywhere else")
	})
}

func endOthers(ctx context.Context, tx *sqlx.Tx, of Session) error {
	if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.session WHERE person = $1 AND id <> $2`, of.ID,
		of.Number); err != nil {
		return fmt.Errorf("ending sessions: %w", err)
	}
	return nil
}

// SignOut ends a session.
func SignOut(ctx context.Context, db *postgres.DB, token string) error {
	if _, err := db.ExecContext(ctx, `DELETE FROM plainpath.session WHERE token_hash = $1`,
		postgres.HashToken(token)); err != nil {
		return fmt.Errorf("signing out: %w", err)
	}
	return nil
}

// signOutEverywhere ends all sessions of somebody, and forgets their browsers.
func signOutEverywhere(ctx context.Context, tx *sqlx.Tx, person int64) error {
	for _, table := range []string{"session", "device"} {
		if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.`+table+` WHERE person = $1`, person); err != nil {
			return fmt.Errorf("signing out: %w", err)
		}
	}
	return nil
}

// ChangePassword changes the password of whoever asks, who says the one that holds, and signs them
// out everywhere else.
func ChangePassword(ctx context.Context, db *postgres.DB, of Session, from From, now, next string) error {
	if err := postgres.CheckPassword(next); err != nil {
		return err
	}
	// A wrong one counts as a try to sign in.
	in := SigningIn{Email: of.Email, Password: now, From: from}
	device, err := deviceOf(ctx, db, in)
	if err != nil {
		return err
	}
	try, err := try(ctx, db, in, device)
	if err != nil {
		return err
	}
	ok, _, err := check(ctx, db, of.Email, now)
	if err != nil {
		return err
	}
	if !ok {
		return records.Wrong("now", "this is not your password")
	}
	hash, err := db.Passwords.Hash(ctx, next)
	if err != nil {
		return err
	}
	return db.In(ctx, func(tx *sqlx.Tx) error {
		// it was none
		if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.sign_in WHERE id = $1`, try); err != nil {
			return fmt.Errorf("changing a password: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.person SET password_hash = $2 WHERE id = $1`, of.ID,
			hash); err != nil {
			return fmt.Errorf("changing a password: %w", err)
		}
		if err := endOthers(ctx, tx, of); err != nil {
			return err
		}
		return postgres.Audit(ctx, tx, of.ID, "changed their own password")
	})
}
