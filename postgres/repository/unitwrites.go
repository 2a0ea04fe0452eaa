package repository

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// Sign says to the history who writes and through what.
func (u *unit) Sign(ctx context.Context, cause map[string]string) error {
	signature, args, err := u.signature(ctx, cause, nil)
	if err == nil {
		_, err = u.db.ExecContext(ctx, signature, args...)
	}
	if err != nil {
		return fmt.Errorf("signing the history: %w", err)
	}
	return nil
}

// signature is the SELECT that signs, and arguments with its own behind them.
func (u *unit) signature(ctx context.Context, cause map[string]string, args []any) (string, []any, error) {
	raw, err := json.Marshal(cause)
	n := len(args)
	return fmt.Sprintf("SELECT set_config('plainpath.person', $%d, true), set_config('plainpath.cause', $%d, true), "+
			"set_config('plainpath.tab', $%d, true)", n+1, n+2, n+3),
		append(args, fmt.Sprint(u.person), string(raw), postgres.TabOf(ctx)), err
}

// Lock keeps records from being changed by others until the unit ends; always in the same order, so
// that two people do not wait for each other.
func (u *unit) Lock(ctx context.Context, object string, keys []int64) error {
	if _, err := u.db.ExecContext(ctx, fmt.Sprintf("SELECT 1 FROM %s WHERE id = ANY($1) ORDER BY id FOR UPDATE",
		u.table(object)), keys); err != nil {
		return fmt.Errorf("locking records: %w", err)
	}
	return nil
}

// Insert signs and writes records with one statement.
func (u *unit) Insert(ctx context.Context, a records.Addition) ([]int64, error) {
	statement, args := u.insert(a)
	signature, args, err := u.signature(ctx, a.Cause, args)
	if err != nil {
		return nil, fmt.Errorf("signing the history: %w", err)
	}
	statement = "WITH signed AS MATERIALIZED (" + signature + ") " + statement
	keys := []int64{}
	if err := sqlx.SelectContext(ctx, u.db, &keys, statement, args...); err != nil {
		return nil, Refused(a.Object, "adding", err)
	}
	return keys, nil
}

// Update writes fields of records with one statement.
func (u *unit) Update(ctx context.Context, c records.Changing) error {
	statement, args := u.update(c)
	if _, err := u.db.ExecContext(ctx, statement, args...); err != nil {
		return Refused(c.Object, "changing", err)
	}
	return nil
}

// InsertEach writes a record for each of a query with one statement.
func (u *unit) InsertEach(ctx context.Context, s records.Sight, i query.Insertion) ([]int64, error) {
	person := fmt.Sprint(u.person)
	stamp := [][2]string{{"created_by", person}, {"changed_by", person}}
	if u.Rehearsed != nil {
		u.numbers(i.Object, func(column, sql string) { stamp = append(stamp, [2]string{column, sql}) })
	}
	statement, err := sqlgen.Insertion(u.space(s), i, stamp)
	if err != nil {
		return nil, err
	}
	keys, err := u.written(ctx, i.Object, "adding", statement, i.Sets)
	if err == nil && u.Rehearsed != nil {
		*u.Rehearsed += int64(len(keys))
	}
	return keys, err
}

// UpdateAll writes fields of the records of a query with one statement.
func (u *unit) UpdateAll(ctx context.Context, s records.Sight, c query.Change) ([]int64, error) {
	statement, err := sqlgen.Change(u.space(s), c, u.changedNow())
	if err != nil {
		return nil, err
	}
	return u.written(ctx, u.model.Object(c.Query.Object), "changing", statement, c.Sets)
}

// changedNow is what is written with every change.
func (u *unit) changedNow() []string {
	return []string{"revision = t.revision + 1", "changed_at = now()", fmt.Sprintf("changed_by = %d", u.person)}
}

// written sends a statement that writes a set, and gives the keys of the records written.
func (u *unit) written(ctx context.Context, o *model.Object, doing string, s sqlgen.Statement,
	sets []query.Assignment) ([]int64, error) {
	var done sqlgen.Changed
	if err := get(ctx, u.db, &done, s); err != nil {
		return nil, Refused(o, doing, err)
	}
	if done.Failed != nil {
		return nil, records.NotComputed(sets[*done.Failed].Field, *done.Why)
	}
	var keys []int64
	if err := json.Unmarshal(done.Keys, &keys); err != nil {
		return nil, fmt.Errorf("%s %s: %w", doing, o.Plural, err)
	}
	return keys, nil
}

