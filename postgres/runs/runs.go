// Package runs keeps walkthroughs under way, one row a run, and rehearses them.
package runs

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/screen"
	"plainpath/core/value"
	"plainpath/core/walk"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/repository"
)

// Run is a stored run with what the person sees of it.
type Run struct {
	ID          string     `json:"id"`
	Walkthrough string     `json:"walkthrough"`
	Label       string     `json:"label"`
	Revision    int        `json:"revision"`
	View        *walk.View `json:"view"`
}

// OpenRun is an unfinished run, as the home page lists it.
type OpenRun struct {
	ID          string    `db:"id" json:"id"`
	Walkthrough string    `db:"walkthrough" json:"walkthrough"`
	Release     int       `db:"release" json:"-"`
	Label       string    `json:"label"`
	At          string    `json:"at"`
	Place       string    `db:"place" json:"-"`
	ChangedAt   time.Time `db:"changed_at" json:"changed_at"`
}

// ConflictError says that a run went on elsewhere, in another tab for example.
type ConflictError struct{ Revision int }

func (e *ConflictError) Error() string {
	return "This walkthrough went on in another window. What you entered here was not sent; take it up where it stands now."
}

// Runs starts and carries on runs in production.
type Runs struct {
	DB       *postgres.DB
	Editions *documents.Editions
}

// StuckError says that a run cannot go on: a release changed what it works with.
type StuckError struct{ Why string }

func (e *StuckError) Error() string {
	return "This walkthrough was begun before a release that changed what it works with: " + e.Why +
		". It cannot go on; what it wrote stays. Begin it again."
}

type runRow struct {
	ID          string         `db:"id"`
	App         string         `db:"app"`
	Space       string         `db:"space"`
	Release     int            `db:"release"`
	Walkthrough string         `db:"walkthrough"`
	State       []byte         `db:"state"`
	Revision    int            `db:"revision"`
	LastRequest sql.NullString `db:"last_request"`
	Closed      bool           `db:"closed"`
	// InForce is the release that its space is on now.
	InForce int `db:"in_force"`
	// Member is whose it is.
	repository.Member
}

func (r runRow) caller(person int64) postgres.Caller {
	return postgres.Caller{App: r.App, Space: r.Space, Person: person}
}

// Loaded is a run with everything needed to carry it on.
type Loaded struct {
	Row     runRow
	edition *edition.Edition
	program *walk.Program
	where   repository.Where
}

// load gives a run with the edition it is carried on with.
func (r *Runs) load(ctx context.Context, row runRow) (Loaded, error) {
	p := Loaded{Row: row}
	var stuck string
	var err error
	if p.edition, stuck, err = r.Editions.Over(ctx, row.App, row.Release, row.InForce, row.Walkthrough); err != nil {
		return p, err
	}
	if stuck != "" {
		return p, &StuckError{stuck}
	}
	p.program = p.edition.Walkthroughs[row.Walkthrough]
	if p.program == nil {
		return p, fmt.Errorf("walkthrough %q: %w", row.Walkthrough, postgres.ErrNotFound)
	}
	if findings := p.edition.Of("walkthrough/" + row.Walkthrough); definition.Blocks(findings) {
		return p, &definition.BlockedError{What: "the walkthrough cannot run", Findings: findings}
	}
	return p, nil
}

// Repository is that of whoever runs, in a transaction.
func (p Loaded) Repository(tx sqlx.ExtContext) *repository.Repository {
	d := repository.New(tx, p.where)
	d.Cause["walkthrough"], d.Cause["run"] = p.Row.Walkthrough, p.Row.ID
	return d
}

// Start begins a run with what is handed over. The same start key again gives the run begun then.
func (r *Runs) Start(ctx context.Context, app, walkthrough string, taken screen.Answers, person int64,
	startKey string) (Run, error) {
	number, err := documents.InForce(ctx, r.DB, app)
	if err != nil {
		return Run{}, err
	}
	if number == 0 {
		return Run{}, fmt.Errorf("walkthrough %q: %w", walkthrough, postgres.ErrNotFound)
	}
	p, err := r.load(ctx, runRow{App: app, Space: postgres.Production, Release: number, Walkthrough: walkthrough,
		Revision: 1, InForce: number})
	if err != nil {
		return Run{}, err
	}
	if p.where, err = repository.WhereOf(ctx, r.DB, p.Row.caller(person), p.edition); err != nil {
		return Run{}, err
	}
	if !p.edition.MayStart(p.where.Person, walkthrough) {
		return Run{}, fmt.Errorf("walkthrough %q: %w", walkthrough, postgres.ErrNotFound)
	}
	var out Run
	again := ""
	err = r.DB.In(ctx, func(tx *sqlx.Tx) error {
		err := tx.GetContext(ctx, &p.Row.ID, `INSERT INTO plainpath.run (app, space, release, walkthrough, person, state, start_key) VALUES ($1, $2, $3, $4, $5, '{}', nullif($6, ''))
			ON CONFLICT (person, start_key) DO NOTHING RETURNING id`, app, postgres.Production, number, walkthrough, person, startKey)
		if errors.Is(err, sql.ErrNoRows) {
			return tx.GetContext(ctx, &again, `SELECT id FROM plainpath.run WHERE person = $1 AND start_key = $2`,
				person, startKey)
		}
		if err != nil {
			return fmt.Errorf("beginning a run: %w", err)
		}
		run, err := p.program.Start(ctx, p.Repository(tx), taken, nil)
		if err != nil {
			return err
		}
		out, err = r.save(ctx, tx, p, run, p.Row.Revision, "")
		return err
	})
	if err == nil && again != "" {
		return r.Show(ctx, again, person)
	}
	return out, err
}

