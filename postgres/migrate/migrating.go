// Package migrate makes the program's own tables, and takes over what an earlier program kept.
package migrate

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"

	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"

	"plainpath/postgres"
)

//go:embed migrations/*.sql
var migrations embed.FS

// NewerError says that the database was made by a later version of the program, which this one would
// misread.
type NewerError struct{ Has, Known int64 }

func (e *NewerError) Error() string {
	return fmt.Sprintf("the database is of version %d, and this program knows up to %d: run the program that it was last used with, or a later one", e.Has, e.Known)
}

// ErrNotMigrated says that the program's own tables are not up to date.
var ErrNotMigrated = errors.New("the database is of an earlier version of the program: run “plainpath migrate”, or “plainpath serve”, which does it at its start")

// versions is where it stands which migrations were made: in a schema by name, for a user of the name
// of the program's own schema would look there first.
const versions = "public.goose_db_version"

func provider(db *postgres.DB) (*goose.Provider, error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, fmt.Errorf("preparing migrations: %w", err)
	}
	// Servers that start together wait for each other.
	locker, err := lock.NewPostgresSessionLocker(lock.WithLockTimeout(1, 600))
	if err != nil {
		return nil, fmt.Errorf("preparing migrations: %w", err)
	}
	p, err := goose.NewProvider(goose.DialectPostgres, db.DB.DB, files, goose.WithSessionLocker(locker),
		goose.WithTableName(versions), goose.WithGoMigrations(earlierActs))
	if err != nil {
		return nil, fmt.Errorf("preparing migrations: %w", err)
	}
	return p, nil
}

// Version is how the program's own tables stand: nil where they are up to date, else
// ErrNotMigrated or a *NewerError.
func Version(ctx context.Context, db *postgres.DB) error {
	p, err := provider(db)
	if err != nil {
		return err
	}
	has, known, err := p.GetVersions(ctx)
	if err != nil {
		return fmt.Errorf("finding the version of the database: %w", err)
	}
	switch {
	case has > known:
		return &NewerError{has, known}
	case has < known:
		return ErrNotMigrated
	}
	return nil
}

// Migrate brings the program's own tables up to date. Any number of servers may do so at once; a
// database of a later version is a *NewerError.
func Migrate(ctx context.Context, db *postgres.DB) error {
	p, err := provider(db)
	if err != nil {
		return err
	}
	if has, known, err := p.GetVersions(ctx); err != nil {
		return fmt.Errorf("finding the version of the database: %w", err)
	} else if has > known {
		return &NewerError{has, known}
	}
	if _, err := p.Up(ctx); err != nil {
		return fmt.Errorf("migrating the database: %w", err)
	}
	return migrateJobs(ctx, db)
}
