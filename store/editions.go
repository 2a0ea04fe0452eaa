package store

import (
	"context"
	"sync"

	"plainpath/core/edition"
	"plainpath/core/usage"
)

// Editions keeps compiled editions in memory. What it holds can always be made again
// from the database, so any number of servers can have their own.
type Editions struct {
	db *DB

	mu       sync.Mutex
	draft    map[string]draft
	released map[releaseKey]*edition.Edition
	over     map[overKey]over
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

type draft struct {
	version string
	edition *edition.Edition
}

type releaseKey struct {
	app    string
	number int
}

// NewEditions makes an empty store of editions.
func NewEditions(db *DB) *Editions {
	return &Editions{db: db, draft: map[string]draft{}, released: map[releaseKey]*edition.Edition{}, over: map[overKey]over{}}
}

// Draft is the draft of an app as it stands now.
func (e *Editions) Draft(ctx context.Context, app string) (*edition.Edition, error) {
	v, err := e.db.DraftVersion(ctx, app)
	if err != nil {
		return nil, err
	}
	e.mu.Lock()
	have := e.draft[app]
	e.mu.Unlock()
	if have.version == v && have.edition != nil {
		return have.edition, nil
	}
	docs, err := e.db.Documents(ctx, app)
	if err != nil {
		return nil, err
	}
	compiled, err := edition.Compile(docs)
	if err != nil {
		return nil, err
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	e.draft[app] = draft{v, compiled}
	return compiled, nil
}

// Release is a release of an app. Releases never change, so it is compiled once.
func (e *Editions) Release(ctx context.Context, app string, number int) (*edition.Edition, error) {
	key := releaseKey{app, number}
	e.mu.Lock()
	have := e.released[key]
	e.mu.Unlock()
	if have != nil {
		return have, nil
	}
	docs, err := e.db.ReleasedDocuments(ctx, app, number)
	if err != nil {
		return nil, err
	}
	compiled, err := edition.Compile(docs)
	if err != nil {
		return nil, err
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	e.released[key] = compiled
	return compiled, nil
}

// Over is a release for runs that began on it, on the tables of the release in force now, and
// why a walkthrough of it cannot go on there, "" when it can.
func (e *Editions) Over(ctx context.Context, app string, number, now int, walkthrough string) (*edition.Edition, string, error) {
	if number == now {
		released, err := e.Release(ctx, app, number)
		return released, "", err
	}
	key := overKey{releaseKey{app, number}, now}
	e.mu.Lock()
	have, ok := e.over[key]
	e.mu.Unlock()
	if ok {
		return have.edition, have.stuck[walkthrough], nil
	}
	newer, err := e.Release(ctx, app, now)
	if err != nil {
		return nil, "", err
	}
	docs, err := e.db.ReleasedDocuments(ctx, app, number)
	if err != nil {
		return nil, "", err
	}
	if have, err = overOf(docs, newer); err != nil {
		return nil, "", err
	}
	e.mu.Lock()
	defer e.mu.Unlock()
	e.over[key] = have
	return have.edition, have.stuck[walkthrough], nil
}

func overOf(docs []edition.Document, newer *edition.Edition) (over, error) {
	var out over
	var changed []edition.Changed
	var err error
	if out.edition, changed, err = edition.Over(docs, newer); err != nil {
		return out, err
	}
	out.stuck, err = usage.Stuck(docs, out.edition, changed)
	return out, err
}
