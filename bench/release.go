package main

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"sync"
	"sync/atomic"
	"time"

	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/demo"
)

// whileReleased measures how long anybody waits who reads or writes service calls while a release
// lets no two of them have one value and gives another field a new key.
func whileReleased(ctx context.Context, db *postgres.DB) ([]result, error) {
	var bo int64
	if err := db.GetContext(ctx, &bo, `SELECT id FROM plainpath.person WHERE email LIKE 'bo@%'`); err != nil {
		return nil, err
	}
	change := func(ops ...definition.Op) error {
		d, err := documents.Document(ctx, db, demo.App, "object", "service_call")
		if err != nil {
			return err
		}
		_, err = drafts.Apply(ctx, db, documents.Edit{App: demo.App, Kind: d.Kind, Key: d.Key, Person: bo,
			Change: edit.Change{Base: d.Revision, Patch: edit.Patch(ops)}})
		return err
	}
	release := func() (previewed time.Duration, err error) {
		start := time.Now()
		p, err := drafts.PreviewRelease(ctx, db, demo.App, 0)
		if err != nil {
			return 0, err
		}
		previewed = time.Since(start)
		_, err = drafts.Release(ctx, db, demo.App, bo, drafts.Releasing{Previewed: p.Version})
		return previewed, err
	}
	if err := change(definition.Op{Op: "add", Path: "/fields/0",
		Value: json.RawMessage(`{"key":"code","label":"Code","type":"text"}`)}); err != nil {
		return nil, err
	}
	if _, err := release(); err != nil {
		return nil, err
	}
	for _, sql := range []string{`SET session_replication_role = replica; UPDATE liftcare_production.service_call SET code = 'C' || id; SET session_replication_role = origin`, `VACUUM ANALYZE liftcare_production.service_call`} {
		if _, err := db.ExecContext(ctx, sql); err != nil {
			return nil, err
		}
	}
	if err := change(definition.Op{Op: "add", Path: "/fields/0/unique", Value: json.RawMessage(`true`)}); err != nil {
		return nil, err
	}
	if _, err := drafts.RenameField(ctx, db, demo.App, "service_call", "reported_by", "caller", bo); err != nil {
		return nil, err
	}

	db.SetMaxOpenConns(16)
	defer db.SetMaxOpenConns(4)
	v, stop, err := visit(ctx, db)
	if err != nil {
		return nil, err
	}
	defer stop()
	_, at := v.at()
	working, leave := context.WithCancel(ctx)
	var people sync.WaitGroup
	var longest, done, failed atomic.Int64
	work := func(one func() error) {
		for working.Err() == nil {
			start := time.Now()
			if err := one(); err != nil {
				failed.Add(1)
			}
			done.Add(1)
			took := int64(time.Since(start))
			for was := longest.Load(); took > was && !longest.CompareAndSwap(was, took); was = longest.Load() {
				continue
			}
			time.Sleep(5 * time.Millisecond)
		}
	}
	for range 16 {
		people.Go(func() {
			work(func() error {
				return v.post(ctx, "/use/tables/rows",
					m{"at": at, "look": m{"order": []m{{"path": "opened", "desc": true}}}}, &struct{}{})
			})
		})
	}
	for range 4 {
		people.Go(func() {
			work(func() error {
				_, err := db.ExecContext(ctx,
					`UPDATE liftcare_production.service_call SET due = current_date WHERE id = $1`,
					1000+rand.IntN(calls-1000))
				return err
			})
		})
	}
	time.Sleep(2 * time.Second)
	before := time.Duration(longest.Swap(0))
	start := time.Now()
	previewed, err := release()
	took := time.Since(start)
	leave()
	people.Wait()
	if err != nil {
		return nil, err
	}
	return []result{{"The longest wait of 16 who read and 4 who write while a release makes a text of each record unique and renames a reference", time.Duration(longest.Load()), before, "the longest without it", "≤ 1 s",
		fmt.Sprintf("%d records; the release took %s, its preview %s of that; %d answers, %d of them errors", calls,
			show(took), show(previewed), done.Load(), failed.Load())}}, nil
}
