package act

import (
	"context"
	"encoding/json"
	"fmt"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
)

// Column is a value that each row of a list has which is not stored.
type Column struct {
	Key, Label string
	Kind       value.Kind
	// Object is that of records.
	Object string
}

// Columns are the values of such rows, in the order they are kept in.
type Columns []Column

// ColumnsOf are those of names that rows can hold: single values, and not lists.
func ColumnsOf(names []expr.Name) Columns {
	var out Columns
	for _, n := range names {
		switch n.Type.Kind {
		case value.KindList, value.KindRows, value.KindScreen:
		default:
			out = append(out, Column{n.Key, n.Label, n.Type.Kind, n.Type.Object})
		}
	}
	return out
}

// Keep are rows as they are kept.
func (c Columns) Keep(rows value.Rows) (json.RawMessage, error) {
	out := make([][]any, len(rows))
	for n, row := range rows {
		out[n] = c.wire(row)
	}
	return json.Marshal(out)
}

// wire is a row as it is kept.
func (c Columns) wire(row *value.Record) []any {
	out := make([]any, len(c))
	for i, column := range c {
		out[i] = value.Wire(row.Get(column.Key))
	}
	return out
}

// Rows reads rows that were kept, and of their records what is used of them later.
func (c Columns) Rows(ctx context.Context, u records.Reader, kept json.RawMessage,
	within func(key string) []model.Path) (value.Rows, error) {
	var all [][]json.RawMessage
	if err := json.Unmarshal(kept, &all); err != nil {
		return nil, fmt.Errorf("reading rows that were kept: %w", err)
	}
	rows, err := c.parseAll(all)
	if err != nil {
		return nil, err
	}
	return rows, c.read(ctx, u, within, rows)
}

func (c Columns) parseAll(kept [][]json.RawMessage) (value.Rows, error) {
	rows := make(value.Rows, len(kept))
	for i, values := range kept {
		var err error
		if rows[i], err = c.parse(values); err != nil {
			return nil, err
		}
	}
	return rows, nil
}

// parse reads a row that was kept.
func (c Columns) parse(kept []json.RawMessage) (*value.Record, error) {
	row := &value.Record{Fields: map[string]value.Value{}}
	for n, column := range c {
		if n >= len(kept) {
			break
		}
		v, err := value.Parse(column.Kind, kept[n])
		if err != nil {
			return nil, fmt.Errorf("reading %s of the rows: %w", column.Label, err)
		}
		if v != nil {
			row.Fields[column.Key] = v
		}
	}
	return row, nil
}

// Row reads one row that was kept, and of its records what is used of them later.
func (c Columns) Row(ctx context.Context, u records.Reader, kept []json.RawMessage,
	within func(key string) []model.Path) (*value.Record, error) {
	row, err := c.parse(kept)
	if err != nil {
		return nil, err
	}
	return row, c.read(ctx, u, within, value.Rows{row})
}

// read reads of the records in the rows what is used of them later.
func (c Columns) read(ctx context.Context, u records.Reader, within func(key string) []model.Path,
	rows value.Rows) error {
	for _, column := range c {
		if column.Kind != value.KindRecord || within == nil {
			continue
		}
		var keys []int64
		for _, row := range rows {
			if rec, ok := row.Fields[column.Key].(*value.Record); ok {
				keys = append(keys, rec.ID)
			}
		}
		found, err := records.ByKey(ctx, u, column.Object, keys, within(column.Key))
		if err != nil {
			return fmt.Errorf("reading %s of the rows: %w", column.Label, err)
		}
		byKey := map[int64]*value.Record{}
		for _, rec := range found {
			byKey[rec.ID] = rec
		}
		for _, row := range rows {
			if rec, ok := row.Fields[column.Key].(*value.Record); ok && byKey[rec.ID] != nil {
				row.Fields[column.Key] = byKey[rec.ID]
			}
		}
	}
	return nil
}
