package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"sync"
	"time"

	"plainpath/postgres"

	"plainpath/demo"
)

const (
	people   = 50
	loadTime = time.Minute
)

// common is a word that every record has, so that nothing narrows what is looked through.
const common = "problem"

// load has fifty sessions of five roles at a million calls for a minute, over HTTP. One in three
// opens the page, count included; one in three looks for a common word; the others filter, page
// on and group.
func load(ctx context.Context, db *postgres.DB) ([]result, error) {
	db.SetMaxOpenConns(16)
	defer db.SetMaxOpenConns(4)
	address, stop, err := serve(db)
	if err != nil {
		return nil, err
	}
	defer stop()
	var visiting []demo.Person // of the roles that have the page, and the builder
	for _, p := range demo.People {
		if p.Roles[0] != "finance" {
			visiting = append(visiting, p)
		}
	}
	sessions := make([]*visitor, people)
	for i := range sessions {
		if sessions[i], err = signIn(ctx, address+"/api", visiting[i%len(visiting)].Email); err != nil {
			return nil, err
		}
	}
	var mu sync.Mutex
	took := map[string][]time.Duration{}
	var failed error
	until := time.Now().Add(loadTime)
	var all sync.WaitGroup
	for i, v := range sessions {
		all.Go(func() {
			r := rand.New(rand.NewPCG(uint64(i), 7))
			for time.Now().Before(until) {
				kind, times, err := v.look(ctx, r)
				mu.Lock()
				took[kind] = append(took[kind], times...)
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
	var every []time.Duration
	note := ""
	for _, kind := range []string{"open", "search", "filter"} {
		slices.Sort(took[kind])
		every = append(every, took[kind]...)
		if n := len(took[kind]); n > 0 {
			note += fmt.Sprintf("; %s: %d answers, median %s, 95th %s", kind, n, show(took[kind][n/2]),
				show(took[kind][n*95/100]))
		}
	}
	slices.Sort(every)
	return []result{{work: fmt.Sprintf("%d sessions of five roles open, search a common word, filter, page and group for a minute: 95th percentile of an answer", people), ours: every[len(every)*95/100], against: "–", atMost: "≥ 200 a second, ≤ 250 ms, no error",
		note: fmt.Sprintf("%.0f answers a second, median %s, no error%s; server, PostgreSQL and those who ask share the cores", float64(len(every))/loadTime.Seconds(), show(every[len(every)/2]), note)}}, nil
}

type m = map[string]any

// at is the table that somebody looks at: the calls of the page, or for the builder all records.
func (v *visitor) at() (string, m) {
	if v.builder {
		return "/build/spaces/production", m{"object": "service_call"}
	}
	return "/use", m{"page": m{"page": "calls", "part": "calls", "given": m{}}}
}

// look does what somebody does next, and says what that was and how long each answer took.
func (v *visitor) look(ctx context.Context, r *rand.Rand) (string, []time.Duration, error) {
	base, at := v.at()
	var took []time.Duration
	var page struct {
		Next string `json:"next"`
	}
	ask := func(what string, look m) error {
		start := time.Now()
		err := v.post(ctx, base+"/tables/"+what, m{"at": at, "look": look}, &page)
		took = append(took, time.Since(start))
		return err
	}
	look := m{"order": []m{{"path": "opened", "desc": true}}}
	switch r.IntN(3) {
	case 0:
		if err := ask("rows", look); err != nil {
			return "open", took, err
		}
		return "open", took, ask("count", look)
	case 1:
		look["text"] = common
		return "search", took, ask("rows", look)
	}
	look["filter"] = []m{{"field": "lift", "op": "is", "value": m{"literal": m{"id": 1 + r.IntN(30000)}}}}
	if r.IntN(2) == 0 {
		look = m{"filter": look["filter"], "group": m{"path": "state"}}
		return "filter", took, ask("groups", look)
	}
	for range 2 {
		if err := ask("rows", look); err != nil || page.Next == "" {
			return "filter", took, err
		}
		look["after"] = page.Next
	}
	return "filter", took, nil
}
