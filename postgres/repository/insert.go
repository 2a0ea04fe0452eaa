package repository

import (
	"fmt"
	"strings"

	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres/sqlgen"
)

// arrays are the values of a statement as one array for each column, each sent as text
// and cast, since PostgreSQL knows best how to read its own types.
type arrays struct {
	args            []any
	sent, names     []string
	columns, values []string
}

func arraysOf(fields []*model.Field, rows [][]value.Value) *arrays {
	a := &arrays{}
	for n, f := range fields {
		a.column(f.Column(), sqlgen.ColumnType(f.Kind()), rows,
			func(row []value.Value) *string { return Text(row[n]) })
		if f.Kind() == value.KindMoney {
			a.column(f.Column()+"_currency", "text", rows, func(row []value.Value) *string {
				m, ok := row[n].(value.Money)
				if !ok {
					return nil
				}
				return &m.Currency
			})
		}
	}
	return a
}

func (a *arrays) column(name, kind string, rows [][]value.Value, cell func([]value.Value) *string) {
	cells := make([]*string, len(rows))
	for i, row := range rows {
		cells[i] = cell(row)
	}
	c := a.send(cells, "text[]")
	a.columns = append(a.columns, sqlgen.Quote(name))
	a.values = append(a.values, "u."+c+"::"+kind)
}

// send adds an array and gives the name of its column.
func (a *arrays) send(cells any, kind string) string {
	a.args = append(a.args, cells)
	u := fmt.Sprintf("c%d", len(a.args))
	a.names = append(a.names, u)
	a.sent = append(a.sent, fmt.Sprintf("$%d::%s", len(a.args), kind))
	return u
}

func (a *arrays) from() string {
	return fmt.Sprintf("unnest(%s) WITH ORDINALITY u (%s, place)", strings.Join(a.sent, ", "),
		strings.Join(a.names, ", "))
}

// insert writes INSERT … SELECT FROM unnest(…), signed; its rows wait for the signature, which stands before it.
func (u *unit) insert(a records.Addition) (string, []any) {
	w := arraysOf(a.Fields, a.Rows)
	if len(a.Fields) == 0 { // an array is needed all the same, to count the rows
		w.send(make([]*string, len(a.Rows)), "text[]")
	}
	person := fmt.Sprint(u.person)
	w.columns, w.values = append(w.columns, "created_by", "changed_by"), append(w.values, person, person)
	if u.Rehearsed != nil {
		u.numbers(a.Object, func(column, sql string) {
			w.columns, w.values = append(w.columns, column),
				append(w.values, sql)
		})
		*u.Rehearsed += int64(len(a.Rows))
	}
	return fmt.Sprintf("INSERT INTO %s (%s) SELECT %s FROM %s, signed ORDER BY u.place RETURNING id",
		u.table(a.Object.Key), strings.Join(w.columns, ", "), strings.Join(w.values, ", "), w.from()), w.args
}

// update writes UPDATE … FROM unnest(…).
func (u *unit) update(c records.Changing) (string, []any) {
	w := arraysOf(c.Fields, c.Rows)
	key := w.send(c.Keys, "bigint[]")
	set := u.changedNow()
	for i := range w.columns {
		set = append(set, w.columns[i]+" = "+w.values[i])
	}
	return fmt.Sprintf("UPDATE %s t SET %s FROM %s WHERE t.id = u.%s", u.table(c.Object.Key), strings.Join(set, ", "),
		w.from(), key), w.args
}

// numbers gives keys and running numbers from the rehearsals' range.
func (u *unit) numbers(o *model.Object, give func(column, sql string)) {
	give("id", fmt.Sprintf("%d + u.place", rehearsedKeys+*u.Rehearsed))
	for i := range o.Fields {
		if f := &o.Fields[i]; f.Type == model.Number {
			give(sqlgen.Column(f), fmt.Sprintf("%d + u.place", rehearsedNumbers+*u.Rehearsed))
		}
	}
}

// Text is a value as the database reads it, nil for empty. Of an amount it is the number.
func Text(v value.Value) *string {
	var s string
	switch x := v.(type) {
	case nil:
		return nil
	case value.Money:
		s = x.Amount.String()
	case *value.Record:
		s = fmt.Sprint(x.ID)
	default:
		s = sqlgen.Literal(v)
	}
	return &s
}
