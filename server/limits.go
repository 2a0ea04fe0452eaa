package server

import (
	"context"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"plainpath/store"
)

// Limits are how long requests may take, in the database as well. Nought stands for what is
// usual.
type Limits struct {
	// Reading is for what only looks, Writing for everything else.
	Reading, Writing time.Duration
	// SlowReader is how long a piece of a file may take until it is read.
	SlowReader time.Duration
}

func (l Limits) withDefaults() Limits {
	if l.Reading == 0 {
		l.Reading = 15 * time.Second
	}
	if l.Writing == 0 {
		l.Writing = 2 * time.Minute
	}
	if l.SlowReader == 0 {
		l.SlowReader = time.Minute
	}
	return l
}

// current carries a request out once more when a release has changed the tables under it.
func current(c fiber.Ctx) error {
	const once = "once more"
	err := c.Next()
	if err == nil || !store.TablesChanged(err) || c.Locals(once) != nil {
		return err
	}
	c.Locals(once, true)
	return c.RestartRouting()
}

// rewriting is how long a change of the model may take, which may write very many records anew.
const rewriting = time.Hour

func rewrites(path string) bool {
	return strings.HasPrefix(path, "/api/build/documents/") || strings.HasPrefix(path, "/api/build/fields/") || path == "/api/build/release"
}

// limited ends what a request set going when its time is over. What is streamed sees to that
// itself.
func (s *server) limited(c fiber.Ctx) error {
	if streams(c) {
		return c.Next()
	}
	most := s.Limits.Writing
	if c.Method() == fiber.MethodGet || c.Method() == fiber.MethodPost && onlyReads(c.Path()) {
		most = s.Limits.Reading
	} else if rewrites(c.Path()) {
		most = max(most, rewriting)
	}
	ctx, done := context.WithTimeout(c.Context(), most)
	defer done()
	c.SetContext(ctx)
	return c.Next()
}
