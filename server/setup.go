package server

import (
	"errors"

	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/documents"

	"github.com/gofiber/fiber/v3"
)

// errNotSetUp says that there is no app yet.
var errNotSetUp = errors.New("there is no app yet")

// app is the key of the app that is served, "" as long as there is none.
func (s *server) app() string {
	if key := s.served.Load(); key != nil {
		return *key
	}
	return ""
}

// begun lets requests through as soon as there is an app.
func (s *server) begun(c fiber.Ctx) error {
	if err := s.known(c); err != nil {
		return err
	}
	return c.Next()
}

// known finds out which app is served, which another server may have made. It is errNotSetUp as long
// as there is none.
func (s *server) known(c fiber.Ctx) error {
	if s.app() != "" {
		return nil
	}
	key, err := documents.OnlyApp(postgres.Reading(c.Context()), s.DB)
	if err != nil {
		return err
	}
	if key == "" {
		return errNotSetUp
	}
	s.served.Store(&key)
	return nil
}

// setUpRequest makes the first administrator and the first app.
type setUpRequest struct {
	Token string `json:"token"`
	apps.SettingUp
}

// SetUpView says what can be set up by a link.
type SetUpView struct {
	// Demo says that the demo's app can be taken.
	Demo bool `json:"demo"`
}

func (s *server) maySetUp(c fiber.Ctx) (SetUpView, error) {
	if err := apps.MaySetUp(c.Context(), s.DB, c.Params("token")); err != nil {
		return SetUpView{}, err
	}
	return SetUpView{Demo: s.Demo != nil}, nil
}

func (s *server) setUp(c fiber.Ctx, in setUpRequest) error {
	install := s.Demo
	if !in.Demo {
		install = nil
	} else if install == nil {
		return fiber.NewError(fiber.StatusUnprocessableEntity, "There is no demo to take here.")
	}
	key, err := apps.SetUp(c.Context(), s.DB, in.Token, in.SettingUp, install)
	if err != nil {
		return err
	}
	s.served.Store(&key)
	return nil
}
