package intake

import (
	"bytes"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode/utf8"
)

// File is a file that was recognised.
type File struct {
	Name string `json:"name"`
	// Kind is csv or xlsx.
	Kind      string   `json:"kind"`
	Encoding  Encoding `json:"encoding,omitempty"`
	Delimiter string   `json:"delimiter,omitempty"`
	Sheets    []Sheet  `json:"sheets"`
	// Words are some that the encoding makes of what is not plain, where it was guessed: whether
	// they are right shows whether the guess is.
	Words []string `json:"words,omitempty"`

	source Source
	book   *workbook
	// excluded are readings that somebody ruled out.
	excluded mask
}

// Sheet is one table of a file.
type Sheet struct {
	Name   string `json:"name"`
	Hidden bool   `json:"hidden,omitempty"`
	// Headings are where somebody said they stand.
	Headings *Headings `json:"headings,omitempty"`
}

// Headings say in which line the headings of a sheet begin and how many lines they take, nought
// for a sheet that has none: its rows begin in that line.
type Headings struct {
	Line int `json:"line"`
	Rows int `json:"rows"`
}

// Settings are what somebody said of how a file is read. What is empty is found out.
type Settings struct {
	Encoding  Encoding `json:"encoding,omitempty"`
	Delimiter string   `json:"delimiter,omitempty"`
	// Decimal is Point or Comma where numbers have no other decimal mark, Dates DMY or MDY where
	// none of the two is the other.
	Decimal string `json:"decimal,omitempty"`
	Dates   string `json:"dates,omitempty"`
	// Headings are by the place of the sheet.
	Headings map[int]Headings `json:"headings,omitempty"`
}

// mostHeadingRows is how many lines headings can take.
const mostHeadingRows = 3

