package server

import (
	"cmp"
	"crypto/subtle"
	"encoding/json"
	"errors"
	"mime"
	"net/url"
	"strconv"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/accounts"

	"github.com/gofiber/fiber/v3"

	"plainpath/core/definition"
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
	// NotSetUp says that there is no app yet.
	NotSetUp bool `json:"not_set_up,omitempty"`
	// App is what the app is called.
	App string `json:"app"`
	// Zone is the time zone in which dates and times are entered and shown: that of the person
	// where they set one, else AppZone.
	Zone    string `json:"zone"`
	AppZone string `json:"app_zone"`
	// Map is the address on the web at which a place is looked up, with {address} where it is said.
	Map     string `json:"map,omitempty"`
	ID      int64  `json:"id,omitempty"`
	Name    string `json:"name,omitempty"`
	Builder bool   `json:"builder,omitempty"`
	// Administrator says that they look after the accounts.
	Administrator bool `json:"administrator,omitempty"`
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
	// deviceName is the cookie that a browser is known by, kept when nobody is signed in.
	deviceName = "plainpath_browser"
	sessionKey = "session"
)

// longestTab bounds the name that a browser tab gives itself.
const longestTab = 40

func strict(raw json.RawMessage, into any) error { return definition.Decode(raw, into) }

func (s *server) session(c fiber.Ctx) (SessionView, error) {
	if err := s.known(c); errors.Is(err, errNotSetUp) {
		return SessionView{NotSetUp: true, Zone: "UTC", AppZone: "UTC", SignIns: []SignIn{}}, nil
	} else if err != nil {
		return SessionView{}, err
	}
	session, err := accounts.SessionOf(c.Context(), s.DB, c.Cookies(cookieName))
	if errors.Is(err, accounts.ErrNoSession) {
		return s.sendSession(c, SessionView{SignIns: s.SignIns})
	}
	if err != nil {
		return SessionView{}, err
	}
	v := sessionView(session)
	// Whoever looks as somebody else sees the times they see.
	if as, err := strconv.ParseInt(c.Get("X-See-As"), 10, 64); err == nil && session.Builder {
		if v.Zone, err = accounts.ZoneOf(c.Context(), s.DB, as); err != nil {
			return SessionView{}, err
		}
	}
	return s.sendSession(c, v)
}

func sessionView(session accounts.Session) SessionView {
	return SessionView{SignedIn: true, Zone: session.Zone, ID: session.ID, Name: session.Name, Builder: session.Builder,
		Administrator: session.Administrator, CSRF: session.CSRF, SignIns: []SignIn{}}
}

func (s *server) sendSession(c fiber.Ctx, v SessionView) (SessionView, error) {
	app, err := s.editions.App(c.Context(), s.app())
	if err != nil {
		return SessionView{}, err
	}
	v.App, v.AppZone, v.Map = app.Label, app.Zone, app.Map
	v.Zone = cmp.Or(v.Zone, v.AppZone)
	return v, nil
}

func (s *server) signIn(c fiber.Ctx, in signInRequest) (SessionView, error) {
	signed, err := accounts.SignIn(c.Context(), s.DB, accounts.SigningIn{Email: in.Email, Password: in.Password,
		From: from(c)})
	if err != nil {
		return SessionView{}, err
	}
	s.setCookie(c, cookieName, signed.Token, 0)
	s.setDevice(c, signed.Device)
	return s.sendSession(c, sessionView(signed.Session))
}

func from(c fiber.Ctx) accounts.From {
	return accounts.From{Address: c.IP(), Agent: c.Get(fiber.HeaderUserAgent), Device: c.Cookies(deviceName)}
}

// setCookie sets a cookie that scripts cannot read; it is kept for no longer than the browser runs
// where it lasts for nought.
func (s *server) setCookie(c fiber.Ctx, name, value string, lasts time.Duration) {
	c.Cookie(&fiber.Cookie{Name: name, Value: value, Path: "/", HTTPOnly: true, Secure: s.Secure,
		SameSite: fiber.CookieSameSiteStrictMode, MaxAge: int(lasts.Seconds()), SessionOnly: lasts == 0})
}

// deviceFor is how long a browser is known by its cookie.
const deviceFor = 180 * 24 * time.Hour

func (s *server) setDevice(c fiber.Ctx, token string) {
	if token != "" {
		s.setCookie(c, deviceName, token, deviceFor)
	}
}

// mostSignIn bounds what is sent to sign in or to choose a password, in bytes.
const mostSignIn = 4 << 10

