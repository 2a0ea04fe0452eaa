package runs

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/screen"
	"plainpath/core/walk"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// ExampleRun is what came of a kept rehearsal.
type ExampleRun struct {
	Walkthrough string `json:"walkthrough"`
	Label       string `json:"label"`
	Key         string `json:"key"`
	Name        string `json:"name"`
	// Differences are what is otherwise than expected, Now all that came of it.
	Differences []walk.Difference `json:"differences"`
	Now         walk.Outcome      `json:"now"`
	// Failed says why it could not be run at all; Blocked that findings keep it from running.
	Failed  string `json:"failed,omitempty"`
	Blocked bool   `json:"blocked,omitempty"`
	// Micros is the time taken in microseconds.
	Micros int64 `json:"micros"`
}

// Holds says whether it came out as expected.
func (e ExampleRun) Holds() bool { return e.Failed == "" && len(e.Differences) == 0 }

// Examples runs the kept rehearsals of the draft, those of one walkthrough or of all, and puts every record back.
func (r *Runs) Examples(ctx context.Context, app, walkthrough string) ([]ExampleRun, error) {
	e, err := r.Editions.Draft(ctx, app)
	if err != nil {
		return nil, err
	}
	out := []ExampleRun{}
	var keys []string
	for key := range e.Walkthroughs {
		if walkthrough == "" || key == walkthrough {
			keys = append(keys, key)
		}
	}
	slices.Sort(keys)
	for _, key := range keys {
		p := e.Walkthroughs[key]
		for _, x := range p.Def.Examples {
			start := time.Now()
			run := ExampleRun{Walkthrough: key, Label: p.Def.Label, Key: x.Key, Name: x.Name,
				Differences: []walk.Difference{}}
			if err := r.example(ctx, app, e, p, x, &run); err != nil {
				return nil, err
			}
			run.Micros = time.Since(start).Microseconds()
			out = append(out, run)
		}
	}
	return out, nil
}

// example runs one. An error is one of reading; that it cannot be run is in what it gives.
func (r *Runs) example(ctx context.Context, app string, e *edition.Edition, p *walk.Program, x walk.Example,
	run *ExampleRun) error {
	if definition.Blocks(e.Of(definition.Name(definition.Walkthrough, p.Def.Key))) {
		run.Failed, run.Blocked = "the walkthrough has findings that keep it from running", true
		return nil
	}
	person, err := r.personOf(ctx, x.As)
	if errors.Is(err, postgres.ErrNotFound) {
		run.Failed = fmt.Sprintf("nobody has the address %q", x.As)
		return nil
	}
	if err != nil {
		return err
	}
	w, err := repository.WhereOf(ctx, r.DB, postgres.Caller{App: app, Space: postgres.Trial, Person: person}, e)
	if err != nil {
		return err
	}
	if x.On != "" {
		if w.Now, err = morning(x.On, e); err != nil {
			run.Failed = err.Error()
			return nil
		}
	}
	return r.DB.Tried(ctx, func(q sqlx.ExtContext) error {
		d := rehearsed(q, w, p.Def.Key)
		taken, err := p.FoundTaken(ctx, d, x.Taken)
		if err != nil {
			if told(err) {
				run.Failed, err = err.Error(), nil
			}
			return err
		}
		done, err := p.Rehearse(ctx, d, walk.Replay{Taken: taken, Recorded: p.Renewed(x.Given)})
		if err != nil && !told(err) {
			return err
		}
		if run.Now, err = p.Came(done, err); err != nil {
			return err
		}
		run.Differences = append(run.Differences, p.Differences(x.Expect, run.Now)...)
		return nil
	})
}

// told says whether an error is one that a person is told and can do something about.
func told(err error) bool {
	var refused *act.RefusedError
	var invalid *walk.InvalidError
	var called *screen.CalledError
	return errors.As(err, &refused) || errors.As(err, &invalid) || errors.As(err, &called)
}

// rehearsed is the repository of a rehearsal whose records are put back.
func rehearsed(q sqlx.ExtContext, w repository.Where, walkthrough string) *repository.Repository {
	d := repository.New(q, w)
	d.Cause["walkthrough"], d.Cause["rehearsal"] = walkthrough, "yes"
	d.Unit.Rehearsed = new(int64)
	return d
}

// morning is nine o'clock on a day, where the house is.
func morning(day string, e *edition.Edition) (time.Time, error) {
	at, err := time.ParseInLocation(time.DateOnly, day, e.Zone)
	if err != nil {
		return at, fmt.Errorf("%q is no day such as 2026-03-05", day)
	}
	return at.Add(9 * time.Hour), nil
}

func (r *Runs) personOf(ctx context.Context, email string) (int64, error) {
	var id int64
	err := r.DB.GetContext(ctx, &id, `SELECT id FROM plainpath.person WHERE lower(email) = lower($1)`, email)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, fmt.Errorf("person %s: %w", email, postgres.ErrNotFound)
	}
	if err != nil {
		return 0, fmt.Errorf("finding %s: %w", email, err)
	}
	return id, nil
}

// NewExample is a rehearsal as it can be kept.
type NewExample struct {
	Example walk.Example `json:"example"`
	// Pinned counts the records that are known by their keys alone, for others are called the same.
	Pinned int `json:"pinned"`
	// Files counts the files that it gives, which are kept with it.
	Files int `json:"files"`
}

// Keepable replays a rehearsal and gives it as an example that expects what comes of it now.
func (r *Runs) Keepable(ctx context.Context, ask Rehearsal) (NewExample, error) {
	out := NewExample{}
	p, w, err := r.rehearsable(ctx, ask)
	if err != nil {
		return out, err
	}
	if err := r.DB.GetContext(ctx, &out.Example.As, `SELECT email FROM plainpath.person WHERE id = $1`,
		ask.As); err != nil {
		return out, fmt.Errorf("reading whose rehearsal it is: %w", err)
	}
	out.Example.On = ask.On
	var files []int64
	err = r.DB.Tried(ctx, func(q sqlx.ExtContext) error {
		d := rehearsed(q, w, p.Def.Key)
		done, err := p.Rehearse(ctx, d, walk.Replay{Taken: ask.Taken, Recorded: ask.Recorded, Names: true})
		if err != nil && !told(err) {
			return err
		}
		out.Example.Given, out.Pinned, files = done.Named, done.Pinned, done.Files
		taken, pinned, wrong := p.NamedTaken(ctx, d, ask.Taken)
		if wrong != nil {
			return wrong
		}
		out.Example.Taken, out.Pinned = taken, out.Pinned+pinned
		out.Example.Expect, err = p.Came(done, err)
		return err
	})
	if err == nil {
		out.Files, err = r.keepFiles(ctx, ask, files)
	}
	return out, err
}

// keepFiles lets files stay that were given in a rehearsal, as the person it was rehearsed as, and says how many.
func (r *Runs) keepFiles(ctx context.Context, ask Rehearsal, files []int64) (int, error) {
	if len(files) == 0 {
		return 0, nil
	}
	var kept int
	err := r.DB.GetContext(ctx, &kept, `WITH own AS (
			UPDATE plainpath.file SET kept = true WHERE id = ANY($2) AND app = $1 AND added_by = $3 RETURNING id),
		noted AS (INSERT INTO plainpath.rehearsal_file (app, file) SELECT $1, id FROM own
			ON CONFLICT (file) DO UPDATE SET at = now())
		SELECT count(*) FROM own`, ask.App, files, ask.As)
	if err != nil {
		return 0, fmt.Errorf("keeping the files of a rehearsal: %w", err)
	}
	return kept, nil
}
