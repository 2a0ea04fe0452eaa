// Package store keeps definitions, records, runs and people in PostgreSQL.
package store

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgconn/ctxwatch"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
)

//go:embed migrations/*.sql
var migrations embed.FS

// DB is the database. It is safe for use by several goroutines.
type DB struct {
	*sqlx.DB
	// Now is the clock; tests may set it.
	Now func() time.Time
	// MostAtOnce is how many records a table may have for all of them to be gone through while
	// others wait; nought stands for 20,000. Tests may set it.
	MostAtOnce int

	// streams are connections of their own for what is sent row by row, as fast as somebody reads
	// it: slow readers leave the others for everybody else.
	streams *sqlx.DB
	address string
}

// mostStreams is how many tables are sent at once; more wait for their turn.
const mostStreams = 6

// Open connects to PostgreSQL.
func Open(ctx context.Context, address string, connections int) (*DB, error) {
	config, err := pgx.ParseConfig(address)
	if err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	// What is not wanted any more is stopped in the database, too.
	config.BuildContextWatcherHandler = func(conn *pgconn.PgConn) ctxwatch.Handler {
		return &pgconn.CancelRequestContextWatcherHandler{Conn: conn, DeadlineDelay: 5 * time.Second}
	}
	db := sqlx.NewDb(stdlib.OpenDB(*config), "pgx")
	db.SetMaxOpenConns(connections)
	db.SetMaxIdleConns(connections)
	db.SetConnMaxIdleTime(5 * time.Minute)
	if err := db.PingContext(ctx); err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	streams := sqlx.NewDb(stdlib.OpenDB(*config), "pgx")
	streams.SetMaxOpenConns(mostStreams)
	streams.SetConnMaxIdleTime(time.Minute)
	return &DB{DB: db, Now: time.Now, streams: streams, address: address}, nil
}

// Close closes all connections.
func (db *DB) Close() error {
	err := db.DB.Close()
	if db.streams != nil {
		err = errors.Join(err, db.streams.Close())
	}
	return err //nolint:wrapcheck // it stands for both
}

// Migrate brings the program's own tables up to date.
func (db *DB) Migrate(ctx context.Context) error {
	goose.SetBaseFS(migrations)
	goose.SetLogger(goose.NopLogger())
	if err := goose.SetDialect("postgres"); err != nil {
		return fmt.Errorf("preparing migrations: %w", err)
	}
	if err := goose.UpContext(ctx, db.DB.DB, "migrations"); err != nil {
		return fmt.Errorf("migrating the database: %w", err)
	}
	return db.migrateJobs(ctx)
}

// in runs work in one transaction: all of it happens, or nothing.
func (db *DB) in(ctx context.Context, work func(tx *sqlx.Tx) error) error {
	tx, err := db.BeginTxx(ctx, nil)
	if err != nil {
		return fmt.Errorf("beginning a transaction: %w", err)
	}
	defer func() { _ = tx.Rollback() }() // does nothing after a commit
	if err := work(tx); err != nil {
		return err
	}
	if err := tx.Commit(); err != nil {
		return fmt.Errorf("committing: %w", err)
	}
	return nil
}

// tried runs work in a transaction that is always taken back: what it is given cannot commit.
func (db *DB) tried(ctx context.Context, work func(q sqlx.ExtContext) error) error {
	tx, err := db.BeginTxx(ctx, nil)
	if err != nil {
		return fmt.Errorf("beginning a transaction: %w", err)
	}
	defer func() { _ = tx.Rollback() }()
	return work(inside{tx})
}

// inside is a transaction that others begin and end.
type inside struct{ sqlx.ExtContext }

// TookTooLong says that the database stopped a statement because its time was over.
func TookTooLong(err error) bool {
	code, _, _ := violated(err)
	return code == "57014" || errors.Is(err, context.DeadlineExceeded)
}

// violated is the constraint an error is about, and its SQLSTATE.
func violated(err error) (code, constraint, column string) {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		return pg.Code, pg.ConstraintName, pg.ColumnName
	}
	return "", "", ""
}
