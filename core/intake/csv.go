package intake

import (
	"encoding/csv"
	"fmt"
	"io"
	"strings"
)

// longestCell bounds the lines one quoted cell may go over: a quote that is never closed
// would otherwise swallow the rest of the file in silence.
const longestCell = 2000

// delimiters are those tried, the likeliest first.
var delimiters = []rune{',', ';', '\t', '|', ':'}

// Delimiter finds what separates the cells: the delimiter with which the first lines
// have the most cells, the same number in most of them.
func Delimiter(sample string) rune {
	best, bestScore := ',', 0.0
	for _, d := range delimiters {
		r := csv.NewReader(strings.NewReader(sample))
		r.Comma, r.LazyQuotes, r.FieldsPerRecord = d, true, -1
		widths := map[int]int{}
		rows := 0
		for rows < 50 {
			row, err := r.Read()
			if err != nil {
				break
			}
			widths[len(row)]++
			rows++
		}
		for width, n := range widths {
			same := float64(n) / float64(rows)
			if score := float64(width-1) * same * same; score > bestScore {
				best, bestScore = d, score
			}
		}
	}
	return best
}

// csvRows goes through the rows of a CSV by encoding/csv, which reads RFC 4180; a quote
// in the middle of a cell counts as itself. Blank lines are passed over. Line ends
// within cells become single line feeds.
type csvRows struct {
	file   io.Closer
	reader *csv.Reader
}

func openCSV(s Source, e Encoding, delimiter rune) (Rows, error) {
	file, err := s.Reader()
	if err != nil {
		return nil, err
	}
	r := csv.NewReader(decoded(file, e))
	r.Comma, r.LazyQuotes, r.FieldsPerRecord, r.ReuseRecord = delimiter, true, -1, true
	return &csvRows{file, r}, nil
}

func (c *csvRows) Next() (int, []string, error) {
	cells, err := c.reader.Read()
	if err == io.EOF {
		return 0, nil, io.EOF
	}
	if err != nil {
		return 0, nil, fmt.Errorf("reading the table: %w", err)
	}
	line, _ := c.reader.FieldPos(0)
	for i, cell := range cells {
		cells[i] = unprotected(cell)
		if len(cell) > longestCell && strings.Count(cell, "\n") > longestCell {
			at, _ := c.reader.FieldPos(i)
			return 0, nil, fmt.Errorf("the quote that opens in line %d is not closed within %d lines; close it and bring the file again", at, longestCell)
		}
	}
	return line, cells, nil
}

func (c *csvRows) Close() error { return c.file.Close() }

// WriteCSV writes rows as CSV after RFC 4180, what a spreadsheet would run made harmless. A
// row of one empty cell is written as two
// quotes, for a blank line would not be a row.
func WriteCSV(w io.Writer, delimiter rune, rows [][]string) error {
	c := csv.NewWriter(w)
	c.Comma, c.UseCRLF = delimiter, true
	for _, row := range rows {
		if len(row) == 1 && row[0] == "" {
			c.Flush()
			if _, err := io.WriteString(w, "\"\"\r\n"); err != nil {
				return fmt.Errorf("writing a table: %w", err)
			}
			continue
		}
		safe := make([]string, len(row))
		for i, cell := range row {
			safe[i] = Protected(cell)
		}
		if err := c.Write(safe); err != nil {
			return fmt.Errorf("writing a table: %w", err)
		}
	}
	c.Flush()
	if err := c.Error(); err != nil {
		return fmt.Errorf("writing a table: %w", err)
	}
	return nil
}
