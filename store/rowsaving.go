package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/model"
	"plainpath/core/surface"
	"plainpath/core/value"
)

// RowSaving is what somebody changed in one row of a table.
type RowSaving struct {
	ID     int64                      `json:"id"`
	Values map[string]json.RawMessage `json:"values"`
	// Seen are the values that were there before.
	Seen map[string]json.RawMessage `json:"seen"`
}

// RowOutcome says what became of one row.
type RowOutcome struct {
	ID       int64           `json:"id"`
	Problems []model.Problem `json:"problems,omitempty"`
	// Clashes are fields that somebody else changed meanwhile.
	Clashes []CellClash `json:"clashes,omitempty"`
}

// CellClash is a field that two people changed.
type CellClash struct {
	Field  string `json:"field"`
	Label  string `json:"label"`
	Theirs any    `json:"theirs"`
}

func (o RowOutcome) fine() bool { return len(o.Problems) == 0 && len(o.Clashes) == 0 }

// RowsSaved says what became of rows that were saved together. Nothing is written unless
// all of them can be.
type RowsSaved struct {
	Saved bool `json:"saved"`
	// PutBack says that they could be, but were put back: it was a rehearsal.
	PutBack bool         `json:"put_back,omitempty"`
	Rows    []RowOutcome `json:"rows"`
}

// mostSaved bounds how many rows are saved at once.
const mostSaved = 2000

// row is one of the rows to be saved, read.
type savedRow struct {
	id     int64
	fields []*model.Field
	values []value.Value
}

// SaveRows changes rows of a table in one transaction: all of them or none.
func (t *Tables) SaveRows(ctx context.Context, p Place, at TableAt, rows []RowSaving) (RowsSaved, error) {
	var out RowsSaved
	if len(rows) > mostSaved {
		return out, &RejectedError{fmt.Sprintf("%d rows are changed; save at most %d at once.", len(rows), mostSaved)}
	}
	err := t.at(ctx, p, at, func(found shownTable) error {
		if !found.list.Editable() {
			return &RejectedError{"The rows of this table cannot be changed here."}
		}
		err := found.atomically(ctx, func(d *desk) error {
			d.cause["table"] = found.names[0]
			var err error
			out, err = once(ctx, d.db, func() (RowsSaved, error) { return d.saveRows(ctx, found.list, rows) })
			if err == nil && !out.Saved {
				return errDryRun
			}
			return err
		})
		if errors.Is(err, errDryRun) {
			return nil
		}
		return err
	})
	out.PutBack = out.Saved && at.Rehearsal != nil
	return out, err
}

func (d *desk) saveRows(ctx context.Context, l *surface.Listing, rows []RowSaving) (RowsSaved, error) {
	o := d.Edition.Model.Object(l.Object())
	out := RowsSaved{Rows: make([]RowOutcome, len(rows))}
	now, err := d.lockedRows(ctx, l, o, rows)
	if err != nil {
		return out, err
	}
	var good []savedRow
	fine := true
	for i, row := range rows {
		r := &out.Rows[i]
		r.ID = row.ID
		record := now[row.ID]
		if record == nil {
			r.Problems = []model.Problem{{Text: "this row is not in the table any more"}}
			fine = false
			continue
		}
		var saved savedRow
		if saved, err = d.readRow(ctx, o, row, record, r); err != nil {
			return out, err
		}
		if fine = fine && r.fine(); r.fine() && len(saved.fields) > 0 {
			good = append(good, saved)
		}
	}
	broken, err := d.changeRows(ctx, o, good)
	if err != nil {
		return out, err
	}
	for i := range out.Rows {
		if problems := broken[out.Rows[i].ID]; len(problems) > 0 {
			out.Rows[i].Problems = append(out.Rows[i].Problems, problems...)
			fine = false
		}
	}
	out.Saved = fine
	return out, nil
}

