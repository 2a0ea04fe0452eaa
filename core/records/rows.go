package records

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"plainpath/core/model"
	"plainpath/core/value"
)

// RowSaving is what somebody changed in one row of a table.
type RowSaving struct {
	ID     int64                      `json:"id"`
	Values map[string]json.RawMessage `json:"values"`
	// Seen are the values that were there before.
	Before map[string]json.RawMessage `json:"before"`
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

// row is one of the rows to be saved, read.
type savedRow struct {
	id     int64
	fields []*model.Field
	values []value.Value
}

// SaveRows changes records as somebody entered them in rows. Nothing is to be kept unless all of them
// could be saved. Among reads those of some records that are in the table.
func (d *Repository) SaveRows(ctx context.Context, o *model.Object, rows []RowSaving,
	among func(keys []int64, paths []model.Path) ([]*value.Record, error)) (RowsSaved, error) {
	out := RowsSaved{Rows: make([]RowOutcome, len(rows))}
	now, err := d.lockedRows(ctx, o, rows, among)
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

// readRow reads what was entered in a row and finds what is wrong with it on its own.
func (d *Repository) readRow(ctx context.Context, o *model.Object, row RowSaving, now *value.Record,
	r *RowOutcome) (savedRow, error) {
	out := savedRow{id: row.ID}
	var wrong *ProblemsError
	var err error
	out.fields, out.values, err = d.Parse(ctx, o, row.Values)
	if errors.As(err, &wrong) {
		r.Problems, err = wrong.Problems, nil
	}
	if err != nil {
		return out, err
	}
	for key := range row.Values {
		clash, err := d.meanwhile(o, now, key, Saving{Values: row.Values, Before: row.Before})
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
	if out.fields, out.values = differing(now, out.fields, out.values); len(out.fields) > 0 || len(given) == 0 ||
		!r.fine() {
		return out, nil
	}
	if err := d.MayChange(ctx, o, []int64{row.ID}, given); errors.As(err, &wrong) { // also where nothing differs
		r.Problems = append(r.Problems, wrong.Problems...)
	} else if err != nil {
		return out, err
	}
	return out, nil
}

// changeRows writes rows, those with the same fields with one statement. It gives what is
// wrong with those that cannot be written, by key.
func (d *Repository) changeRows(ctx context.Context, o *model.Object, rows []savedRow) (map[int64][]model.Problem,
	error) {
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
func (d *Repository) tryRows(ctx context.Context, o *model.Object, rows []savedRow) ([]model.Problem, error) {
	if len(rows[0].fields) == 0 {
		return nil, nil
	}
	c := Changing{Object: o, Fields: rows[0].fields}
	for _, r := range rows {
		c.Keys, c.Rows = append(c.Keys, r.id), append(c.Rows, r.values)
	}
	err := d.unit.Try(ctx, func() error { return d.Change(ctx, "", c) })
	var wrong *ProblemsError
	if errors.As(err, &wrong) {
		return wrong.Problems, nil
	}
	return nil, err
}

// lockedRows reads the rows as they are, so that nobody changes them meanwhile.
func (d *Repository) lockedRows(ctx context.Context, o *model.Object, rows []RowSaving,
	among func(keys []int64, paths []model.Path) ([]*value.Record, error)) (map[int64]*value.Record, error) {
	keys := make([]int64, len(rows))
	for i, r := range rows {
		keys[i] = r.ID
	}
	if err := d.unit.Lock(ctx, o.Key, keys); err != nil {
		return nil, err
	}
	paths, err := FieldPaths(d.Model(), o)
	if err != nil {
		return nil, err
	}
	found, err := among(keys, paths)
	out := map[int64]*value.Record{}
	for _, r := range found {
		out[r.ID] = r
	}
	return out, err
}
