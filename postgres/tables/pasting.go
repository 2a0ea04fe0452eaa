package tables

import (
	"context"
	"fmt"
	"strings"

	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/repository"
)

// CellText is text that somebody pastes into a column.
type CellText struct {
	Path string `json:"path"`
	Text string `json:"text"`
}

// CellRead is what the text means, or what is wrong with it.
type CellRead struct {
	Value   any    `json:"value"`
	Problem string `json:"problem,omitempty"`
}

// mostPasted bounds the cells that are read at once.
const mostPasted = 20_000

// ReadCells reads text for the columns of a table, in order. Nothing is changed.
func (t *Tables) ReadCells(ctx context.Context, p postgres.Caller, at TableAt, cells []CellText) ([]CellRead, error) {
	if len(cells) > mostPasted {
		return nil,
			&postgres.RejectedError{Text: fmt.Sprintf("%d cells are pasted; paste at most %d at once, or bring them in as a file.", len(cells), mostPasted)}
	}
	out := make([]CellRead, len(cells))
	known := map[CellText]CellRead{}
	err := t.At(ctx, p, at, func(found ShownTable) error {
		o := found.Edition.Model.Object(found.List.Object())
		for i, c := range cells {
			read, have := known[c]
			if !have {
				f := o.Field(c.Path)
				if f == nil {
					return fmt.Errorf("field %q: %w", c.Path, postgres.ErrNotFound)
				}
				var err error
				if read, err = readCell(ctx, found.Repository, f, c.Text); err != nil {
					return err
				}
				known[c] = read
			}
			out[i] = read
		}
		return nil
	})
	return out, err
}

func readCell(ctx context.Context, d *repository.Repository, f *model.Field, text string) (CellRead, error) {
	if f.Target() != "" && !f.HoldsFile() {
		return readReference(ctx, d, f, strings.TrimSpace(text))
	}
	v, err := intake.Typed(f, text, d.Edition.App.Currency, d.Zone())
	if err == nil {
		err = f.CheckValue(v)
	}
	if err == nil && v == nil && f.Required {
		err = fmt.Errorf("%s is required", f.Label)
	}
	if err != nil {
		return CellRead{Problem: err.Error()}, nil //nolint:nilerr // it is told to the person
	}
	return CellRead{Value: value.Wire(v)}, nil
}

// readReference finds the record that has a text as its label.
func readReference(ctx context.Context, d *repository.Repository, f *model.Field, label string) (CellRead, error) {
	switch {
	case label == "" && f.Required:
		return CellRead{Problem: f.Label + " is required"}, nil
	case label == "":
		return CellRead{}, nil
	}
	found, err := records.Options(ctx, d, f.Target(), label)
	if err != nil {
		return CellRead{}, err
	}
	var same []value.Ref
	for _, r := range found {
		if strings.EqualFold(r.Label, label) {
			same = append(same, r)
		}
	}
	switch len(same) {
	case 0:
		return CellRead{Problem: fmt.Sprintf("there is no %s called %q",
			strings.ToLower(d.Edition.Model.Object(f.Target()).Label), label)}, nil
	case 1:
		return CellRead{Value: same[0]}, nil
	}
	return CellRead{Problem: fmt.Sprintf("%d are called %q; choose which", len(same), label)}, nil
}
