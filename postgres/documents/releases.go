package documents

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/postgres"
)

// Release is a numbered edition of an app.
type Release struct {
	Number int       `db:"number" json:"number"`
	At     time.Time `db:"at" json:"at"`
	Person string    `db:"person" json:"person"`
	Note   string    `db:"note" json:"note"`
	// Despite is why it was released although kept rehearsals did not come out as expected.
	Despite string `db:"despite" json:"despite,omitempty"`
	// InForce says that production runs on it.
	InForce bool `db:"in_force" json:"in_force"`
}

// Schema is the PostgreSQL schema of a space.
func Schema(ctx context.Context, db *postgres.DB, app, space string) (string, error) {
	var s string
	err := db.GetContext(ctx, &s, `SELECT schema FROM plainpath.space WHERE app = $1 AND key = $2`, app, space)
	if errors.Is(err, sql.ErrNoRows) {
		return "", fmt.Errorf("space %q of %q: %w", space, app, postgres.ErrNotFound)
	}
	if err != nil {
		return "", fmt.Errorf("finding the space: %w", err)
	}
	return s, nil
}

// Releases lists the releases of an app, the newest first.
func Releases(ctx context.Context, db *postgres.DB, app string) ([]Release, error) {
	out := []Release{}
	err := db.SelectContext(ctx, &out, `SELECT r.number, r.at, p.name AS person, r.note, coalesce(r.despite, '') AS despite,
		coalesce(s.release = r.number, false) AS in_force
		FROM plainpath.release r JOIN plainpath.person p ON p.id = r.person
		LEFT JOIN plainpath.space s ON s.app = r.app AND s.key = $2 WHERE r.app = $1 ORDER BY r.number DESC`, app, postgres.Production)
	if err != nil {
		return nil, fmt.Errorf("listing releases: %w", err)
	}
	return out, nil
}

// InForce is the number of the release production runs on, nought before the first.
func InForce(ctx context.Context, db *postgres.DB, app string) (int, error) {
	var n sql.NullInt64
	err := db.GetContext(ctx, &n, `SELECT release FROM plainpath.space WHERE app = $1 AND key = $2`, app,
		postgres.Production)
	if err != nil {
		return 0, fmt.Errorf("finding the release in force: %w", err)
	}
	return int(n.Int64), nil
}

// ReleasedDocuments reads the documents of a release.
func ReleasedDocuments(ctx context.Context, db *postgres.DB, app string, number int) ([]definition.Document, error) {
	return Released(ctx, db, app, number)
}

// Released reads the documents of a release, none of release nought.
func Released(ctx context.Context, q sqlx.QueryerContext, app string, number int) ([]definition.Document, error) {
	if number == 0 {
		return nil, nil
	}
	var raw []byte
	err := sqlx.GetContext(ctx, q, &raw, `SELECT documents FROM plainpath.release WHERE app = $1 AND number = $2`, app,
		number)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, fmt.Errorf("release %d: %w", number, postgres.ErrNotFound)
	}
	if err != nil {
		return nil, fmt.Errorf("reading release %d: %w", number, err)
	}
	var docs []definition.Document
	if err := json.Unmarshal(raw, &docs); err != nil {
		return nil, fmt.Errorf("reading release %d: %w", number, err)
	}
	return docs, nil
}
