package server

import (
	"github.com/gofiber/fiber/v3"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres/tables"
)

type formRequest struct {
	// At is the page or screen, with the part that is the form.
	At tables.TableAt `json:"at"`
}

type saveFormRequest struct {
	At tables.TableAt `json:"at"`
	// Record is the one that was before the person, nought for one to be added.
	Record int64 `json:"record"`
	records.Saving
}

type formEditingRequest struct {
	At      tables.TableAt     `json:"at"`
	Editing tables.FormEditing `json:"editing"`
	// Field is the reference whose records are looked for, by Text.
	Field string `json:"field,omitempty"`
	Text  string `json:"text,omitempty"`
}

func (s *server) form(c fiber.Ctx, in formRequest) (records.FormView, error) {
	return s.tables.Form(c.Context(), s.seat(c), in.At)
}

func (s *server) saveForm(c fiber.Ctx, in saveFormRequest) (tables.FormSaved, error) {
	return s.tables.SaveForm(c.Context(), s.own(c), in.At, in.Record, in.Saving)
}

func (s *server) fitForm(c fiber.Ctx, in formEditingRequest) ([]model.Problem, error) {
	return s.tables.FitForm(c.Context(), s.seat(c), in.At, in.Editing)
}

func (s *server) formOptions(c fiber.Ctx, in formEditingRequest) ([]value.Ref, error) {
	refs, err := s.tables.FormOptions(c.Context(), s.seat(c), in.At, in.Field, in.Editing, in.Text)
	if err != nil {
		return nil, err
	}
	return notNil(refs), nil
}
