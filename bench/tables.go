package main

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/predicate"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/repository"
	"plainpath/postgres/runs"
	pgtables "plainpath/postgres/tables"
)

// groups counts a million calls by engineer, with the first and the last of each.
func (b *bench) groups() ([]result, error) {
	l := table.NewListing(b.m.Object("service_call"), nil, b.paths("service_call", "number"))
	look := table.Look{Group: &table.LookGroup{Path: "engineer"},
		Totals: []table.LookTotal{{Path: "opened", Of: "least"}, {Path: "opened", Of: "greatest"},
			{Path: "lift.stops", Of: "sum"}}}
	ours := func() error {
		g, err := l.Groups(b.ctx, b.reader, look)
		if err == nil && (len(g.Groups) < 300 || g.Total < calls) {
			err = fmt.Errorf("%d groups of %d", len(g.Groups), g.Total)
		}
		return err
	}
	a, hand, err := pair(7, ours, b.byHand(300, `SELECT e.id, e.first_name || ' ' || e.last_name, count(*), min(c.opened), max(c.opened), sum(l.stops) FROM liftcare_production.service_call c
		LEFT JOIN liftcare_production.engineer e ON e.id = c.engineer JOIN liftcare_production.lift l ON l.id = c.lift GROUP BY e.id ORDER BY (e.first_name || ' ' || e.last_name) COLLATE "und-x-icu"`))
	return []result{{"Groups by a reference with counts and three totals, one of them across another reference", a,
		hand, "by hand", "≤ 1.15 ×", fmt.Sprintf("%d records", calls)}}, err
}

// setChange changes 50,000 chosen records by a button, against one UPDATE with the same
// history.
func setChange(ctx context.Context, db *postgres.DB, person int64) ([]result, error) {
	editions := documents.NewEditions(db)
	tables := &pgtables.Tables{Repositories: &repository.Repositories{DB: db, Editions: editions},
		Runs: &runs.Runs{DB: db, Editions: editions}}
	place := postgres.Caller{App: demo.App, Space: postgres.Production, Person: person}
	const which = `state = 'reported' AND number <= 400600 AND number > 650`
	back := func() error {
		_, err := db.ExecContext(ctx,
			`SET session_replication_role = replica; UPDATE liftcare_production.service_call SET state = 'reported' WHERE state = 'done' AND number <= 400600 AND number > 650 AND (number - 651) % 8 = 7; SET session_replication_role = origin`)
		return err
	}
	look := table.Look{Filter: []predicate.Condition{{Field: "state", Op: predicate.Is,
		Value: &predicate.Operand{Literal: json.RawMessage(`"reported"`)}},
		{Field: "number", Op: predicate.Between, Value: &predicate.Operand{Literal: json.RawMessage(`651`)},
			To: &predicate.Operand{Literal: json.RawMessage(`400600`)}}}}
	var changed int64
	ours := func() error {
		p, err := tables.Press(ctx, place, pgtables.TableAt{Page: &pgtables.PageTable{Page: "calls", Part: "calls"}},
			"done", table.Chosen{All: &look}, nil, false)
		changed = p.Changed
		return err
	}
	hand := func() error {
		return sqlxTx(ctx, db, func(tx *sqlx.Tx) error {
			if _, err := tx.ExecContext(ctx, `SELECT set_config('plainpath.person', $1, true)`,
				fmt.Sprint(person)); err != nil {
				return err
			}
			_, err := tx.ExecContext(ctx,
				`UPDATE liftcare_production.service_call SET state = 'done', revision = revision + 1, changed_at = now(), changed_by = $1 WHERE `+which, person)
			return err
		})
	}
	var a, z []time.Duration
	for range 3 {
		for _, side := range []struct {
			work func() error
			took *[]time.Duration
		}{{ours, &a}, {hand, &z}} {
			start := time.Now()
			if err := side.work(); err != nil {
				return nil, err
			}
			*side.took = append(*side.took, time.Since(start))
			if err := back(); err != nil {
				return nil, err
			}
		}
	}
	return []result{{work: "Change 50,000 chosen records by a button, history included", ours: median(a),
		byOne: median(z), against: "one UPDATE with the same history", atMost: "≤ 1.5 ×",
		note: fmt.Sprintf("%d records", changed)}}, nil
}

func sqlxTx(ctx context.Context, db *postgres.DB, work func(*sqlx.Tx) error) error {
	tx, err := db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	if err := work(tx); err != nil {
		_ = tx.Rollback()
		return err
	}
	return tx.Commit()
}

