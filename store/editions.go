package store

import (
	"context"
	"sync"

	"plainpath/core/edition"
)

// Editions keeps compiled editions in memory. What it holds can always be made again
// from the database, so any number of servers can have their own.
type Editions struct {
	db *DB

	mu       sync.Mutex
	draft    map[string]draft
	released map[releaseKey]*edition.Edition
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
	return &Editions{db: db, draft: map[string]draft{}, released: map[releaseKey]*edition.Edition{}}
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
