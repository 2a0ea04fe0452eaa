package server

import (
	"time"

	"plainpath/postgres/runs"

	"github.com/gofiber/fiber/v3"
)

// Limits are how long requests may take, in the database as well. Nought stands for what is
// usual.
type Limits struct {
	// Reading is for what only looks, Writing for everything else.
	Reading, Writing time.Duration
	// SlowReader is how long a piece of a file may take until it is read.
	SlowReader time.Duration
	// Waiting is how long a request may wait for its turn when very many come at once.
	Waiting time.Duration
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
	if l.Waiting == 0 {
		l.Waiting = 5 * time.Second
	}
	return l
}

// current carries a request out once more when a release has changed the tables under it.
func current(c fiber.Ctx) error {
	const once = "once more"
	err := c.Next()
	if err == nil || !runs.TablesChanged(err) || c.Locals(once) != nil {
		return err
	}
	c.Locals(once, true)
	return c.RestartRouting()
}

// rewriting is how long a change of the model may take, which may write very many records anew.
const rewriting = time.Hour
