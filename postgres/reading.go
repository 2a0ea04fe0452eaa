package postgres

import (
	"context"
	"database/sql"

	"github.com/jmoiron/sqlx"
)

type readingKey struct{}

// Reading marks what is only to look: it goes over connections that cannot write, except for what
// is tried and taken back.
func Reading(ctx context.Context) context.Context {
	return context.WithValue(ctx, readingKey{}, true)
}

func reads(ctx context.Context) bool {
	yes, _ := ctx.Value(readingKey{}).(bool)
	return yes
}

func (db *DB) pool(ctx context.Context) *sqlx.DB {
	if reads(ctx) {
		return db.reading
	}
	return db.DB
}

// The methods that follow are sqlx's, over the connections that fit.

// QueryContext is as sqlx's.
func (db *DB) QueryContext(ctx context.Context, query string, args ...any) (*sql.Rows, error) {
	return db.pool(ctx).QueryContext(ctx, query, args...)
}

// QueryxContext is as sqlx's.
func (db *DB) QueryxContext(ctx context.Context, query string, args ...any) (*sqlx.Rows, error) {
	return db.pool(ctx).QueryxContext(ctx, query, args...)
}

// QueryRowxContext is as sqlx's.
func (db *DB) QueryRowxContext(ctx context.Context, query string, args ...any) *sqlx.Row {
	return db.pool(ctx).QueryRowxContext(ctx, query, args...)
}

// ExecContext is as sqlx's.
func (db *DB) ExecContext(ctx context.Context, query string, args ...any) (sql.Result, error) {
	return db.pool(ctx).ExecContext(ctx, query, args...)
}

// GetContext is as sqlx's.
func (db *DB) GetContext(ctx context.Context, dest any, query string, args ...any) error {
	return db.pool(ctx).GetContext(ctx, dest, query, args...)
}

// SelectContext is as sqlx's.
func (db *DB) SelectContext(ctx context.Context, dest any, query string, args ...any) error {
	return db.pool(ctx).SelectContext(ctx, dest, query, args...)
}

// BeginTxx is as sqlx's.
func (db *DB) BeginTxx(ctx context.Context, opts *sql.TxOptions) (*sqlx.Tx, error) {
	return db.pool(ctx).BeginTxx(ctx, opts)
}
