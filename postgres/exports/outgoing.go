// Package exports takes tables out into files, row by row as the database gives them.
package exports

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"

	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/runs"
	"plainpath/postgres/sqlgen"
	"plainpath/postgres/tables"
)

// OutAsk asks for a table as a file.
type OutAsk struct {
	At   tables.TableAt `json:"at"`
	Look table.Look     `json:"look"`
	// Chosen are the rows wanted, nil for all that match.
	Chosen *table.Chosen `json:"chosen,omitempty"`
	// Format is csv or xlsx.
	Format string `json:"format"`
	Name   string `json:"name"`
}

// OutView says how far a file has come: asked, writing, done or failed.
type OutView struct {
	ID    string `db:"id" json:"id"`
	State string `db:"state" json:"state"`
	// Done is how many rows are written.
	Done int64 `db:"done" json:"done"`
}

// AskOut checks what is asked for and keeps it for the file to be fetched.
func AskOut(ctx context.Context, t *tables.Tables, p postgres.Caller, ask OutAsk) (OutView, error) {
	out := OutView{State: "asked"}
	if ask.Format != "csv" && ask.Format != "xlsx" {
		return out, &postgres.RejectedError{Text: fmt.Sprintf("There is no file of the kind %q; take csv or xlsx.",
			ask.Format)}
	}
	if utf8.RuneCountInString(ask.Name) > longestFileName {
		return out,
			&postgres.RejectedError{Text: fmt.Sprintf("The name of the file is longer than %d characters. Give it a shorter one.", longestFileName)}
	}
	if ask.At.Rehearsal != nil {
		return out,
			&postgres.RejectedError{Text: "The records of a rehearsal are put back, so they cannot be taken out."}
	}
	err := t.At(ctx, p, ask.At, func(found tables.ShownTable) error {
		_, _, err := texts(found, ask)
		return err
	})
	if err != nil {
		return out, err
	}
	raw, err := json.Marshal(ask)
	if err != nil {
		return out, fmt.Errorf("keeping what was asked for: %w", err)
	}
	err = t.Repositories.DB.GetContext(ctx, &out.ID,
		`INSERT INTO plainpath.outgoing (app, space, person, ask) VALUES ($1, $2, $3, $4) RETURNING id`, p.App, p.Space,
		p.Person, raw)
	if err != nil {
		return out, fmt.Errorf("keeping what was asked for: %w", err)
	}
	return out, nil
}

// Outgoing says how far a person's file has come.
func Outgoing(ctx context.Context, t *tables.Tables, p postgres.Caller, id string) (OutView, error) {
	var out OutView
	file, err := runs.KeyOf("file", id)
	if err != nil {
		return out, err
	}
	err = t.Repositories.DB.GetContext(ctx, &out,
		`SELECT id, state, done FROM plainpath.outgoing WHERE id = $1 AND app = $2 AND person = $3`, file, p.App,
		p.Person)
	if errors.Is(err, sql.ErrNoRows) {
		return out, fmt.Errorf("file %s: %w", id, postgres.ErrNotFound)
	}
	if err != nil {
		return out, fmt.Errorf("asking after a file: %w", err)
	}
	return out, nil
}

// OpenOut takes up a file that was asked for, which is possible once. Write writes it.
func OpenOut(ctx context.Context, t *tables.Tables, p postgres.Caller,
	id string) (ask OutAsk, write func(context.Context, io.Writer) error, err error) {
	file, err := runs.KeyOf("file", id)
	if err != nil {
		return ask, nil, err
	}
	var raw []byte
	err = t.Repositories.DB.GetContext(ctx, &raw,
		`UPDATE plainpath.outgoing SET state = 'writing' WHERE id = $1 AND app = $2 AND space = $3 AND person = $4 AND state = 'asked' RETURNING ask`, file, p.App, p.Space, p.Person)
	if errors.Is(err, sql.ErrNoRows) {
		return ask, nil, fmt.Errorf("file %s: %w", id, postgres.ErrNotFound)
	}
	if err == nil {
		err = json.Unmarshal(raw, &ask)
	}
	if err != nil {
		return ask, nil, fmt.Errorf("taking up a file: %w", err)
	}
	return ask, func(ctx context.Context, w io.Writer) error {
		done, err := writeOut(ctx, t, p, file, ask, w)
		state := "done"
		if err != nil {
			state = "failed"
		}
		_, told := t.Repositories.DB.ExecContext(context.WithoutCancel(ctx),
			`UPDATE plainpath.outgoing SET state = $2, done = $3 WHERE id = $1`, file, state, done)
		return errors.Join(err, told)
	}, nil
}

