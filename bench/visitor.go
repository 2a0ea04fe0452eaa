package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"net/http/cookiejar"
	"time"

	"plainpath/postgres"

	"github.com/gofiber/fiber/v3"

	"plainpath/demo"
	"plainpath/server"
)

// serve starts a server and gives its address.
func serve(db *postgres.DB) (string, func(), error) {
	app := server.New(server.Config{DB: db, App: demo.App, Log: slog.New(slog.DiscardHandler)})
	ln, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return "", nil, fmt.Errorf("starting a server: %w", err)
	}
	go func() { _ = app.Listener(ln, fiber.ListenConfig{DisableStartupMessage: true}) }()
	return "http://" + ln.Addr().String(), func() { _ = app.ShutdownWithTimeout(time.Second) }, nil
}

// visitor is somebody signed in.
type visitor struct {
	base, csrf string
	builder    bool
	http       *http.Client
}

func signIn(ctx context.Context, base, email string) (*visitor, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	v := &visitor{base: base, http: &http.Client{Jar: jar, Transport: &http.Transport{MaxIdleConnsPerHost: people}}}
	var session struct {
		CSRF    string `json:"csrf"`
		Builder bool   `json:"builder"`
	}
	err = v.post(ctx, "/session", map[string]string{"email": email, "password": demo.Password}, &session)
	v.csrf, v.builder = session.CSRF, session.Builder
	return v, err
}

func (v *visitor) post(ctx context.Context, path string, in, out any) error {
	body, err := json.Marshal(in)
	if err != nil {
		return err
	}
	req, err := http.NewRequestWithContext(ctx, http.MethodPost, v.base+path, bytes.NewReader(body))
	if err != nil {
		return err
	}
	req.Header.Set("Content-Type", "application/json")
	req.Header.Set("X-CSRF-Token", v.csrf)
	res, err := v.http.Do(req)
	if err != nil {
		return err
	}
	defer func() { _ = res.Body.Close() }()
	if res.StatusCode >= 300 {
		return fmt.Errorf("%s: %s", path, res.Status)
	}
	return json.NewDecoder(res.Body).Decode(out)
}

// visit starts a server and signs a dispatcher in.
func visit(ctx context.Context, db *postgres.DB) (*visitor, func(), error) {
	address, stop, err := serve(db)
	if err != nil {
		return nil, nil, err
	}
	v, err := signIn(ctx, address+"/api", "dana@quillmere.example")
	if err != nil {
		stop()
	}
	return v, stop, err
}
