package store

import (
	"context"
	"fmt"
	"log/slog"
	"strings"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"
)

// ChangedObject says that records of an object changed, or with no object that something
// may have been missed.
type ChangedObject struct{ Schema, Object string }

// Changes tells of records that change, whoever changes them and on whatever server. It
// listens to the database as long as somebody wants to know.
type Changes struct {
	DB  *DB
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
	pg, err := pgx.Connect(ctx, c.DB.address) // of its own, for it is held all the time
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
		schema, object, _ := strings.Cut(n.Payload, ".")
		c.tell(ChangedObject{schema, object})
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

// Sees says whether somebody may know that records of an object of their space changed.
func (t *Tables) Sees(ctx context.Context, p Place) (func(ChangedObject) bool, error) {
	w, err := t.Desks.where(ctx, p)
	if err != nil {
		return nil, err
	}
	space := newDesk(t.Desks.DB.DB, w).Space()
	return func(c ChangedObject) bool {
		if c.Object == "" {
			return true
		}
		if c.Schema != w.Schema || w.Edition.Model.Object(c.Object) == nil {
			return false
		}
		g, err := space.Grant(c.Object)
		return err == nil && g.MaySee()
	}, nil
}
