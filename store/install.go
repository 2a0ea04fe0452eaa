package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
	"golang.org/x/sync/semaphore"

	"plainpath/core/definition"
	"plainpath/core/records"
)

// InstallApp brings a whole app in: its documents, a trial and a production space, and
// a first release of what was brought.
func (db *DB) InstallApp(ctx context.Context, app string, docs []definition.Document, person int64) error {
	e, err := db.made.compile(ctx, docs)
	if err != nil {
		return err
	}
	err = db.evolve(ctx, func(tx *sqlx.Tx) error {
		for _, d := range docs {
			if _, err := tx.ExecContext(ctx, `INSERT INTO plainpath.document (app, kind, key, body) VALUES ($1, $2, $3, $4)`, app, d.Kind, d.Key, d.Body); err != nil {
				return fmt.Errorf("adding %s: %w", d.Name(), err)
			}
		}
		for _, space := range []string{Trial, Production} {
			schema := app + "_" + space
			if _, err := tx.ExecContext(ctx, `INSERT INTO plainpath.space (app, key, schema) VALUES ($1, $2, $3)`, app, space, schema); err != nil {
				return fmt.Errorf("adding the space %s: %w", space, err)
			}
			if err := db.converge(ctx, tx, schema, e); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil {
		return err
	}
	p, err := db.Preview(ctx, app, 0)
	if err != nil {
		return err
	}
	_, err = db.Release(ctx, app, person, 0, p.Version, "First release")
	return err
}

// Desk reads records under a person's grants and adds records.
type Desk interface {
	records.Reader
	Add(ctx context.Context, step string, a records.Addition) ([]int64, error)
}

// Desk gives a person's desk in a space of the draft.
func (db *DB) Desk(ctx context.Context, app, space string, person int64) (Desk, error) {
	w, err := db.draftWhere(ctx, Place{App: app, Space: space, Person: person})
	if err != nil {
		return nil, err
	}
	return newDesk(db, w), nil
}

func (db *DB) draftWhere(ctx context.Context, p Place) (Where, error) {
	docs, err := db.Documents(ctx, p.App)
	if err != nil {
		return Where{}, err
	}
	e, err := db.made.compile(ctx, docs)
	if err != nil {
		return Where{}, err
	}
	return db.where(ctx, p, e)
}

// Seeding is a space being filled.
type Seeding struct {
	Desk
	Now  time.Time
	desk *desk
}

// Add writes records; nobody's rights are asked for.
func (s Seeding) Add(ctx context.Context, step string, a records.Addition) ([]int64, error) {
	return s.desk.Insert(ctx, step, a)
}

// File keeps a file that the records of the space can hold.
func (s Seeding) File(ctx context.Context, name string, body []byte) (int64, error) {
	f := FileView{Name: name, Size: int64(len(body))}
	err := sqlx.GetContext(ctx, s.desk.db, &f.ID, `INSERT INTO plainpath.file (app, name, size, added_by) SELECT s.app, $1, $2, $3 FROM plainpath.space s WHERE s.schema = $4 RETURNING id`,
		name, f.Size, s.desk.where.Person.ID, s.desk.Schema)
	if err != nil {
		return 0, fmt.Errorf("keeping %s: %w", name, err)
	}
	for n := 0; n*PartSize < len(body); n++ {
		piece := body[n*PartSize : min(len(body), (n+1)*PartSize)]
		if _, err := s.desk.db.ExecContext(ctx, `INSERT INTO plainpath.file_part (file, number, body) VALUES ($1, $2, $3)`, f.ID, n, piece); err != nil {
			return 0, fmt.Errorf("keeping %s: %w", name, err)
		}
	}
	return f.ID, finish(ctx, s.desk.db, semaphore.NewWeighted(1), &f)
}

// Seed fills a space in one transaction; adding asks for no rights. It is for demos
// and tests.
func (db *DB) Seed(ctx context.Context, app, space string, person int64, fill func(Seeding) error) error {
	w, err := db.draftWhere(ctx, Place{App: app, Space: space, Person: person})
	if err != nil {
		return err
	}
	err = db.in(ctx, func(tx *sqlx.Tx) error {
		d := newDesk(tx, w)
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
