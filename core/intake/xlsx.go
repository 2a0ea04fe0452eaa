package intake

import (
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"
)

// workbook is an XLSX file. Its cells become the texts a CSV would hold: dates and times
// in ISO 8601, yes/no in words, amounts with their currency, the stored results of
// formulas.
type workbook struct {
	file    *excelize.File
	formats map[int]numberFormat
	epoch04 bool
}

// mostUnzipped bounds what a workbook may unpack to, in bytes.
const mostUnzipped = 1 << 30

func openWorkbook(s Source) (*workbook, error) {
	r, err := s.Reader()
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	f, err := excelize.OpenReader(r, excelize.Options{UnzipSizeLimit: mostUnzipped})
	if err != nil {
		return nil, fmt.Errorf("it cannot be opened as a workbook (%w); save it as XLSX or CSV again", err)
	}
	b := &workbook{file: f, formats: map[int]numberFormat{}}
	if p, err := f.GetWorkbookProps(); err == nil && p.Date1904 != nil {
		b.epoch04 = *p.Date1904
	}
	return b, nil
}

func (b *workbook) sheets() []Sheet {
	var out []Sheet
	for _, name := range b.file.GetSheetList() {
		visible, err := b.file.GetSheetVisible(name)
		out = append(out, Sheet{Name: name, Hidden: err == nil && !visible})
	}
	return out
}

// mergedAcross says whether cells of a line are merged sideways, which makes them
// headings over several columns.
func (b *workbook) mergedAcross(sheet string, line int) bool {
	merged, err := b.file.GetMergeCells(sheet)
	if err != nil {
		return false
	}
	for _, m := range merged {
		c1, r1, err1 := excelize.CellNameToCoordinates(m.GetStartAxis())
		c2, r2, err2 := excelize.CellNameToCoordinates(m.GetEndAxis())
		if err1 == nil && err2 == nil && r1 == line && r2 == line && c2 > c1 {
			return true
		}
	}
	return false
}

type sheetRows struct {
	book  *workbook
	sheet string
	rows  *excelize.Rows
	line  int
	// across are values of merged cells, which stand for all the cells merged.
	across map[string]string
	// reaches is how many cells a line has with those that are merged.
	reaches map[int]int
}

func (b *workbook) rows(sheet string) (Rows, error) {
	rows, err := b.file.Rows(sheet)
	if err != nil {
		return nil, fmt.Errorf("reading the sheet %q: %w", sheet, err)
	}
	out := &sheetRows{book: b, sheet: sheet, rows: rows, across: map[string]string{}, reaches: map[int]int{}}
	merged, err := b.file.GetMergeCells(sheet)
	if err != nil {
		return nil, fmt.Errorf("reading the sheet %q: %w", sheet, err)
	}
	for _, m := range merged {
		c1, r1, err1 := excelize.CellNameToCoordinates(m.GetStartAxis())
		c2, r2, err2 := excelize.CellNameToCoordinates(m.GetEndAxis())
		if err1 != nil || err2 != nil || (c2-c1+1)*(r2-r1+1) > 10_000 {
			continue
		}
		for r := r1; r <= r2; r++ {
			out.reaches[r] = max(out.reaches[r], c2)
		}
		for c := c1; c <= c2; c++ {
			for r := r1; r <= r2; r++ {
				if name, err := excelize.CoordinatesToCellName(c, r); err == nil {
					out.across[name] = m.GetCellValue()
				}
			}
		}
	}
	return out, nil
}

func (s *sheetRows) Next() (int, []string, error) {
	for s.rows.Next() {
		s.line++
		raw, err := s.rows.Columns(excelize.Options{RawCellValue: true})
		if err != nil {
			return 0, nil, fmt.Errorf("reading line %d of the sheet %q: %w", s.line, s.sheet, err)
		}
		for len(raw) < s.reaches[s.line] { // merged cells at the end of a row are empty in the file
			raw = append(raw, "")
		}
		cells := make([]string, len(raw))
		filled := false
		for i, text := range raw {
			if cells[i], err = s.cell(i, text); err != nil {
				return 0, nil, err
			}
			filled = filled || cells[i] != ""
		}
		if filled {
			return s.line, cells, nil
		}
	}
	if err := s.rows.Error(); err != nil {
		return 0, nil, fmt.Errorf("reading the sheet %q: %w", s.sheet, err)
	}
	return 0, nil, io.EOF
}

func (s *sheetRows) Close() error { return s.rows.Close() }

func (s *sheetRows) cell(column int, raw string) (string, error) {
	name, err := excelize.CoordinatesToCellName(column+1, s.line)
	if err != nil {
		return "", fmt.Errorf("reading the sheet %q: %w", s.sheet, err)
	}
	if raw == "" {
		if text, ok := s.across[name]; ok {
			return text, nil
		}
		return s.computed(name)
	}
	kind, err := s.book.file.GetCellType(s.sheet, name)
	if err != nil {
		return "", fmt.Errorf("reading %s of the sheet %q: %w", name, s.sheet, err)
	}
	switch kind {
	case excelize.CellTypeBool:
		if raw == "1" || strings.EqualFold(raw, "true") {
			return "yes", nil
		}
		return "no", nil
	case excelize.CellTypeSharedString, excelize.CellTypeInlineString, excelize.CellTypeError,
		excelize.CellTypeFormula: // that is a formula whose result is a text
		return raw, nil
	}
	return s.number(name, raw)
}

// computed is what a formula comes to that the program which wrote the file has not computed,
// and the formula itself where it cannot be computed here either.
func (s *sheetRows) computed(name string) (string, error) {
	formula, err := s.book.file.GetCellFormula(s.sheet, name)
	if err != nil {
		return "", fmt.Errorf("reading %s of the sheet %q: %w", name, s.sheet, err)
	}
	if formula == "" {
		return "", nil
	}
	result, err := s.book.file.CalcCellValue(s.sheet, name, excelize.Options{RawCellValue: true})
	if err != nil {
		return "=" + strings.TrimPrefix(formula, "="), nil
	}
	return s.number(name, result)
}

// number writes what a cell holds as its format means it.
func (s *sheetRows) number(name, raw string) (string, error) {
	n, err := strconv.ParseFloat(raw, 64)
	if err != nil {
		return raw, nil
	}
	style, err := s.book.file.GetCellStyle(s.sheet, name)
	if err != nil {
		return "", fmt.Errorf("reading %s of the sheet %q: %w", name, s.sheet, err)
	}
	return s.book.format(style).text(raw, n, s.book.epoch04), nil
}

func (b *workbook) format(style int) numberFormat {
	if f, ok := b.formats[style]; ok {
		return f
	}
	var f numberFormat
	if s, err := b.file.GetStyle(style); err == nil && s != nil {
		code := ""
		if s.CustomNumFmt != nil {
			code = *s.CustomNumFmt
		}
		f = formatOf(s.NumFmt, code)
	}
	b.formats[style] = f
	return f
}
