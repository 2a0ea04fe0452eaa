package repository

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"
	"github.com/jmoiron/sqlx"
	"github.com/jmoiron/sqlx/types"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/postgres/sqlgen"
)

// unit is one transaction in a space, or the space without one where nothing is written.
type unit struct {
	db     sqlx.ExtContext
	schema string
	model  *model.Model
	// person is who writes.
	person int64
	// rehearsed counts the records added when keys are to come from the rehearsals'
	// range; nil otherwise.
	Rehearsed *int64
}

func (u *unit) space(s records.Sight) sqlgen.Space {
	return sqlgen.Space{Model: u.model, Schema: u.schema, Worked: s.WorkedOut, Grant: s.Grant}
}

func (u *unit) table(object string) string {
	return sqlgen.Space{Model: u.model, Schema: u.schema}.Table(object)
}

// Select reads the records of a query.
func (u *unit) Select(ctx context.Context, s records.Sight, q query.Query) (records.Page, error) {
	asked, err := sqlgen.Select(u.space(s), q)
	if err != nil {
		return records.Page{}, err
	}
	out := records.Page{Reads: asked.Reads}
	if q.Waits() {
		return out, nil
	}
	var places []sqlgen.Position
	err = each(ctx, u.db, asked.Statement, func(row []any) error {
		record, place, err := asked.Decode(row)
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
func (u *unit) Count(ctx context.Context, s records.Sight, q query.Query) (int64, error) {
	asked, err := sqlgen.Count(u.space(s), q)
	if err != nil || q.Waits() {
		return 0, err
	}
	return u.Number(ctx, asked)
}

// Number is what a statement counts.
func (u *unit) Number(ctx context.Context, s sqlgen.Statement) (int64, error) {
	var n int64
	if err := get(ctx, u.db, &n, s); err != nil {
		return 0, fmt.Errorf("counting: %w", err)
	}
	return n, nil
}

// Groups counts the records of a query and makes totals, by groups in groups, or over all without one.
func (u *unit) Groups(ctx context.Context, s records.Sight, q query.Query, by []query.Grouping,
	totals []query.Total) ([]query.Piece, error) {
	asked, err := sqlgen.Grouped(u.space(s), q, by, totals)
	if err != nil {
		return nil, err
	}
	var out []query.Piece
	err = each(ctx, u.db, asked.Statement, func(row []any) error {
		p, err := asked.Decode(row)
		out = append(out, p)
		return err
	})
	return out, err
}

// Steps counts all records of an object, and how many are left after each condition in turn.
func (u *unit) Steps(ctx context.Context, s records.Sight, object string, steps []query.Step) ([]int64, error) {
	asked, err := sqlgen.Steps(u.space(s), object, steps)
	if err != nil {
		return nil, err
	}
	var raw []byte
	if err := get(ctx, u.db, &raw, asked); err != nil {
		return nil, err
	}
	var out []int64
	return out, json.Unmarshal(raw, &out)
}

// Holding is what is so of a record, false where there is no such record.
func (u *unit) Holding(ctx context.Context, s records.Sight, h query.Holding) (query.Held, bool, error) {
	asked, err := sqlgen.Holding(u.space(s), h)
	if err != nil {
		return query.Held{}, false, err
	}
	var row struct{ Holds, Saw []byte }
	err = get(ctx, u.db, &row, asked)
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
func (u *unit) Written(s records.Sight, q query.Query) (string, error) {
	asked, err := sqlgen.Select(u.space(s), q)
	if err != nil {
		return "", err
	}
	return asked.Readable(), nil
}

// Prove answers which predicates hold of a record; nothing when there is no such record.
func (u *unit) Prove(ctx context.Context, s records.Sight, p query.Proof) ([]bool, error) {
	asked, err := sqlgen.Proof(u.space(s), p)
	if err != nil {
		return nil, err
	}
	var raw types.JSONText
	err = get(ctx, u.db, &raw, asked)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, nil
	}
	if err != nil {
		return nil, fmt.Errorf("proving conditions: %w", err)
	}
	var out []bool
	return out, raw.Unmarshal(&out)
}

// Review gives the records that break something.
func (u *unit) Review(ctx context.Context, s records.Sight, r query.Review) ([]records.Broken, error) {
	asked, err := sqlgen.Review(u.space(s), r)
	if err != nil {
		return nil, err
	}
	var broken []struct {
		ID    int64          `db:"id"`
		Holds types.JSONText `db:"holds"`
	}
	if err := sqlx.SelectContext(ctx, u.db, &broken,
		"SELECT id, to_jsonb(holds) AS holds FROM ("+asked.SQL+") broken (id, holds)",
		arguments(asked)...); err != nil {
		return nil, err
	}
	out := make([]records.Broken, len(broken))
	for i, b := range broken {
		out[i].ID = b.ID
		if err := b.Holds.Unmarshal(&out[i].Holds); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Matched counts the records a condition on related records matches, and how many different records
// those point at.
func (u *unit) Matched(ctx context.Context, s records.Sight, p predicate.HasRelated,
	edited *query.Edited) (matched, distinct int64, err error) {
	asked, err := sqlgen.Related(u.space(s), p, edited)
	if err != nil {
		return 0, 0, err
	}
	if err := u.db.QueryRowxContext(ctx, asked.SQL, arguments(asked)...).Scan(&matched, &distinct); err != nil {
		return 0, 0, fmt.Errorf("counting related records: %w", err)
	}
	return matched, distinct, nil
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
