package repository

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/riverqueue/river"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// ProfileView is what is stored in an object.
type ProfileView struct {
	Records int64 `json:"records"`
	// At is when it was found out; empty when that is still under way for the first time.
	At     *time.Time     `json:"at,omitempty"`
	Fields []FieldProfile `json:"fields"`
	// Working says that it is being found out; Done fields of Of are.
	Working bool `json:"working,omitempty"`
	Done    int  `json:"done"`
	Of      int  `json:"of"`
}

// FieldProfile is what is stored in one field.
type FieldProfile struct {
	Field    string   `json:"field"`
	Filled   int64    `json:"filled"`
	Distinct int64    `json:"distinct"`
	Least    string   `json:"least,omitempty"`
	Greatest string   `json:"greatest,omitempty"`
	Samples  []string `json:"samples"`
}

// quickly is how many records an object may have to be looked at while somebody waits.
const quickly = 50_000

// Profile tells what is stored in an object. Large objects are looked at in the
// background; what was found last is given meanwhile. Fresh asks to look anew.
func (s *Repositories) Profile(ctx context.Context, p postgres.Caller, object string, fresh bool) (ProfileView, error) {
	d, o, err := s.Of(ctx, p, object)
	if err != nil {
		return ProfileView{}, err
	}
	n, err := records.Count(ctx, d, query.Query{Object: object})
	if err != nil {
		return ProfileView{}, err
	}
	if n <= quickly {
		now := s.DB.Now()
		out := ProfileView{Records: n, At: &now, Fields: []FieldProfile{}, Done: len(o.Fields), Of: len(o.Fields)}
		for i := range o.Fields {
			f, err := d.profile(ctx, o, &o.Fields[i])
			if err != nil {
				return out, err
			}
			out.Fields = append(out.Fields, f)
		}
		return out, nil
	}
	out, silent, err := lastProfile(ctx, s.DB, p, object)
	if err != nil {
		return out, err
	}
	out.Of = len(o.Fields)
	if out.At == nil && !out.Working || fresh && !out.Working || silent {
		err := s.DB.In(ctx, func(tx *sqlx.Tx) error {
			_, err := tx.ExecContext(ctx, `INSERT INTO plainpath.profile (app, space, object, person, working, records) VALUES ($1, $2, $3, $4, true, $5)
				ON CONFLICT (app, space, object, person) DO UPDATE SET working = true, done = 0, changed_at = now()`, p.App, p.Space, object, p.Person, n)
			if err != nil {
				return fmt.Errorf("beginning to look at %s: %w", o.Plural, err)
			}
			return s.DB.Outbox.Put(ctx, tx, profileArgs{p, object})
		})
		if err != nil {
			return out, err
		}
		out.Working, out.Records = true, n
	}
	return out, nil
}

// lastProfile is what was found last, and whether the work on it has fallen silent.
func lastProfile(ctx context.Context, db *postgres.DB, p postgres.Caller, object string) (ProfileView, bool, error) {
	out := ProfileView{Fields: []FieldProfile{}}
	var row struct {
		At        sql.NullTime `db:"at"`
		Records   int64        `db:"records"`
		Fields    []byte       `db:"fields"`
		Done      int          `db:"done"`
		Working   bool         `db:"working"`
		ChangedAt time.Time    `db:"changed_at"`
	}
	err := db.GetContext(ctx, &row,
		`SELECT at, records, fields, done, working, changed_at FROM plainpath.profile WHERE app = $1 AND space = $2 AND object = $3 AND person = $4`,
		p.App, p.Space, object, p.Person)
	if errors.Is(err, sql.ErrNoRows) {
		return out, false, nil
	}
	if err != nil {
		return out, false, fmt.Errorf("reading what is stored: %w", err)
	}
	if row.At.Valid {
		out.At = &row.At.Time
	}
	out.Records, out.Done, out.Working = row.Records, row.Done, row.Working
	if err := json.Unmarshal(row.Fields, &out.Fields); err != nil {
		return out, false, fmt.Errorf("reading what is stored: %w", err)
	}
	return out, row.Working && time.Since(row.ChangedAt) > postgres.AbandonedAfter, nil
}

func (d *Repository) profile(ctx context.Context, o *model.Object, f *model.Field) (FieldProfile, error) {
	out := FieldProfile{Field: f.Key, Samples: []string{}}
	s, err := sqlgen.Profile(d.Space(), o, f)
	if err != nil {
		return out, err
	}
	var row struct {
		Filled   int64          `db:"filled"`
		Distinct int64          `db:"distinct"`
		Least    sql.NullString `db:"least"`
		Greatest sql.NullString `db:"greatest"`
		Samples  []byte         `db:"samples"`
	}
	if err := get(ctx, d.Db, &row, s); err != nil {
		return out, fmt.Errorf("looking at %s: %w", f.Label, err)
	}
	out.Filled, out.Distinct, out.Least, out.Greatest = row.Filled, row.Distinct, row.Least.String, row.Greatest.String
	if err := json.Unmarshal(row.Samples, &out.Samples); err != nil {
		return out, fmt.Errorf("looking at %s: %w", f.Label, err)
	}
	return out, nil
}

type profileArgs struct {
	Place  postgres.Caller `json:"place"`
	Object string          `json:"object"`
}

// Kind names the work in the queue.
func (profileArgs) Kind() string { return "profile" }

// ProfileWorker looks at a large object field by field.
type ProfileWorker struct {
	river.WorkerDefaults[profileArgs]
	Repositories *Repositories
}

// Work looks at the fields of one object.
func (w *ProfileWorker) Work(ctx context.Context, job *river.Job[profileArgs]) error {
	p, object := job.Args.Place, job.Args.Object
	d, o, err := w.Repositories.Of(ctx, p, object)
	if err != nil {
		return err
	}
	n, err := records.Count(ctx, d, query.Query{Object: object})
	if err != nil {
		return err
	}
	fields := []FieldProfile{}
	for i := range o.Fields {
		f, err := d.profile(ctx, o, &o.Fields[i])
		if err != nil {
			return err
		}
		fields = append(fields, f)
		if _, err := w.Repositories.DB.ExecContext(ctx,
			`UPDATE plainpath.profile SET done = $5, changed_at = now() WHERE app = $1 AND space = $2 AND object = $3 AND person = $4`,
			p.App, p.Space, object, p.Person, i+1); err != nil {
			return fmt.Errorf("telling the progress: %w", err)
		}
	}
	raw, err := json.Marshal(fields)
	if err != nil {
		return fmt.Errorf("keeping what is stored: %w", err)
	}
	_, err = w.Repositories.DB.ExecContext(ctx,
		`UPDATE plainpath.profile SET at = now(), records = $5, fields = $6, working = false, changed_at = now() WHERE app = $1 AND space = $2 AND object = $3 AND person = $4`,
		p.App, p.Space, object, p.Person, n, raw)
	if err != nil {
		return fmt.Errorf("keeping what is stored: %w", err)
	}
	return nil
}
