package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"database/sql"

	"github.com/jackc/pgx/v5"
	"github.com/jmoiron/sqlx"

	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/postgres/sqlgen"
)

// Select reads the records of a query.
func (d *desk) Select(ctx context.Context, q query.Query) (records.Page, error) {
	s, err := sqlgen.Select(d.Space(), q)
	if err != nil || q.Waits() {
		if s != nil {
			return records.Page{Reads: s.Reads}, err
		}
		return records.Page{}, err
	}
	out := records.Page{Reads: s.Reads}
	var places []sqlgen.Place
	err = each(ctx, d.db, s.Statement, func(row []any) error {
		record, place, err := s.Decode(row)
		out.Records, places = append(out.Records, record), append(places, place)
		return err
	})
	if err != nil {
		return records.Page{}, fmt.Errorf("searching: %w", err)
	}
	out.After = func(i int) (query.Cursor, error) { return places[i].Cursor() }
	return out, nil
}

// Count counts the records of a query, order and limit aside.
func (d *desk) Count(ctx context.Context, q query.Query) (int64, error) {
	s, err := sqlgen.Count(d.Space(), q)
	if err != nil || q.Waits() {
		return 0, err
	}
	return d.number(ctx, s)
}

// number is what a statement counts.
func (d *desk) number(ctx context.Context, s sqlgen.Statement) (int64, error) {
	var n int64
	if err := get(ctx, d.db, &n, s); err != nil {
		return 0, fmt.Errorf("counting: %w", err)
	}
	return n, nil
}

// Groups counts the records of a query and makes totals, by group, or over all without one.
func (d *desk) Groups(ctx context.Context, q query.Query, g *query.Grouping, totals []query.Total) ([]query.Piece, error) {
	s, err := sqlgen.Grouped(d.Space(), q, g, totals)
	if err != nil {
		return nil, err
	}
	var out []query.Piece
	err = each(ctx, d.db, s.Statement, func(row []any) error {
		p, err := s.Decode(row)
		out = append(out, p)
		return err
	})
	return out, err
}

// Steps counts all records of an object, and how many are left after each condition in turn.
func (d *desk) Steps(ctx context.Context, object string, steps []query.Step) ([]int64, error) {
	s, err := sqlgen.Steps(d.Space(), object, steps)
	if err != nil {
		return nil, err
	}
	var raw []byte
	if err := get(ctx, d.db, &raw, s); err != nil {
		return nil, err
	}
	var out []int64
	return out, json.Unmarshal(raw, &out)
}

// Holding is what is so of a record, false where there is no such record.
func (d *desk) Holding(ctx context.Context, h query.Holding) (query.Held, bool, error) {
	s, err := sqlgen.Holding(d.Space(), h)
	if err != nil {
		return query.Held{}, false, err
	}
	var row struct{ Holds, Saw []byte }
	err = get(ctx, d.db, &row, s)
	if errors.Is(err, sql.ErrNoRows) {
		return query.Held{}, false, nil
	}
	if err != nil {
		return query.Held{}, false, fmt.Errorf("looking at a record: %w", err)
	}
	var out query.Held
	err = errors.Join(json.Unmarshal(row.Holds, &out.Holds), json.Unmarshal(row.Saw, &out.Saw))
	return out, true, err
}

// Written is a query as SQL with its values in their places.
func (d *desk) Written(q query.Query) (string, error) {
	s, err := sqlgen.Select(d.Space(), q)
	if err != nil {
		return "", err
	}
	return s.Readable(), nil
}

// arguments are those of a statement, with the way it is to be planned.
func arguments(s sqlgen.Statement) []any {
	if s.PlanWithValues {
		return append([]any{pgx.QueryExecModeCacheDescribe}, s.Args...)
	}
	return s.Args
}

// get reads the one row that a statement gives.
func get(ctx context.Context, db sqlx.QueryerContext, into any, s sqlgen.Statement) error {
	return sqlx.GetContext(ctx, db, into, s.SQL, arguments(s)...)
}

// each reads the rows of a statement one by one.
func each(ctx context.Context, db sqlx.QueryerContext, s sqlgen.Statement, read func(row []any) error) error {
	rows, err := db.QueryxContext(ctx, s.SQL, arguments(s)...)
	if err != nil {
		return err
	}
	defer func() { _ = rows.Close() }()
	for rows.Next() {
		row, err := rows.SliceScan()
		if err != nil {
			return fmt.Errorf("reading a row: %w", err)
		}
		if err := read(row); err != nil {
			return err
		}
	}
	return rows.Err()
}
