// Package apps sets up, fills and examines apps.
package apps

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
	"golang.org/x/sync/semaphore"

	"plainpath/core/definition"
	"plainpath/core/records"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/files"
	"plainpath/postgres/repository"
	pgschema "plainpath/postgres/schema"
)

// InstallApp brings a whole app in: its documents, a trial and a production space, and
// a first release of what was brought.
func InstallApp(ctx context.Context, db *postgres.DB, app string, docs []definition.Document, person int64) error {
	e, err := db.Made.Compile(ctx, docs)
	if err != nil {
		return err
	}
	err = pgschema.Evolve(ctx, db, func(tx *sqlx.Tx) error {
		for _, d := range docs {
			if _, err := tx.ExecContext(ctx,
				`INSERT INTO plainpath.document (app, kind, key, body) VALUES ($1, $2, $3, $4)`, app, d.Kind, d.Key,
				d.Body); err != nil {
				return fmt.Errorf("adding %s: %w", d.Name(), err)
			}
		}
		for _, space := range []string{postgres.Trial, postgres.Production} {
			schema := app + "_" + space
			if _, err := tx.ExecContext(ctx, `INSERT INTO plainpath.space (app, key, schema) VALUES ($1, $2, $3)`, app,
				space, schema); err != nil {
				return fmt.Errorf("adding the space %s: %w", space, err)
			}
			if err := pgschema.Converge(ctx, db, tx, schema, e); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	p, err := drafts.PreviewRelease(ctx, db, app, 0)
	if err != nil {
		return err
	}
	_, err = drafts.Release(ctx, db, app, person, drafts.Releasing{Previewed: p.Version, Note: "First release"})
	return err
}

// Records reads records under a person's grants and adds records.
type Records interface {
	records.Reader
	Add(ctx context.Context, step string, a records.Addition) ([]int64, error)
}

// RecordsOf gives a person's records in a space of the draft.
func RecordsOf(ctx context.Context, db *postgres.DB, app, space string, person int64) (Records, error) {
	w, err := draftWhere(ctx, db, postgres.Caller{App: app, Space: space, Person: person})
	if err != nil {
		return nil, err
	}
	return repository.New(db, w), nil
}

func draftWhere(ctx context.Context, db *postgres.DB, p postgres.Caller) (repository.Where, error) {
	docs, err := documents.Documents(ctx, db, p.App)
	if err != nil {
		return repository.Where{}, err
	}
	e, err := db.Made.Compile(ctx, docs)
	if err != nil {
		return repository.Where{}, err
	}
	return repository.WhereOf(ctx, db, p, e)
}

// Seeding is a space being filled.
type Seeding struct {
	Records
	Now        time.Time
	repository *repository.Repository
}

// Add writes records; nobody's rights are asked for.
func (s Seeding) Add(ctx context.Context, step string, a records.Addition) ([]int64, error) {
	return s.repository.Insert(ctx, step, a)
}

// File keeps a file that the records of the space can hold.
func (s Seeding) File(ctx context.Context, name string, body []byte) (int64, error) {
	f := files.FileView{Name: name, Size: int64(len(body))}
	err := sqlx.GetContext(ctx, s.repository.Db, &f.ID,
		`INSERT INTO plainpath.file (app, name, size, added_by) SELECT s.app, $1, $2, $3 FROM plainpath.space s WHERE s.schema = $4 RETURNING id`,
		name, f.Size, s.repository.Where.Person.ID, s.repository.Schema)
	if err != nil {
		return 0, fmt.Errorf("keeping %s: %w", name, err)
	}
	for n := 0; n*postgres.PartSize < len(body); n++ {
		piece := body[n*postgres.PartSize : min(len(body), (n+1)*postgres.PartSize)]
		if _, err := s.repository.Db.ExecContext(ctx,
			`INSERT INTO plainpath.file_part (file, number, body) VALUES ($1, $2, $3)`, f.ID, n, piece); err != nil {
			return 0, fmt.Errorf("keeping %s: %w", name, err)
		}
	}
	return f.ID, files.Finish(ctx, s.repository.Db, semaphore.NewWeighted(1), &f)
}

// Seed fills a space in one transaction; adding asks for no rights. It is for demos
// and tests.
func Seed(ctx context.Context, db *postgres.DB, app, space string, person int64, fill func(Seeding) error) error {
	w, err := draftWhere(ctx, db, postgres.Caller{App: app, Space: space, Person: person})
	if err != nil {
		return err
	}
	err = db.In(ctx, func(tx *sqlx.Tx) error {
		d := repository.New(tx, w)
		return fill(Seeding{d, d.Now(), d})
	})
	if err != nil {
		return err
	}
	if _, err := db.ExecContext(ctx, "ANALYZE"); err != nil {
		return fmt.Errorf("gathering statistics: %w", err)
	}
	return nil
}