// narrow gives the dispatchers a row rule and makes a release of it.
func narrow(ctx context.Context, db *postgres.DB, person int64) error {
	patch := []byte(`[{"op":"add","path":"/objects/service_call/rows","value":{"field":"lift.building.town","op":"is_not","value":{"literal":"Nowhere"}}}]`)
	e := documents.Edit{App: demo.App, Kind: definition.Role, Key: "dispatcher", Person: person,
		Change: edit.Change{Base: 1}}
	if err := json.Unmarshal(patch, &e.Patch); err != nil {
		return err
	}
	if _, err := drafts.Apply(ctx, db, e); err != nil {
		return err
	}
	p, err := drafts.PreviewRelease(ctx, db, demo.App, 0)
	if err != nil {
		return err
	}
	_, err = drafts.Release(ctx, db, demo.App, person, drafts.Releasing{Previewed: p.Version, Note: "A row rule"})
	return err
}

// event measures choosing a row on a page of six parts against the statements it sends.
func event(ctx context.Context, address string, person int64) ([]result, error) {
	db, t, err := traced(address)
	if err != nil {
		return nil, err
	}
	defer func() { _ = db.Close() }()
	body := json.RawMessage(`{"key":"six","label":"Six","roles":["dispatcher"],"searches":[
		{"key":"houses_found","label":"H","search":{"object":"building","where":{"field":"name","op":"contains","value":{"expression":"words"},"empty":"skip"},"order":[{"path":"name"}]}},
		{"key":"lifts_found","label":"L","search":{"object":"lift","where":{"field":"building","op":"is","value":{"expression":"houses.selected"}},"order":[{"path":"serial_number"}]}},
		{"key":"calls_found","label":"C","search":{"object":"service_call","where":{"field":"lift.building","op":"is","value":{"expression":"houses.selected"}},"order":[{"path":"opened","desc":true}]}}],
		"bands":[{"columns":[{"parts":[{"key":"words","kind":"input","label":"Words","input":{"type":"text"}},
		{"key":"houses","kind":"table","label":"Houses","table":{"source":"houses_found","select":"one","columns":[{"path":"name"},{"path":"customer"}]}},
		{"key":"house","kind":"details","label":"House","details":{"source":"houses.selected","fields":[{"path":"name"},{"path":"town"},{"path":"customer"}]}},
		{"key":"says","kind":"text","text":"{houses.selected.name} of {houses.selected.customer.name}"},
		{"key":"lifts","kind":"table","label":"Lifts","table":{"source":"lifts_found","select":"one","columns":[{"path":"serial_number"},{"path":"state"}]}},
		{"key":"calls","kind":"table","label":"Calls","table":{"source":"calls_found","select":"none","columns":[{"path":"number"},{"path":"problem"},{"path":"lift"},{"path":"opened"}]}}]}]}]}`)
	if err := drafts.AddDocument(ctx, db, demo.App, person, definition.Document{Kind: definition.Page, Key: "six",
		Body: body}); err != nil {
		return nil, err
	}
	p, err := drafts.PreviewRelease(ctx, db, demo.App, 0)
	if err != nil {
		return nil, err
	}
	if _, err := drafts.Release(ctx, db, demo.App, person,
		drafts.Releasing{Previewed: p.Version, Note: "Six parts"}); err != nil {
		return nil, err
	}
	editions := documents.NewEditions(db)
	tables := &pgtables.Tables{Repositories: &repository.Repositories{DB: db, Editions: editions},
		Runs: &runs.Runs{DB: db, Editions: editions}}
	place := postgres.Caller{App: demo.App, Space: postgres.Production, Person: person}
	given := screen.Given{Answers: screen.Answers{"houses": json.RawMessage(`{"id":5000}`)}}
	ours := func() error {
		_, err := tables.Page(ctx, place, "six", given, []string{"houses"})
		return err
	}
	if err := ours(); err != nil { // compiled once
		return nil, err
	}
	t.on = true
	if err := ours(); err != nil {
		return nil, err
	}
	t.on = false
	bare, err := pgx.Connect(ctx, address)
	if err != nil {
		return nil, err
	}
	defer func() { _ = bare.Close(ctx) }()
	a, z, err := pair(40, ours, t.replay(ctx, bare))
	return []result{{"An event on a page with six parts (a row chosen, four of them shown anew)", a, z,
		fmt.Sprintf("its %d statements sent bare", len(t.sent)), "< 3 ×", ""}}, err
}
