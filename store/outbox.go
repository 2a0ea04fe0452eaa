package store

import (
	"context"
	"database/sql"
	"fmt"
	"log/slog"

	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
)

// outbox puts work into the queue in the transaction that makes it necessary: it is there when that is
// committed, and not where it is taken back.
type outbox struct{ client *river.Client[*sql.Tx] }

func newOutbox(db *sqlx.DB) (*outbox, error) {
	client, err := river.NewClient(riverdatabasesql.New(db.DB), &river.Config{Schema: jobSchema, Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return nil, fmt.Errorf("preparing the queue: %w", err)
	}
	return &outbox{client}, nil
}

func (o *outbox) put(ctx context.Context, tx *sqlx.Tx, work river.JobArgs) error {
	if _, err := o.client.InsertTx(ctx, tx.Tx, work, nil); err != nil {
		return fmt.Errorf("adding to the queue: %w", err)
	}
	return nil
}
