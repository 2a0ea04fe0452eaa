package server

import (
	"strconv"

	"github.com/gofiber/fiber/v3"

	"plainpath/store"
)

// PeopleView is everybody, and what can be given to them.
type PeopleView struct {
	People []store.AccountView `json:"people"`
	Roles  []RoleItem          `json:"roles"`
	// Organisation is the object that people outside the company belong to.
	Organisation string `json:"organisation"`
}

// RoleItem is a role that can be given.
type RoleItem struct {
	Key   string `json:"key"`
	Label string `json:"label"`
}

// PersonView is what is known of one person besides.
type PersonView struct {
	SignIns []store.SignInView `json:"sign_ins"`
	Mail    []store.MailView   `json:"mail"`
}

type passwordRequest struct {
	Token    string `json:"token"`
	Password string `json:"password"`
}

func (s *server) accounts(c fiber.Ctx) *store.Accounts {
	return &store.Accounts{DB: s.DB, Editions: s.editions, App: s.App, By: who(c).Account}
}

func (s *server) people(c fiber.Ctx) error {
	e, err := s.editions.Draft(c.Context(), s.App)
	if err != nil {
		return err
	}
	out := PeopleView{Roles: []RoleItem{}, Organisation: e.App.Organisation}
	for _, r := range e.Roles {
		out.Roles = append(out.Roles, RoleItem{r.Key, r.Label})
	}
	if out.People, err = s.accounts(c).List(c.Context()); err != nil {
		return err
	}
	return c.JSON(out)
}

func (s *server) person(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	var out PersonView
	if out.SignIns, err = s.accounts(c).SignIns(c.Context(), id); err != nil {
		return err
	}
	if out.Mail, err = s.accounts(c).Mail(c.Context(), id); err != nil {
		return err
	}
	return c.JSON(out)
}

func (s *server) invite(c fiber.Ctx) error {
	var in store.AccountChange
	if err := read(c, &in); err != nil {
		return err
	}
	if _, err := s.accounts(c).Invite(c.Context(), in); err != nil {
		return err
	}
	c.Status(fiber.StatusCreated)
	return s.people(c)
}

func (s *server) changePerson(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	var in store.AccountChange
	if err := read(c, &in); err != nil {
		return err
	}
	if err := s.accounts(c).Change(c.Context(), id, in); err != nil {
		return err
	}
	return s.people(c)
}

func (s *server) resetPassword(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	if err := s.accounts(c).Reset(c.Context(), id); err != nil {
		return err
	}
	return s.person(c)
}

func (s *server) setPassword(c fiber.Ctx) error {
	var in passwordRequest
	if err := read(c, &in); err != nil {
		return err
	}
	if err := s.accounts(c).SetPassword(c.Context(), in.Token, in.Password); err != nil {
		return err
	}
	return c.SendStatus(fiber.StatusNoContent)
}

func (s *server) rights(c fiber.Ctx) error {
	view, err := s.desks.Rights(c.Context(), s.App)
	if err != nil {
		return err
	}
	return c.JSON(view)
}

func (s *server) why(c fiber.Ctx) error {
	var in store.WhyQuestion
	if err := read(c, &in); err != nil {
		return err
	}
	view, err := s.desks.Why(c.Context(), s.at(c), in)
	if err != nil {
		return err
	}
	return c.JSON(view)
}

// asKey holds the key of the person a builder sees things as.
const asKey = "as"

// seenAs lets a builder see what somebody else sees. Nothing can be changed meanwhile.
func (s *server) seenAs(c fiber.Ctx) error {
	as := c.Get("X-See-As")
	if as == "" { // pictures are asked for by their address alone
		as = c.Query("see_as")
	}
	if as == "" {
		return c.Next()
	}
	id, err := strconv.ParseInt(as, 10, 64)
	if err != nil || !who(c).Builder {
		return fiber.NewError(fiber.StatusForbidden, "Only builders may see things as somebody else.")
	}
	c.Locals(asKey, id)
	if !onlyLooks(c) {
		return fiber.NewError(fiber.StatusForbidden, "You are looking as somebody else, so nothing was done. Stop that, or rehearse the walkthrough, where records are put back.")
	}
	return c.Next()
}

// viewer is the person whose eyes are looked through.
func viewer(c fiber.Ctx) int64 {
	if id, ok := c.Locals(asKey).(int64); ok {
		return id
	}
	return who(c).ID
}
