package imports

import (
	"context"
	"errors"
	"fmt"
	"io"
	"time"

	"github.com/riverqueue/river"

	"plainpath/core/edition"
	"plainpath/core/intake"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// parts reads a file of an intake from its pieces.
type parts struct {
	ctx    context.Context
	db     *postgres.DB
	intake int64
	file   int
	size   int64
}

func (p parts) Size() int64 { return p.size }

func (p parts) Reader() (io.ReadCloser, error) { return &partReader{parts: p}, nil }

type partReader struct {
	parts
	next int
	left []byte
}

func (r *partReader) Read(into []byte) (int, error) {
	for len(r.left) == 0 {
		if int64(r.next)*postgres.PartSize >= r.size {
			return 0, io.EOF
		}
		err := r.db.GetContext(r.ctx, &r.left,
			`SELECT data FROM plainpath.intake_part WHERE intake = $1 AND file = $2 AND part = $3`, r.intake, r.file,
			r.next)
		if err != nil {
			return 0, fmt.Errorf("reading a piece of the file: %w", err)
		}
		r.next++
	}
	n := copy(into, r.left)
	r.left = r.left[n:]
	return n, nil
}

func (r *partReader) Close() error { return nil }

func (s *Intakes) source(ctx context.Context, id int64, file int, size int64) intake.Source {
	return parts{ctx, s.DB, id, file, size}
}

// open opens a file of an intake as it was recognised.
func (s *Intakes) open(ctx context.Context, id int64, n int, f UploadFile) (*intake.File, error) {
	if f.Recognised == nil {
		return nil, fmt.Errorf("%s was not recognised", f.Name)
	}
	return intake.Reopen(*f.Recognised, s.source(ctx, id, n, f.Size))
}

// IntakeArgs is the work on an intake, in the queue.
type IntakeArgs struct {
	ID int64 `json:"id"`
}

// Kind names the work in the queue.
func (IntakeArgs) Kind() string { return "intake" }

// IntakeWorker does what an intake waits for.
type IntakeWorker struct {
	river.WorkerDefaults[IntakeArgs]
	Intakes *Intakes
}

// Work goes on with an intake from where it stands.
func (w *IntakeWorker) Work(ctx context.Context, job *river.Job[IntakeArgs]) error {
	return w.Intakes.work(ctx, job.Args.ID)
}

// lookAgainAfter is how soon a job looks whether the work before it on the same intake is done.
const lookAgainAfter = time.Second

// errStopped says that somebody stopped the work.
var errStopped = errors.New("stopped")

// work does what an intake waits for, once at a time.
func (s *Intakes) work(ctx context.Context, id int64) error {
	conn, err := s.DB.Connx(ctx)
	if err != nil {
		return fmt.Errorf("taking up intake %d: %w", id, err)
	}
	defer func() { _ = conn.Close() }()
	var mine bool
	if err := conn.GetContext(ctx, &mine, `SELECT pg_try_advisory_lock(7101, $1::integer)`, id); err != nil {
		return fmt.Errorf("taking up intake %d: %w", id, err)
	}
	if !mine { // whoever is at it, or is about to let go of it, leaves the next step to this job
		return river.JobSnooze(lookAgainAfter)
	}
	defer func() {
		_, _ = conn.ExecContext(context.WithoutCancel(ctx), `SELECT pg_advisory_unlock(7101, $1::integer)`, id)
	}()
	r, err := s.row(ctx, s.DB, id, "")
	if err != nil {
		return err
	}
	switch r.State {
	case Analysing:
		err = s.analyse(ctx, r)
	case Checking, Importing:
		err = s.run(ctx, r)
	}
	if err == nil || ctx.Err() != nil {
		return ctx.Err() // when this server stops, the work is taken up again
	}
	next, failure := Ready, err.Error()
	if errors.Is(err, errStopped) {
		failure = "It was stopped. Nothing of it was kept."
	}
	switch r.State {
	case Analysing:
		next = Failed
	case Importing:
		if err := s.unmake(ctx, r); err != nil { // somebody uses it by now
			failure += " The objects and fields that it made stay: " + err.Error()
		}
	}
	if _, err := s.DB.ExecContext(ctx,
		`UPDATE plainpath.intake SET state = $2, failure = $3, doing = '', changed_at = now() WHERE id = $1`, id, next,
		failure); err != nil {
		return fmt.Errorf("closing the work on intake %d: %w", id, err)
	}
	return nil
}

// progress tells how far the work is, and says when somebody stopped it.
func (s *Intakes) progress(ctx context.Context, id int64, doing string, done, total int64) error {
	var stop bool
	err := s.DB.GetContext(ctx, &stop,
		`UPDATE plainpath.intake SET doing = $2, done = $3, total = $4, changed_at = now() WHERE id = $1 RETURNING stop`, id, doing, done, total)
	if err != nil {
		return fmt.Errorf("telling the progress: %w", err)
	}
	if stop {
		return errStopped
	}
	return nil
}

func (s *Intakes) edition(ctx context.Context, r intakeRow) (*edition.Edition, error) {
	return (&repository.Repositories{DB: s.DB, Editions: s.Editions}).Edition(ctx, r.place())
}
