package drafts

import (
	"context"
	"fmt"
	"slices"

	"github.com/jmoiron/sqlx"

	"plainpath/core/edition"
	"plainpath/postgres"
	"plainpath/postgres/documents"
)

// Underway is the walkthroughs that people are in the middle of when a release is made.
type Underway struct {
	// GoOn counts those that go on as they began.
	GoOn int `json:"go_on"`
	// Stuck are those that cannot.
	Stuck []StuckRuns `json:"stuck"`
}

// StuckRuns is unfinished runs of a walkthrough that cannot go on after a release.
type StuckRuns struct {
	Walkthrough string   `json:"walkthrough"`
	Label       string   `json:"label"`
	Why         string   `json:"why"`
	Count       int      `json:"count"`
	People      []string `json:"people"`
}

// underway looks at the unfinished runs of a space as they would be on the tables of a newer
// edition.
func underway(ctx context.Context, tx *sqlx.Tx, app, space string, newer *edition.Edition) (Underway, error) {
	out := Underway{Stuck: []StuckRuns{}}
	var runs []struct {
		Release     int    `db:"release"`
		Walkthrough string `db:"walkthrough"`
		Person      string `db:"person"`
		Count       int    `db:"count"`
	}
	err := tx.SelectContext(ctx, &runs, `SELECT r.release, r.walkthrough, p.name AS person, count(*) AS count FROM plainpath.run r JOIN plainpath.person p ON p.id = r.person
		WHERE r.app = $1 AND r.space = $2 AND NOT r.closed GROUP BY r.release, r.walkthrough, p.name ORDER BY r.walkthrough, r.release, p.name`, app, space)
	if err != nil {
		return out, fmt.Errorf("looking at unfinished walkthroughs: %w", err)
	}
	editions := map[int]postgres.Over{}
	for _, r := range runs {
		older, ok := editions[r.Release]
		if !ok {
			docs, err := documents.Released(ctx, tx, app, r.Release)
			if err != nil {
				return out, err
			}
			if older, err = documents.OverOf(docs, newer); err != nil {
				return out, err
			}
			editions[r.Release] = older
		}
		why := older.Stuck[r.Walkthrough]
		if why == "" {
			out.GoOn += r.Count
			continue
		}
		i := slices.IndexFunc(out.Stuck, func(s StuckRuns) bool {
			return s.Walkthrough == r.Walkthrough &&
				s.Why == why
		})
		if i < 0 {
			label := r.Walkthrough
			if w := older.Edition.Walkthroughs[r.Walkthrough]; w != nil {
				label = w.Def.Label
			}
			out.Stuck = append(out.Stuck, StuckRuns{Walkthrough: r.Walkthrough, Label: label, Why: why})
			i = len(out.Stuck) - 1
		}
		out.Stuck[i].Count += r.Count
		if !slices.Contains(out.Stuck[i].People, r.Person) {
			out.Stuck[i].People = append(out.Stuck[i].People, r.Person)
		}
	}
	return out, nil
}
