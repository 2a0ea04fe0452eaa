package postgres

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
)

// outbox puts work into the queue in the transaction that makes it necessary: it is there when that is
// committed, and not where it is taken back.
type outbox struct{ client *river.Client[*sql.Tx] }

func newOutbox(db *sqlx.DB) (*outbox, error) {
	client, err := river.NewClient(riverdatabasesql.New(db.DB),
		&river.Config{Schema: JobSchema, Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return nil, fmt.Errorf("preparing the queue: %w", err)
	}
	return &outbox{client}, nil
}

// Put adds work to the queue.
func (o *outbox) Put(ctx context.Context, tx *sqlx.Tx, work river.JobArgs) error {
	if _, err := o.client.InsertTx(ctx, tx.Tx, work, nil); err != nil {
		return fmt.Errorf("adding to the queue: %w", err)
	}
	return nil
}

// JobSchema is where the queue of work in the background is kept.
const JobSchema = "plainpath"

// JobPool is connections for those who take up work.
func (db *DB) JobPool(ctx context.Context) (*pgxpool.Pool, error) {
	config, err := pgxpool.ParseConfig(db.Address())
	if err != nil {
		return nil, fmt.Errorf("preparing the queue: %w", err)
	}
	config.MaxConns = 4
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("preparing the queue: %w", err)
	}
	return pool, nil
}

// AbandonedAfter is how long a job may be silent before another server takes it up.
const AbandonedAfter = time.Minute
