package imports

import (
	"context"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"

	"github.com/xuri/excelize/v2"

	"plainpath/core/intake"
	"plainpath/postgres"
)

// RefusedFile writes the refused rows of a sheet as a file of the kind they came in, with
// a column that says why, to be mended and brought in again. It gives the file's name.
func (s *Intakes) RefusedFile(ctx context.Context, p postgres.Caller, id int64, sheet int, w io.Writer) (string,
	error) {
	r, err := s.own(ctx, s.DB, p, id, "")
	if err != nil {
		return "", err
	}
	in, err := r.read()
	if err != nil {
		return "", err
	}
	if in.Plan == nil || sheet < 0 || sheet >= len(in.Plan.Sheets) {
		return "", fmt.Errorf("sheet %d: %w", sheet, postgres.ErrNotFound)
	}
	plan := in.Plan.Sheets[sheet]
	reasons, err := s.reasons(ctx, id, sheet)
	if err != nil {
		return "", err
	}
	upload := in.Files[plan.File]
	file, err := s.open(ctx, id, plan.File, upload)
	if err != nil {
		return "", err
	}
	defer func() { _ = file.Close() }()
	body, err := file.Body(plan.Sheet)
	if err != nil {
		return "", fmt.Errorf("reading %s: %w", upload.Name, err)
	}
	defer func() { _ = body.Close() }()
	out, err := newTable(file, plan.Sheet)
	if err != nil {
		return "", err
	}
	headings := slices.DeleteFunc(slices.Clone(body.Headings), func(h string) bool { return h == reasonHeading })
	width := len(headings)
	if err := out.row(append(headings, reasonHeading)); err != nil {
		return "", err
	}
	for {
		line, cells, err := body.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return "", fmt.Errorf("reading %s: %w", upload.Name, err)
		}
		if why := reasons[line]; why != "" {
			row := make([]string, max(width, len(cells)), max(width, len(cells))+1)
			copy(row, cells)
			if err := out.row(append(row, why)); err != nil {
				return "", err
			}
		}
	}
	ext := filepath.Ext(upload.Name)
	name := strings.TrimSuffix(upload.Name, ext) + " refused" + ext
	return name, out.finish(w)
}

const reasonHeading = "Reason"

// reasons are why rows were refused, by line.
func (s *Intakes) reasons(ctx context.Context, id int64, sheet int) (map[int]string, error) {
	var rows []RefusedCell
	err := s.DB.SelectContext(ctx, &rows,
		`SELECT line, heading, value, reason FROM plainpath.intake_refused WHERE intake = $1 AND sheet = $2 ORDER BY line`, id, sheet)
	if err != nil {
		return nil, fmt.Errorf("reading what was refused: %w", err)
	}
	out := map[int]string{}
	for _, r := range rows {
		text := r.Reason
		if r.Heading != "" {
			text = r.Heading + ": " + text
		}
		if out[r.Line] != "" {
			text = out[r.Line] + "; " + text
		}
		out[r.Line] = text
	}
	return out, nil
}

// table is a file being written: a CSV, or one sheet of a workbook.
type table struct {
	delimiter rune
	rows      [][]string
	book      *excelize.File
	stream    *excelize.StreamWriter
	line      int
}

func newTable(f *intake.File, sheet int) (*table, error) {
	if f.Kind != intake.XLSX {
		return &table{delimiter: []rune(f.Delimiter)[0]}, nil
	}
	t := &table{book: excelize.NewFile()}
	name := f.Sheets[sheet].Name
	if err := t.book.SetSheetName("Sheet1", name); err != nil {
		return nil, fmt.Errorf("making a workbook: %w", err)
	}
	var err error
	if t.stream, err = t.book.NewStreamWriter(name); err != nil {
		return nil, fmt.Errorf("making a workbook: %w", err)
	}
	return t, nil
}

func (t *table) row(cells []string) error {
	t.line++
	if t.stream == nil {
		t.rows = append(t.rows, cells)
		return nil
	}
	values := make([]any, len(cells))
	for i, c := range cells {
		values[i] = c
	}
	if err := t.stream.SetRow(fmt.Sprintf("A%d", t.line), values); err != nil {
		return fmt.Errorf("writing a workbook: %w", err)
	}
	return nil
}

func (t *table) finish(w io.Writer) error {
	if t.stream == nil {
		return intake.WriteCSV(w, t.delimiter, t.rows)
	}
	if err := t.stream.Flush(); err != nil {
		return fmt.Errorf("writing a workbook: %w", err)
	}
	if err := t.book.Write(w); err != nil {
		return fmt.Errorf("writing a workbook: %w", err)
	}
	return t.book.Close()
}
