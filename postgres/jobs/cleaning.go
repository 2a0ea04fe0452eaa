package jobs

import (
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/riverqueue/river"

	"plainpath/postgres"
	"plainpath/postgres/files"
	"plainpath/postgres/sqlgen"
)

// outgoingKept is how long a file that was asked for can be fetched.
const outgoingKept = 24 * time.Hour

// noticesKept is how long people can read what they were told.
const noticesKept = 180 * 24 * time.Hour

// mostDropped bounds what is removed at once, so that nothing waits for it; of what is large, few.
const (
	mostDropped = 5000
	mostLarge   = 20
)

// DropExpired removes what is over: some of each at a time.
func DropExpired(ctx context.Context, db *postgres.DB) error {
	keep, now := db.Keep.WithDefaults(), db.Now()
	for _, old := range []struct {
		table, over string
		before      time.Time
		most        int
	}{
		{"session", "expires_at < $1 ORDER BY expires_at", now, mostDropped},
		{"device", "expires_at < $1 ORDER BY expires_at", now, mostDropped},
		{"password_link", "expires_at < $1 ORDER BY expires_at", now, mostDropped},
		{"request", "at < $1 ORDER BY at", now.Add(-postgres.RequestsKept), mostDropped},
		{"outgoing", "created_at < $1 ORDER BY created_at", now.Add(-outgoingKept), mostDropped},
		{"notice", "at < $1 ORDER BY at", now.Add(-noticesKept), mostDropped},
		{"sign_in", "at < $1 ORDER BY at", now.Add(-keep.Attempts), mostDropped},
		{"intake", "state IN ('imported', 'failed') AND changed_at < $1 ORDER BY id", now.Add(-keep.Intakes),
			mostLarge},
		{"file", "NOT kept AND added_at < $1 ORDER BY added_at", now.Add(-files.LeftFor), mostLarge},
	} {
		// By where they lie: joined by their keys, all of the table would be read. What is written meanwhile stays.
		sql := fmt.Sprintf("DELETE FROM plainpath.%[1]s WHERE ctid = ANY(ARRAY(SELECT ctid FROM plainpath.%[1]s WHERE %[2]s LIMIT $2))",
			old.table, old.over)
		if _, err := db.ExecContext(ctx, sql, old.before, old.most); err != nil {
			return fmt.Errorf("removing what has expired: %w", err)
		}
	}
	return nil
}

// unheldAfter is how long a file stays that a record held once and no record holds any longer.
const unheldAfter = 30 * 24 * time.Hour

// DropUnheld removes some of the files that no record holds any longer. Every column that can hold
// one refers to files in the database, those of fields that were taken away as well.
func DropUnheld(ctx context.Context, db *postgres.DB) error {
	// Those of a kept rehearsal go when none names them any longer.
	_, err := db.ExecContext(ctx, `DELETE FROM plainpath.rehearsal_file r WHERE r.at < $1 AND NOT EXISTS (
		SELECT 1 FROM plainpath.document d WHERE d.app = r.app AND d.kind = 'walkthrough' AND d.body -> 'examples' @? format('$.**.id ? (@ == %s)', r.file)::jsonpath)`,
		db.Now().Add(-unheldAfter))
	if err != nil {
		return fmt.Errorf("removing files that no kept rehearsal gives: %w", err)
	}
	var holders []struct{ Schema, Table, Column string }
	err = db.SelectContext(ctx, &holders, `SELECT n.nspname AS schema, t.relname AS table, a.attname AS column FROM pg_constraint c JOIN pg_class t ON t.oid = c.conrelid JOIN pg_namespace n ON n.oid = t.relnamespace
		JOIN pg_attribute a ON a.attrelid = c.conrelid AND a.attnum = c.conkey[1] WHERE c.confrelid = 'plainpath.file'::regclass AND c.conrelid <> 'plainpath.file_part'::regclass`)
	if err != nil {
		return fmt.Errorf("finding what holds files: %w", err)
	}
	var held strings.Builder
	for _, h := range holders {
		fmt.Fprintf(&held, " AND NOT EXISTS (SELECT 1 FROM %s.%s h WHERE h.%s = f.id)", sqlgen.Quote(h.Schema),
			sqlgen.Quote(h.Table), sqlgen.Quote(h.Column))
	}
	_, err = db.ExecContext(ctx,
		`DELETE FROM plainpath.file WHERE id IN (SELECT f.id FROM plainpath.file f WHERE f.kept AND f.added_at < $1`+held.String()+` ORDER BY f.id LIMIT $2)`, db.Now().Add(-unheldAfter), mostLarge)
	if err != nil {
		return fmt.Errorf("removing files that no record holds: %w", err)
	}
	return nil
}

// unheldEvery is how often that is looked for, for it goes through all files.
const unheldEvery = time.Hour

type unheldArgs struct{}

func (unheldArgs) Kind() string { return "unheld" }

type unheldWorker struct {
	river.WorkerDefaults[unheldArgs]
	db *postgres.DB
}

func (w *unheldWorker) Work(ctx context.Context, _ *river.Job[unheldArgs]) error {
	return DropUnheld(ctx, w.db)
}
