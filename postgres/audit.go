package postgres

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"
)

// Audit notes what somebody did; nobody is the command line.
func Audit(ctx context.Context, q sqlx.ExecerContext, by int64, what string, details ...string) error {
	if details == nil {
		details = []string{}
	}
	if _, err := q.ExecContext(ctx, `INSERT INTO plainpath.audit (by, what, details) VALUES (nullif($1, 0), $2, $3)`,
		by, what, details); err != nil {
		return fmt.Errorf("noting what was done: %w", err)
	}
	return nil
}
