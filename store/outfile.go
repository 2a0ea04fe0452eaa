package store

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"strconv"
	"time"

	"github.com/xuri/excelize/v2"

	"plainpath/core/intake"
	"plainpath/core/value"
)

// outFile is a file that rows are written into as they come.
type outFile interface {
	// row writes cells, nil for empty ones.
	row(cells [][]byte) error
	close() error
}

func newOutFile(w io.Writer, format string, headings []string, kinds []value.Kind) (outFile, error) {
	if format == "xlsx" {
		return newOutBook(w, headings, kinds)
	}
	f := &outCSV{w: bufio.NewWriterSize(w, 64<<10), plain: make([]bool, len(kinds))}
	// A byte order mark says to spreadsheets that this is UTF-8.
	if _, err := f.w.WriteString("\ufeff"); err != nil {
		return nil, fmt.Errorf("writing a table: %w", err)
	}
	cells := make([][]byte, len(headings))
	for i, h := range headings {
		cells[i] = []byte(h)
	}
	if err := f.row(cells); err != nil {
		return nil, err
	}
	for i, k := range kinds {
		f.plain[i] = plainKind(k)
	}
	return f, nil
}

// outCSV writes CSV after RFC 4180 without making a string of every cell.
type outCSV struct {
	w     *bufio.Writer
	plain []bool
}

func (f *outCSV) row(cells [][]byte) error {
	for i, cell := range cells {
		if i > 0 {
			_ = f.w.WriteByte(',') // errors of a bufio.Writer stay and come at the end
		}
		if !f.plain[i] && len(cell) > 0 && bytes.IndexByte([]byte("'=+-@\t\r"), cell[0]) >= 0 {
			cell = []byte(intake.Protected(string(cell)))
		}
		f.cell(cell, len(cells) == 1)
	}
	if _, err := f.w.WriteString("\r\n"); err != nil {
		return fmt.Errorf("writing a table: %w", err)
	}
	return nil
}

func (f *outCSV) cell(cell []byte, alone bool) {
	quoted := len(cell) == 0 && alone // a blank line would not be a row
	if len(cell) > 0 {
		quoted = bytes.ContainsAny(cell, "\",\r\n") || cell[0] == ' ' || cell[len(cell)-1] == ' '
	}
	if !quoted {
		_, _ = f.w.Write(cell)
		return
	}
	_ = f.w.WriteByte('"')
	for {
		i := bytes.IndexByte(cell, '"')
		if i < 0 {
			break
		}
		_, _ = f.w.Write(cell[:i+1])
		_ = f.w.WriteByte('"')
		cell = cell[i+1:]
	}
	_, _ = f.w.Write(cell)
	_ = f.w.WriteByte('"')
}

func (f *outCSV) close() error {
	if err := f.w.Flush(); err != nil {
		return fmt.Errorf("writing a table: %w", err)
	}
	return nil
}

// outBook writes a workbook of one sheet: numbers, amounts and dates as such, everything
// else as text, which no spreadsheet runs.
type outBook struct {
	w      io.Writer
	book   *excelize.File
	stream *excelize.StreamWriter
	kinds  []value.Kind
	styles map[string]int
	line   int
}

func newOutBook(w io.Writer, headings []string, kinds []value.Kind) (*outBook, error) {
	b := &outBook{w: w, book: excelize.NewFile(), kinds: kinds, styles: map[string]int{}}
	var err error
	if b.stream, err = b.book.NewStreamWriter("Sheet1"); err != nil {
		return nil, fmt.Errorf("making a workbook: %w", err)
	}
	bold, err := b.book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return nil, fmt.Errorf("making a workbook: %w", err)
	}
	for i := range headings {
		if err := b.stream.SetColWidth(i+1, i+1, 18); err != nil {
			return nil, fmt.Errorf("making a workbook: %w", err)
		}
	}
	first := make([]any, len(headings))
	for i, h := range headings {
		first[i] = excelize.Cell{StyleID: bold, Value: h}
	}
	b.line = 1
	if err := b.stream.SetRow("A1", first); err != nil {
		return nil, fmt.Errorf("writing a workbook: %w", err)
	}
	return b, nil
}

func (b *outBook) row(cells [][]byte) error {
	b.line++
	row := make([]any, len(cells))
	for i, cell := range cells {
		if cell == nil {
			continue
		}
		var err error
		if row[i], err = b.cell(b.kinds[i], string(cell)); err != nil {
			return fmt.Errorf("writing a workbook: %w", err)
		}
	}
	if err := b.stream.SetRow("A"+strconv.Itoa(b.line), row); err != nil {
		return fmt.Errorf("writing a workbook: %w", err)
	}
	return nil
}

// longestNumber is how many characters a number may have for a spreadsheet to keep it
// exactly; longer ones are text.
const longestNumber = 15

func (b *outBook) cell(kind value.Kind, text string) (any, error) {
	switch kind {
	case value.KindWhole, value.KindDecimal:
		if n, err := strconv.ParseFloat(text, 64); err == nil && len(text) <= longestNumber {
			return n, nil
		}
	case value.KindMoney:
		amount, currency := text[:max(0, len(text)-4)], text[max(0, len(text)-3):]
		if n, err := strconv.ParseFloat(amount, 64); err == nil && len(amount) <= longestNumber {
			style, err := b.style(`#,##0.00######" ` + currency + `"`)
			return excelize.Cell{StyleID: style, Value: n}, err
		}
	case value.KindDate:
		if t, err := time.Parse(time.DateOnly, text); err == nil && t.Year() > 1900 {
			style, err := b.style("yyyy-mm-dd")
			return excelize.Cell{StyleID: style, Value: t}, err
		}
	}
	return text, nil
}

func (b *outBook) style(format string) (int, error) {
	if id, ok := b.styles[format]; ok {
		return id, nil
	}
	id, err := b.book.NewStyle(&excelize.Style{CustomNumFmt: &format})
	b.styles[format] = id
	return id, err
}

func (b *outBook) close() error {
	if err := b.stream.Flush(); err != nil {
		return fmt.Errorf("writing a workbook: %w", err)
	}
	if err := b.book.Write(b.w); err != nil {
		return fmt.Errorf("writing a workbook: %w", err)
	}
	return b.book.Close()
}
