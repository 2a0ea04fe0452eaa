package main

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"net"
	"net/http"
	"net/http/cookiejar"
	"slices"
	"sync"
	"time"

	"github.com/gofiber/fiber/v3"

	"plainpath/demo"
	"plainpath/server"
	"plainpath/store"
)

const (
	people   = 50
	loadTime = time.Minute
)

// load has fifty people page through and filter a million calls for a minute, over HTTP.
func load(ctx context.Context, db *store.DB) ([]result, error) {
	db.SetMaxOpenConns(16)
	defer db.SetMaxOpenConns(4)
	address, stop, err := serve(db)
	if err != nil {
		return nil, err
	}
	defer stop()
	visitor, err := signIn(ctx, address+"/api")
	if err != nil {
		return nil, err
	}
	var mu sync.Mutex
	var took []time.Duration
	var failed error
	until := time.Now().Add(loadTime)
	var all sync.WaitGroup
	for i := range people {
		all.Go(func() {
			r := rand.New(rand.NewPCG(uint64(i), 7))
			for time.Now().Before(until) {
				times, err := visitor.look(ctx, r)
				mu.Lock()
				took = append(took, times...)
				if err != nil && failed == nil {
					failed = err
				}
				mu.Unlock()
			}
		})
	}
	all.Wait()
	if failed != nil {
		return nil, fmt.Errorf("the load of %d people: %w", people, failed)
	}
	slices.Sort(took)
	return []result{{work: fmt.Sprintf("%d people page and filter for a minute: 95th percentile of an answer", people), ours: took[len(took)*95/100], against: "–", atMost: "no error",
		note: fmt.Sprintf("%.0f answers a second, median %s, no error", float64(len(took))/loadTime.Seconds(), show(took[len(took)/2]))}}, nil
}

// serve starts a server and gives its address.
func serve(db *store.DB) (string, func(), error) {
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
	http       *http.Client
}

func signIn(ctx context.Context, base string) (*visitor, error) {
	jar, err := cookiejar.New(nil)
	if err != nil {
		return nil, err
	}
	v := &visitor{base: base, http: &http.Client{Jar: jar, Transport: &http.Transport{MaxIdleConnsPerHost: people}}}
	var session struct {
		CSRF string `json:"csrf"`
	}
	err = v.post(ctx, "/session", map[string]string{"email": "dana@quillmere.example", "password": demo.Password}, &session)
	v.csrf = session.CSRF
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
	if res.StatusCode != http.StatusOK {
		return fmt.Errorf("%s: %s", path, res.Status)
	}
	return json.NewDecoder(res.Body).Decode(out)
}

// look filters the calls by a lift or by words and reads two more pages.
func (v *visitor) look(ctx context.Context, r *rand.Rand) ([]time.Duration, error) {
	type m = map[string]any
	look := m{"order": []m{{"path": "opened", "desc": true}}}
	if r.IntN(2) == 0 {
		look["filter"] = []m{{"field": "engineer", "op": "is", "value": m{"literal": m{"id": 1 + r.IntN(300)}}}}
	} else {
		look["text"] = fmt.Sprintf("%05x", r.IntN(1<<20))
	}
	var took []time.Duration
	for range 3 {
		var page struct {
			Next string `json:"next"`
		}
		start := time.Now()
		err := v.post(ctx, "/use/tables/rows", m{"at": m{"page": m{"page": "calls", "part": "calls", "given": m{}}}, "look": look}, &page)
		if err != nil {
			return took, err
		}
		took = append(took, time.Since(start))
		if look["after"] = page.Next; page.Next == "" {
			break
		}
	}
	return took, nil
}
