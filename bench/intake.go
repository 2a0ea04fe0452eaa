package main

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"log/slog"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/stdlib"

	"plainpath/core/intake"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/imports"
	"plainpath/postgres/jobs"
)

// readings is how many rows are brought in.
const readings = 1_000_000

// bringer brings files in as the builder does.
type bringer struct {
	ctx     context.Context
	db      *postgres.DB
	intakes *imports.Intakes
	place   postgres.Caller
}

// csvIn measures an import of a million rows, checked, against COPY of the same rows into a
// bare table: no history, no index, no check.
func csvIn(ctx context.Context, db *postgres.DB) ([]result, error) {
	jobs, err := jobs.Work(ctx, db, slog.New(slog.DiscardHandler))
	if err != nil {
		return nil, err
	}
	defer func() { _ = jobs.Stop(ctx) }()
	b := bringer{ctx, db, &imports.Intakes{DB: db, Editions: documents.NewEditions(db)},
		postgres.Caller{App: demo.App, Space: postgres.Trial}}
	if err := db.Get(&b.place.Person, `SELECT id FROM plainpath.person WHERE email LIKE 'bo@%'`); err != nil {
		return nil, err
	}
	var file, copied bytes.Buffer
	file.WriteString("Reading no,Lift,Read on,Value,Kind,Minutes\n")
	var serials []string
	if err := db.Select(&serials, `SELECT serial_number FROM liftcare_trial.lift ORDER BY id`); err != nil {
		return nil, err
	}
	for i := range readings {
		day := time.Date(2020, 1, 1+i%2000, 0, 0, 0, 0, time.UTC).Format(time.DateOnly)
		kind := []string{"Trips", "Hours"}[i%2]
		fmt.Fprintf(&file, "M-%d,%s,%s,%d.%02d,%s,%d\n", i, serials[i%len(serials)], day, i%100_000, i%100, kind, i%977)
		fmt.Fprintf(&copied, "M-%d\t%d\t%s\t%d.%02d\t%s\t%d\n", i, 1+i%len(serials), day, i%100_000, i%100,
			strings.ToLower(kind), i%977)
	}
	id, err := b.send(file.Bytes())
	if err != nil {
		return nil, err
	}
	size := file.Len()
	file = bytes.Buffer{}
	memory := watch(ctx)
	defer memory.stop()
	looked := time.Now()
	if err := b.until(id, imports.Ready); err != nil {
		return nil, err
	}
	analysis := time.Since(looked)
	if err := b.try(id, true, imports.Checked); err != nil {
		return nil, err
	}
	var ours, bare []time.Duration
	for round := range 2 {
		start := time.Now()
		if err := b.try(id, false, imports.Imported); err != nil {
			return nil, err
		}
		ours = append(ours, time.Since(start))
		if round == 0 { // the object is there now
			if id, err = b.again(id); err != nil {
				return nil, err
			}
		}
		took, err := b.bareCopy(copied.Bytes())
		if err != nil {
			return nil, err
		}
		bare = append(bare, took)
		if round < 1 {
			if err := b.empty(id); err != nil {
				return nil, err
			}
		}
	}
	note := fmt.Sprintf("%d MB; looking at every cell before took %.1f s; at most %d MB of memory beyond what the benchmark itself holds",
		size>>20, analysis.Seconds(), memory.most())
	return []result{{work: "CSV in, 1,000,000 rows, checked", ours: median(ours), byOne: median(bare),
		against: "COPY into a bare table", atMost: "≤ 6 ×, under 150 MB", note: note}}, nil
}

func (b *bringer) send(content []byte) (int64, error) {
	in, err := b.intakes.Begin(b.ctx, b.place, []imports.UploadFile{{Name: "readings.csv", Size: int64(len(content))}})
	if err != nil {
		return 0, err
	}
	for n := 0; n*postgres.PartSize < len(content); n++ {
		part := content[n*postgres.PartSize : min((n+1)*postgres.PartSize, len(content))]
		if _, err := b.intakes.Part(b.ctx, b.place, in.ID, 0, n, part); err != nil {
			return 0, err
		}
	}
	return in.ID, nil
}

func (b *bringer) until(id int64, state imports.IntakeState) error {
	for {
		in, err := b.intakes.Show(b.ctx, b.place, id)
		if err != nil || in.State == state {
			return err
		}
		if in.Failure != "" {
			return fmt.Errorf("the intake is %s: %s", in.State, in.Failure)
		}
		time.Sleep(20 * time.Millisecond)
	}
}

func (b *bringer) try(id int64, dry bool, state imports.IntakeState) error {
	if _, err := b.intakes.Try(b.ctx, b.place, id, dry); err != nil {
		return err
	}
	if err := b.until(id, state); err != nil {
		return err
	}
	in, err := b.intakes.Show(b.ctx, b.place, id)
	if err == nil && in.Result.Sheets[0].Added != readings {
		err = fmt.Errorf("%d rows were added", in.Result.Sheets[0].Added)
	}
	return err
}

// again plans the same file into the object it made.
func (b *bringer) again(id int64) (int64, error) {
	_, err := b.db.ExecContext(b.ctx,
		`UPDATE plainpath.intake SET state = 'checked', plan = jsonb_set(jsonb_set(plan, '{sheets,0,new}', 'false'), '{sheets,0,mode}', '"add"') WHERE id = $1`, id)
	if err != nil {
		return id, err
	}
	in, err := b.intakes.Show(b.ctx, b.place, id)
	if err != nil {
		return id, err
	}
	plan := *in.Plan
	plan.Sheets[0].Mode = intake.ModeAdd
	for i := range plan.Sheets[0].Columns {
		plan.Sheets[0].Columns[i].New = false
	}
	_, err = b.intakes.SetPlan(b.ctx, b.place, id, plan)
	return id, err
}

// empty throws the rows away and lets the import run once more.
func (b *bringer) empty(id int64) error {
	if _, err := b.db.ExecContext(b.ctx, `TRUNCATE liftcare_trial.reading, liftcare_trial.history`); err != nil {
		return err
	}
	_, err := b.db.ExecContext(b.ctx, `UPDATE plainpath.intake SET state = 'checked' WHERE id = $1`, id)
	return err
}

// bareCopy times COPY of the clean rows into a table that has nothing but them.
func (b *bringer) bareCopy(rows []byte) (time.Duration, error) {
	if _, err := b.db.ExecContext(b.ctx, `TRUNCATE liftcare_trial.reading, liftcare_trial.history; DROP TABLE IF EXISTS bare;
		CREATE TABLE bare (reading_no text, lift bigint, read_on date, value numeric, kind text, minutes bigint)`); err != nil {
		return 0, err
	}
	conn, err := b.db.Connx(b.ctx)
	if err != nil {
		return 0, err
	}
	defer func() { _ = conn.Close() }()
	start := time.Now()
	err = conn.Raw(func(driver any) error {
		_, err := driver.(*stdlib.Conn).Conn().PgConn().CopyFrom(b.ctx, io.Reader(bytes.NewReader(rows)),
			`COPY bare FROM STDIN`)
		return err
	})
	return time.Since(start), err
}
