package intake

import (
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"
)

// sheetRows goes through the rows of a sheet as they stand in the file, one at a time.
type sheetRows struct {
	book   *workbook
	sheet  string
	body   io.Closer
	tokens *pieces
	line   int
	// merged are the merged cells of the lines from here on.
	merged []*merge
}

func (b *workbook) rows(sheet string) (Rows, error) {
	merges, err := b.merges(sheet)
	if err != nil {
		return nil, err
	}
	r, err := part(b.archive, b.parts[sheet])
	if err != nil {
		return nil, fmt.Errorf("reading the sheet %q: %w", sheet, err)
	}
	out := &sheetRows{book: b, sheet: sheet, body: r, tokens: newPieces(r)}
	for _, m := range merges {
		out.merged = append(out.merged, &m)
	}
	return out, nil
}

func (s *sheetRows) Close() error { return s.body.Close() }

func (s *sheetRows) Next() (int, []string, error) {
	for {
		t, err := s.tokens.next()
		if errors.Is(err, io.EOF) {
			return 0, nil, io.EOF
		}
		if err != nil {
			return 0, nil, fmt.Errorf("reading the sheet %q behind line %d: %w", s.sheet, s.line, err)
		}
		if end, ok := t.(xml.EndElement); ok && end.Name.Local == "sheetData" {
			return 0, nil, io.EOF
		}
		start, ok := t.(xml.StartElement)
		if !ok || start.Name.Local != "row" {
			continue
		}
		s.line++
		if n := whole(attribute(start, "r")); n > 0 {
			s.line = n
		}
		if s.line > mostSheetLines {
			return 0, nil, fmt.Errorf("the sheet %q has a line %d, and a sheet ends with %d", s.sheet, s.line,
				mostSheetLines)
		}
		cells, err := s.row()
		if err != nil {
			return 0, nil, fmt.Errorf("reading line %d of the sheet %q: %w", s.line, s.sheet, err)
		}
		if slices.ContainsFunc(cells, func(c string) bool { return c != "" }) {
			return s.line, cells, nil
		}
	}
}

// row reads the cells of a line, with those that merged cells reach into it.
func (s *sheetRows) row() ([]string, error) {
	var cells []string
	for column := 0; ; {
		t, err := s.tokens.within()
		if err != nil {
			return nil, fmt.Errorf("the line does not end: %w", err)
		}
		switch x := t.(type) {
		case xml.EndElement:
			if x.Name.Local == "row" {
				return s.spread(cells), nil
			}
		case xml.StartElement:
			if x.Name.Local != "c" {
				continue
			}
			column++
			if ref := attribute(x, "r"); ref != "" {
				if c, _, err := excelize.CellNameToCoordinates(ref); err == nil {
					column = c
				}
			}
			if column > mostSheetColumns {
				return nil, fmt.Errorf("it has %d columns, and a sheet has at most %d", column, mostSheetColumns)
			}
			text, err := s.cell(x, column)
			if err != nil {
				return nil, err
			}
			for len(cells) < column {
				cells = append(cells, "")
			}
			cells[column-1] = text
		}
	}
}

// spread puts what merged cells hold into all the cells that they take up.
func (s *sheetRows) spread(cells []string) []string {
	s.merged = slices.DeleteFunc(s.merged, func(m *merge) bool { return m.toLine < s.line })
	for _, m := range s.merged {
		if m.fromLine > s.line {
			continue
		}
		for len(cells) < m.to { // they are empty in the file, or not there
			cells = append(cells, "")
		}
		if m.fromLine == s.line {
			m.text = cells[m.from-1]
		}
		for c := m.from; c <= m.to; c++ {
			if cells[c-1] == "" {
				cells[c-1] = m.text
			}
		}
	}
	return cells
}

// cell reads one cell.
func (s *sheetRows) cell(start xml.StartElement, column int) (string, error) {
	var raw, formula strings.Builder
	var into *strings.Builder
	inline, isFormula := "", false
	for {
		t, err := s.tokens.within()
		if err != nil {
			return "", err
		}
		switch x := t.(type) {
		case xml.StartElement:
			switch x.Name.Local {
			case "v":
				into = &raw
			case "f":
				into, isFormula = &formula, true
			case "is":
				if inline, err = s.tokens.richText("is"); err != nil {
					return "", err
				}
			}
		case xml.CharData:
			if into != nil {
				if into.Len()+len(x) > mostPiece {
					return "", errPiece
				}
				into.Write(x)
			}
		case xml.EndElement:
			if into = nil; x.Name.Local == "c" {
				return s.text(attribute(start, "t"), whole(attribute(start, "s")), raw.String(), inline, column,
					isFormula, formula.String())
			}
		}
	}
}

// text is what a cell says, by its type and format.
func (s *sheetRows) text(kind string, style int, raw, inline string, column int, isFormula bool,
	formula string) (string, error) {
	switch kind {
	case "s":
		text, ok := s.book.shared.at(wholeOr(raw, -1))
		if !ok && raw != "" {
			return "", fmt.Errorf("column %d names the text %s, which is not there", column, raw)
		}
		return text, nil
	case "inlineStr":
		return inline, nil
	case "b":
		switch {
		case raw == "":
			return "", nil
		case raw == "1" || strings.EqualFold(raw, "true"):
			return "yes", nil
		}
		return "no", nil
	case "str", "e":
		if raw != "" {
			return unescaped(raw), nil
		}
	}
	if raw == "" && isFormula {
		return s.computed(column, style, formula), nil
	}
	return s.number(style, raw), nil
}

func wholeOr(text string, otherwise int) int {
	n, err := strconv.Atoi(strings.TrimSpace(text))
	if err != nil {
		return otherwise
	}
	return n
}

// computed is what a formula comes to that the program which wrote the file has not computed,
// and the formula itself where it cannot be computed here either.
func (s *sheetRows) computed(column, style int, formula string) string {
	if s.book.whole {
		if name, err := excelize.CoordinatesToCellName(column, s.line); err == nil {
			if result, err := s.book.file.CalcCellValue(s.sheet, name,
				excelize.Options{RawCellValue: true}); err == nil {
				return s.number(style, result)
			}
		}
	}
	if formula == "" { // it is another cell's as well
		return ""
	}
	return "=" + strings.TrimPrefix(formula, "=")
}

// number writes what a cell holds as its format means it.
func (s *sheetRows) number(style int, raw string) string {
	n, err := strconv.ParseFloat(raw, 64)
	if err != nil {
		return raw
	}
	return s.book.format(style).text(raw, n, s.book.epoch04)
}
