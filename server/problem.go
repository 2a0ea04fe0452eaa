package server

import (
	"context"
	"encoding/json"
	"errors"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/requestid"

	"plainpath/core/access"
	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/model"
	"plainpath/core/page"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/walk"
	"plainpath/postgres"
	"plainpath/postgres/accounts"
	"plainpath/postgres/documents"
	"plainpath/postgres/runs"
	"plainpath/postgres/schema"
)

// problemType is the media type of problem details (RFC 9457).
const problemType = "application/problem+json"

// Problem is an error as it is sent, after RFC 9457.
type Problem struct {
	// Type tells kinds of problems apart, as a relative reference.
	Type   string `json:"type"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	// ID is that of the request, under which the log says more.
	ID string `json:"id,omitempty"`
	// Problems point at the parts of a form or the places of a definition.
	Problems []model.Problem      `json:"problems,omitempty"`
	Findings []definition.Finding `json:"findings,omitempty"`
	Clash    *Clash               `json:"clash,omitempty"`
	// Obstacles are stored records that stand in the way of a change of the model.
	Obstacles []schema.Obstacle `json:"obstacles,omitempty"`
}

// Clash is a value that two people changed at once.
type Clash struct {
	Pointer string          `json:"pointer"`
	Theirs  json.RawMessage `json:"theirs,omitempty"`
	Ours    json.RawMessage `json:"ours,omitempty"`
}

// clientLeft is how the log tells answers that nobody waited for; none is sent.
const clientLeft = 499

// problem sends any error as a problem. What nobody foresaw is logged and not told.
func (s *server) problem(c fiber.Ctx, err error) error {
	p := describe(err)
	p.ID = requestid.FromContext(c)
	if p.Status == fiber.StatusInternalServerError {
		s.Log.Error("request failed", "request", p.ID, "method", c.Method(), "path", c.Path(), "error", err)
	}
	if p.Status == fiber.StatusServiceUnavailable || p.Status == fiber.StatusTooManyRequests {
		c.Set(fiber.HeaderRetryAfter, "2")
	}
	c.Status(p.Status)
	return c.JSON(p, problemType)
}

func describe(err error) Problem {
	var (
		invalid  *walk.InvalidError
		moved    *walk.MovedError
		write    *act.RefusedError
		blocked  *definition.BlockedError
		conflict *runs.ConflictError
		stuck    *runs.StuckError
		clash    *edit.ClashError
		many     *edit.TooManyError
		rejected *postgres.RejectedError
		findings *documents.FindingsError
		record   *records.ProblemsError
		theirs   *records.MeanwhileError
		obstacle *schema.ObstacleError
		denied   *access.DeniedError
		noPart   *table.MissingError
		off      *act.NotOfferedError
		unopened *page.NotOpenedError
		look     *query.LookError
		http     *fiber.Error
		unknown  *postgres.UnknownError
		files    *filesError
		unread   *definition.UnreadableError
	)
	switch {
	case errors.As(err, &invalid):
		return Problem{Type: "invalid", Title: invalid.Error(), Status: 422, Problems: invalid.Problems}
	case errors.As(err, &moved):
		return Problem{Type: "moved", Title: moved.Error(), Status: 409}
	case errors.As(err, &conflict):
		return Problem{Type: "moved", Title: conflict.Error(), Status: 409}
	case errors.As(err, &stuck):
		return Problem{Type: "stuck", Title: stuck.Error(), Status: 409}
	case errors.As(err, &write):
		return Problem{Type: "not-written", Title: write.Text, Status: 422}
	case errors.As(err, &record):
		return Problem{Type: "invalid", Title: record.Error(), Status: 422, Problems: record.Problems}
	case errors.As(err, &theirs):
		return Problem{Type: "meanwhile", Title: theirs.Error(), Status: 409,
			Clash: &Clash{"/" + theirs.Field.Key, theirs.Theirs, theirs.Ours}}
	case errors.As(err, &blocked):
		return Problem{Type: "findings", Title: blocked.Error(), Status: 422, Findings: blocked.Findings}
	case errors.As(err, &unread):
		return Problem{Type: "unreadable", Title: "This version of the program cannot read the document " +
			unread.Document + ": " + unread.Cause.Error() + ". Everything else waits for that.", Status: 422}
	case errors.As(err, &files):
		return files.problem()
	case errors.As(err, &many):
		return Problem{Type: "rejected", Title: many.Error(), Status: 422}
	case errors.As(err, &clash):
		return Problem{Type: "clash", Title: clash.Error(), Status: 409, Clash: &Clash{clash.Pointer, clash.Theirs,
			clash.Ours}}
	case errors.As(err, &rejected):
		return Problem{Type: "rejected", Title: rejected.Text, Status: 422}
	case errors.As(err, &findings):
		return Problem{Type: "findings", Title: findings.Error(), Status: 422, Findings: findings.Findings}
	case errors.As(err, &obstacle):
		return Problem{Type: "obstacles", Title: "Stored records stand in the way, so nothing was changed.",
			Status: 422, Obstacles: obstacle.Obstacles}
	case errors.As(err, &denied):
		return Problem{Type: "denied", Title: denied.Error(), Status: 403}
	case errors.As(err, &look):
		return Problem{Type: "look", Title: look.Text, Status: 400}
	case errors.As(err, &unopened):
		return Problem{Type: "invalid", Title: unopened.Error(), Status: 422, Problems: unopened.Problems}
	case errors.As(err, &off):
		return Problem{Type: "not-offered", Title: off.Text, Status: 422}
	case errors.As(err, &noPart):
		return Problem{Type: "not-found", Title: noPart.Error(), Status: 404}
	case errors.As(err, &unknown):
		return Problem{Type: "unknown",
			Title: "The database was lost at the very end, so it is not known whether this was written. Look before you do it again; what is sent again by itself counts once.", Status: 503}
	case postgres.Away(err):
		return Problem{Type: "away",
			Title: "The database cannot be reached just now, so nothing was written. It is tried again; what you entered is still here.", Status: 503}
	case postgres.TookTooLong(err):
		return Problem{Type: "too-long",
			Title: "This took too long, so it was stopped and nothing was written. It may go faster with fewer conditions, without those on related records, without orders by what is worked out from other records, or by asking for less at once.", Status: 504}
	case postgres.TooMuch(err):
		return Problem{Type: "too-large",
			Title: "A number or a text would become too large while it is computed, so this was stopped and nothing was written. Make the expression give less.", Status: 422}
	case errors.Is(err, postgres.ErrNotFound):
		return Problem{Type: "not-found", Title: "This is not here, or not for you.", Status: 404}
	case errors.Is(err, accounts.ErrNoSession):
		return Problem{Type: "signed-out",
			Title: "You are not signed in, or no longer. Sign in to go on; what you entered is kept.", Status: 401}
	case errors.Is(err, errNotSetUp):
		return Problem{Type: "not-set-up",
			Title:  "Nothing is set up here yet. Open the address that the program printed when it started.",
			Status: 409}
	case errors.Is(err, errCrowded):
		return Problem{Type: "crowded",
			Title: "Very many people are at work just now, so this was not begun. Try again in a moment.", Status: 503}
	case errors.Is(err, errOtherSession):
		return Problem{Type: "other-session",
			Title:  "This request did not come from the application's own page. Reload the page and try again.",
			Status: 403}
	case errors.Is(err, accounts.ErrWrongPassword):
		return Problem{Type: "wrong-password", Title: "The e-mail address and the password do not belong together.",
			Status: 401}
	case errors.Is(err, accounts.ErrBadLink):
		return Problem{Type: "bad-link", Title: "This link does not hold, or no longer. Ask for a new one.",
			Status: 410}
	case errors.Is(err, postgres.ErrBusy):
		return Problem{Type: "busy", Title: "Many people sign in just now. Try again in a moment.", Status: 429}
	case errors.Is(err, accounts.ErrTooManyAttempts):
		return Problem{Type: "too-many",
			Title: "There were too many attempts. Wait ten minutes and try again, in a browser you have signed in with before, or ask an administrator for a link to choose a new password.", Status: 429}
	case errors.Is(err, context.Canceled):
		return Problem{Type: "left", Title: "Nobody waited for this any longer, so it was stopped.", Status: clientLeft}
	case errors.As(err, &http):
		return Problem{Type: "http", Title: http.Message, Status: http.Code}
	}
	return Problem{Type: "internal",
		Title: "Something went wrong here, not with you. Nothing was written. Please try again.", Status: 500}
}

// read reads the body of a request and refuses members it does not know.
func read(c fiber.Ctx, into any) error {
	if !definition.Storable(c.Body()) {
		return errUnstorable
	}
	if err := strict(c.Body(), into); err != nil {
		return fiber.NewError(fiber.StatusBadRequest, "The request cannot be read: "+err.Error())
	}
	return nil
}
