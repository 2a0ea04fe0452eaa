package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"strconv"
	"syscall"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/documents"
	"plainpath/postgres/jobs"
	"plainpath/postgres/migrate"

	"github.com/gofiber/fiber/v3"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/promhttp"

	"plainpath/demo"
	"plainpath/server"
)

// lookAgain is how often it is tried whether the database is there.
const lookAgain = 2 * time.Second

func open(ctx context.Context, s settings) (*postgres.DB, error) {
	db, err := postgres.Open(ctx, s.Database, s.Connections)
	if err == nil {
		db.BoundTexts(int(s.MostText) << 20)
	}
	return db, err
}

// waitForDB opens the database, and waits until it is there.
func waitForDB(ctx context.Context, s settings, log *slog.Logger) (*postgres.DB, error) {
	for first := true; ; first = false {
		db, err := open(ctx, s)
		if err == nil || !postgres.Away(err) {
			return db, err
		}
		if first {
			log.Warn("the database does not answer; waiting for it", "error", err)
		}
		select {
		case <-ctx.Done():
			return nil, err
		case <-time.After(lookAgain):
		}
	}
}

func withDB(ctx context.Context, s settings, work func(*postgres.DB) error) error {
	db, err := open(ctx, s)
	if err != nil {
		return err
	}
	defer func() { _ = db.Close() }()
	return work(db)
}

// listen takes the address, or the first free one of the ports after it.
func listen(s settings) (net.Listener, error) {
	host, port, err := net.SplitHostPort(s.Listen)
	if err != nil {
		return nil, fmt.Errorf("listening on %s: %w", s.Listen, err)
	}
	first, err := strconv.Atoi(port)
	if err != nil {
		return nil, fmt.Errorf("listening on %s: %w", s.Listen, err)
	}
	for n := 0; ; n++ {
		ln, err := net.Listen("tcp", net.JoinHostPort(host, strconv.Itoa(first+n)))
		if err == nil {
			return ln, nil
		}
		if !errors.Is(err, syscall.EADDRINUSE) || n+1 >= s.Tries {
			return nil, fmt.Errorf("listening on %s: %w", s.Listen, err)
		}
	}
}

func newLog(level slog.Level) *slog.Logger {
	return slog.New(slog.NewJSONHandler(os.Stderr, &slog.HandlerOptions{Level: level}))
}

// serve migrates and serves, and prints where everything is set up as long as there is no app.
func serve(ctx context.Context, s settings) error {
	log := newLog(slog.LevelInfo)
	db, err := waitForDB(ctx, s, log)
	if err != nil {
		return err
	}
	defer func() { _ = db.Close() }()
	if err := migrate.Migrate(ctx, db); err != nil {
		return err
	}
	if s.App == "" {
		if s.App, err = documents.OnlyApp(ctx, db); err != nil {
			return err
		}
	}
	token, err := apps.BeginSetup(ctx, db)
	if err != nil {
		return err
	}
	return run(ctx, s, db, nil, func(address string) {
		log.Info("serving", "address", address)
		if token != "" {
			if s.Address == "" {
				s.Listen = address
			}
			fmt.Printf("\nNothing is set up yet. Open this address to make the first administrator and the first app; it holds once:\n\n  %s\n\n", s.link("/set-up/"+token))
		}
	})
}

// run serves a database until the context ends. Ready is told the address once it is listened on.
func run(ctx context.Context, s settings, db *postgres.DB, signIns []server.SignIn, ready func(address string)) error {
	log := newLog(slog.LevelInfo)
	db.Keep = postgres.Keep{Attempts: s.KeepAttempts, Intakes: s.KeepIntakes}
	jobs, err := jobs.Work(ctx, db, newLog(slog.LevelWarn))
	if err != nil {
		return err
	}
	defer func() { _ = jobs.Stop(context.WithoutCancel(ctx)) }()
	metrics := prometheus.NewRegistry()
	app := server.New(server.Config{DB: db, App: s.App, Secure: s.Secure, SignIns: signIns, Log: log,
		MostFile: s.MostFile << 20, Proxies: s.Proxies, Metrics: metrics,
		Demo:   func(ctx context.Context, person int64) (string, error) { return demo.InstallFor(ctx, db, person) },
		Limits: server.Limits{Reading: s.Reading, Writing: s.Writing, Waiting: s.Waiting}})
	stopped := make(chan error, 1)
	go func() {
		<-ctx.Done()
		stopped <- app.ShutdownWithTimeout(10 * time.Second)
	}()
	ln, err := listen(s)
	if err != nil {
		return err
	}
	serveMetrics(ctx, s, metrics, log)
	ready(ln.Addr().String())
	if err := app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}); err != nil {
		return fmt.Errorf("serving on %s: %w", ln.Addr(), err)
	}
	return <-stopped
}

// serveMetrics serves figures for Prometheus at an address of their own. Where that is taken, as by a
// second server on the machine, it is said and people are served without.
func serveMetrics(ctx context.Context, s settings, metrics prometheus.Gatherer, log *slog.Logger) {
	if s.Metrics == "off" {
		return
	}
	ln, err := net.Listen("tcp", s.Metrics)
	if err != nil {
		log.Warn("no figures for Prometheus are served: set PLAINPATH_METRICS to a free address, or to off", "error",
			err)
		return
	}
	mux := http.NewServeMux()
	mux.Handle("GET /metrics", promhttp.HandlerFor(metrics, promhttp.HandlerOpts{}))
	serving := &http.Server{Handler: mux, ReadHeaderTimeout: 5 * time.Second}
	context.AfterFunc(ctx, func() { _ = serving.Close() })
	go func() {
		if err := serving.Serve(ln); !errors.Is(err, http.ErrServerClosed) {
			log.Error("serving figures", "error", err)
		}
	}()
}

func serveDemo(ctx context.Context, s settings) error {
	s.App = demo.App
	db, err := waitForDB(ctx, s, newLog(slog.LevelInfo))
	if err != nil {
		return err
	}
	defer func() { _ = db.Close() }()
	if err := migrate.Migrate(ctx, db); err != nil {
		return err
	}
	docs, err := documents.Documents(ctx, db, demo.App)
	if err != nil {
		return err
	}
	if len(docs) == 0 {
		fmt.Println("Making the demo's records …")
		if err := demo.Install(ctx, db); err != nil {
			return err
		}
	}
	var signIns []server.SignIn
	for _, p := range demo.People {
		signIns = append(signIns, server.SignIn{Name: p.Name, Email: p.Email, Task: p.Task, Password: demo.Password})
	}
	return run(ctx, s, db, signIns, func(address string) {
		fmt.Printf("\nPlain Path is at http://%s\n\n  The demo's sign-ins, all with the password %q:\n\n", address,
			demo.Password)
		for _, p := range demo.People {
			fmt.Printf("  %-28s %s, %s\n", p.Email, p.Name, p.Task)
		}
		fmt.Print("\n  Ctrl-C stops it.\n\n")
	})
}