// ownPage lets requests through that come from a page of the application, or from no page at all.
// It is for what asks for no session, whose token would show the same.
func ownPage(c fiber.Ctx) error {
	if c.Method() == fiber.MethodGet {
		return c.Next()
	}
	if len(c.Body()) > mostSignIn {
		return fiber.NewError(fiber.StatusRequestEntityTooLarge, "This is more than an e-mail address and a password.")
	}
	kind, _, _ := mime.ParseMediaType(c.Get(fiber.HeaderContentType))
	site := c.Get("Sec-Fetch-Site")
	at, err := url.Parse(c.Get(fiber.HeaderOrigin))
	if kind != fiber.MIMEApplicationJSON || site != "" && site != "same-origin" && site != "none" || err != nil ||
		at.Host != "" && at.Host != string(c.RequestCtx().Host()) {
		return errOtherSession
	}
	return c.Next()
}

// sessions lists the sessions of the person signed in.
func (s *server) sessions(c fiber.Ctx) (SessionsView, error) {
	out, err := accounts.Sessions(c.Context(), s.DB, who(c))
	if err != nil {
		return SessionsView{}, err
	}
	return SessionsView{out}, nil
}

// SessionsView is where somebody is signed in.
type SessionsView struct {
	Sessions []accounts.SessionItem `json:"sessions"`
}

func (s *server) endSession(c fiber.Ctx) (SessionsView, error) {
	id, err := recordID(c)
	if err != nil {
		return SessionsView{}, err
	}
	if err := accounts.EndSession(c.Context(), s.DB, who(c), id); err != nil {
		return SessionsView{}, err
	}
	return s.sessions(c)
}

func (s *server) endOtherSessions(c fiber.Ctx) (SessionsView, error) {
	if err := accounts.EndOtherSessions(c.Context(), s.DB, who(c)); err != nil {
		return SessionsView{}, err
	}
	return s.sessions(c)
}

type ownPasswordRequest struct {
	Now  string `json:"now"`
	Next string `json:"next"`
}

func (s *server) changePassword(c fiber.Ctx, in ownPasswordRequest) (SessionsView, error) {
	if err := accounts.ChangePassword(c.Context(), s.DB, who(c), from(c), in.Now, in.Next); err != nil {
		return SessionsView{}, err
	}
	return s.sessions(c)
}

// zoneRequest sets the time zone of the person signed in.
type zoneRequest struct {
	Zone string `json:"zone"`
}

func (s *server) setZone(c fiber.Ctx, in zoneRequest) (SessionView, error) {
	session := who(c)
	if err := accounts.SetZone(c.Context(), s.DB, session.ID, in.Zone); err != nil {
		return SessionView{}, err
	}
	session.Zone = in.Zone
	return s.sendSession(c, sessionView(session))
}

func (s *server) signOut(c fiber.Ctx) error {
	if err := accounts.SignOut(c.Context(), s.DB, c.Cookies(cookieName)); err != nil {
		return err
	}
	c.ClearCookie(cookieName)
	return nil
}

// errOtherSession says that a change came without the token of the session: from elsewhere, or from
// a tab that has not heard of a new session.
var errOtherSession = errors.New("not this session's token")

// signedIn lets only people through who are signed in, and changes only with the
// session's token.
func (s *server) signedIn(c fiber.Ctx) error {
	session, err := accounts.SessionOf(c.Context(), s.DB, c.Cookies(cookieName))
	if err != nil {
		return err
	}
	if c.Method() != fiber.MethodGet && subtle.ConstantTimeCompare([]byte(c.Get("X-CSRF-Token")),
		[]byte(session.CSRF)) != 1 {
		return errOtherSession
	}
	c.Locals(sessionKey, session)
	if key := requestKey(c); key != "" {
		c.SetContext(postgres.WithRequest(c.Context(), postgres.Request{Person: session.ID, Key: key}))
	}
	if tab := c.Get("X-Tab"); len(tab) <= longestTab {
		c.SetContext(postgres.WithTab(c.Context(), tab))
	}
	return c.Next()
}

func who(c fiber.Ctx) accounts.Session {
	session, _ := c.Locals(sessionKey).(accounts.Session)
	return session
}

// administratorOnly lets only those through who look after the accounts.
func administratorOnly(c fiber.Ctx) error {
	if !who(c).Administrator {
		return fiber.NewError(fiber.StatusForbidden, "Administrators look after the accounts. Ask one of them.")
	}
	return c.Next()
}

func builderOnly(c fiber.Ctx) error {
	if !who(c).Builder {
		return fiber.NewError(fiber.StatusForbidden, "Build is for builders.")
	}
	return c.Next()
}
