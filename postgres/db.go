// Package postgres is the database of the program: its connections, transactions, requests that count
// once, work that is put into the queue, and what one server has in memory of it. Packages below it keep
// one group of tables each.
package postgres

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgconn/ctxwatch"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"
	"golang.org/x/sync/semaphore"
)

// decodedAtOnce is how many pictures are opened at the same time.
const decodedAtOnce = 2

// DB is the database. It is safe for use by several goroutines.
type DB struct {
	*sqlx.DB
	// Now is the clock; tests may set it.
	Now func() time.Time
	// MostAtOnce is how many records a table may have for all of them to be gone through while
	// others wait; nought stands for 20,000. Tests may set it.
	MostAtOnce int

	// Keep is for how long what is over is kept.
	Keep Keep
	// Room is how many may be at work at once, so that nobody waits for a connection.
	Room Room
	// reading are connections that cannot write, for what only looks.
	reading *sqlx.DB
	// streams are connections of their own for what is sent row by row, as fast as somebody reads
	// it: slow readers leave the others for everybody else.
	Streams *sqlx.DB
	address string
	Made    *compiled
	// pictures lets few be opened at once.
	Pictures  *semaphore.Weighted
	Passwords *hashing
	Outbox    *outbox
}

// Room is for how many at once there are connections: for those who look, who change records, and
// who change the model, which takes longer.
type Room struct{ Looking, Changing, Rewriting int }

func roomFor(connections int) Room { return Room{connections, (connections + 1) / 2, 2} }

// Spare are connections besides, for whoever needs a second one for a moment.
const Spare = 1

// MostStreams is how many tables are sent at once; more wait for their turn.
const MostStreams = 6

// Open connects to PostgreSQL, with so many connections for those who look, and half as many for
// those who change something.
func Open(ctx context.Context, address string, connections int) (*DB, error) {
	config, err := pgx.ParseConfig(address)
	if err != nil {
		return nil, fmt.Errorf("connecting to the database: %w", err)
	}
	return Connect(ctx, config, connections)
}

// BoundTexts sets the most that a text which expressions make may take, in bytes. It is done before
// anything is compiled, and to the same on all servers of a database: what they compute must be alike.
func (db *DB) BoundTexts(most int) { db.Made.compiler.MostText = most }

// Address is what the database was opened with.
func (db *DB) Address() string { return db.address }

// Reopen opens the same database once more, with nothing that this has in memory.
func (db *DB) Reopen(ctx context.Context, connections int) (*DB, error) {
	return Open(ctx, db.address, connections)
}

// Connect is Open for who has more to say of the connections.
func Connect(ctx context.Context, config *pgx.ConnConfig, connections int) (*DB, error) {
	// What is not wanted any more is stopped in the database, too.
	config.BuildContextWatcherHandler = func(conn *pgconn.PgConn) ctxwatch.Handler {
		return &pgconn.CancelRequestContextWatcherHandler{Conn: conn, DeadlineDelay: 5 * time.Second}
	}
	pool := func(most int) *sqlx.DB {
		out := sqlx.NewDb(stdlib.OpenDB(*config), "pgx")
		out.SetMaxOpenConns(most)
		out.SetMaxIdleConns(most)
		out.SetConnMaxIdleTime(5 * time.Minute)
		return out
	}
	room := roomFor(connections)
	db := &DB{DB: pool(room.Changing + room.Rewriting + Spare), Room: room, Now: time.Now, Streams: pool(MostStreams),
		address: config.ConnString(), Made: newCompiled(), Pictures: semaphore.NewWeighted(decodedAtOnce),
		Passwords: newHashing()}
	var err error
	if db.Outbox, err = newOutbox(db.DB); err != nil {
		return nil, err
	}
	config = config.Copy()
	config.RuntimeParams["default_transaction_read_only"] = "on"
	db.reading = pool(room.Looking + Spare)
	if err := db.PingContext(ctx); err != nil {
		return nil, errors.Join(fmt.Errorf("connecting to the database: %w", err), db.Close())
	}
	return db, nil
}

// Close closes all connections.
func (db *DB) Close() error {
	return errors.Join(db.DB.Close(), db.reading.Close(), db.Streams.Close())
}

// In runs work in one transaction: all of it happens, or nothing.
func (db *DB) In(ctx context.Context, work func(tx *sqlx.Tx) error) error {
	tx, err := db.BeginTxx(ctx, nil)
	if err != nil {
		return fmt.Errorf("beginning a transaction: %w", err)
	}
	defer func() { _ = tx.Rollback() }() // does nothing after a commit
	if err := work(tx); err != nil {
		return err
	}
	if err := Commit(tx); err != nil {
		return fmt.Errorf("committing: %w", err)
	}
	return nil
}

// Tried runs work in a transaction that is always taken back: what it is given cannot commit. So
// those may write in it who only look.
func (db *DB) Tried(ctx context.Context, work func(q sqlx.ExtContext) error) error {
	return db.Dry(ctx, func(tx *sqlx.Tx) error { return work(inside{tx}) })
}

// Dry is tried for what needs the transaction itself.
func (db *DB) Dry(ctx context.Context, work func(tx *sqlx.Tx) error) error {
	tx, err := db.DB.BeginTxx(ctx, nil)
	if err != nil {
		return fmt.Errorf("beginning a transaction: %w", err)
	}
	defer func() { _ = tx.Rollback() }()
	return work(tx)
}

// inside is a transaction that others begin and end.
type inside struct{ sqlx.ExtContext }

// TookTooLong says that the database stopped a statement because its time was over.
func TookTooLong(err error) bool {
	code, _, _ := Violated(err)
	return code == "57014" || errors.Is(err, context.DeadlineExceeded)
}

// TooMuch says that the database refused a value for its size: a number or a text that grew while
// it was computed.
func TooMuch(err error) bool {
	code, _, _ := Violated(err)
	return code == "22003" || code == "54000" || code == "53200"
}

// Violated is the constraint an error is about, and its SQLSTATE.
func Violated(err error) (code, constraint, column string) {
	var pg *pgconn.PgError
	if errors.As(err, &pg) {
		return pg.Code, pg.ConstraintName, pg.ColumnName
	}
	return "", "", ""
}