// KeyOf is the key that an address names; keys are compared as keys, so that their index serves.
func KeyOf(what, id string) (uuid.UUID, error) {
	key, err := uuid.Parse(id)
	if err != nil {
		return key, fmt.Errorf("%s %s: %w", what, id, postgres.ErrNotFound)
	}
	return key, nil
}

// find reads a run of a person's own.
func find(ctx context.Context, q sqlx.QueryerContext, id string, person int64, lock string) (runRow, error) {
	var row runRow
	key, err := KeyOf("run", id)
	if err != nil {
		return row, err
	}
	err = sqlx.GetContext(ctx, q, &row, `SELECT r.id, r.app, r.space, r.release, r.walkthrough, r.state, r.revision,
		r.last_request, r.closed, coalesce(s.release, 0) AS in_force, `+repository.MemberColumns+`
		FROM plainpath.run r JOIN plainpath.space s ON s.app = r.app AND s.key = r.space `+
		fmt.Sprintf(repository.MemberTables, "$2")+` WHERE r.id = $1 AND r.person = $2 `+lock, key, person)
	if errors.Is(err, sql.ErrNoRows) {
		return row, fmt.Errorf("run %s: %w", id, postgres.ErrNotFound)
	}
	if err != nil {
		return row, fmt.Errorf("reading run %s: %w", id, err)
	}
	return row, nil
}

func (r *Runs) resume(ctx context.Context, tx *sqlx.Tx, p Loaded) (*walk.Run, error) {
	var s walk.State
	if err := json.Unmarshal(p.Row.State, &s); err != nil {
		return nil, fmt.Errorf("reading the state of run %s: %w", p.Row.ID, err)
	}
	return p.program.Resume(ctx, p.Repository(tx), s)
}

// With takes up a run within one transaction. Where a release is made just then, it is done
// again on the new tables.
func (r *Runs) With(ctx context.Context, id string, person int64, lock string,
	work func(tx *sqlx.Tx, p Loaded, run *walk.Run) error) error {
	err := r.withOnce(ctx, id, person, lock, work)
	var cold errNotMade
	for n := 0; n < 3 && errors.As(err, &cold); n++ {
		if _, err = r.load(ctx, cold.row); err != nil {
			return err
		}
		err = r.withOnce(ctx, id, person, lock, work)
	}
	if TablesChanged(err) {
		return r.withOnce(ctx, id, person, lock, work)
	}
	return err
}

// errNotMade says that the edition a run is carried on with is to be made first.
type errNotMade struct{ row runRow }

func (errNotMade) Error() string { return "the release is not ready yet" }

// TablesChanged says that a statement named a table or column that a release has renamed
// meanwhile. Its transaction was taken back: what it did can be done again.
func TablesChanged(err error) bool {
	code, _, _ := postgres.Violated(err)
	return code == "42P01" || code == "42703"
}

func (r *Runs) withOnce(ctx context.Context, id string, person int64, lock string,
	work func(tx *sqlx.Tx, p Loaded, run *walk.Run) error) error {
	return r.DB.In(ctx, func(tx *sqlx.Tx) error {
		row, err := find(ctx, tx, id, person, lock)
		if err != nil {
			return err
		}
		if !r.Editions.Made(row.App, row.Release, row.InForce) { // which takes a connection of its own
			return errNotMade{row}
		}
		p, err := r.load(ctx, row)
		if err != nil {
			return err
		}
		if p.where, err = row.Where(ctx, tx, r.DB.Now(), row.caller(person), p.edition); err != nil {
			return err
		}
		run, err := r.resume(ctx, tx, p)
		if err != nil {
			return err
		}
		return work(tx, p, run)
	})
}

// Show gives a run as the person sees it now.
func (r *Runs) Show(ctx context.Context, id string, person int64) (Run, error) {
	var out Run
	err := r.With(ctx, id, person, "", func(tx *sqlx.Tx, p Loaded, run *walk.Run) error {
		var err error
		out, err = r.view(ctx, p, run, p.Row.Revision)
		return err
	})
	return out, err
}

func (r *Runs) view(ctx context.Context, p Loaded, run *walk.Run, revision int) (Run, error) {
	v, err := run.Show(ctx)
	return Run{ID: p.Row.ID, Walkthrough: p.Row.Walkthrough, Label: p.program.Def.Label, Revision: revision, View: v},
		err
}

