package main

import (
	"context"
	"fmt"
	"io"
	"time"

	"plainpath/core/query"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/documents"
	"plainpath/postgres/exports"
	"plainpath/postgres/repository"
	"plainpath/postgres/runs"
	pgtables "plainpath/postgres/tables"
)

// sizes are the numbers of service calls at which the same work is done.
var sizes = []int{1_000, 10_000, 100_000, calls}

// growth is what the same work took with so many records stored.
type growth struct {
	size  int
	works []grownWork
}

type grownWork struct {
	name  string
	ofAll bool
	took  time.Duration
}

// growing is a piece of work; one of all asks for all records, the others for as much
// whatever is stored.
type growing struct {
	name  string
	ofAll bool
	work  func() error
}

// grow times work with the records of a world.
func (w *world) grow(ctx context.Context) (growth, error) {
	out := growth{size: w.size}
	works, err := w.growing(ctx)
	if err != nil {
		return out, err
	}
	for _, g := range works {
		var took []time.Duration
		rounds := 15
		if g.ofAll {
			rounds = 5
		}
		for i := range rounds {
			start := time.Now()
			if err := g.work(); err != nil {
				return out, fmt.Errorf("%s: %w", g.name, err)
			}
			if i >= 2 { // the first are for warming up
				took = append(took, time.Since(start))
			}
		}
		out.works = append(out.works, grownWork{g.name, g.ofAll, median(took)})
	}
	return out, nil
}

// growing prepares the work. It leaves the records as they are, but for their state.
func (w *world) growing(ctx context.Context) ([]growing, error) {
	var dana int64
	if err := w.db.GetContext(ctx, &dana, `SELECT id FROM plainpath.person WHERE email LIKE 'dana@%'`); err != nil {
		return nil, err
	}
	reader, err := apps.RecordsOf(ctx, w.db, demo.App, postgres.Production, dana)
	if err != nil {
		return nil, err
	}
	b := &bench{ctx, w.db, reader, reader.Model()}
	first := query.Query{Object: "service_call", Limit: 51, Columns: b.paths("service_call", "number", "problem",
		"state", "opened", "lift", "reported_by", "lift.building"),
		Where: b.where("service_call",
			`{"all":[{"field":"state","op":"is_not","value":{"literal":"cancelled"}},{"field":"lift.building.town","op":"one_of","values":[{"literal":"Quillmere"},{"literal":"Sandholt"}]}]}`),
		Order: []query.Order{{Path: b.paths("service_call", "opened")[0], Desc: true},
			{Path: b.paths("service_call", "number")[0]}}}
	far := first
	for range 5 {
		page, err := reader.Select(ctx, far)
		if err != nil {
			return nil, err
		}
		if far.After, err = page.After(49); err != nil {
			return nil, err
		}
	}
	words := query.Query{Object: "service_call", Limit: 51, Columns: first.Columns,
		Where: b.where("service_call", `{"field":"problem","op":"contains","value":{"literal":"abcde"}}`),
		Order: first.Order[:1]}
	candidates := query.Query{Object: "engineer", Limit: 21, Columns: b.paths("engineer", "first_name"),
		Where: b.where("engineer",
			`{"all":[{"field":"active","op":"is","value":{"literal":true}},{"related":{"object":"certificate","field":"engineer","where":{"field":"kind","op":"is","value":{"literal":"electrical"}}}}]}`)}
	editions := documents.NewEditions(w.db)
	tables := &pgtables.Tables{Repositories: &repository.Repositories{DB: w.db, Editions: editions},
		Runs: &runs.Runs{DB: w.db, Editions: editions}}
	place := postgres.Caller{App: demo.App, Space: postgres.Production, Person: dana}
	var keys []int64
	if err := w.db.SelectContext(ctx, &keys,
		`SELECT id FROM liftcare_production.service_call WHERE state = 'reported' AND problem LIKE 'Problem %' ORDER BY id LIMIT 100`); err != nil {
		return nil, err
	}
	change := func() error {
		p, err := tables.Press(ctx, place, pgtables.TableAt{Page: &pgtables.PageTable{Page: "calls", Part: "calls"}},
			"done", table.Chosen{Keys: keys}, nil, false)
		if err == nil && int(p.Changed) != len(keys) {
			err = fmt.Errorf("%d changed", p.Changed)
		}
		if err == nil {
			_, err = w.db.ExecContext(ctx,
				`UPDATE liftcare_production.service_call SET state = 'reported' WHERE id = ANY($1)`, keys)
		}
		return err
	}
	given := screen.Given{Answers: screen.Answers{"calls": fmt.Appendf(nil, `{"id":%d}`, keys[0])}}
	listing := table.NewListing(b.m.Object("service_call"), nil, b.paths("service_call", "number"))
	grouped := table.Look{Group: &table.LookGroup{Path: "state"},
		Totals: []table.LookTotal{{Path: "opened", Of: query.Least}, {Path: "lift.stops", Of: query.Sum}}}
	ask := exports.OutAsk{At: pgtables.TableAt{Object: "service_call"}, Format: "csv",
		Look: table.Look{Columns: []table.Column{{Path: "number"}, {Path: "problem"}, {Path: "opened"},
			{Path: "lift"}}}}
	return []growing{
		{"first 50 rows, two conditions, two orders", false, b.ours(first, 51)},
		{"the same five pages on", false, b.ours(far, 51)},
		{"“contains” in a text", false, b.ours(words, 0)},
		{"candidates by related records", false, b.ours(candidates, 1)},
		{"an event of a page with three parts", false, func() error {
			_, err := tables.Page(ctx, place, "calls", given, []string{"calls"})
			return err
		}},
		{"100 chosen records changed, and back", false, change},
		{"groups with totals over all", true, func() error {
			_, err := listing.Groups(ctx, reader, grouped)
			return err
		}},
		{"CSV of all", true, func() error {
			out, err := exports.AskOut(ctx, tables, place, ask)
			if err != nil {
				return err
			}
			_, write, err := exports.OpenOut(ctx, tables, place, out.ID)
			if err != nil {
				return err
			}
			return write(ctx, io.Discard)
		}},
	}, nil
}
