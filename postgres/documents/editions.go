package documents

import (
	"context"
	"errors"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/usage"
	"plainpath/postgres"
)

// Editions gives compiled editions.
type Editions struct {
	Db *postgres.DB
}

// NewEditions gives the editions of a database.
func NewEditions(db *postgres.DB) *Editions { return &Editions{db} }

// Draft is the draft of an app as it stands now.
func (e *Editions) Draft(ctx context.Context, app string) (*edition.Edition, error) {
	v, err := DraftVersion(ctx, e.Db, app)
	if err != nil {
		return nil, err
	}
	return e.Db.Made.Drafts.Get(ctx, postgres.DraftKey{App: app, Version: v},
		func(ctx context.Context) (*edition.Edition, error) {
			docs, err := Documents(ctx, e.Db, app)
			if err != nil {
				return nil, err
			}
			return e.Db.Made.Compile(ctx, docs)
		})
}

// Release is a release of an app. Releases never change.
func (e *Editions) Release(ctx context.Context, app string, number int) (*edition.Edition, error) {
	return e.Db.Made.Released.Get(ctx, postgres.ReleaseKey{App: app, Number: number},
		func(ctx context.Context) (*edition.Edition, error) {
			docs, err := ReleasedDocuments(ctx, e.Db, app, number)
			if err != nil {
				return nil, err
			}
			return e.Db.Made.Compile(ctx, docs)
		})
}

// App is what is said of an app as a whole, by the release in force or before the first by the
// draft. Nothing else of either is read, so that it is known whatever else they say.
func (e *Editions) App(ctx context.Context, app string) (edition.App, error) {
	number, err := InForce(ctx, e.Db, app)
	if err != nil {
		return edition.App{}, err
	}
	if number == 0 {
		d, err := Document(ctx, e.Db, app, definition.App, app)
		if err != nil {
			return edition.App{}, err
		}
		return appOf([]definition.Document{d})
	}
	return e.Db.Made.Apps.Get(ctx, postgres.ReleaseKey{App: app, Number: number},
		func(ctx context.Context) (edition.App, error) {
			docs, err := ReleasedDocuments(ctx, e.Db, app, number)
			if err != nil {
				return edition.App{}, err
			}
			return appOf(docs)
		})
}

func appOf(docs []definition.Document) (edition.App, error) {
	for _, d := range docs {
		if d.Kind == definition.App {
			var out edition.App
			err := definition.Decode(d.Body, &out)
			return out, err
		}
	}
	return edition.App{}, errors.New("nothing is said of the app as a whole")
}

// Warm makes the release in force ready before anybody asks for it.
func (e *Editions) Warm(ctx context.Context, app string) error {
	number, err := InForce(ctx, e.Db, app)
	if err != nil || number == 0 {
		return err
	}
	_, err = e.Release(ctx, app, number)
	return err
}

// Over is a release for runs that began on it, on the tables of the release in force now, and
// why a walkthrough of it cannot go on there, "" when it can.
func (e *Editions) Over(ctx context.Context, app string, number, now int,
	walkthrough string) (*edition.Edition, string, error) {
	if number == now {
		released, err := e.Release(ctx, app, number)
		return released, "", err
	}
	have, err := e.Db.Made.Over.Get(ctx, postgres.OverKey{ReleaseKey: postgres.ReleaseKey{App: app, Number: number},
		Now: now}, func(ctx context.Context) (postgres.Over, error) {
		newer, err := e.Release(ctx, app, now)
		if err != nil {
			return postgres.Over{}, err
		}
		docs, err := ReleasedDocuments(ctx, e.Db, app, number)
		if err != nil {
			return postgres.Over{}, err
		}
		return OverOf(docs, newer)
	})
	return have.Edition, have.Stuck[walkthrough], err
}

// Made says whether the edition for runs of a release is ready, so that [Editions.Over] gives it at once.
func (e *Editions) Made(app string, number, now int) bool {
	of := postgres.ReleaseKey{App: app, Number: number}
	if number == now {
		return e.Db.Made.Released.Has(of)
	}
	return e.Db.Made.Over.Has(postgres.OverKey{ReleaseKey: of, Now: now})
}

// OverOf is what documents are compiled with over a newer edition.
func OverOf(docs []definition.Document, newer *edition.Edition) (postgres.Over, error) {
	var out postgres.Over
	var changed []edition.Changed
	var err error
	if out.Edition, changed, err = edition.Over(docs, newer); err != nil {
		return out, err
	}
	out.Stuck, err = usage.Stuck(docs, out.Edition, changed)
	return out, err
}

// Of is the edition that a space runs on.
func (e *Editions) Of(ctx context.Context, app, space string) (*edition.Edition, error) {
	if space == postgres.Trial {
		return e.Draft(ctx, app)
	}
	n, err := InForce(ctx, e.Db, app)
	if err != nil {
		return nil, err
	}
	return e.Release(ctx, app, n)
}
