package exports

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"time"

	"plainpath/core/intake"
	"plainpath/core/value"
)

// outFile is a file that rows are written into as they come.
type outFile interface {
	// row writes cells, nil for empty ones.
	row(cells [][]byte) error
	close() error
}

func newOutFile(w io.Writer, format string, headings []string, kinds []value.Kind,
	zone *time.Location) (outFile, error) {
	if format == "xlsx" {
		return newOutBook(w, headings, kinds, zone)
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
	if err := f.w.Flush(); err != nil { // whoever waits for the file sees that it has begun
		return nil, fmt.Errorf("writing a table: %w", err)
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
