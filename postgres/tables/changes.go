package tables

import (
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"slices"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"

	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// ChangedObject says that records of an object changed, or with no object that something
// may have been missed.
type ChangedObject struct {
	Schema string `json:"schema"`
	Object string `json:"object"`
	// Keys are the records, none when they were many.
	Keys []int64 `json:"keys"`
	// First and Last are where they stand in the history as they were before.
	First int64 `json:"first"`
	Last  int64 `json:"last"`
	// Tab is the browser tab that asked for it, if one did.
	Tab string `json:"tab"`
}

// Told is what somebody is told of a change: of records that they may see or could see before.
// Without an object something may have been missed; without keys they are many.
type Told struct {
	Object string  `json:"object,omitempty"`
	Keys   []int64 `json:"keys,omitempty"`
	Tab    string  `json:"tab,omitempty"`
}

// Changes tells of records that change, whoever changes them and on whatever server. It
// listens to the database as long as somebody wants to know.
type Changes struct {
	DB  *postgres.DB
	Log *slog.Logger

	mu   sync.Mutex
	to   map[chan ChangedObject]bool
	stop context.CancelFunc
	// listening says that nothing is missed, began that it was once.
	listening, began atomic.Bool
}

// mostWaiting is how many changes wait for a listener; one that is further behind is told
// that it missed some.
const mostWaiting = 64

// Listen gives a channel of changes, and a function that ends it.
func (c *Changes) Listen() (<-chan ChangedObject, func()) {
	ch := make(chan ChangedObject, mostWaiting)
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.to == nil {
		c.to = map[chan ChangedObject]bool{}
	}
	c.to[ch] = true
	if c.stop == nil {
		var ctx context.Context
		ctx, c.stop = context.WithCancel(context.Background())
		go c.run(ctx)
	}
	return ch, func() { c.leave(ch) }
}

func (c *Changes) leave(ch chan ChangedObject) {
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.to, ch)
	if len(c.to) == 0 && c.stop != nil {
		c.stop()
		c.stop = nil
		c.began.Store(false)
	}
}

func (c *Changes) run(ctx context.Context) {
	for ctx.Err() == nil {
		if err := c.follow(ctx); err != nil && ctx.Err() == nil {
			c.Log.Error("listening for changes", "error", err)
		}
		select {
		case <-ctx.Done():
		case <-time.After(time.Second):
		}
	}
}

func (c *Changes) follow(ctx context.Context) error {
	pg, err := pgx.Connect(ctx, c.DB.Address()) // of its own, for it is held all the time
	if err != nil {
		return fmt.Errorf("connecting: %w", err)
	}
	defer func() { _ = pg.Close(context.WithoutCancel(ctx)) }()
	if _, err := pg.Exec(ctx, "LISTEN plainpath_changes"); err != nil {
		return fmt.Errorf("listening: %w", err)
	}
	if c.began.Swap(true) {
		c.tell(ChangedObject{}) // what happened meanwhile is not known
	}
	c.listening.Store(true)
	defer c.listening.Store(false)
	for {
		n, err := pg.WaitForNotification(ctx)
		if err != nil {
			return fmt.Errorf("waiting for changes: %w", err)
		}
		var what ChangedObject
		if err := json.Unmarshal([]byte(n.Payload), &what); err != nil {
			return fmt.Errorf("reading a change: %w", err)
		}
		c.tell(what)
	}
}

func (c *Changes) tell(what ChangedObject) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for ch := range c.to {
		select {
		case ch <- what:
		default: // it is behind; the oldest gives way to the news that some were missed
			select {
			case <-ch:
			default:
			}
			select {
			case ch <- ChangedObject{}:
			default:
			}
		}
	}
}

// Tells is what somebody is told of changes.
type Tells struct {
	// Of says what they are told of one, if anything.
	Of func(context.Context, ChangedObject) (Told, bool)
	// Rights differ where something else may be told.
	Rights string
}

// Tells says what somebody is told of changes in their space.
func (t *Tables) Tells(ctx context.Context, p postgres.Caller) (Tells, error) {
	w, err := t.Repositories.Where(ctx, p)
	if err != nil {
		return Tells{}, err
	}
	d := repository.New(t.Repositories.DB, w)
	out := Tells{Rights: fmt.Sprintf("%p %q", w.Edition, w.Person.Roles)}
	if w.Person.Organisation != nil {
		out.Rights += fmt.Sprint(" ", w.Person.Organisation.ID)
	}
	out.Of = func(ctx context.Context, c ChangedObject) (Told, bool) {
		if c.Object == "" {
			return Told{}, true
		}
		if c.Schema != w.Schema || w.Edition.Model.Object(c.Object) == nil {
			return Told{}, false
		}
		g, err := d.Grant(c.Object)
		if err != nil || !g.MaySee() {
			return Told{}, false
		}
		out := Told{Object: c.Object, Keys: c.Keys, Tab: c.Tab}
		if g.Unlimited() {
			return out, true
		}
		if len(c.Keys) == 0 { // so many that they are not named
			concerned, err := seesAny(ctx, d, c)
			return out, concerned || err != nil
		}
		if out.Keys, err = seen(ctx, d, c); err != nil {
			return Told{}, true // whoever shows something reads it again, under the rights that hold
		}
		return out, len(out.Keys) > 0
	}
	return out, nil
}

// seen are those of changed records that somebody may see, or could before.
func seen(ctx context.Context, d *repository.Repository, c ChangedObject) ([]int64, error) {
	ctx, done := context.WithTimeout(ctx, 5*time.Second)
	defer done()
	var out []int64
	for _, before := range []*query.Changes{nil, {First: c.First, Last: c.Last}} {
		found, err := records.Select(ctx, d, query.Query{Object: c.Object, Where: predicate.Keys(c.Keys),
			Before: before})
		if err != nil {
			return nil, err
		}
		for _, r := range found {
			if !slices.Contains(out, r.ID) {
				out = append(out, r.ID)
			}
		}
	}
	return out, nil
}

// seesAny says whether somebody may see any of very many changed records, or could before.
func seesAny(ctx context.Context, d *repository.Repository, c ChangedObject) (bool, error) {
	ctx, done := context.WithTimeout(ctx, 5*time.Second)
	defer done()
	changes := &query.Changes{First: c.First, Last: c.Last}
	for _, q := range []query.Query{{Changed: changes}, {Before: changes}} {
		q.Object, q.Limit = c.Object, 1
		found, err := records.Select(ctx, d, q)
		if err != nil || len(found) > 0 {
			return len(found) > 0, err
		}
	}
	return false, nil
}

// Concerns says whether a change has to do with what somebody shows of a table.
func (t *Tables) Concerns(ctx context.Context, p postgres.Caller, at TableAt, look table.Look,
	change table.Touched) (bool, error) {
	var out bool
	err := t.At(ctx, p, at, func(found ShownTable) error {
		var err error
		out, err = found.List.Concerns(ctx, found, look, change)
		return err
	})
	return out, err
}