// texts is a table as it is asked for, each cell as text, and its headings.
func texts(found tables.ShownTable, ask OutAsk) ([]string, *sqlgen.Out, error) {
	headings, q, err := found.List.Out(found, ask.Look, ask.Chosen)
	if err != nil {
		return nil, nil, err
	}
	out, err := sqlgen.Texts(found.Space(), q)
	return headings, out, err
}

// toldEach is after how many rows it is told how far a file has come.
const toldEach = 20_000

func writeOut(ctx context.Context, t *tables.Tables, p postgres.Caller, id uuid.UUID, ask OutAsk,
	w io.Writer) (int64, error) {
	var headings []string
	var query *sqlgen.Out
	zone := time.UTC
	err := t.At(ctx, p, ask.At, func(found tables.ShownTable) error {
		zone = found.Zone()
		var err error
		headings, query, err = texts(found, ask)
		return err
	})
	if err != nil {
		return 0, err
	}
	file, err := newOutFile(w, ask.Format, headings, query.Kinds, zone)
	if err != nil {
		return 0, err
	}
	if f, ok := w.(interface{ Flush() error }); ok {
		if err := f.Flush(); err != nil {
			return 0, fmt.Errorf("writing a table: %w", err)
		}
	}
	var done int64
	times := newInstants(query.Kinds)
	err = stream(ctx, t.Repositories.DB, zone.String(), query, func(cells [][]byte) error {
		if done++; done%toldEach == 0 {
			if _, err := t.Repositories.DB.ExecContext(ctx, `UPDATE plainpath.outgoing SET done = $2 WHERE id = $1`, id,
				done); err != nil {
				return fmt.Errorf("telling how far a file is: %w", err)
			}
		}
		times.write(cells)
		return file.row(cells)
	})
	if err != nil {
		return done, err
	}
	return done, file.close()
}

// stream runs a query and passes on its rows as the database writes them. The cells hold
// only until the next row.
func stream(ctx context.Context, db *postgres.DB, zone string, q *sqlgen.Out, row func([][]byte) error) error {
	conn, err := db.Streams.Conn(ctx)
	if err != nil {
		return fmt.Errorf("reading a table: %w", err)
	}
	defer func() { _ = conn.Close() }()
	return conn.Raw(func(driver any) (err error) {
		c := driver.(*stdlib.Conn).Conn()
		tx, err := c.BeginTx(ctx, pgx.TxOptions{AccessMode: pgx.ReadOnly})
		if err != nil {
			return fmt.Errorf("reading a table: %w", err)
		}
		defer func() { _ = tx.Rollback(context.WithoutCancel(ctx)) }()
		if _, err := tx.Exec(ctx, `SELECT set_config('TimeZone', $1, true), set_config('DateStyle', 'ISO', true)`, zone); err != nil {
			return fmt.Errorf("reading a table: %w", err)
		}
		rows, err := tx.Query(ctx, q.SQL,
			append([]any{pgx.QueryExecModeDescribeExec, pgx.QueryResultFormats{pgx.TextFormatCode}}, q.Args...)...)
		if err != nil {
			return fmt.Errorf("reading a table: %w", err)
		}
		defer rows.Close()
		for rows.Next() {
			if err := row(rows.RawValues()); err != nil {
				return err
			}
		}
		if err := rows.Err(); err != nil {
			return fmt.Errorf("reading a table: %w", err)
		}
		return nil
	})
}

// plainKinds are those whose text no spreadsheet could take for a formula, or whose minus
// belongs to a number.
func plainKind(k value.Kind) bool {
	switch k {
	case value.KindWhole, value.KindDecimal, value.KindMoney, value.KindYesNo, value.KindDate, value.KindInstant:
		return true
	}
	return false
}

// longestFileName bounds what a file can be called, in characters.
const longestFileName = 150

// FileName is what the file is called.
func (a OutAsk) FileName() string {
	name := strings.Map(func(r rune) rune {
		if r < ' ' || strings.ContainsRune(`/\:*?"<>|`, r) {
			return '-'
		}
		return r
	}, strings.TrimSpace(a.Name))
	if name == "" {
		name = "table"
	}
	return name + "." + a.Format
}