// Answer takes an answer to a screen. The revision is the one the person saw; a
// request that was carried out before is not carried out again.
func (r *Runs) Answer(ctx context.Context, id string, person int64, revision int, request, screen string,
	a screen.Answers) (Run, error) {
	return r.change(ctx, id, person, revision, request, func(run *walk.Run) error { return run.Answer(ctx, screen, a) })
}

// Back returns to an earlier screen. What was typed on this one is offered again when it comes to it.
func (r *Runs) Back(ctx context.Context, id string, person int64, revision int, request, to string,
	typed screen.Answers) (Run, error) {
	return r.change(ctx, id, person, revision, request, func(run *walk.Run) error {
		run.Keep(typed)
		return run.Back(ctx, to)
	})
}

// Keep keeps what was typed on the screen where a run stands, to be taken up again.
func (r *Runs) Keep(ctx context.Context, id string, person int64, revision int, request string,
	typed screen.Answers) (Run, error) {
	return r.change(ctx, id, person, revision, request, func(run *walk.Run) error {
		run.Keep(typed)
		return nil
	})
}

func (r *Runs) change(ctx context.Context, id string, person int64, revision int, request string,
	work func(*walk.Run) error) (Run, error) {
	var out Run
	err := r.With(ctx, id, person, "FOR UPDATE OF r", func(tx *sqlx.Tx, p Loaded, run *walk.Run) error {
		var err error
		if request != "" && p.Row.LastRequest.String == request {
			out, err = r.view(ctx, p, run, p.Row.Revision)
			return err
		}
		if p.Row.Revision != revision {
			return &ConflictError{p.Row.Revision}
		}
		if err := work(run); err != nil {
			return err
		}
		out, err = r.save(ctx, tx, p, run, p.Row.Revision+1, request)
		return err
	})
	return out, err
}

func (r *Runs) save(ctx context.Context, tx *sqlx.Tx, p Loaded, run *walk.Run, revision int,
	request string) (Run, error) {
	raw, err := json.Marshal(run.State)
	if err != nil {
		return Run{}, fmt.Errorf("writing the state of the run: %w", err)
	}
	_, err = tx.ExecContext(ctx,
		`UPDATE plainpath.run SET state = $2, revision = $3, last_request = nullif($4, ''), closed = $5, changed_at = $6 WHERE id = $1::uuid`,
		p.Row.ID, raw, revision, request, run.State.Closed, r.DB.Now())
	if err != nil {
		return Run{}, fmt.Errorf("storing the run: %w", err)
	}
	return r.view(ctx, p, run, revision)
}

// Follow gives the bands of a run's screen after something was given there: what follows that is shown anew.
func (r *Runs) Follow(ctx context.Context, id string, person int64, at string, given screen.Answers,
	changed []string) ([]screen.BandView, error) {
	var out []screen.BandView
	err := r.With(ctx, id, person, "", func(_ *sqlx.Tx, _ Loaded, run *walk.Run) error {
		run.Typing(given)
		var err error
		out, err = run.Follow(ctx, at, changed)
		return err
	})
	return out, err
}

// Options finds records for a reference input on the run's screen, where so much is given.
func (r *Runs) Options(ctx context.Context, id string, person int64, given screen.Answers, part,
	text string) ([]value.Ref, error) {
	var out []value.Ref
	err := r.With(ctx, id, person, "", func(_ *sqlx.Tx, _ Loaded, run *walk.Run) error {
		run.Typing(given)
		var err error
		out, err = run.Options(ctx, part, text)
		return err
	})
	return out, err
}

// Open lists a person's unfinished runs, the latest first.
func (r *Runs) Open(ctx context.Context, app string, person int64) ([]OpenRun, error) {
	rows := []OpenRun{}
	err := r.DB.SelectContext(ctx, &rows, `SELECT id, walkthrough, release, coalesce(state->>'place', '') AS place, changed_at FROM plainpath.run
		WHERE app = $1 AND person = $2 AND NOT closed ORDER BY changed_at DESC LIMIT 20`, app, person)
	if err != nil {
		return nil, fmt.Errorf("listing unfinished runs: %w", err)
	}
	for i := range rows {
		e, err := r.Editions.Release(ctx, app, rows[i].Release)
		if err != nil {
			return nil, err
		}
		if w := e.Walkthroughs[rows[i].Walkthrough]; w != nil {
			rows[i].Label, rows[i].At = w.Def.Label, w.TitleOf(rows[i].Place)
		}
	}
	return rows, nil
}

// Discard throws an unfinished run away. What it wrote stays.
func (r *Runs) Discard(ctx context.Context, id string, person int64) error {
	key, err := KeyOf("run", id)
	if err != nil {
		return err
	}
	res, err := r.DB.ExecContext(ctx,
		`UPDATE plainpath.run SET closed = true, changed_at = $3 WHERE id = $1 AND person = $2 AND NOT closed`, key,
		person, r.DB.Now())
	if err != nil {
		return fmt.Errorf("throwing the run away: %w", err)
	}
	if n, err := res.RowsAffected(); err == nil && n == 0 {
		return fmt.Errorf("run %s: %w", id, postgres.ErrNotFound)
	}
	return nil
}
