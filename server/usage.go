package server

import (
	"github.com/gofiber/fiber/v3"

	"plainpath/core/checkup"
)

// UsesView is what uses a field: what would happen, place by place, if it were taken away.
type UsesView struct {
	Uses []checkup.Finding `json:"uses"`
}

type renameRequest struct {
	Key string `json:"key"`
}

// RenamedView is the documents in which a new key was followed.
type RenamedView struct {
	Documents []string `json:"documents"`
}

func (s *server) fieldUses(c fiber.Ctx) error {
	uses, err := s.DB.UsesOfField(c.Context(), s.App, c.Params("object"), c.Params("field"))
	if err != nil {
		return fiber.NewError(fiber.StatusNotFound, "There is no such field in the draft.")
	}
	return c.JSON(UsesView{uses})
}

func (s *server) renameField(c fiber.Ctx) error {
	var in renameRequest
	if err := read(c, &in); err != nil {
		return err
	}
	documents, err := s.DB.RenameField(c.Context(), s.App, c.Params("object"), c.Params("field"), in.Key, who(c).ID)
	if err != nil {
		return err
	}
	return c.JSON(RenamedView{documents})
}
