package server

import (
	"github.com/gofiber/fiber/v3"

	"plainpath/postgres/notices"
)

type readRequest struct {
	// Upto is the latest notice that was read.
	Upto int64 `json:"upto"`
}

func (s *server) notices(c fiber.Ctx) (notices.Notices, error) {
	return notices.Of(c.Context(), s.DB, s.production(c))
}

func (s *server) readNotices(c fiber.Ctx, in readRequest) (notices.Notices, error) {
	if err := notices.Read(c.Context(), s.DB, s.production(c), in.Upto); err != nil {
		return notices.Notices{}, err
	}
	return notices.Of(c.Context(), s.DB, s.production(c))
}
