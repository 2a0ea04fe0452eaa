package server

import (
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"plainpath/postgres/accounts"
	"plainpath/postgres/repository"
)

// PeopleView is everybody, and what can be given to them.
type PeopleView struct {
	People []accounts.AccountView `json:"people"`
	Roles  []RoleItem             `json:"roles"`
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
	SignIns []accounts.SignInView `json:"sign_ins"`
	// Link is where they choose a password, an address without its host. It is given once, to
	// whoever had it made.
	Link string `json:"link,omitempty"`
}

// InvitedView is everybody when somebody was invited, and the link for them.
type InvitedView struct {
	People PeopleView `json:"people"`
	Link   string     `json:"link"`
}

// AuditView is what was done, the latest first.
type AuditView struct {
	Entries []accounts.AuditEntry `json:"entries"`
}

func linkTo(token string) string { return "/password/" + token }

type passwordRequest struct {
	Token    string `json:"token"`
	Password string `json:"password"`
}

func (s *server) accounts(c fiber.Ctx) *accounts.Accounts {
	return &accounts.Accounts{DB: s.DB, Editions: s.editions, App: s.app(), By: who(c).Account}
}

func (s *server) people(c fiber.Ctx) (PeopleView, error) {
	return s.everybody(c)
}

func (s *server) everybody(c fiber.Ctx) (PeopleView, error) {
	var out PeopleView
	e, err := s.editions.Draft(c.Context(), s.app())
	if err != nil {
		return out, err
	}
	out = PeopleView{Roles: []RoleItem{}, Organisation: e.App.Organisation}
	for _, r := range e.Roles {
		out.Roles = append(out.Roles, RoleItem{r.Key, r.Label})
	}
	out.People, err = s.accounts(c).List(c.Context())
	return out, err
}

func (s *server) person(c fiber.Ctx) (PersonView, error) {
	id, err := recordID(c)
	if err != nil {
		return PersonView{}, err
	}
	var out PersonView
	if out.SignIns, err = s.accounts(c).SignIns(c.Context(), id); err != nil {
		return PersonView{}, err
	}
	return out, nil
}

func (s *server) invite(c fiber.Ctx, in accounts.AccountChange) (InvitedView, error) {
	token, err := s.accounts(c).Invite(c.Context(), in)
	if err != nil {
		return InvitedView{}, err
	}
	all, err := s.everybody(c)
	if err != nil {
		return InvitedView{}, err
	}
	c.Status(fiber.StatusCreated)
	return InvitedView{all, linkTo(token)}, nil
}

func (s *server) changePerson(c fiber.Ctx, in accounts.AccountChange) (PeopleView, error) {
	id, err := recordID(c)
	if err != nil {
		return PeopleView{}, err
	}

	if err := s.accounts(c).Change(c.Context(), id, in); err != nil {
		return PeopleView{}, err
	}
	return s.people(c)
}

func (s *server) resetPassword(c fiber.Ctx) (PersonView, error) {
	id, err := recordID(c)
	if err != nil {
		return PersonView{}, err
	}
	token, err := s.accounts(c).Reset(c.Context(), id)
	if err != nil {
		return PersonView{}, err
	}
	out := PersonView{Link: linkTo(token)}
	if out.SignIns, err = s.accounts(c).SignIns(c.Context(), id); err != nil {
		return PersonView{}, err
	}
	return out, nil
}

// audit lists what was done before a moment, up to now when none is said.
func (s *server) audit(c fiber.Ctx) (AuditView, error) {
	before := s.DB.Now().Add(time.Minute)
	if said := c.Query("before"); said != "" {
		var err error
		if before, err = time.Parse(time.RFC3339Nano, said); err != nil {
			return AuditView{}, fiber.NewError(fiber.StatusBadRequest,
				"“before” is no moment such as 2026-03-01T08:00:00Z.")
		}
	}
	entries, err := s.accounts(c).Audit(c.Context(), before)
	if err != nil {
		return AuditView{}, err
	}
	return AuditView{entries}, nil
}

func (s *server) setPassword(c fiber.Ctx, in passwordRequest) error {
	device, err := accounts.SetPassword(c.Context(), s.DB, in.Token, in.Password)
	if err != nil {
		return err
	}
	s.setDevice(c, device)
	return nil
}

func (s *server) rights(c fiber.Ctx) (repository.RightsView, error) {
	return s.records.Rights(c.Context(), s.app())
}

func (s *server) why(c fiber.Ctx, in repository.WhyQuestion) (repository.WhyView, error) {
	return s.records.Why(c.Context(), s.at(c), in)
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
		return fiber.NewError(fiber.StatusForbidden,
			"You are looking as somebody else, so nothing was done. Stop that, or rehearse the walkthrough, where records are put back.")
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