// Check says what is wrong with settings.
func (s Settings) Check() error {
	if s.Encoding != "" && !slices.Contains(Encodings, s.Encoding) {
		return fmt.Errorf("%q is no encoding that files are read in", s.Encoding)
	}
	if n := utf8.RuneCountInString(s.Delimiter); n > 1 || s.Delimiter != "" && strings.ContainsAny(s.Delimiter,
		"\"\r\n\ufffd") {
		return fmt.Errorf("cells are parted by one character, which is no quote and no line end")
	}
	if !slices.Contains([]string{"", Point, Comma}, s.Decimal) {
		return fmt.Errorf("the decimal mark is a point or a comma, not %q", s.Decimal)
	}
	if !slices.Contains([]string{"", DMY, MDY}, s.Dates) {
		return fmt.Errorf("dates have the day or the month first, not %q", s.Dates)
	}
	for _, h := range s.Headings {
		if h.Line < 1 || h.Rows < 0 || h.Rows > mostHeadingRows {
			return fmt.Errorf("headings begin in a line from 1 on and take up to %d lines", mostHeadingRows)
		}
	}
	return nil
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

// Open recognises a file by its content and by what was set. Close it when done.
func Open(name string, s Source, set Settings) (*File, error) {
	f, err := open(name, s, set)
	if err != nil {
		return nil, err
	}
	f.excluded = set.excluded()
	for i, h := range set.Headings {
		if i < len(f.Sheets) {
			f.Sheets[i].Headings = &h
		}
	}
	return f, nil
}

func open(name string, s Source, set Settings) (*File, error) {
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
	guessed := false
	if f.Encoding = set.Encoding; f.Encoding == "" {
		if f.Encoding, guessed, err = detect(s); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
	}
	if guessed {
		telling, err := tellingLines(s)
		if err != nil {
			return nil, err
		}
		f.Words = samplesOf(telling, f.Encoding)
	}
	text, err := io.ReadAll(decoded(bytes.NewReader(head), f.Encoding))
	if err != nil {
		return nil, fmt.Errorf("reading %s: %w", name, err)
	}
	if f.Delimiter = set.Delimiter; f.Delimiter == "" {
		f.Delimiter = string(Delimiter(string(text)))
	}
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

// Body finds the headings of a sheet: where somebody said they stand, or the first row with more
// than one cell filled, or simply the first when the table has one column. Several rows make up
// the headings when cells are merged across in those above.
func (f *File) Body(sheet int) (*Body, error) {
	line, depth, err := f.headings(sheet)
	if err != nil {
		return nil, err
	}
	rows, err := f.Rows(sheet)
	if err != nil {
		return nil, err
	}
	if depth == 0 {
		return f.without(sheet, line, rows)
	}
	b := &Body{Rows: rows, Line: line}
	var titles []string
	for left := depth; left > 0; left-- {
		at, cells, err := rows.Next()
		for err == nil && at < line {
			at, cells, err = rows.Next()
		}
		if err == io.EOF {
			return nil, fmt.Errorf("the sheet %q of %s holds no table", f.Sheets[sheet].Name, f.Name)
		}
		if err != nil {
			return nil, err
		}
		if left > 1 && f.book == nil { // what stands above several columns is written once
			cells = forward(cells)
		}
		titles = under(titles, cells)
	}
	if line > 1 {
		b.Notes = append(b.Notes,
			fmt.Sprintf("The headings are in line %d; what stands above them is not part of the table.", line))
	}
	b.name(titles)
	return b, nil
}

// without is the body of a sheet that has no headings.
func (f *File) without(sheet, line int, rows Rows) (*Body, error) {
	sample, err := f.sample(sheet, line)
	if err != nil {
		return nil, err
	}
	width := 0
	for _, cells := range sample {
		width = max(width, len(cells))
	}
	b := &Body{Rows: &fromLine{rows, line}}
	if f.Sheets[sheet].Headings == nil {
		b.Notes = append(b.Notes,
			"The first row looks like those below it, so it is a row and not the headings. Say so where it is.")
	}
	for i := range width {
		b.Headings = append(b.Headings, "Column "+columnLetters(i))
	}
	return b, nil
}

// fromLine passes over what stands above a line.
type fromLine struct {
	Rows
	line int
}

// Next gives the next row from the line on.
func (r *fromLine) Next() (int, []string, error) {
	for {
		at, cells, err := r.Rows.Next()
		if err != nil || at >= r.line {
			return at, cells, err
		}
	}
}

// forward repeats each text in the empty cells behind it.
func forward(cells []string) []string {
	out := slices.Clone(cells)
	for i := 1; i < len(out); i++ {
		if strings.TrimSpace(out[i]) == "" {
			out[i] = out[i-1]
		}
	}
	return out
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
		if i < len(below) && strings.TrimSpace(below[i]) != "" &&
			(len(parts) == 0 || !strings.HasSuffix(parts[0], strings.TrimSpace(below[i]))) {
			parts = append(parts, strings.TrimSpace(below[i]))
		}
		out[i] = strings.Join(parts, " ")
	}
	return out
}

// headings finds the line of the headings and how many rows they take, none where the first row
// looks like those below it.
func (f *File) headings(sheet int) (line, depth int, err error) {
	if set := f.Sheets[sheet].Headings; set != nil {
		return set.Line, set.Rows, nil
	}
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
		n := filledIn(cells)
		if n > 1 && f.book != nil && allAlike(cells) && f.book.mergedAcross(f.Sheets[sheet].Name, at) {
			n = 1 // a title over the whole table
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
	depth = 1
	for f.book != nil && depth < mostHeadingRows && f.book.mergedAcross(f.Sheets[sheet].Name, best+depth-1) {
		depth++
	}
	if depth > 1 {
		return best, depth, nil
	}
	sample, err := f.sample(sheet, best)
	if err != nil {
		return 0, 0, err
	}
	if likeTheOthers(sample) {
		return best, 0, nil
	}
	return best, 1, nil
}

func filledIn(cells []string) int {
	n := 0
	for _, c := range cells {
		if strings.TrimSpace(c) != "" {
			n++
		}
	}
	return n
}

func allAlike(cells []string) bool {
	filled := slices.DeleteFunc(slices.Clone(cells), func(c string) bool { return strings.TrimSpace(c) == "" })
	return len(slices.Compact(filled)) == 1
}

// sample reads the first rows of a sheet from a line on.
func (f *File) sample(sheet, line int) ([][]string, error) {
	rows, err := f.Rows(sheet)
	if err != nil {
		return nil, err
	}
	defer func() { _ = rows.Close() }()
	var out [][]string
	for len(out) < mostSkipped {
		at, cells, err := rows.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, err
		}
		if at >= line {
			out = append(out, slices.Clone(cells))
		}
	}
	return out, nil
}

// likeTheOthers says whether the first row is one like those below it: numbers, dates or
// addresses stand above others of their kind, and above none stands a word. Years above numbers
// are headings.
func likeTheOthers(rows [][]string) bool {
	if len(rows) < 3 {
		return false
	}
	alike := 0
	for c, cell := range rows[0] {
		below, seen, years := mask(0), false, true
		for _, row := range rows[1:] {
			if c >= len(row) || strings.TrimSpace(row[c]) == "" {
				continue
			}
			m := fits(strings.TrimSpace(row[c]))
			years = years && yearLike(row[c])
			if below &= m; !seen {
				below, seen = m, true
			}
		}
		if below == 0 || strings.TrimSpace(cell) == "" {
			continue
		}
		if fits(strings.TrimSpace(cell))&below == 0 {
			return false
		}
		if !yearLike(cell) || years {
			alike++
		}
	}
	return alike > 0
}

func yearLike(cell string) bool {
	cell = strings.TrimSpace(cell)
	return len(cell) == 4 && allDigits(cell) && (cell[:2] == "19" || cell[:2] == "20")
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
