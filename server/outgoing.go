package server

import (
	"bufio"
	"context"
	"mime"
	"time"

	"plainpath/postgres/exports"

	"github.com/gofiber/fiber/v3"
)

// outFor is how long a table may take to be sent.
const outFor = time.Hour

// watched is a writer that does not wait for ever until what it writes is read.
type watched struct {
	to       *bufio.Writer
	patience time.Duration
	over     func()
}

func (w *watched) Write(p []byte) (int, error) {
	timer := time.AfterFunc(w.patience, w.over)
	defer timer.Stop()
	return w.to.Write(p)
}

// Flush sends what is held.
func (w *watched) Flush() error {
	timer := time.AfterFunc(w.patience, w.over)
	defer timer.Stop()
	return w.to.Flush()
}

// watch gives what writes an answer, until it is written or whoever reads it reads nothing for long
// and gives way to others.
func (s *server) watch(c fiber.Ctx, done func(), write func(*watched)) func(*bufio.Writer) {
	reader := c.RequestCtx().Conn()
	return func(w *bufio.Writer) {
		defer done()
		write(&watched{to: w, patience: s.Limits.SlowReader, over: func() {
			done()
			_ = reader.Close()
		}})
	}
}

func (s *server) askOut(c fiber.Ctx, in exports.OutAsk) (exports.OutView, error) {
	out, err := exports.AskOut(c.Context(), s.tables, s.seat(c), in)
	if err != nil {
		return exports.OutView{}, err
	}
	c.Status(fiber.StatusCreated)
	return out, nil
}

func (s *server) outgoing(c fiber.Ctx) (exports.OutView, error) {
	return exports.Outgoing(c.Context(), s.tables, s.seat(c), c.Params("id"))
}

func (s *server) sendOut(c fiber.Ctx) error {
	// The table is read while the answer is being sent, when this request is over already.
	ctx, done := context.WithTimeout(context.WithoutCancel(c.Context()), outFor)
	ask, write, err := exports.OpenOut(ctx, s.tables, s.seat(c), c.Params("id"))
	if err != nil {
		done()
		return err
	}
	kind := "text/csv; charset=utf-8"
	if ask.Format == "xlsx" {
		kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
	}
	c.Set(fiber.HeaderContentType, kind)
	c.Set(fiber.HeaderContentDisposition,
		mime.FormatMediaType("attachment", map[string]string{"filename": ask.FileName()}))
	return c.SendStreamWriter(s.watch(c, done, func(w *watched) {
		if err := write(ctx, w); err != nil {
			s.Log.Error("sending a table", "file", ask.FileName(), "error", err)
		}
	}))
}
