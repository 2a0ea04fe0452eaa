// Package server is Plain Path over HTTP: JSON under /api, and the built front end.
package server

import (
	"context"
	"embed"
	"io/fs"
	"log/slog"
	"strings"
	"sync/atomic"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/gofiber/fiber/v3/middleware/compress"
	"github.com/gofiber/fiber/v3/middleware/etag"
	"github.com/gofiber/fiber/v3/middleware/helmet"
	"github.com/gofiber/fiber/v3/middleware/recover"
	"github.com/gofiber/fiber/v3/middleware/requestid"
	"github.com/gofiber/fiber/v3/middleware/static"
	"github.com/prometheus/client_golang/prometheus"

	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/files"
	"plainpath/postgres/imports"
	"plainpath/postgres/repository"
	"plainpath/postgres/runs"
	"plainpath/postgres/tables"
)

//go:embed all:dist
var dist embed.FS

// mostBody bounds what one request may send.
const mostBody = 2 << 20

// Config is what a server needs.
type Config struct {
	DB *postgres.DB
	// App is the key of the app that is served, "" for the only one there is or will be.
	App string
	// Secure marks cookies for HTTPS only; off on loopback.
	Secure bool
	// Proxies are the addresses of those who may say in X-Real-IP where a request comes from.
	Proxies []string
	// Metrics gathers figures for Prometheus, where they are wanted.
	Metrics prometheus.Registerer
	// MostFile bounds a file in a record, in bytes; nought means 25 MB.
	MostFile int64
	// Demo makes the demo's app for the first administrator, and gives its key; nil has none.
	Demo func(ctx context.Context, person int64) (string, error)
	// SignIns are shown on the sign-in page; for demos only.
	SignIns []SignIn
	Log     *slog.Logger
	Limits  Limits
}

type server struct {
	Config
	editions *documents.Editions
	runs     *runs.Runs
	records  *repository.Repositories
	intakes  *imports.Intakes
	files    *files.Files
	tables   *tables.Tables
	changes  *tables.Changes
	// crowds bound how many requests are at work at once.
	crowds map[doing]*crowd
	// operations are all routes there are, at their addresses.
	operations []operation
	// served is the key of the app.
	served atomic.Pointer[string]
	// running ends when the server is shut down.
	running context.Context
}

// contentPolicy lets the page load nothing but its own files. PrimeVue writes style
// elements, which need 'unsafe-inline' for styles.
const contentPolicy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; object-src 'none'; frame-ancestors 'none'; base-uri 'none'; form-action 'self'"

// New makes the application.
func New(c Config) *fiber.App {
	c.Limits = c.Limits.withDefaults()
	if c.Log == nil {
		c.Log = slog.New(slog.DiscardHandler)
	}
	s := &server{Config: c, editions: documents.NewEditions(c.DB), crowds: map[doing]*crowd{}}
	for does, most := range map[doing]int{looks: c.DB.Room.Looking, changes: c.DB.Room.Changing,
		rewrites: c.DB.Room.Rewriting} {
		s.crowds[does] = newCrowd(most, c.Limits.Waiting)
	}
	if c.App != "" {
		s.served.Store(&c.App)
	}
	s.runs = &runs.Runs{DB: c.DB, Editions: s.editions}
	s.records = &repository.Repositories{DB: c.DB, Editions: s.editions}
	s.tables = &tables.Tables{Repositories: s.records, Runs: s.runs}
	s.changes = &tables.Changes{DB: c.DB, Log: c.Log}
	var stop context.CancelFunc
	s.running, stop = context.WithCancel(context.Background())
	go s.warm()
	s.tables.Counts = tables.NewCounts(s.running, s.changes)
	s.intakes = &imports.Intakes{DB: c.DB, Editions: s.editions}
	if c.MostFile == 0 {
		c.MostFile = 25 << 20
	}
	s.files = &files.Files{Repositories: s.records, Most: c.MostFile}
	app := fiber.New(fiber.Config{
		AppName: "Plain Path", BodyLimit: mostBody, ErrorHandler: s.problem, Immutable: true,
		ReadTimeout: 30 * time.Second, IdleTimeout: 2 * time.Minute,
		TrustProxy: len(c.Proxies) > 0, TrustProxyConfig: fiber.TrustProxyConfig{Proxies: c.Proxies},
		ProxyHeader: proxyHeader(c.Proxies),
	})
	app.Hooks().OnPreShutdown(func() error {
		stop()
		return nil
	})
	took := prometheus.NewHistogramVec(prometheus.HistogramOpts{Name: "plainpath_request_seconds",
		Help:    "Time a request took.",
		Buckets: prometheus.ExponentialBuckets(0.001, 2, 14)}, []string{"method", "route", "status"})
	if c.Metrics != nil {
		c.Metrics.MustRegister(took)
	}

	if c.Secure {
		app.Use(byHTTPSOnly)
	}
	app.Use(recover.New(), requestid.New(), s.measured(took),
		helmet.New(helmet.Config{ContentSecurityPolicy: contentPolicy, ReferrerPolicy: "same-origin"}))
	app.Get("/healthz", s.healthy)
	s.routes(app.Group("/api", func(ctx fiber.Ctx) error {
		ctx.Set(fiber.HeaderCacheControl, "no-store")
		return ctx.Next()
	}, storableAddress))
	front(app)
	return app
}