// lockedRows reads the rows as they are, so that nobody changes them meanwhile.
func (d *desk) lockedRows(ctx context.Context, l *surface.Listing, o *model.Object, rows []RowSaving) (map[int64]*value.Record, error) {
	keys := make([]int64, len(rows))
	for i, r := range rows {
		keys[i] = r.ID
	}
	slices.Sort(keys) // always in the same order, so that two people do not wait for each other
	if _, err := d.db.ExecContext(ctx, fmt.Sprintf("SELECT 1 FROM %s WHERE id = ANY($1) ORDER BY id FOR UPDATE", d.Space().Table(o.Key)), keys); err != nil {
		return nil, fmt.Errorf("locking rows: %w", err)
	}
	paths, err := fieldPaths(d.Edition.Model, o)
	if err != nil {
		return nil, err
	}
	records, err := l.Among(ctx, d, keys, paths)
	out := map[int64]*value.Record{}
	for _, r := range records {
		out[r.ID] = r
	}
	return out, err
}

// readRow reads what was entered in a row and finds what is wrong with it on its own.
func (d *desk) readRow(ctx context.Context, o *model.Object, row RowSaving, now *value.Record, r *RowOutcome) (savedRow, error) {
	out := savedRow{id: row.ID}
	var wrong *RecordError
	var err error
	out.fields, out.values, err = d.parse(ctx, o, row.Values)
	if errors.As(err, &wrong) {
		r.Problems, err = wrong.Problems, nil
	}
	if err != nil {
		return out, err
	}
	for key := range row.Values {
		clash, err := d.meanwhile(o, now, key, Saving{Values: row.Values, Seen: row.Seen})
		var theirs *MeanwhileError
		switch {
		case errors.As(err, &wrong):
			r.Problems = append(r.Problems, wrong.Problems...)
		case errors.As(err, &theirs):
			r.Clashes = append(r.Clashes, CellClash{Field: key, Label: theirs.Field.Label, Theirs: clash})
		case err != nil:
			return out, err
		}
	}
	given := out.fields
	if out.fields, out.values = differing(now, out.fields, out.values); len(out.fields) > 0 || len(given) == 0 || !r.fine() {
		return out, nil
	}
	if err := d.mayChange(ctx, o, []int64{row.ID}, given); errors.As(err, &wrong) { // also where nothing differs
		r.Problems = append(r.Problems, wrong.Problems...)
	} else if err != nil {
		return out, err
	}
	return out, nil
}

// changeRows writes rows, those with the same fields with one statement. It gives what is
// wrong with those that cannot be written, by key.
func (d *desk) changeRows(ctx context.Context, o *model.Object, rows []savedRow) (map[int64][]model.Problem, error) {
	broken := map[int64][]model.Problem{}
	var order []string
	sets := map[string][]savedRow{}
	for _, r := range rows {
		var keys []string
		for _, f := range r.fields {
			keys = append(keys, f.Key)
		}
		set := strings.Join(keys, " ")
		if sets[set] == nil {
			order = append(order, set)
		}
		sets[set] = append(sets[set], r)
	}
	for _, set := range order {
		problems, err := d.tryRows(ctx, o, sets[set])
		if err != nil {
			return nil, err
		}
		if len(problems) == 0 {
			continue
		}
		found := 0
		for _, r := range sets[set] { // together they cannot be written; which of them?
			alone, err := d.tryRows(ctx, o, []savedRow{r})
			if err != nil {
				return nil, err
			}
			if len(alone) > 0 {
				broken[r.id] = alone
				found++
			}
		}
		if found == 0 { // only together are they wrong: two rows with the same unique value
			for _, r := range sets[set] {
				broken[r.id] = problems
			}
		}
	}
	return broken, nil
}

// tryRows writes rows with the same fields, or says why not and leaves everything as it was.
func (d *desk) tryRows(ctx context.Context, o *model.Object, rows []savedRow) ([]model.Problem, error) {
	if len(rows[0].fields) == 0 {
		return nil, nil
	}
	c := Changing{Object: o, Fields: rows[0].fields}
	for _, r := range rows {
		c.Keys, c.Rows = append(c.Keys, r.id), append(c.Rows, r.values)
	}
	if _, err := d.db.ExecContext(ctx, "SAVEPOINT rows"); err != nil {
		return nil, fmt.Errorf("saving rows: %w", err)
	}
	err := d.Change(ctx, "", c)
	var wrong *RecordError
	if !errors.As(err, &wrong) {
		return nil, err
	}
	if _, err := d.db.ExecContext(ctx, "ROLLBACK TO SAVEPOINT rows"); err != nil {
		return nil, fmt.Errorf("taking rows back: %w", err)
	}
	return wrong.Problems, nil
}
