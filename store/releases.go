package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/release"
)

// Production is the space people work in; trial follows the draft.
const (
	Production = "production"
	Trial      = "trial"
)

// Release is a numbered edition of an app.
type Release struct {
	Number int       `db:"number" json:"number"`
	At     time.Time `db:"at" json:"at"`
	Person string    `db:"person" json:"person"`
	Note   string    `db:"note" json:"note"`
	// InForce says that production runs on it.
	InForce bool `db:"in_force" json:"in_force"`
}

// Schema is the PostgreSQL schema of a space.
func (db *DB) Schema(ctx context.Context, app, space string) (string, error) {
	var s string
	err := db.GetContext(ctx, &s, `SELECT schema FROM plainpath.space WHERE app = $1 AND key = $2`, app, space)
	if errors.Is(err, sql.ErrNoRows) {
		return "", fmt.Errorf("space %q of %q: %w", space, app, ErrNotFound)
	}
	if err != nil {
		return "", fmt.Errorf("finding the space: %w", err)
	}
	return s, nil
}

// Releases lists the releases of an app, the newest first.
func (db *DB) Releases(ctx context.Context, app string) ([]Release, error) {
	out := []Release{}
	err := db.SelectContext(ctx, &out, `SELECT r.number, r.at, p.name AS person, r.note, coalesce(s.release = r.number, false) AS in_force
		FROM plainpath.release r JOIN plainpath.person p ON p.id = r.person
		LEFT JOIN plainpath.space s ON s.app = r.app AND s.key = $2 WHERE r.app = $1 ORDER BY r.number DESC`, app, Production)
	if err != nil {
		return nil, fmt.Errorf("listing releases: %w", err)
	}
	return out, nil
}

// InForce is the number of the release production runs on, nought before the first.
func (db *DB) InForce(ctx context.Context, app string) (int, error) {
	var n sql.NullInt64
	err := db.GetContext(ctx, &n, `SELECT release FROM plainpath.space WHERE app = $1 AND key = $2`, app, Production)
	if err != nil {
		return 0, fmt.Errorf("finding the release in force: %w", err)
	}
	return int(n.Int64), nil
}

// ReleasedDocuments reads the documents of a release.
func (db *DB) ReleasedDocuments(ctx context.Context, app string, number int) ([]definition.Document, error) {
	return released(ctx, db, app, number)
}

