package intake

import (
	"bytes"
	"fmt"
	"io"
	"strings"
)

// File is a file that was recognised.
type File struct {
	Name string `json:"name"`
	// Kind is csv or xlsx.
	Kind      string   `json:"kind"`
	Encoding  Encoding `json:"encoding,omitempty"`
	Delimiter string   `json:"delimiter,omitempty"`
	Sheets    []Sheet  `json:"sheets"`

	source Source
	book   *workbook
}

// Sheet is one table of a file.
type Sheet struct {
	Name   string `json:"name"`
	Hidden bool   `json:"hidden,omitempty"`
}

// Rows goes through the rows of a table. The cells are the caller's until the next call.
type Rows interface {
	// Next gives a row and the line it begins in, counted from one; io.EOF at the end.
	Next() (line int, cells []string, err error)
	Close() error
}

// The kinds of files.
const (
	CSV  = "csv"
	XLSX = "xlsx"
)

// Open recognises a file by its content. Close it when done.
func Open(name string, s Source) (*File, error) {
	head, err := start(s, 1<<16)
	if err != nil {
		return nil, err
	}
	f := &File{Name: name, source: s}
	switch {
	case len(head) == 0:
		return nil, fmt.Errorf("%s is empty", name)
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		f.Kind = XLSX
		if f.book, err = openWorkbook(s); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
		f.Sheets = f.book.sheets()
		return f, nil
	case bytes.HasPrefix(head, []byte{0xd0, 0xcf, 0x11, 0xe0}):
		return nil, fmt.Errorf("%s is in the old binary format of spreadsheets; save it as XLSX or CSV", name)
	}
	f.Kind = CSV
	if f.Encoding, err = detect(s); err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	text, err := io.ReadAll(decoded(bytes.NewReader(head), f.Encoding))
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", name, err)
	}
	f.Delimiter = string(Delimiter(string(text)))
	f.Sheets = []Sheet{{Name: strings.TrimSuffix(strings.TrimSuffix(name, ".csv"), ".CSV")}}
	return f, nil
}

// Reopen opens a file as it was recognised before.
func Reopen(f File, s Source) (*File, error) {
	f.source = s
	if f.Kind == XLSX {
		var err error
		if f.book, err = openWorkbook(s); err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
	}
	return &f, nil
}

// Close lets go of what the file holds.
func (f *File) Close() error {
	if f.book != nil {
		return f.book.file.Close()
	}
	return nil
}

// Rows goes through the rows of a sheet from the start.
func (f *File) Rows(sheet int) (Rows, error) {
	if f.Kind == XLSX {
		return f.book.rows(f.Sheets[sheet].Name)
	}
	return openCSV(f.source, f.Encoding, []rune(f.Delimiter)[0])
}

func start(s Source, n int64) ([]byte, error) {
	r, err := s.Reader()
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	head, err := io.ReadAll(io.LimitReader(r, n))
	if err != nil {
		return nil, fmt.Errorf("reading the file: %w", err)
	}
	return head, nil
}

// Body goes through the rows of a sheet below its headings.
type Body struct {
	Rows
	// Headings are those of the file, made different from each other and never empty.
	Headings []string
	// Line is where the headings stand; nought when there are none.
	Line int
	// Notes say what was done to the headings.
	Notes []string
}

// mostSkipped is how many lines above the headings are passed over.
const mostSkipped = 20

// Body finds the headings of a sheet: the first row with more than one cell filled, or
// simply the first when the table has one column. Two rows make up the headings when
// cells are merged across in the first.
func (f *File) Body(sheet int) (*Body, error) {
	line, depth, err := f.headings(sheet)
	if err != nil {
		return nil, err
	}
	rows, err := f.Rows(sheet)
	if err != nil {
		return nil, err
	}
	b := &Body{Rows: rows, Line: line}
	var titles []string
	for depth > 0 {
		at, cells, err := rows.Next()
		if err == io.EOF {
			return nil, fmt.Errorf("the sheet %q of %s holds no table", f.Sheets[sheet].Name, f.Name)
		}
		if err != nil {
			return nil, err
		}
		if at < line {
			continue
		}
		titles = under(titles, cells)
		depth--
	}
	if line > 1 {
		b.Notes = append(b.Notes, fmt.Sprintf("The headings are in line %d; what stands above them is not part of the table.", line))
	}
	b.name(titles)
	return b, nil
}

// under puts a second row of headings below the first.
func under(above, below []string) []string {
	if above == nil {
		return append([]string{}, below...)
	}
	out := make([]string, max(len(above), len(below)))
	for i := range out {
		var parts []string
		if i < len(above) && strings.TrimSpace(above[i]) != "" {
			parts = append(parts, strings.TrimSpace(above[i]))
		}
		if i < len(below) && strings.TrimSpace(below[i]) != "" && (len(parts) == 0 || parts[0] != strings.TrimSpace(below[i])) {
			parts = append(parts, strings.TrimSpace(below[i]))
		}
		out[i] = strings.Join(parts, " ")
	}
	return out
}

// headings finds the line of the headings and how many rows they take.
func (f *File) headings(sheet int) (line, depth int, err error) {
	rows, err := f.Rows(sheet)
	if err != nil {
		return 0, 0, err
	}
	defer func() { _ = rows.Close() }()
	first, best, width := 0, 0, 0
	for range mostSkipped {
		at, cells, err := rows.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return 0, 0, err
		}
		n := 0
		for _, c := range cells {
			if strings.TrimSpace(c) != "" {
				n++
			}
		}
		if n > 0 && first == 0 {
			first = at
		}
		if n > 1 && best == 0 {
			best, width = at, n
		}
		// A title above the table has fewer cells than the table is wide.
		if best > 0 && n > 2*width {
			best, width = at, n
		}
	}
	if best == 0 {
		best = first
	}
	if best == 0 {
		return 0, 0, fmt.Errorf("the sheet %q of %s holds no table", f.Sheets[sheet].Name, f.Name)
	}
	if f.book != nil && f.book.mergedAcross(f.Sheets[sheet].Name, best) {
		return best, 2, nil
	}
	return best, 1, nil
}

// name makes headings that can be told apart.
func (b *Body) name(titles []string) {
	seen := map[string]bool{}
	for i, t := range titles {
		t = strings.Join(strings.Fields(t), " ")
		switch {
		case t == "":
			t = "Column " + columnLetters(i)
			b.Notes = append(b.Notes, fmt.Sprintf("Column %s has no heading.", columnLetters(i)))
		case seen[strings.ToLower(t)]:
			b.Notes = append(b.Notes, fmt.Sprintf("The heading %q is there more than once.", t))
		}
		name := t
		for n := 2; seen[strings.ToLower(name)]; n++ {
			name = fmt.Sprintf("%s %d", t, n)
		}
		seen[strings.ToLower(name)] = true
		b.Headings = append(b.Headings, name)
	}
}

// columnLetters is a column as spreadsheets call it: A to Z, AA and so on.
func columnLetters(i int) string {
	s := ""
	for i++; i > 0; i = (i - 1) / 26 {
		s = string(rune('A'+(i-1)%26)) + s
	}
	return s
}
