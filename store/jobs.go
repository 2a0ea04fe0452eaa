package store

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
	"github.com/riverqueue/river/rivermigrate"
	"github.com/riverqueue/river/rivertype"
)

// jobSchema is where the queue of work in the background is kept.
const jobSchema = "plainpath"

// jobWorkers is how many jobs one server works on at a time. Each holds a lock and a
// transaction, reads its files and tells how far it is, on connections of their own, so that
// nobody waits for it and it waits for nobody.
const (
	jobWorkers     = 2
	jobConnections = 8 * jobWorkers // half of them can write
)

// Jobs is the work in the background of one server. Any server takes up what any other
// has put into the queue.
type Jobs struct {
	client *river.Client[pgx.Tx]
	pool   *pgxpool.Pool
	db     *DB
}

func (db *DB) jobPool(ctx context.Context) (*pgxpool.Pool, error) {
	config, err := pgxpool.ParseConfig(db.address)
	if err != nil {
		return nil, fmt.Errorf("preparing the queue: %w", err)
	}
	config.MaxConns = 4
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("preparing the queue: %w", err)
	}
	return pool, nil
}

func (db *DB) migrateJobs(ctx context.Context) error {
	pool, err := db.jobPool(ctx)
	if err != nil {
		return err
	}
	defer pool.Close()
	m, err := rivermigrate.New(riverpgxv5.New(pool), &rivermigrate.Config{Schema: jobSchema, Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return fmt.Errorf("migrating the queue: %w", err)
	}
	// One server at a time: the others find it done.
	conn, err := pool.Acquire(ctx)
	if err != nil {
		return fmt.Errorf("migrating the queue: %w", err)
	}
	defer conn.Release()
	if _, err := conn.Exec(ctx, `SELECT pg_advisory_lock($1)`, queueLock); err != nil {
		return fmt.Errorf("migrating the queue: %w", err)
	}
	defer func() {
		_, _ = conn.Exec(context.WithoutCancel(ctx), `SELECT pg_advisory_unlock($1)`, queueLock)
	}()
	if _, err := m.Migrate(ctx, rivermigrate.DirectionUp, nil); err != nil {
		return fmt.Errorf("migrating the queue: %w", err)
	}
	return nil
}

// queueLock is the number of the lock under which the queue's tables are made.
const queueLock = 0x706c61696e

// Work begins to carry out jobs. Stop it when done.
func (db *DB) Work(ctx context.Context, log *slog.Logger) (*Jobs, error) {
	pool, err := db.jobPool(ctx)
	if err != nil {
		return nil, err
	}
	waiting := db
	if db, err = db.Reopen(ctx, jobConnections); err != nil {
		pool.Close()
		return nil, err
	}
	db.Now = func() time.Time { return waiting.Now() }
	db.MostAtOnce, db.made, db.Keep = waiting.MostAtOnce, waiting.made, waiting.Keep
	workers := river.NewWorkers()
	editions := NewEditions(db)
	river.AddWorker(workers, &intakeWorker{intakes: &Intakes{DB: db, Editions: editions}})
	river.AddWorker(workers, &unheldWorker{db: db})
	river.AddWorker(workers, &profileWorker{desks: &Desks{db, editions}})
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{Schema: jobSchema, Workers: workers, Logger: slog.New(notStopping{log.Handler()}), ErrorHandler: told{log},
		Queues: map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: jobWorkers}}, JobTimeout: -1,
		RescueStuckJobsAfter: 24 * time.Hour, // what a killed server left behind is found by its silence instead
		PeriodicJobs: []*river.PeriodicJob{river.NewPeriodicJob(river.PeriodicInterval(abandonedAfter), func() (river.JobArgs, *river.InsertOpts) { return abandonedArgs{}, nil }, &river.PeriodicJobOpts{RunOnStart: true}),
			river.NewPeriodicJob(river.PeriodicInterval(unheldEvery), func() (river.JobArgs, *river.InsertOpts) { return unheldArgs{}, nil }, nil)},
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
		t.log.Error("work in the background failed", "kind", job.Kind, "job", job.ID, "attempt", job.Attempt, "error", err)
	}
	return nil
}

func (t told) HandlePanic(_ context.Context, job *rivertype.JobRow, panicked any, trace string) *river.ErrorHandlerResult {
	t.log.Error("work in the background failed", "kind", job.Kind, "job", job.ID, "attempt", job.Attempt, "error", panicked, "trace", trace)
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

// abandonedAfter is how long a job may be silent before another server takes it up.
const abandonedAfter = time.Minute

type abandonedArgs struct{}

func (abandonedArgs) Kind() string { return "abandoned" }

// abandonedWorker queues again what a server that was killed had begun, and removes
// what was left.
type abandonedWorker struct {
	river.WorkerDefaults[abandonedArgs]
	db       *DB
	editions *Editions
	client   *river.Client[pgx.Tx]
}

func (w *abandonedWorker) Work(ctx context.Context, _ *river.Job[abandonedArgs]) error {
	var silent []struct {
		ID    int64  `db:"id"`
		State string `db:"state"`
	}
	err := w.db.SelectContext(ctx, &silent, `UPDATE plainpath.intake SET changed_at = now() WHERE state IN ('analysing', 'checking', 'importing')
		AND changed_at < now() - $1::interval RETURNING id, state`, fmt.Sprintf("%d seconds", int(abandonedAfter.Seconds())))
	if err != nil {
		return fmt.Errorf("looking for abandoned work: %w", err)
	}
	for _, s := range silent {
		if _, err := w.client.Insert(ctx, intakeArgs{s.ID}, nil); err != nil {
			return fmt.Errorf("taking up abandoned work: %w", err)
		}
	}
	return errors.Join(w.db.DropExpired(ctx), w.db.DropLeftReady(ctx), w.editions.MakeIndexes(ctx))
}
