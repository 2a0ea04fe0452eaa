package server

import (
	"bufio"
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/gofiber/fiber/v3"
)

// stillThere is after how long without a change a line is sent all the same, so that a
// connection that is gone is noticed.
const stillThere = 20 * time.Second

// sendChanges tells of changes as server-sent events, each a store.Told.
func (s *server) sendChanges(c fiber.Ctx) error {
	tells, err := s.tables.Tells(c.Context(), s.seat(c))
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
				told, any := tells(ctx, what)
				raw, err := json.Marshal(told)
				if err != nil {
					s.Log.Error("telling a change", "error", err)
				} else if any {
					_, _ = fmt.Fprintf(w, "data: %s\n\n", raw)
				}
			}
		}
	})
}
