package server

import (
	"cmp"
	"crypto/subtle"
	"encoding/json"
	"errors"
	"strconv"

	"github.com/gofiber/fiber/v3"

	"plainpath/core/edition"
	"plainpath/store"
)

// SignIn is a sign-in that the demo shows.
type SignIn struct {
	Name     string `json:"name"`
	Email    string `json:"email"`
	Task     string `json:"task"`
	Password string `json:"password"`
}

// SessionView is who is signed in, if anybody.
type SessionView struct {
	SignedIn bool `json:"signed_in"`
	// App is what the app is called.
	App string `json:"app"`
	// Zone is the time zone in which dates and times are entered and shown: that of the person
	// where they set one, else AppZone.
	Zone    string `json:"zone"`
	AppZone string `json:"app_zone"`
	ID      int64  `json:"id,omitempty"`
	Name    string `json:"name,omitempty"`
	Builder bool   `json:"builder,omitempty"`
	// CSRF must come back in the X-CSRF-Token header of every request that changes
	// something.
	CSRF string `json:"csrf,omitempty"`
	// SignIns are the demo's.
	SignIns []SignIn `json:"sign_ins"`
}

type signInRequest struct {
	Email    string `json:"email"`
	Password string `json:"password"`
}

const (
	cookieName = "plainpath_session"
	sessionKey = "session"
)

// longestTab bounds the name that a browser tab gives itself.
const longestTab = 40

func strict(raw json.RawMessage, into any) error { return edition.Decode(raw, into) }

func (s *server) session(c fiber.Ctx) error {
	session, err := s.DB.Session(c.Context(), c.Cookies(cookieName))
	if errors.Is(err, store.ErrNoSession) {
		return s.sendSession(c, SessionView{SignIns: s.SignIns})
	}
	if err != nil {
		return err
	}
	v := sessionView(session)
	// Whoever looks as somebody else sees the times they see.
	if as, err := strconv.ParseInt(c.Get("X-See-As"), 10, 64); err == nil && session.Builder {
		if v.Zone, err = s.DB.ZoneOf(c.Context(), as); err != nil {
			return err
		}
	}
	return s.sendSession(c, v)
}

func sessionView(session store.Session) SessionView {
	return SessionView{SignedIn: true, Zone: session.Zone, ID: session.ID, Name: session.Name, Builder: session.Builder, CSRF: session.CSRF, SignIns: []SignIn{}}
}

func (s *server) sendSession(c fiber.Ctx, v SessionView) error {
	app, err := s.editions.App(c.Context(), s.App)
	if err != nil {
		return err
	}
	v.App, v.AppZone = app.Label, app.Zone
	v.Zone = cmp.Or(v.Zone, v.AppZone)
	return c.JSON(v)
}

func (s *server) signIn(c fiber.Ctx) error {
	var in signInRequest
	if err := read(c, &in); err != nil {
		return err
	}
	token, session, err := s.DB.SignIn(c.Context(), in.Email, in.Password)
	if err != nil {
		return err
	}
	c.Cookie(&fiber.Cookie{Name: cookieName, Value: token, Path: "/", HTTPOnly: true, Secure: s.Secure, SameSite: fiber.CookieSameSiteStrictMode})
	return s.sendSession(c, sessionView(session))
}

// zoneRequest sets the time zone of the person signed in.
type zoneRequest struct {
	Zone string `json:"zone"`
}

func (s *server) setZone(c fiber.Ctx) error {
	var in zoneRequest
	if err := read(c, &in); err != nil {
		return err
	}
	session := who(c)
	if err := s.DB.SetZone(c.Context(), session.ID, in.Zone); err != nil {
		return err
	}
	session.Zone = in.Zone
	return s.sendSession(c, sessionView(session))
}

func (s *server) signOut(c fiber.Ctx) error {
	if err := s.DB.SignOut(c.Context(), c.Cookies(cookieName)); err != nil {
		return err
	}
	c.ClearCookie(cookieName)
	return c.SendStatus(fiber.StatusNoContent)
}

// errOtherSession says that a change came without the token of the session: from elsewhere, or from
// a tab that has not heard of a new session.
var errOtherSession = errors.New("not this session's token")

// signedIn lets only people through who are signed in, and changes only with the
// session's token.
func (s *server) signedIn(c fiber.Ctx) error {
	session, err := s.DB.Session(c.Context(), c.Cookies(cookieName))
	if err != nil {
		return err
	}
	if c.Method() != fiber.MethodGet && subtle.ConstantTimeCompare([]byte(c.Get("X-CSRF-Token")), []byte(session.CSRF)) != 1 {
		return errOtherSession
	}
	c.Locals(sessionKey, session)
	if tab := c.Get("X-Tab"); len(tab) <= longestTab {
		c.SetContext(store.WithTab(c.Context(), tab))
	}
	return c.Next()
}

func who(c fiber.Ctx) store.Session {
	session, _ := c.Locals(sessionKey).(store.Session)
	return session
}

func builderOnly(c fiber.Ctx) error {
	if !who(c).Builder {
		return fiber.NewError(fiber.StatusForbidden, "Build is for builders.")
	}
	return c.Next()
}