// Delete takes records away. Those that others refer to stay, and are named.
func (u *unit) Delete(ctx context.Context, o *model.Object, keys []int64) error {
	_, err := u.db.ExecContext(ctx, fmt.Sprintf("DELETE FROM %s WHERE id = ANY($1)", u.table(o.Key)), keys)
	code, constraint, _ := postgres.Violated(err)
	if code == "23503" {
		for _, r := range u.model.ReferrersTo(o.Key) {
			if constraint == postgres.NameOf(r.Object.Table(), r.Field.Column(), "reference") {
				return records.Wrong("", "%s still refer to it as their %s; change or remove those first",
					strings.ToLower(r.Object.Plural), strings.ToLower(r.Field.Label))
			}
		}
	}
	if err != nil {
		return Refused(o, "removing", err)
	}
	return nil
}

// KeepFiles notes that records took up files.
func (u *unit) KeepFiles(ctx context.Context, files []int64) error {
	if _, err := u.db.ExecContext(ctx, `UPDATE plainpath.file SET kept = true WHERE id = ANY($1)`, files); err != nil {
		return fmt.Errorf("keeping files: %w", err)
	}
	return nil
}

// Try does something and takes back what it wrote when it fails.
func (u *unit) Try(ctx context.Context, do func() error) error {
	if _, err := u.db.ExecContext(ctx, "SAVEPOINT tried"); err != nil {
		return fmt.Errorf("beginning a part of a transaction: %w", err)
	}
	var rehearsed int64
	if u.Rehearsed != nil {
		rehearsed = *u.Rehearsed
	}
	if err := do(); err != nil {
		if u.Rehearsed != nil { // the keys that were given are free again
			*u.Rehearsed = rehearsed
		}
		if _, back := u.db.ExecContext(context.WithoutCancel(ctx), "ROLLBACK TO SAVEPOINT tried"); back != nil {
			return errors.Join(err, back)
		}
		return err
	}
	if _, err := u.db.ExecContext(ctx, "RELEASE SAVEPOINT tried"); err != nil {
		return fmt.Errorf("ending a part of a transaction: %w", err)
	}
	return nil
}

// Tell keeps a notice for each of those who are told: those of roles in the space, and others who may sign in.
func (u *unit) Tell(ctx context.Context, n records.Notice) ([]string, error) {
	text, err := json.Marshal(n.Text)
	if err != nil {
		return nil, fmt.Errorf("writing what people are told: %w", err)
	}
	var names []string
	err = sqlx.SelectContext(ctx, u.db, &names, `WITH told AS (INSERT INTO plainpath.notice (app, space, person, text, object, record, at)
		SELECT s.app, s.key, p.id, $4, $5, $6, $7 FROM plainpath.space s CROSS JOIN plainpath.person p
		LEFT JOIN plainpath.member m ON m.app = s.app AND m.space = s.key AND m.person = p.id
		WHERE s.schema = $1 AND p.active AND (m.roles && $2::text[] OR p.id = ANY($3::bigint[])) RETURNING person)
		SELECT p.name FROM told JOIN plainpath.person p ON p.id = told.person ORDER BY p.name, p.id`,
		u.schema, notNil(n.Roles), notNil(n.People), string(text), n.Object, n.Record, n.At)
	if err != nil {
		return nil, fmt.Errorf("telling people: %w", err)
	}
	return names, nil
}

// notNil is a list that the database reads as one that is empty, and not as none.
func notNil[T any](list []T) []T {
	if list == nil {
		return []T{}
	}
	return list
}

// Refused says in words why the database would not take records.
func Refused(o *model.Object, doing string, err error) error {
	code, constraint, column := postgres.Violated(err)
	field, label := "", column
	f, _ := postgres.Constrained(o, constraint)
	for i := range o.Fields {
		if f == nil && o.Fields[i].Column() == column {
			f = &o.Fields[i]
		}
	}
	if f != nil {
		field, label = f.Key, f.Label
	}
	switch code {
	case "23505":
		return records.Wrong(field, "there is %s with the same %s already", model.WithArticle(o.Label), label)
	case "23502":
		return records.Wrong(field, "%s is required", label)
	case "23503":
		return records.Wrong(field, "%s points at a record that is gone", label)
	case "23514":
		return records.Wrong(field, "%s is outside what is allowed", label)
	}
	return fmt.Errorf("%s %s: %w", doing, o.Plural, err)
}
