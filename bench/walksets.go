package main

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/runs"

	"github.com/google/uuid"
	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/demo"
)

// walkSets changes 50,000 records in a walkthrough, and adds as many, against one statement with the same
// history.
func walkSets(ctx context.Context, db *postgres.DB, person int64) ([]result, error) {
	const found = `{"key":"found","kind":"search","search":{"object":"service_call","where":{"all":[{"field":"state","op":"is","value":{"literal":"reported"}},{"field":"number","op":"between","value":{"literal":651},"to":{"literal":400600}}]}}},`
	const which = `state = 'reported' AND number BETWEEN 651 AND 400600`
	runs := &runs.Runs{DB: db, Editions: documents.NewEditions(db)}
	sets := []struct {
		key, work, steps, hand, back string
		written                      string
	}{
		{"sets_change", "Change 50,000 records in a walkthrough, history included",
			found + `{"key":"changed","kind":"change","change":{"of":"found","item":"each","values":[{"field":"state","value":{"literal":"done"}},{"field":"problem","value":{"expression":"each.problem + \"!\""}}]}},{"key":"done","kind":"finish","finish":{"message":"{size(changed)}"}}`,
			`UPDATE liftcare_production.service_call SET state = 'done', problem = problem || '!', revision = revision + 1, changed_at = now(), changed_by = $1 WHERE ` + which,
			`UPDATE liftcare_production.service_call SET state = 'reported', problem = rtrim(problem, '!') WHERE state = 'done' AND problem LIKE '%!'`,
			`SELECT count(*) FROM liftcare_production.service_call WHERE problem LIKE '%!'`},
		{"sets_add", "Add 50,000 records in a walkthrough, one for each of a search, history included",
			found + `{"key":"added","kind":"add","add":{"object":"visit","for_each":"found","item":"each","values":[{"field":"service_call","value":{"expression":"each"}},{"field":"lift","value":{"expression":"each.lift"}},{"field":"engineer","value":{"literal":{"id":1}}},{"field":"starts","value":{"expression":"now"}},{"field":"minutes","value":{"literal":60}},{"field":"notes","value":{"expression":"each.problem + \"!\""}}]}},{"key":"done","kind":"finish","finish":{"message":"{size(added)}"}}`,
			`INSERT INTO liftcare_production.visit (service_call, lift, engineer, starts, minutes, notes, created_by, changed_by) SELECT id, lift, 1, now(), 60, problem || '!', $1, $1 FROM liftcare_production.service_call WHERE ` + which + ` ORDER BY id`,
			`DELETE FROM liftcare_production.visit WHERE notes LIKE '%!'`,
			`SELECT count(*) FROM liftcare_production.visit WHERE notes LIKE '%!'`},
		{"sets_repeat",
			"Repeat for each of 50,000 records, with a branch inside, a change of what refers to them, history included",
			found + `{"key":"each_of","kind":"repeat","repeat":{"for_each":"found","item":"each","steps":[{"key":"way","kind":"branch","branch":{"ways":[{"title":"Urgent","when":"each.priority == \"urgent\"","steps":[{"key":"soon","kind":"change","change":{"of":"each","their":{"object":"visit","field":"service_call"},"item":"its","values":[{"field":"notes","value":{"literal":"soon!"}},{"field":"minutes","value":{"expression":"its.minutes + 10"}}]}}]}],
				"otherwise":[{"key":"later","kind":"change","change":{"of":"each","their":{"object":"visit","field":"service_call"},"item":"its","values":[{"field":"notes","value":{"literal":"later!"}},{"field":"minutes","value":{"expression":"its.minutes + 5"}}]}}]}}]}},{"key":"done","kind":"finish","finish":{"message":"{size(soon)} {size(later)}"}}`,
			`UPDATE liftcare_production.visit v SET notes = CASE WHEN c.priority = 'urgent' THEN 'soon!' ELSE 'later!' END, minutes = v.minutes + CASE WHEN c.priority = 'urgent' THEN 10 ELSE 5 END, revision = v.revision + 1, changed_at = now(), changed_by = $1 FROM liftcare_production.service_call c WHERE c.id = v.service_call AND c.state = 'reported' AND c.number BETWEEN 651 AND 400600`,
			`UPDATE liftcare_production.visit SET notes = NULL WHERE notes LIKE '%!'`,
			`SELECT count(*) FROM liftcare_production.visit WHERE notes LIKE '%!'`},
	}
	if err := visitEach(ctx, db, which); err != nil {
		return nil, err
	}
	for _, s := range sets {
		body := json.RawMessage(fmt.Sprintf(`{"key":%q,"label":%q,"roles":["dispatcher"],"steps":[%s]}`, s.key, s.key,
			s.steps))
		if err := drafts.AddDocument(ctx, db, demo.App, person, definition.Document{Kind: definition.Walkthrough,
			Key: s.key, Body: body}); err != nil {
			return nil, err
		}
	}
	p, err := drafts.PreviewRelease(ctx, db, demo.App, 0)
	if err != nil {
		return nil, err
	}
	if _, err := drafts.Release(ctx, db, demo.App, person,
		drafts.Releasing{Previewed: p.Version, Note: "Sets"}); err != nil {
		return nil, err
	}
	var out []result
	for _, s := range sets {
		ours := func() error {
			_, err := runs.Start(ctx, demo.App, s.key, nil, person, uuid.NewString())
			return err
		}
		hand := func() error {
			return sqlxTx(ctx, db, func(tx *sqlx.Tx) error {
				if _, err := tx.ExecContext(ctx, `SELECT set_config('plainpath.person', $1, true)`,
					fmt.Sprint(person)); err != nil {
					return err
				}
				_, err := tx.ExecContext(ctx, s.hand, person)
				return err
			})
		}
		back := func() error {
			_, err := db.ExecContext(ctx,
				`SET session_replication_role = replica; `+s.back+`; SET session_replication_role = origin`)
			return err
		}
		var a, z []time.Duration
		written, most := 0, uint64(0)
		for range 5 {
			for _, side := range []struct {
				work func() error
				took *[]time.Duration
			}{{ours, &a}, {hand, &z}} {
				memory := watch(ctx)
				start := time.Now()
				err := side.work()
				*side.took = append(*side.took, time.Since(start))
				if held := memory.most(); side.took == &a {
					most = max(most, held)
				}
				if err != nil {
					return nil, err
				}
				if err := db.GetContext(ctx, &written, s.written); err != nil {
					return nil, err
				}
				if err := back(); err != nil {
					return nil, err
				}
			}
		}
		out = append(out, result{work: s.work, ours: median(a), byOne: median(z),
			against: "one statement with the same history", atMost: "≤ 1.3 ×, ≤ 50 MB",
			note: fmt.Sprintf("%d records; at most %d MB of memory beyond what the benchmark itself holds", written, most)})
	}
	return out, nil
}

// visitEach gives each of some calls a visit.
func visitEach(ctx context.Context, db *postgres.DB, which string) error {
	_, err := db.ExecContext(ctx, `SET session_replication_role = replica;
		INSERT INTO liftcare_production.visit (service_call, lift, engineer, starts, minutes, created_by, changed_by)
			SELECT id, lift, 1, now(), 60, 1, 1 FROM liftcare_production.service_call WHERE `+which+`;
		SET session_replication_role = origin; ANALYZE liftcare_production.visit`)
	if err != nil {
		return fmt.Errorf("adding visits: %w", err)
	}
	return nil
}
