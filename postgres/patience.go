package postgres

import (
	"context"
	"fmt"
	"math/rand/v2"
	"time"

	"github.com/jmoiron/sqlx"
)

// Who needs a table alone waits until those who are at it are done, and everybody who comes later
// waits behind. So nobody asks for that for longer than a moment: work that does not get a table
// at once is taken back and tried again.

// GiveWay makes a transaction give up when it does not get a lock soon.
const GiveWay = "SET LOCAL lock_timeout = '300ms'"

// longestPatience is how long a table may be in use without a break.
const longestPatience = 30 * time.Second

// Patiently repeats work that gives way until it gets the tables it needs.
func Patiently(ctx context.Context, work func() error) error {
	until := time.Now().Add(longestPatience)
	for {
		err := work()
		if code, _, _ := Violated(err); code != "55P03" {
			return err
		}
		if time.Now().After(until) {
			return &RejectedError{"The records are in use by work that takes long, such as an import or a file. Nothing was changed; try again when it is over."}
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(100*time.Millisecond + rand.N(200*time.Millisecond)):
		}
	}
}

// Briefly runs statements that need a table alone for a moment.
func (db *DB) Briefly(ctx context.Context, work func(tx *sqlx.Tx) error) error {
	return Patiently(ctx, func() error {
		return db.In(ctx, func(tx *sqlx.Tx) error {
			if _, err := tx.ExecContext(ctx, GiveWay); err != nil {
				return fmt.Errorf("giving way: %w", err)
			}
			return work(tx)
		})
	})
}
