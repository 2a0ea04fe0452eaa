package postgres

import (
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"strings"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"
)

// UnknownError says that the database was lost while it was to keep what was done: it may have, or
// not.
type UnknownError struct{ cause error }

func (e *UnknownError) Error() string {
	return "it is not known whether this was written: " + e.cause.Error()
}

func (e *UnknownError) Unwrap() error { return e.cause }

// Commit ends a transaction.
func Commit(tx *sqlx.Tx) error {
	err := tx.Commit()
	var refused *pgconn.PgError
	if err != nil && !errors.As(err, &refused) && Away(err) {
		return &UnknownError{err}
	}
	return err
}

// Away says whether an error means that the database cannot be reached, or is about to go.
func Away(err error) bool {
	var connecting *pgconn.ConnectError
	if errors.As(err, &connecting) { // for whatever reason
		return true
	}
	var refused *pgconn.PgError
	if errors.As(err, &refused) {
		// Connection exceptions; shut down, crashed, starting; no room for another connection.
		return strings.HasPrefix(refused.Code, "08") || strings.HasPrefix(refused.Code, "57P0") ||
			refused.Code == "53300"
	}
	var network *net.OpError
	return errors.As(err, &network) || errors.Is(err, driver.ErrBadConn) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, io.EOF) || err != nil && strings.Contains(err.Error(), "conn closed")
}
