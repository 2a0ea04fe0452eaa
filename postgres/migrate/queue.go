package migrate

import (
	"context"
	"fmt"
	"log/slog"

	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"

	"plainpath/postgres"
)

func migrateJobs(ctx context.Context, db *postgres.DB) error {
	pool, err := db.JobPool(ctx)
	if err != nil {
		return err
	}
	defer pool.Close()
	m, err := rivermigrate.New(riverpgxv5.New(pool), &rivermigrate.Config{Schema: postgres.JobSchema,
		Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return fmt.Errorf("migrating the queue: %w", err)
	}
	// One server at a time: the others find it done.
	conn, err := pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("migrating the queue: %w", err)
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, `SELECT pg_advisory_lock($1)`, queueLock); err != nil {
		return fmt.Errorf("migrating the queue: %w", err)
	}
	defer func() {
		_, _ = conn.Exec(context.WithoutCancel(ctx), `SELECT pg_advisory_unlock($1)`, queueLock)
	}()
	if _, err := m.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("migrating the queue: %w", err)
	}
	return nil
}

// queueLock is the number of the lock under which the queue's tables are made.
const queueLock = 0x706c61696e
