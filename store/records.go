package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/search"
	"plainpath/core/value"
	"plainpath/core/walk"
)

// Where says on what records work is done: an edition of an app, a space of it, and
// the person whose rights hold.
type Where struct {
	Edition *edition.Edition
	Schema  string
	Person  access.Person
	Now     time.Time
}

// The first keys given to records of a rehearsal: a range of their own, so that the
// same record has the same key at every replay. Both fit a browser's whole numbers.
const (
	rehearsedKeys    = walk.RehearsedKeys
	rehearsedNumbers = 900_000_000
)

// desk reads and writes records for one person within one transaction.
type desk struct {
	Where
	db sqlx.ExtContext
	// cause goes into the history with every record written.
	cause map[string]string
	// rehearsed counts the records added when keys are to come from the rehearsals'
	// range; nil otherwise.
	rehearsed *int64
	grants    map[string]access.Grant
}

func newDesk(db sqlx.ExtContext, w Where) *desk {
	w.Now = w.Now.In(w.Edition.Zone)
	return &desk{Where: w, db: db, cause: map[string]string{}, grants: map[string]access.Grant{}}
}

func (d *desk) Person() access.Person { return d.Where.Person }
func (d *desk) Now() time.Time        { return d.Where.Now }

// Space is the space as the person may see it.
func (d *desk) Space() search.Space {
	return search.Space{Model: d.Edition.Model, Schema: d.Schema, Grant: func(object string) (access.Grant, error) {
		if g, ok := d.grants[object]; ok {
			return g, nil
		}
		values := expr.Values{"person": d.Where.Person.Value(), "today": value.DateOf(d.Where.Now), "now": value.NewInstant(d.Where.Now)}
		g, err := d.Edition.Policy.Grant(d.Edition.Model, d.Where.Person, object, values)
		if err == nil {
			d.grants[object] = g
		}
		return g, err
	}}
}

// Select reads the records of a query.
func (d *desk) Select(ctx context.Context, s *search.Select) ([]*value.Record, []search.Cursor, error) {
	rows, err := d.db.QueryxContext(ctx, s.SQL, s.Args...)
	if err != nil {
		return nil, nil, fmt.Errorf("searching: %w", err)
	}
	defer func() { _ = rows.Close() }()
	var records []*value.Record
	var cursors []search.Cursor
	for rows.Next() {
		row, err := rows.SliceScan()
		if err != nil {
			return nil, nil, fmt.Errorf("reading a record: %w", err)
		}
		record, cursor, err := s.Decode(row)
		if err != nil {
			return nil, nil, err
		}
		records = append(records, record)
		cursors = append(cursors, cursor)
	}
	if err := rows.Err(); err != nil {
		return nil, nil, fmt.Errorf("searching: %w", err)
	}
	return records, cursors, nil
}

// Count runs SQL that gives one number.
func (d *desk) Count(ctx context.Context, sql string, args []any) (int64, error) {
	var n int64
	if err := sqlx.GetContext(ctx, d.db, &n, sql, args...); err != nil {
		return 0, fmt.Errorf("counting: %w", err)
	}
	return n, nil
}

// Add writes records with one statement, however many there are.
func (d *desk) Add(ctx context.Context, step string, a walk.Addition) ([]int64, error) {
	if err := d.sign(ctx, step); err != nil {
		return nil, err
	}
	sql, args := d.insert(a)
	keys := []int64{}
	if err := sqlx.SelectContext(ctx, d.db, &keys, sql, args...); err != nil {
		return nil, refused(a, step, err)
	}
	return keys, nil
}

// sign says to the history who writes and through what.
func (d *desk) sign(ctx context.Context, step string) error {
	d.cause["step"] = step
	cause, err := json.Marshal(d.cause)
	if err != nil {
		return fmt.Errorf("signing the history: %w", err)
	}
	_, err = d.db.ExecContext(ctx, `SELECT set_config('plainpath.person', $1, true), set_config('plainpath.cause', $2, true)`,
		fmt.Sprint(d.Where.Person.ID), string(cause))
	if err != nil {
		return fmt.Errorf("signing the history: %w", err)
	}
	return nil
}