// proxyHeader is where a proxy says whose request it hands on. Nobody else is believed.
func proxyHeader(proxies []string) string {
	if len(proxies) == 0 {
		return ""
	}
	return "X-Real-IP"
}

// warm makes what everybody needs ready before somebody asks.
func (s *server) warm() {
	if s.app() == "" {
		return
	}
	if err := s.editions.Warm(postgres.Reading(s.running), s.app()); err != nil && s.running.Err() == nil {
		s.Log.Error("making the release in force ready", "error", err)
	}
}

// byHTTPSOnly tells browsers to come by HTTPS from now on.
func byHTTPSOnly(c fiber.Ctx) error {
	c.Set(fiber.HeaderStrictTransportSecurity, "max-age=15552000")
	return c.Next()
}

// loggedPath is the address without what is secret in it.
func loggedPath(c fiber.Ctx) string {
	if strings.HasPrefix(c.Path(), "/api/setup/") {
		return c.Route().Path
	}
	return c.Path()
}

// measured logs each request in a line, and how long it took.
func (s *server) measured(took *prometheus.HistogramVec) fiber.Handler {
	return func(c fiber.Ctx) error {
		start := time.Now()
		err := c.Next()
		if err != nil {
			err = c.App().ErrorHandler(c, err)
		}
		if c.Path() != "/healthz" && !strings.HasPrefix(c.Path(), "/assets/") {
			s.Log.Info("request", "id", requestid.FromContext(c), "method", c.Method(), "path", loggedPath(c), "status",
				c.Response().StatusCode(), "ms", time.Since(start).Milliseconds(), "person", who(c).ID)
		}
		took.WithLabelValues(c.Method(), c.Route().Path,
			statusClass(c.Response().StatusCode())).Observe(time.Since(start).Seconds())
		return err
	}
}

func statusClass(code int) string { return string(rune('0'+code/100)) + "xx" }

func (s *server) healthy(c fiber.Ctx) error {
	if err := s.DB.PingContext(c.Context()); err != nil {
		return fiber.NewError(fiber.StatusServiceUnavailable, "the database does not answer")
	}
	return c.SendString("ok")
}

// front serves the built front end. Every address that is not a file is the
// application's own, for links can be copied.
func front(app *fiber.App) {
	files, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded, so this cannot be
	}
	assets, err := fs.Sub(files, "assets")
	if err != nil {
		panic(err)
	}
	app.Use("/assets", compress.New(), static.New("", static.Config{FS: assets, MaxAge: 365 * 24 * 3600}))
	app.Use("/assets", func(fiber.Ctx) error { return fiber.ErrNotFound }) // of an older build
	app.Use(compress.New(), etag.New(), func(c fiber.Ctx) error {
		if c.Method() != fiber.MethodGet {
			return fiber.ErrNotFound
		}
		page, err := fs.ReadFile(files, "index.html")
		if err != nil {
			return fiber.NewError(fiber.StatusNotFound,
				"The front end was not built into this program. Run make build.")
		}
		c.Set(fiber.HeaderCacheControl, "no-cache")
		return c.Type("html").Send(page)
	})
}