func released(ctx context.Context, q sqlx.QueryerContext, app string, number int) ([]definition.Document, error) {
	if number == 0 {
		return nil, nil
	}
	var raw []byte
	err := sqlx.GetContext(ctx, q, &raw, `SELECT documents FROM plainpath.release WHERE app = $1 AND number = $2`, app, number)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, fmt.Errorf("release %d: %w", number, ErrNotFound)
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

// Preview is what a release of the draft would change.
type Preview struct {
	Number   int                     `json:"number"`
	Changes  []definition.Difference `json:"changes"`
	Findings []definition.Finding    `json:"findings"`
	// Version is the draft the preview is of; the release must name it.
	Version string `json:"version"`
	// Obstacles are stored records that would break a new rule; with any, there is no
	// release.
	Obstacles []Obstacle `json:"obstacles"`
	// People counts those who have each role in production.
	People map[string]int `json:"people"`
	// Underway is what people are in the middle of.
	Underway Underway `json:"underway"`
	// Hidden is what is stored and will not be shown, which can be dropped for good.
	Hidden []Hidden `json:"hidden"`
}

// errDryRun ends a transaction that was only a trial.
var errDryRun = errors.New("dry run")

// Preview works out what a release of the draft, or of an earlier release again, would change
// and tries it on the stored records, keeping nothing. The draft is number nought.
func (db *DB) Preview(ctx context.Context, app string, of int) (Preview, error) {
	var p Preview
	err := db.dry(ctx, func(tx *sqlx.Tx) error {
		var err error
		p, _, err = db.prepare(ctx, tx, app, of, true)
		return err
	})
	return p, err
}

// prepare brings production's tables to what is to be released, within the transaction, and
// gives its documents.
func (db *DB) prepare(ctx context.Context, tx *sqlx.Tx, app string, of int, trying bool) (Preview, []definition.Document, error) {
	var p Preview
	var now struct {
		Release sql.NullInt64 `db:"release"`
		Schema  string        `db:"schema"`
	}
	query := `SELECT release, schema FROM plainpath.space WHERE app = $1 AND key = $2`
	if !trying {
		query += ` FOR NO KEY UPDATE` // runs may begin meanwhile, which name the space
	}
	if err := tx.GetContext(ctx, &now, query, app, Production); err != nil {
		return p, nil, fmt.Errorf("finding production: %w", err)
	}
	before, err := released(ctx, tx, app, int(now.Release.Int64))
	if err != nil {
		return p, nil, err
	}
	var docs []definition.Document
	if of == 0 {
		docs, err = documents(ctx, tx, app)
	} else if docs, err = released(ctx, tx, app, of); err == nil {
		docs, err = release.Again(docs, before)
	}
	if err != nil {
		return p, nil, err
	}
	p, err = db.tryRelease(ctx, tx, app, now.Schema, before, docs, trying)
	return p, docs, err
}

func (db *DB) tryRelease(ctx context.Context, tx *sqlx.Tx, app, schema string, before, docs []definition.Document, trying bool) (Preview, error) {
	var p Preview
	e, err := db.made.compile(ctx, docs)
	if err != nil {
		return p, err
	}
	if err := tx.GetContext(ctx, &p.Number, `SELECT coalesce(max(number), 0) + 1 FROM plainpath.release WHERE app = $1`, app); err != nil {
		return p, fmt.Errorf("numbering the release: %w", err)
	}
	p.Obstacles = []Obstacle{}
	p.Findings = append([]definition.Finding{}, e.Findings...)
	if p.Changes, err = release.Diff(before, docs); err != nil {
		return p, err
	}
	p.Version = version(docs)
	if p.People, err = peopleByRole(ctx, tx, app); err != nil {
		return p, err
	}
	if p.Underway, err = underway(ctx, tx, app, Production, e); err != nil {
		return p, err
	}
	if !definition.Blocks(p.Findings) {
		c, err := db.look(ctx, tx, schema, e)
		if err != nil {
			return p, err
		}
		err = c.stops()
		if err == nil && !trying {
			err = c.fit()
		}
		var blocked *ObstacleError
		if errors.As(err, &blocked) {
			p.Obstacles = blocked.Obstacles
		} else if unready := new(notReadyError); trying && errors.As(err, &unready) { // nothing is in the way
			err = nil
		}
		if err != nil && blocked == nil {
			return p, err
		}
	}
	p.Hidden, err = db.hidden(ctx, tx, app, docs)
	return p, err
}

// rightsChanged says what a release changes of what roles may do.
func rightsChanged(changes []definition.Difference) []string {
	var out []string
	for _, c := range changes {
		if strings.HasPrefix(c.Document, string(definition.Role)+"/") {
			out = append(out, fmt.Sprintf("role %s %s: %s", c.Label, c.What, strings.Join(c.Details, ", ")))
		}
	}
	return out
}

func peopleByRole(ctx context.Context, tx *sqlx.Tx, app string) (map[string]int, error) {
	var rows []struct {
		Role  string `db:"role"`
		Count int    `db:"count"`
	}
	err := tx.SelectContext(ctx, &rows, `SELECT role, count(*) AS count FROM plainpath.member, unnest(roles) role WHERE app = $1 AND space = $2 GROUP BY role`, app, Production)
	if err != nil {
		return nil, fmt.Errorf("counting people by role: %w", err)
	}
	out := map[string]int{}
	for _, r := range rows {
		out[r.Role] = r.Count
	}
	return out, nil
}

func version(docs []definition.Document) string {
	v := ""
	for _, d := range docs {
		v += fmt.Sprintf("%s:%d ", d.Name(), d.Revision)
	}
	return fmt.Sprintf("%x", hashToken(v)[:8])
}

// Release makes the draft, or an earlier release again, as it was previewed the release in force.
// What is hidden and named is dropped for good.
func (db *DB) Release(ctx context.Context, app string, person int64, of int, previewed, note string, drops ...Drop) (int, error) {
	number := 0
	err := db.evolve(ctx, func(tx *sqlx.Tx) error {
		p, docs, err := db.prepare(ctx, tx, app, of, false)
		switch {
		case err != nil:
			return err
		case p.Version != previewed:
			return &RejectedError{"The draft has changed since you looked at what would be released. Look again and release then."}
		case definition.Blocks(p.Findings):
			return &RejectedError{"The draft has findings that keep it from being released. Nothing was released."}
		case len(p.Obstacles) > 0:
			return &ObstacleError{p.Obstacles}
		case len(p.Changes) == 0 && len(drops) == 0:
			return &RejectedError{"Nothing has changed since the release in force."}
		}
		raw, err := json.Marshal(docs)
		if err != nil {
			return fmt.Errorf("writing the release: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO plainpath.release (app, number, person, note, documents) VALUES ($1, $2, $3, $4, $5)`, app, p.Number, person, note, raw); err != nil {
			return fmt.Errorf("storing the release: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.space SET release = $3 WHERE app = $1 AND key = $2`, app, Production, p.Number); err != nil {
			return fmt.Errorf("putting the release in force: %w", err)
		}
		number = p.Number
		if err := audit(ctx, tx, person, fmt.Sprintf("released number %d", number), rightsChanged(p.Changes)...); err != nil {
			return err
		}
		return db.drop(ctx, tx, app, docs, drops)
	})
	return number, err
}
