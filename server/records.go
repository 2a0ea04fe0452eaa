package server

import (
	"strconv"

	"github.com/gofiber/fiber/v3"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

type optionsRequest struct {
	Editing repository.Editing `json:"editing"`
	Text    string             `json:"text,omitempty"`
}

// at is the person at work in the space of the request, trial when it names none.
func (s *server) at(c fiber.Ctx) postgres.Caller {
	space := c.Params("space")
	if space == "" {
		space = postgres.Trial
	}
	return postgres.Caller{App: s.app(), Space: space, Person: who(c).ID}
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

func (s *server) recordForm(c fiber.Ctx) (records.FormView, error) {
	id, err := recordID(c)
	if err != nil {
		return records.FormView{}, err
	}
	place, object := s.at(c), c.Params("object")
	return s.records.Form(c.Context(), place, object, id)
}

func (s *server) addRecord(c fiber.Ctx, in records.Saving) (records.FormView, error) {
	place, object := s.at(c), c.Params("object")
	form, err := s.records.Save(c.Context(), place, object, 0, in)
	if err != nil {
		return records.FormView{}, err
	}
	c.Status(fiber.StatusCreated)
	return form, nil
}

func (s *server) changeRecord(c fiber.Ctx, in records.Saving) (records.FormView, error) {
	id, err := recordID(c)
	if err != nil || id == 0 {
		return records.FormView{}, postgres.ErrNotFound
	}

	place, object := s.at(c), c.Params("object")
	return s.records.Save(c.Context(), place, object, id, in)
}

func (s *server) removeRecord(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	place, object := s.at(c), c.Params("object")
	if err := s.records.Remove(c.Context(), place, object, id); err != nil {
		return err
	}
	return nil
}

func (s *server) recordFit(c fiber.Ctx, in repository.Editing) ([]model.Problem, error) {
	place, object := s.at(c), c.Params("object")
	return s.records.Fit(c.Context(), place, object, in)
}

func (s *server) recordOptions(c fiber.Ctx, in optionsRequest) ([]value.Ref, error) {
	place, object := s.at(c), c.Params("object")
	refs, err := s.records.Options(c.Context(), place, object, c.Params("field"), in.Editing, in.Text)
	if err != nil {
		return nil, err
	}
	return notNil(refs), nil
}

func (s *server) tryCandidates(c fiber.Ctx, in repository.CandidateQuestion) (repository.CandidatesView, error) {
	place, object := s.at(c), c.Params("object")
	return s.records.Candidates(c.Context(), place, object, in)
}

func (s *server) profile(c fiber.Ctx) (repository.ProfileView, error) {
	place, object := s.at(c), c.Params("object")
	return s.records.Profile(c.Context(), place, object, c.Query("fresh") != "")
}

func (s *server) referring(c fiber.Ctx) ([]repository.ReferrerCount, error) {
	return s.records.Referring(c.Context(), s.at(c), c.Params("object"))
}

func (s *server) evaluate(c fiber.Ctx, in repository.EvaluateQuestion) (repository.EvaluatedView, error) {
	place, object := s.at(c), c.Params("object")
	return s.records.Evaluate(c.Context(), place, object, in)
}

// MendedView is how many records were given a value.
type MendedView struct {
	Mended int64 `json:"mended"`
}

func (s *server) mend(c fiber.Ctx, in repository.Mending) (MendedView, error) {
	n, err := s.records.Mend(c.Context(), s.at(c), in)
	if err != nil {
		return MendedView{}, err
	}
	return MendedView{n}, nil
}

func (s *server) options(c fiber.Ctx) ([]value.Ref, error) {
	refs, err := s.records.Find(c.Context(), s.at(c), c.Params("object"), c.Query("text"))
	if err != nil {
		return nil, err
	}
	return notNil(refs), nil
}
