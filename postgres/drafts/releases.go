package drafts

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/release"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	pgschema "plainpath/postgres/schema"
)

// Preview is what a release of the draft would change.
type Preview struct {
	Number   int                     `json:"number"`
	Changes  []definition.Difference `json:"changes"`
	Findings []definition.Finding    `json:"findings"`
	// Version is the draft the preview is of; the release must name it.
	Version string `json:"version"`
	// Obstacles are stored records that would break a new rule; with any, there is no
	// release.
	Obstacles []pgschema.Obstacle `json:"obstacles"`
	// People counts those who have each role in production.
	People map[string]int `json:"people"`
	// Underway is what people are in the middle of.
	Underway Underway `json:"underway"`
	// Hidden is what is stored and will not be shown, which can be dropped for good.
	Hidden []pgschema.Hidden `json:"hidden"`
}

// PreviewRelease works out what a release of the draft, or of an earlier release again, would change
// and tries it on the stored records, keeping nothing. The draft is number nought.
func PreviewRelease(ctx context.Context, db *postgres.DB, app string, of int) (Preview, error) {
	var p Preview
	err := db.Dry(ctx, func(tx *sqlx.Tx) error {
		var err error
		p, _, err = prepare(ctx, db, tx, app, of, true)
		return err
	})
	return p, err
}

// prepare brings production's tables to what is to be released, within the transaction, and
// gives its documents.
func prepare(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app string, of int,
	trying bool) (Preview, []definition.Document, error) {
	var p Preview
	var now struct {
		Release sql.NullInt64 `db:"release"`
		Schema  string        `db:"schema"`
	}
	query := `SELECT release, schema FROM plainpath.space WHERE app = $1 AND key = $2`
	if !trying {
		query += ` FOR NO KEY UPDATE` // runs may begin meanwhile, which name the space
	}
	if err := tx.GetContext(ctx, &now, query, app, postgres.Production); err != nil {
		return p, nil, fmt.Errorf("finding production: %w", err)
	}
	before, err := documents.Released(ctx, tx, app, int(now.Release.Int64))
	if err != nil {
		return p, nil, err
	}
	var docs []definition.Document
	if of == 0 {
		docs, err = documents.All(ctx, tx, app)
	} else if docs, err = documents.Released(ctx, tx, app, of); err == nil {
		docs, err = release.Again(docs, before)
	}
	if err != nil {
		return p, nil, err
	}
	p, err = tryRelease(ctx, db, tx, app, now.Schema, before, docs, trying)
	return p, docs, err
}

func tryRelease(ctx context.Context, db *postgres.DB, tx *sqlx.Tx, app, schema string, before,
	docs []definition.Document, trying bool) (Preview, error) {
	var p Preview
	e, err := db.Made.Compile(ctx, docs)
	if err != nil {
		return p, err
	}
	if err := tx.GetContext(ctx, &p.Number, `SELECT coalesce(max(number), 0) + 1 FROM plainpath.release WHERE app = $1`,
		app); err != nil {
		return p, fmt.Errorf("numbering the release: %w", err)
	}
	p.Obstacles = []pgschema.Obstacle{}
	p.Findings = append([]definition.Finding{}, e.Findings...)
	if p.Changes, err = release.Diff(before, docs); err != nil {
		return p, err
	}
	p.Version = version(docs)
	if p.People, err = peopleByRole(ctx, tx, app); err != nil {
		return p, err
	}
	if p.Underway, err = underway(ctx, tx, app, postgres.Production, e); err != nil {
		return p, err
	}
	if !definition.Blocks(p.Findings) {
		c, err := pgschema.Look(ctx, db, tx, schema, e)
		if err != nil {
			return p, err
		}
		err = c.Stops()
		if err == nil && !trying {
			err = c.Fit()
		}
		var blocked *pgschema.ObstacleError
		if errors.As(err, &blocked) {
			p.Obstacles = blocked.Obstacles
		} else if unready := new(pgschema.NotReadyError); trying && errors.As(err, &unready) { // nothing is in the way
			err = nil
		}
		if err != nil && blocked == nil {
			return p, err
		}
	}
	p.Hidden, err = pgschema.HiddenOf(ctx, db, tx, app, docs)
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
	err := tx.SelectContext(ctx, &rows,
		`SELECT role, count(*) AS count FROM plainpath.member, unnest(roles) role WHERE app = $1 AND space = $2 GROUP BY role`, app, postgres.Production)
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
	return fmt.Sprintf("%x", postgres.HashToken(v)[:8])
}

// Releasing is what somebody wants to release.
type Releasing struct {
	// Of is the number of an earlier release, nought for the draft.
	Of int
	// Previewed is the version of what was looked at before.
	Previewed, Note string
	// Despite is why it is released although kept rehearsals do not come out as expected.
	Despite string
	Drops   []pgschema.Drop
}

// Release makes the draft, or an earlier release again, as it was previewed the release in force.
// What is hidden and named is dropped for good.
func Release(ctx context.Context, db *postgres.DB, app string, person int64, what Releasing) (int, error) {
	number := 0
	err := pgschema.Evolve(ctx, db, func(tx *sqlx.Tx) error {
		p, docs, err := prepare(ctx, db, tx, app, what.Of, false)
		switch {
		case err != nil:
			return err
		case p.Version != what.Previewed:
			return &postgres.RejectedError{Text: "The draft has changed since you looked at what would be released. Look again and release then."}
		case definition.Blocks(p.Findings):
			return &postgres.RejectedError{Text: "The draft has findings that keep it from being released. Nothing was released."}
		case len(p.Obstacles) > 0:
			return &pgschema.ObstacleError{Obstacles: p.Obstacles}
		case len(p.Changes) == 0 && len(what.Drops) == 0:
			return &postgres.RejectedError{Text: "Nothing has changed since the release in force."}
		}
		raw, err := json.Marshal(docs)
		if err != nil {
			return fmt.Errorf("writing the release: %w", err)
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO plainpath.release (app, number, person, note, despite, documents)
			VALUES ($1, $2, $3, $4, nullif($5, ''), $6)`, app, p.Number, person, what.Note, what.Despite, raw); err != nil {
			return fmt.Errorf("storing the release: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.space SET release = $3 WHERE app = $1 AND key = $2`, app,
			postgres.Production, p.Number); err != nil {
			return fmt.Errorf("putting the release in force: %w", err)
		}
		number = p.Number
		if err := postgres.Audit(ctx, tx, person, fmt.Sprintf("released number %d", number),
			rightsChanged(p.Changes)...); err != nil {
			return err
		}
		return pgschema.DropHidden(ctx, db, tx, app, docs, what.Drops)
	})
	return number, err
}
