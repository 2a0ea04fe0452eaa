package store

import (
	"context"
	"errors"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/usage"
)

// Editions gives compiled editions.
type Editions struct {
	db *DB
}

// over is a release on the tables of another.
type over struct {
	edition *edition.Edition
	// stuck are the walkthroughs that cannot go on there, and why.
	stuck map[string]string
}

type overKey struct {
	releaseKey
	now int
}

type draftKey struct{ app, version string }

type releaseKey struct {
	app    string
	number int
}

// NewEditions gives the editions of a database.
func NewEditions(db *DB) *Editions { return &Editions{db} }

// Draft is the draft of an app as it stands now.
func (e *Editions) Draft(ctx context.Context, app string) (*edition.Edition, error) {
	v, err := e.db.DraftVersion(ctx, app)
	if err != nil {
		return nil, err
	}
	return e.db.made.drafts.get(ctx, draftKey{app, v}, func(ctx context.Context) (*edition.Edition, error) {
		docs, err := e.db.Documents(ctx, app)
		if err != nil {
			return nil, err
		}
		return e.db.made.compile(ctx, docs)
	})
}

// Release is a release of an app. Releases never change.
func (e *Editions) Release(ctx context.Context, app string, number int) (*edition.Edition, error) {
	return e.db.made.released.get(ctx, releaseKey{app, number}, func(ctx context.Context) (*edition.Edition, error) {
		docs, err := e.db.ReleasedDocuments(ctx, app, number)
		if err != nil {
			return nil, err
		}
		return e.db.made.compile(ctx, docs)
	})
}

// App is what is said of an app as a whole, by the release in force or before the first by the
// draft. Nothing else of either is read, so that it is known whatever else they say.
func (e *Editions) App(ctx context.Context, app string) (edition.App, error) {
	number, err := e.db.InForce(ctx, app)
	if err != nil {
		return edition.App{}, err
	}
	if number == 0 {
		d, err := e.db.Document(ctx, app, definition.App, app)
		if err != nil {
			return edition.App{}, err
		}
		return appOf([]definition.Document{d})
	}
	return e.db.made.apps.get(ctx, releaseKey{app, number}, func(ctx context.Context) (edition.App, error) {
		docs, err := e.db.ReleasedDocuments(ctx, app, number)
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
	number, err := e.db.InForce(ctx, app)
	if err != nil || number == 0 {
		return err
	}
	_, err = e.Release(ctx, app, number)
	return err
}

// Over is a release for runs that began on it, on the tables of the release in force now, and
// why a walkthrough of it cannot go on there, "" when it can.
func (e *Editions) Over(ctx context.Context, app string, number, now int, walkthrough string) (*edition.Edition, string, error) {
	if number == now {
		released, err := e.Release(ctx, app, number)
		return released, "", err
	}
	have, err := e.db.made.over.get(ctx, overKey{releaseKey{app, number}, now}, func(ctx context.Context) (over, error) {
		newer, err := e.Release(ctx, app, now)
		if err != nil {
			return over{}, err
		}
		docs, err := e.db.ReleasedDocuments(ctx, app, number)
		if err != nil {
			return over{}, err
		}
		return overOf(docs, newer)
	})
	return have.edition, have.stuck[walkthrough], err
}

func overOf(docs []definition.Document, newer *edition.Edition) (over, error) {
	var out over
	var changed []edition.Changed
	var err error
	if out.edition, changed, err = edition.Over(docs, newer); err != nil {
		return out, err
	}
	out.stuck, err = usage.Stuck(docs, out.edition, changed)
	return out, err
}