// insert writes INSERT … SELECT FROM unnest(…): one array for each column, each sent
// as text and cast, since PostgreSQL knows best how to read its own types.
func (d *desk) insert(a walk.Addition) (string, []any) {
	person := fmt.Sprint(d.Where.Person.ID)
	columns, values := []string{"created_by", "changed_by"}, []string{person, person}
	var arrays, names []string
	var args []any
	column := func(name, kind string, cell func(row int) *string) {
		cells := make([]*string, len(a.Rows))
		for i := range a.Rows {
			cells[i] = cell(i)
		}
		args = append(args, cells)
		u := fmt.Sprintf("c%d", len(args))
		names = append(names, u)
		arrays = append(arrays, fmt.Sprintf("$%d::text[]", len(args)))
		columns = append(columns, search.Quote(name))
		values = append(values, "u."+u+"::"+kind)
	}
	for n, f := range a.Fields {
		column(f.Key, columnTypes[f.Kind()], func(row int) *string { return text(a.Rows[row][n]) })
		if f.Kind() == value.KindMoney {
			column(f.Key+"_currency", "text", func(row int) *string {
				m, ok := a.Rows[row][n].(value.Money)
				if !ok {
					return nil
				}
				return &m.Currency
			})
		}
	}
	if len(a.Fields) == 0 { // an array is needed all the same, to count the rows
		args = append(args, make([]*string, len(a.Rows)))
		arrays, names = []string{"$1::text[]"}, []string{"c1"}
	}
	if d.rehearsed != nil {
		d.number(a, &columns, &values)
	}
	table := d.Space().Table(a.Object.Key)
	return fmt.Sprintf("INSERT INTO %s (%s) SELECT %s FROM unnest(%s) WITH ORDINALITY u (%s, place) ORDER BY u.place RETURNING id",
		table, strings.Join(columns, ", "), strings.Join(values, ", "), strings.Join(arrays, ", "), strings.Join(names, ", ")), args
}

// number gives keys and running numbers from the rehearsals' range.
func (d *desk) number(a walk.Addition, columns, values *[]string) {
	*columns = append(*columns, "id")
	*values = append(*values, fmt.Sprintf("%d + u.place", rehearsedKeys+*d.rehearsed))
	for i := range a.Object.Fields {
		if f := &a.Object.Fields[i]; f.Type == model.Number {
			*columns = append(*columns, search.Quote(f.Key))
			*values = append(*values, fmt.Sprintf("%d + u.place", rehearsedNumbers+*d.rehearsed))
		}
	}
	*d.rehearsed += int64(len(a.Rows))
}

func text(v value.Value) *string {
	var s string
	switch x := v.(type) {
	case nil:
		return nil
	case value.Money:
		s = x.Amount.String()
	case *value.Record:
		s = fmt.Sprint(x.ID)
	default:
		s = fmt.Sprint(value.Wire(v))
	}
	return &s
}

// refused says in words why the database would not take records.
func refused(a walk.Addition, step string, err error) error {
	code, constraint, column := violated(err)
	label := column
	for i := range a.Object.Fields {
		if f := &a.Object.Fields[i]; f.Key == column || strings.HasPrefix(constraint, a.Object.Key+"_"+f.Key+"_") {
			label = f.Label
		}
	}
	one := strings.ToLower(a.Object.Label)
	why := ""
	switch code {
	case "23505":
		why = fmt.Sprintf("there is a %s with the same %s already", one, label)
	case "23502":
		why = label + " is needed"
	case "23503":
		why = label + " points at a record that is gone"
	case "23514":
		why = label + " is outside what is allowed"
	case "PP001":
		var pg *pgconn.PgError
		errors.As(err, &pg)
		why = pg.Message
	default:
		return fmt.Errorf("adding %s: %w", a.Object.Plural, err)
	}
	return &walk.WriteError{Step: step, Err: err, Text: fmt.Sprintf("The %s could not be added: %s. Nothing was written.", one, why)}
}
