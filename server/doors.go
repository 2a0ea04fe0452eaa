package server

import (
	"context"
	"errors"
	"time"

	"plainpath/postgres"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"golang.org/x/sync/semaphore"
)

// doing is what requests of a route do to what is stored.
type doing int

const (
	// looks is for what writes nothing, or tries something and takes it back. It goes over
	// connections that cannot write.
	looks doing = iota
	// changes is for what may write.
	changes
	// rewrites is for changes of the model, which may write very many records anew.
	rewrites
	// streams is for what only looks and is sent bit by bit. It sees to its time itself.
	streams
	// sends is for files that are made while they are sent, and keep how far that is.
	sends
)

// doors are routes below an address that the same people may take: whoever all of lets let in.
type doors struct {
	in   fiber.Router
	s    *server
	at   string
	lets []any
}

func (d doors) under(address string) doors {
	return doors{d.in.Group(address), d.s, d.at + address, d.lets}
}

func (d doors) add(method, path string, does doing, r route) {
	d.s.operations = append(d.s.operations, operation{r, method, d.at + path})
	chain := []any{d.s.crowded(does), d.s.limited(does)}
	if does < streams {
		chain = append(chain, compress.New()) // which would wait for the end of a stream
	}
	chain = append(append(chain, d.lets...), r.handler)
	d.in.Add([]string{method}, path, marked(does), chain...)
}

// get looks, as everything does that is asked for with GET.
func (d doors) get(path string, r route) { d.add(fiber.MethodGet, path, looks, r) }

// ask looks too, with so much to say that it is sent like a change.
func (d doors) ask(path string, r route) { d.add(fiber.MethodPost, path, looks, r) }

// rewrite may write very many records.
func (d doors) rewrite(method, path string, r route) {
	d.add(method, path, rewrites, r)
}

func (d doors) stream(path string, r route) {
	d.add(fiber.MethodGet, path, streams, r)
}

func (d doors) post(path string, r route) {
	d.add(fiber.MethodPost, path, changes, r)
}

func (d doors) put(path string, r route) {
	d.add(fiber.MethodPut, path, changes, r)
}

func (d doors) patch(path string, r route) {
	d.add(fiber.MethodPatch, path, changes, r)
}

func (d doors) remove(path string, r route) {
	d.add(fiber.MethodDelete, path, changes, r)
}

const doesKey = "does"

func marked(does doing) fiber.Handler {
	return func(c fiber.Ctx) error {
		c.Locals(doesKey, does)
		return c.Next()
	}
}

// onlyLooks says whether the request is at a door where nothing is changed.
func onlyLooks(c fiber.Ctx) bool {
	does, ok := c.Locals(doesKey).(doing)
	return ok && (does == looks || does == streams)
}

var errCrowded = errors.New("too many requests at once")

// crowd bounds how many requests are at work at once, to what there are connections for. More wait
// for their turn, in order.
type crowd struct {
	turns    *semaphore.Weighted
	patience time.Duration
}

func newCrowd(most int, patience time.Duration) *crowd {
	return &crowd{semaphore.NewWeighted(int64(most)), patience}
}

func (w *crowd) enter(ctx context.Context) error {
	ctx, done := context.WithTimeout(ctx, w.patience)
	defer done()
	if err := w.turns.Acquire(ctx, 1); err != nil {
		return errCrowded
	}
	return nil
}

func (w *crowd) leave() { w.turns.Release(1) }

// crowded lets a request in when it is its turn.
func (s *server) crowded(does doing) fiber.Handler {
	of := s.crowds[does]
	return func(c fiber.Ctx) error {
		if of == nil {
			return c.Next()
		}
		if err := of.enter(c.Context()); err != nil {
			return err
		}
		defer of.leave()
		return c.Next()
	}
}

// limited ends what a request set going when its time is over, or when nobody waits for it any
// more.
func (s *server) limited(does doing) fiber.Handler {
	most := map[doing]time.Duration{looks: s.Limits.Reading, changes: s.Limits.Writing,
		rewrites: max(s.Limits.Writing, rewriting)}[does]
	return func(c fiber.Ctx) error {
		ctx := c.Context()
		defer c.SetContext(ctx) // for whoever goes through once more
		if does == looks || does == streams {
			ctx = postgres.Reading(ctx)
		}
		if most > 0 {
			var done context.CancelFunc
			ctx, done = context.WithTimeout(ctx, most)
			defer done()
			if does == looks { // a change goes on, for whoever sends it again wants to know what came of it
				defer whileThere(c.RequestCtx().Conn(), done)()
			}
		}
		c.SetContext(ctx)
		return c.Next()
	}
}
