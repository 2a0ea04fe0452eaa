package server

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/gofiber/fiber/v3"

	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/tables"
)

// stillThere is after how long without a change a line is sent all the same, so that a
// connection that is gone is noticed.
const stillThere = 20 * time.Second

// rightsHold is for how long it is taken that somebody may see what they could see before.
const rightsHold = time.Second

// telling is what somebody is told as long as they are signed in, by the rights that they have at
// the time.
type telling struct {
	s     *server
	token string
	seat  postgres.Caller
	tells tables.Tells
	since time.Time
}

// errRightsChanged ends what was told under other rights: whoever shows something asks anew.
var errRightsChanged = errors.New("the rights have changed")

// renew asks for the rights anew, unless that was done just now. The error says that they are not
// signed in any more, or that their rights have changed.
func (t *telling) renew(ctx context.Context) error {
	if time.Since(t.since) < rightsHold {
		return nil
	}
	session, err := accounts.SessionOf(ctx, t.s.DB, t.token)
	if err != nil {
		return err
	}
	if session.ID != t.seat.Person && !session.Builder {
		return errRightsChanged
	}
	now, err := t.s.tables.Tells(ctx, t.seat)
	if err != nil {
		return err
	}
	if t.tells.Rights != "" && now.Rights != t.tells.Rights {
		return errRightsChanged
	}
	t.tells, t.since = now, time.Now()
	return nil
}

// sendChanges tells of changes as server-sent events, each a tables.Told.
func (s *server) sendChanges(c fiber.Ctx) error {
	told := &telling{s: s, token: c.Cookies(cookieName), seat: s.seat(c)}
	if err := told.renew(c.Context()); err != nil {
		return err
	}
	changes, leave := s.changes.Listen()
	c.Set(fiber.HeaderContentType, "text/event-stream")
	c.Set(fiber.HeaderConnection, "keep-alive")
	c.Set("X-Accel-Buffering", "no")
	ctx, done := context.WithTimeout(postgres.Reading(s.running), time.Hour)
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
				if told.renew(ctx) != nil {
					return
				}
				_, _ = fmt.Fprint(w, ": still there\n\n")
			case what := <-changes:
				if told.renew(ctx) != nil {
					return
				}
				news, any := told.tells.Of(ctx, what)
				raw, err := json.Marshal(news)
				if err != nil {
					s.Log.Error("telling a change", "error", err)
				} else if any {
					_, _ = fmt.Fprintf(w, "data: %s\n\n", raw)
				}
			}
		}
	})
}
