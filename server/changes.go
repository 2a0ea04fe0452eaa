package server

import (
	"bufio"
	"context"
	"fmt"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"
)

// stillThere is after how long without a change a line is sent all the same, so that a
// connection that is gone is noticed.
const stillThere = 20 * time.Second

// streams says whether a request is answered bit by bit, changes as they come or a file as it
// is made. Compressing would wait for the end of it.
func streams(c fiber.Ctx) bool {
	return strings.HasSuffix(c.Path(), "/changes") || strings.Contains(c.Path(), "/outgoing/") && strings.HasSuffix(c.Path(), "/file")
}

// sendChanges tells of changes as server-sent events: the key of the object whose records
// changed, or nothing when some may have been missed.
func (s *server) sendChanges(c fiber.Ctx) error {
	sees, err := s.tables.Sees(c.Context(), s.seat(c))
	if err != nil {
		return err
	}
	changes, leave := s.changes.Listen()
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set(fiber.HeaderConnection, "keep-alive")
	c.Set("X-Accel-Buffering", "no")
	ctx, done := context.WithTimeout(s.running, time.Hour)
	return c.SendStreamWriter(func(w *bufio.Writer) {
		defer done()
		defer leave()
		beat := time.NewTicker(stillThere)
		defer beat.Stop()
		_, _ = fmt.Fprint(w, ": listening\n\n")
		for w.Flush() == nil {
			select {
			case <-ctx.Done():
				return
			case <-beat.C:
				_, _ = fmt.Fprint(w, ": still there\n\n")
			case what := <-changes:
				if sees(what) {
					_, _ = fmt.Fprintf(w, "data: %s\n\n", what.Object)
				}
			}
		}
	})
}
