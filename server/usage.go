package server

import (
	"github.com/gofiber/fiber/v3"

	"plainpath/postgres/drafts"

	"plainpath/core/definition"
)

// UsesView is what uses a field or a document: what would happen, place by place, if it
// were taken away.
type UsesView struct {
	Uses []definition.Finding `json:"uses"`
}

type renameRequest struct {
	Key string `json:"key"`
}

type renameInRequest struct {
	// Pointer is to what gets the key, within the document; From is the key it had there.
	Pointer string `json:"pointer"`
	From    string `json:"from"`
	Key     string `json:"key"`
}

// RenamedView is the documents in which a new key was followed.
type RenamedView struct {
	Documents []string `json:"documents"`
}

func (s *server) fieldUses(c fiber.Ctx) (UsesView, error) {
	uses, err := drafts.UsesOfField(c.Context(), s.DB, s.app(), c.Params("object"), c.Params("field"))
	if err != nil {
		return UsesView{}, fiber.NewError(fiber.StatusNotFound, "There is no such field in the draft.")
	}
	return UsesView{uses}, nil
}

func (s *server) choiceUses(c fiber.Ctx) (UsesView, error) {
	uses, err := drafts.UsesOfChoice(c.Context(), s.DB, s.app(), c.Params("object"), c.Params("field"),
		c.Params("choice"))
	if err != nil {
		return UsesView{}, fiber.NewError(fiber.StatusNotFound, "There is no such value in the draft.")
	}
	return UsesView{uses}, nil
}

func (s *server) documentUses(c fiber.Ctx) (UsesView, error) {
	kind, key := s.place(c)
	if pointer := c.Query("pointer"); pointer != "" {
		uses, err := drafts.UsesOfPart(c.Context(), s.DB, s.app(), kind, key, pointer)
		if err != nil {
			return UsesView{}, fiber.NewError(fiber.StatusNotFound, "There is no such thing in the draft any more.")
		}
		return UsesView{uses}, nil
	}
	uses, err := drafts.UsesOfDocument(c.Context(), s.DB, s.app(), kind, key)
	if err != nil {
		return UsesView{}, fiber.NewError(fiber.StatusNotFound, "There is no such document in the draft.")
	}
	return UsesView{uses}, nil
}

// followed is the documents in which a new key was followed.
func followed(documents []string, err error) (RenamedView, error) { return RenamedView{documents}, err }

func (s *server) renameField(c fiber.Ctx, in renameRequest) (RenamedView, error) {
	return followed(drafts.RenameField(c.Context(), s.DB, s.app(), c.Params("object"), c.Params("field"), in.Key,
		who(c).ID))
}

func (s *server) renameChoice(c fiber.Ctx, in renameRequest) (RenamedView, error) {
	return followed(drafts.RenameChoice(c.Context(), s.DB, s.app(), c.Params("object"), c.Params("field"),
		c.Params("choice"), in.Key, who(c).ID))
}

func (s *server) renameObject(c fiber.Ctx, in renameRequest) (RenamedView, error) {
	return followed(drafts.RenameObject(c.Context(), s.DB, s.app(), c.Params("object"), in.Key, who(c).ID))
}

func (s *server) renameIn(c fiber.Ctx, in renameInRequest) (RenamedView, error) {
	kind, key := s.place(c)
	return followed(drafts.RenameIn(c.Context(), s.DB, s.app(), kind, key, in.Pointer, in.From, in.Key, who(c).ID))
}

func (s *server) removeDocument(c fiber.Ctx) error {
	kind, key := s.place(c)
	return drafts.RemoveDocument(c.Context(), s.DB, s.app(), kind, key, who(c).ID)
}

func (s *server) restoreDocument(c fiber.Ctx) (DocumentView, error) {
	kind, key := s.place(c)
	if err := drafts.RestoreDocument(c.Context(), s.DB, s.app(), kind, key, who(c).ID); err != nil {
		return DocumentView{}, err
	}
	return s.document(c)
}
