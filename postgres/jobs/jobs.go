// Package jobs carries out the work in the background of one server.
package jobs

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"

	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/imports"
	"plainpath/postgres/repository"
	"plainpath/postgres/schema"
)

// jobWorkers is how many jobs one server works on at a time. Each holds a lock and a
// transaction, reads its files and tells how far it is, on connections of their own, so that
// nobody waits for it and it waits for nobody.
const (
	jobWorkers     = 2
	JobConnections = 8 * jobWorkers // half of them can write
)

// Jobs is the work in the background of one server. Any server takes up what any other
// has put into the queue.
type Jobs struct {
	client *river.Client[pgx.Tx]
	pool   *pgxpool.Pool
	db     *postgres.DB
}

// Work begins to carry out jobs. Stop it when done.
func Work(ctx context.Context, db *postgres.DB, log *slog.Logger) (*Jobs, error) {
	pool, err := db.JobPool(ctx)
	if err != nil {
		return nil, err
	}
	waiting := db
	if db, err = db.Reopen(ctx, JobConnections); err != nil {
		pool.Close()
		return nil, err
	}
	db.Now = func() time.Time { return waiting.Now() }
	db.MostAtOnce, db.Made, db.Keep = waiting.MostAtOnce, waiting.Made, waiting.Keep
	workers := river.NewWorkers()
	editions := documents.NewEditions(db)
	river.AddWorker(workers, &imports.IntakeWorker{Intakes: &imports.Intakes{DB: db, Editions: editions}})
	river.AddWorker(workers, &unheldWorker{db: db})
	river.AddWorker(workers, &repository.ProfileWorker{Repositories: &repository.Repositories{DB: db,
		Editions: editions}})
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{Schema: postgres.JobSchema, Workers: workers,
		Logger: slog.New(notStopping{log.Handler()}), ErrorHandler: told{log},
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: jobWorkers}}, JobTimeout: -1,
		RescueStuckJobsAfter: 24 * time.Hour, // what a killed server left behind is found by its silence instead
		PeriodicJobs: []*river.PeriodicJob{river.NewPeriodicJob(river.PeriodicInterval(postgres.AbandonedAfter),
			func() (river.JobArgs, *river.InsertOpts) { return abandonedArgs{}, nil },
			&river.PeriodicJobOpts{RunOnStart: true}),
			river.NewPeriodicJob(river.PeriodicInterval(unheldEvery),
				func() (river.JobArgs, *river.InsertOpts) { return unheldArgs{}, nil }, nil)},
	})
	if err == nil {
		river.AddWorker(workers, &abandonedWorker{db: db, editions: editions, client: client})
		err = client.Start(context.WithoutCancel(ctx)) // until it is stopped, in order
	}
	if err != nil {
		pool.Close()
		_ = db.Close()
		return nil, fmt.Errorf("beginning to work on the queue: %w", err)
	}
	return &Jobs{client, pool, db}, nil
}

// notStopping leaves out what is said because the work is being stopped.
type notStopping struct{ slog.Handler }

func (h notStopping) Handle(ctx context.Context, r slog.Record) error {
	stopped := false
	r.Attrs(func(a slog.Attr) bool {
		stopped = stopped || strings.Contains(a.Value.String(), context.Canceled.Error())
		return !stopped
	})
	if stopped {
		return nil
	}
	return h.Handler.Handle(ctx, r) //nolint:wrapcheck // it stands for the handler
}

// told logs why work in the background failed.
type told struct{ log *slog.Logger }

func (t told) HandleError(ctx context.Context, job *rivertype.JobRow, err error) *river.ErrorHandlerResult {
	if ctx.Err() == nil && !errors.Is(err, context.Canceled) {
		t.log.Error("work in the background failed", "kind", job.Kind, "job", job.ID, "attempt", job.Attempt, "error",
			err)
	}
	return nil
}

func (t told) HandlePanic(_ context.Context, job *rivertype.JobRow, panicked any,
	trace string) *river.ErrorHandlerResult {
	t.log.Error("work in the background failed", "kind", job.Kind, "job", job.ID, "attempt", job.Attempt, "error",
		panicked, "trace", trace)
	return nil
}

// Stop lets jobs under way come to a point where they can be taken up again.
func (j *Jobs) Stop(ctx context.Context) error {
	err := j.client.StopAndCancel(ctx)
	j.pool.Close()
	if err := errors.Join(err, j.db.Close()); err != nil {
		return fmt.Errorf("stopping the work on the queue: %w", err)
	}
	return nil
}

type abandonedArgs struct{}

func (abandonedArgs) Kind() string { return "abandoned" }

// abandonedWorker queues again what a server that was killed had begun, and removes
// what was left.
type abandonedWorker struct {
	river.WorkerDefaults[abandonedArgs]
	db       *postgres.DB
	editions *documents.Editions
	client   *river.Client[pgx.Tx]
}

func (w *abandonedWorker) Work(ctx context.Context, _ *river.Job[abandonedArgs]) error {
	var silent []struct {
		ID    int64  `db:"id"`
		State string `db:"state"`
	}
	err := w.db.SelectContext(ctx, &silent, `UPDATE plainpath.intake SET changed_at = now() WHERE state IN ('analysing', 'checking', 'importing')
		AND changed_at < now() - $1::interval RETURNING id, state`, fmt.Sprintf("%d seconds", int(postgres.AbandonedAfter.Seconds())))
	if err != nil {
		return fmt.Errorf("looking for abandoned work: %w", err)
	}
	for _, s := range silent {
		if _, err := w.client.Insert(ctx, imports.IntakeArgs{ID: s.ID}, nil); err != nil {
			return fmt.Errorf("taking up abandoned work: %w", err)
		}
	}
	return errors.Join(DropExpired(ctx, w.db), schema.DropLeftReady(ctx, w.db), schema.MakeIndexes(ctx, w.editions))
}
