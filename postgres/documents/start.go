package documents

import (
	"context"
	"fmt"
	"strings"
	"time"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// StartView is what builders begin with: what changed, what people have not finished, how much is stored.
type StartView struct {
	// Changed are the documents that are otherwise than in the release in force, the latest first.
	Changed []ChangedView `json:"changed"`
	Open    []OpenView    `json:"open"`
	Sizes   []SizeView    `json:"sizes"`
}

// ChangedView is a document that is otherwise than people have it.
type ChangedView struct {
	Kind  definition.Kind `json:"kind"`
	Key   string          `json:"key"`
	Label string          `json:"label"`
	// Edits are how many there were since the release, People who made them.
	Edits  int       `json:"edits"`
	People string    `json:"people"`
	At     time.Time `json:"at"`
}

// OpenView is where people left walkthroughs in production unfinished.
type OpenView struct {
	Walkthrough string `json:"walkthrough"`
	Label       string `json:"label"`
	// Step is where they stand, Title what it is called; both are empty for one that is not there any more.
	Step  string `json:"step"`
	Title string `json:"title"`
	Runs  int    `json:"runs"`
	// Since is when the oldest of them was touched last.
	Since time.Time `json:"since"`
}

// SizeView is how many records of an object there are in production.
type SizeView struct {
	Object  string `json:"object"`
	Label   string `json:"label"`
	Records int64  `json:"records"`
	// About says that they were not counted but estimated.
	About bool `json:"about,omitempty"`
}

// Start reads what builders begin with, of the edition that people have.
func Start(ctx context.Context, db *postgres.DB, app string, released *edition.Edition) (StartView, error) {
	out := StartView{Changed: []ChangedView{}, Open: []OpenView{}, Sizes: []SizeView{}}
	if err := db.SelectContext(ctx, &out.Changed, `SELECT d.kind, d.key, coalesce(d.body->>'label', d.key) AS label, count(e.id) AS edits,
			string_agg(DISTINCT p.name, ', ') AS people, max(e.at) AS at
		FROM plainpath.space s JOIN plainpath.release r ON r.app = s.app AND r.number = s.release
		JOIN plainpath.edit e ON e.app = s.app AND e.at > r.at JOIN plainpath.person p ON p.id = e.person
		JOIN plainpath.document d ON d.app = e.app AND d.kind = e.kind AND d.key = e.key
		WHERE s.app = $1 AND s.key = $2 GROUP BY d.kind, d.key, d.body ORDER BY max(e.at) DESC`, app, postgres.Production); err != nil {
		return out, fmt.Errorf("reading what changed since the release: %w", err)
	}
	var open []struct {
		Walkthrough string    `db:"walkthrough"`
		Step        string    `db:"step"`
		Runs        int       `db:"runs"`
		Since       time.Time `db:"since"`
	}
	if err := db.SelectContext(ctx, &open, `SELECT walkthrough, coalesce(state->>'place', '') AS step, count(*) AS runs, min(changed_at) AS since
		FROM plainpath.run WHERE app = $1 AND space = $2 AND NOT closed GROUP BY 1, 2 ORDER BY 3 DESC, 4`, app, postgres.Production); err != nil {
		return out, fmt.Errorf("reading what is not finished: %w", err)
	}
	for _, o := range open {
		view := OpenView{Walkthrough: o.Walkthrough, Label: o.Walkthrough, Step: o.Step, Runs: o.Runs, Since: o.Since}
		if w := released.Walkthroughs[o.Walkthrough]; w != nil {
			view.Label, view.Title = w.Def.Label, w.TitleOf(o.Step)
		}
		out.Open = append(out.Open, view)
	}
	var err error
	out.Sizes, err = sizes(ctx, db, app, released)
	return out, err
}

// mostCounted is how many records of an object are counted one by one; of more it is said how many there are about.
const mostCounted = 10_000

func sizes(ctx context.Context, db *postgres.DB, app string, e *edition.Edition) ([]SizeView, error) {
	out := []SizeView{}
	var schema string
	if err := db.GetContext(ctx, &schema, `SELECT schema FROM plainpath.space WHERE app = $1 AND key = $2`, app,
		postgres.Production); err != nil {
		return nil, fmt.Errorf("finding production: %w", err)
	}
	var asked []string
	for _, key := range e.Model.Keys() {
		o := e.Model.Object(key)
		table := sqlgen.Quote(schema) + "." + sqlgen.Quote(o.Table())
		asked = append(asked, fmt.Sprintf(`SELECT %s AS object, %s AS label,
			(SELECT count(*) FROM (SELECT FROM %s LIMIT %d) q) AS counted,
			(SELECT reltuples::bigint FROM pg_class WHERE oid = %s::regclass) AS about`, sqlgen.Quoted(key),
			sqlgen.Quoted(o.Plural), table, mostCounted+1, sqlgen.Quoted(table)))
	}
	if len(asked) == 0 {
		return out, nil
	}
	var found []struct {
		Object  string `db:"object"`
		Label   string `db:"label"`
		Counted int64  `db:"counted"`
		About   int64  `db:"about"`
	}
	all := strings.Join(asked, " UNION ALL ") + " ORDER BY 3 DESC, 4 DESC, 2"
	if err := db.SelectContext(ctx, &found, all); err != nil {
		return nil, fmt.Errorf("measuring objects: %w", err)
	}
	for _, f := range found {
		view := SizeView{Object: f.Object, Label: f.Label, Records: f.Counted}
		if f.Counted > mostCounted {
			view.Records, view.About = max(f.Counted, f.About), true
		}
		out = append(out, view)
	}
	return out, nil
}
