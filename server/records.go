package server

import (
	"strconv"

	"plainpath/postgres"
	"plainpath/postgres/desks"

	"plainpath/core/records"

	"github.com/gofiber/fiber/v3"
)

type optionsRequest struct {
	Editing desks.Editing `json:"editing"`
	Text    string        `json:"text,omitempty"`
}

// at is the person at work in the space of the request, trial when it names none.
func (s *server) at(c fiber.Ctx) postgres.Place {
	space := c.Params("space")
	if space == "" {
		space = postgres.Trial
	}
	return postgres.Place{App: s.app(), Space: space, Person: who(c).ID}
}

// number is a whole number in the address; what is none leads nowhere.
func number(c fiber.Ctx, name string) (int, error) {
	n, err := strconv.Atoi(c.Params(name))
	if err != nil || n < 0 {
		return 0, postgres.ErrNotFound
	}
	return n, nil
}

func recordID(c fiber.Ctx) (int64, error) {
	n, err := number(c, "id")
	return int64(n), err
}

func (s *server) recordForm(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	place, object := s.at(c), c.Params("object")
	form, err := s.desks.Form(c.Context(), place, object, id)
	if err != nil {
		return err
	}
	return c.JSON(form)
}

func (s *server) addRecord(c fiber.Ctx) error {
	var in records.Saving
	if err := read(c, &in); err != nil {
		return err
	}
	place, object := s.at(c), c.Params("object")
	form, err := s.desks.Save(c.Context(), place, object, 0, in)
	if err != nil {
		return err
	}
	return c.Status(fiber.StatusCreated).JSON(form)
}

func (s *server) changeRecord(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil || id == 0 {
		return postgres.ErrNotFound
	}
	var in records.Saving
	if err := read(c, &in); err != nil {
		return err
	}
	place, object := s.at(c), c.Params("object")
	form, err := s.desks.Save(c.Context(), place, object, id, in)
	if err != nil {
		return err
	}
	return c.JSON(form)
}

func (s *server) removeRecord(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	place, object := s.at(c), c.Params("object")
	if err := s.desks.Remove(c.Context(), place, object, id); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) recordFit(c fiber.Ctx) error {
	var in desks.Editing
	if err := read(c, &in); err != nil {
		return err
	}
	place, object := s.at(c), c.Params("object")
	problems, err := s.desks.Fit(c.Context(), place, object, in)
	if err != nil {
		return err
	}
	return c.JSON(problems)
}

func (s *server) recordOptions(c fiber.Ctx) error {
	var in optionsRequest
	if err := read(c, &in); err != nil {
		return err
	}
	place, object := s.at(c), c.Params("object")
	refs, err := s.desks.Options(c.Context(), place, object, c.Params("field"), in.Editing, in.Text)
	if err != nil {
		return err
	}
	return c.JSON(notNil(refs))
}

func (s *server) tryCandidates(c fiber.Ctx) error {
	var in desks.CandidateQuestion
	if err := read(c, &in); err != nil {
		return err
	}
	place, object := s.at(c), c.Params("object")
	view, err := s.desks.Candidates(c.Context(), place, object, in)
	if err != nil {
		return err
	}
	return c.JSON(view)
}

func (s *server) profile(c fiber.Ctx) error {
	place, object := s.at(c), c.Params("object")
	view, err := s.desks.Profile(c.Context(), place, object, c.Query("fresh") != "")
	if err != nil {
		return err
	}
	return c.JSON(view)
}

func (s *server) evaluate(c fiber.Ctx) error {
	var in desks.EvaluateQuestion
	if err := read(c, &in); err != nil {
		return err
	}
	place, object := s.at(c), c.Params("object")
	view, err := s.desks.Evaluate(c.Context(), place, object, in)
	if err != nil {
		return err
	}
	return c.JSON(view)
}

// MendedView is how many records were given a value.
type MendedView struct {
	Mended int64 `json:"mended"`
}

func (s *server) mend(c fiber.Ctx) error {
	var in desks.Mending
	if err := read(c, &in); err != nil {
		return err
	}
	n, err := s.desks.Mend(c.Context(), s.at(c), in)
	if err != nil {
		return err
	}
	return c.JSON(MendedView{n})
}

func (s *server) options(c fiber.Ctx) error {
	refs, err := s.desks.Find(c.Context(), s.at(c), c.Params("object"), c.Query("text"))
	if err != nil {
		return err
	}
	return c.JSON(notNil(refs))
}
