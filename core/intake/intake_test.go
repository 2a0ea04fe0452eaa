package intake

import (
	"bytes"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/shopspring/decimal"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"plainpath/core/model"
	"plainpath/core/value"
)

type memory []byte

func (m memory) Reader() (io.ReadCloser, error) { return io.NopCloser(bytes.NewReader(m)), nil }
func (m memory) Size() int64                    { return int64(len(m)) }

func untold(int64) error { return nil }

func analyse(t *testing.T, name string, content []byte, sheet int) (*File, *Analysis) {
	t.Helper()
	f, err := Open(name, memory(content), Settings{})
	if err != nil {
		t.Fatal(err)
	}
	a, err := Analyse(f, sheet, untold)
	if err != nil {
		t.Fatal(err)
	}
	return f, a
}

// A table written as CSV and read again is the same table, whatever separates its cells
// and however its characters are written.
func TestTablesComeBackFromCSV(t *testing.T) {
	pieces := []string{"", "mill", "Mill House", `a "quoted" word`, `"`, "x,y", "1;2", "tab\there", "two\nlines",
		" led", "ÄRGER", "07", "|", "'", "é"}
	encodings := map[Encoding]encoding.Encoding{UTF8: encoding.Nop, Windows1252: charmap.Windows1252,
		UTF16LE: unicode.UTF16(unicode.LittleEndian, unicode.UseBOM), UTF16BE: unicode.UTF16(unicode.BigEndian,
			unicode.UseBOM)}
	r := rand.New(rand.NewPCG(3, 1))
	for n := range 400 {
		width := 1 + r.IntN(5)
		rows := [][]string{}
		for i := range 2 + r.IntN(12) {
			row := make([]string, width)
			for j := range row {
				row[j] = pieces[r.IntN(len(pieces))] + pieces[r.IntN(len(pieces))]
				if i == 0 {
					row[j] = fmt.Sprintf("Heading %d", j)
				}
			}
			rows = append(rows, row)
		}
		delimiter := delimiters[r.IntN(4)]
		for want, e := range encodings {
			var text bytes.Buffer
			if err := WriteCSV(&text, delimiter, rows); err != nil {
				t.Fatal(err)
			}
			raw, err := e.NewEncoder().Bytes(text.Bytes())
			if err != nil {
				t.Fatal(err)
			}
			f, err := Open("table.csv", memory(raw), Settings{})
			if err != nil {
				t.Fatal(err)
			}
			if f.Encoding != want && !(want == Windows1252 && f.Encoding == UTF8 && isASCII(raw)) {
				t.Fatalf("%s was taken for %s: %q", want, f.Encoding, raw)
			}
			f.Delimiter = string(delimiter) // tables this odd need not be guessed
			got, err := readAll(f)
			if err != nil || !slices.EqualFunc(got, rows, slices.Equal[[]string]) {
				t.Fatalf("table %d, %s: %q, %v; want %q", n, want, got, err, rows)
			}
		}
	}
}

func isASCII(raw []byte) bool {
	return !slices.ContainsFunc(raw, func(c byte) bool { return c >= 0x80 })
}

func readAll(f *File) ([][]string, error) {
	rows, err := f.Rows(0)
	if err != nil {
		return nil, err
	}
	var out [][]string
	for {
		_, cells, err := rows.Next()
		if err == io.EOF {
			return out, rows.Close()
		}
		if err != nil {
			return nil, err
		}
		out = append(out, slices.Clone(cells))
	}
}

// What is read under the type that was guessed is what was written into the file.
func TestGuessedTypesLoseNoValue(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 2))
	type written struct {
		text string
		want value.Value
	}
	group := func(n int64, sep string) string {
		s := fmt.Sprint(n)
		for i := len(s) - 3; i > 0; i -= 3 {
			s = s[:i] + sep + s[i:]
		}
		return s
	}
	makers := map[string]func() written{
		"whole": func() written { n := r.Int64N(1e7); return written{fmt.Sprint(n), value.Whole(n)} },
		"grouped": func() written {
			n := 1_000_000 + r.Int64N(1e9)
			return written{group(n, ","), value.Whole(n)}
		},
		"decimal comma": func() written {
			n := r.Int64N(1e6)
			return written{fmt.Sprintf("%s,%02d", group(n, "."), 1+r.IntN(99)), nil}
		},
		"codes": func() written { s := fmt.Sprintf("%05d", r.IntN(9999)); return written{s, value.Text(s)} },
		"long codes": func() written {
			s := fmt.Sprintf("4%018d", r.Int64N(1e15))
			return written{s, value.Text(s)}
		},
		"day first": func() written {
			d := value.DateOf(time.Date(2020, 1, 1+r.IntN(2000), 0, 0, 0, 0, time.UTC))
			return written{fmt.Sprintf("%02d/%02d/%d", d.Day, d.Month, d.Year), d}
		},
		"month first": func() written {
			d := value.DateOf(time.Date(2020, 1, 1+r.IntN(2000), 0, 0, 0, 0, time.UTC))
			return written{fmt.Sprintf("%d/%d/%d", d.Month, d.Day, d.Year), d}
		},
		"iso": func() written {
			d := value.DateOf(time.Date(2020, 1, 1+r.IntN(2000), 0, 0, 0, 0, time.UTC))
			return written{d.String(), d}
		},
		"money": func() written {
			n := r.Int64N(1e7)
			d := decimal.New(n, -2)
			return written{"€ " + d.StringFixed(2), value.Money{Amount: d, Currency: "EUR"}}
		},
		"text": func() written {
			s := []string{" mill", "12 Mill Lane", "O’Hara", "n/a", "1e5", "+12", "-0", "1.2.3", "31/02/2026x",
				"0x1F"}[r.IntN(10)]
			return written{s, value.Text(s)}
		},
	}
	for name, make := range makers {
		var cells []written
		var text strings.Builder
		text.WriteString("Heading|Row\n")
		for i := range 300 {
			c := make()
			cells = append(cells, c)
			fmt.Fprintf(&text, "%s|%d\n", c.text, i)
		}
		_, a := analyse(t, name+".csv", []byte(text.String()), 0)
		guess := a.Columns[0].Guess
		for _, c := range cells {
			got, err := guess.Value(c.text, time.UTC)
			want := c.want
			if want == nil { // decimal comma: the digits without marks must be the same
				plain := strings.ReplaceAll(strings.ReplaceAll(c.text, ".", ""), ",", ".")
				want = value.Decimal{Decimal: decimal.RequireFromString(plain)}
			}
			if err != nil || fmt.Sprint(got) != fmt.Sprint(want) && !value.Equal(got, want) {
				t.Errorf("%s read as %v: %q gives %v, %v; want %v", name, guess, c.text, got, err, want)
				break
			}
		}
	}
}

func TestWhatIsGuessed(t *testing.T) {
	for _, c := range []struct {
		name  string
		cells []string
		want  Reading
		why   string
		open  bool
	}{
		{"day first, by one value", []string{"03/04/2026", "05/06/2026", "25/06/2026"}, Reading{model.Date, DMY},
			"1 of them fit only with the day first", false},
		{"month first, by one value", []string{"03/04/2026", "12/31/2025"}, Reading{model.Date, MDY},
			"only with the month first", false},
		{"undecided", []string{"03/04/2026", "05/06/2026"}, Reading{model.Date, DMY}, "as well have the month first",
			true},
		{"same day and month is no matter", []string{"03/03/2026", "05/05/2026"}, Reading{model.Date, DMY},
			"All 2 cells fit", false},
		{"months in words", []string{"3 Mar 2026", "April 5, 2026"}, Reading{model.Date, YMD}, "All 2", false},
		{"decimal comma", []string{"1.234,5", "7,25"}, Reading{model.Decimal, Comma}, "only with a decimal comma",
			false},
		{"thousands or decimals", []string{"1,234", "5,678"}, Reading{model.Whole, Point},
			"as well have a decimal comma", true},
		{"one that does not fit", append(slices.Repeat([]string{"12"}, 19), "twelve"), Reading{model.Whole, Point},
			"19 of 20 cells fit", false},
		{"too many that do not", []string{"12", "13", "x", "y"}, Reading{Type: model.Text}, "", false},
		{"leading noughts", []string{"0123", "4567", "8901"}, Reading{Type: model.Text}, "leading noughts", false},
		{"yes and no", []string{"Yes", "no", "YES"}, Reading{Type: model.YesNo}, "All 3", false},
		{"two words for yes", []string{"x", "Y", "n"}, Reading{Type: model.YesNo}, "“x” and “y” would be one value",
			true},
		{"few that are neither yes nor no", append(slices.Repeat([]string{"yes"}, 19), "later"),
			Reading{Type: model.Choice}, "2 values", false},
		{"values that differ in case", slices.Repeat([]string{"Done", "done", "DONE", "Open"}, 4),
			Reading{Type: model.Choice}, "“DONE” and “Done” would be one value", true},
		{"day first fits all, months in words most", append(slices.Repeat([]string{"3 Mar 2026"}, 19), "25/12/2026"),
			Reading{model.Date, DMY}, "All 20", false},
		{"noughts and ones are numbers", []string{"0", "1", "1"}, Reading{model.Whole, Point}, "All 3", false},
		{"a few values again and again", slices.Repeat([]string{"Passenger", "Goods"}, 4), Reading{Type: model.Choice},
			"2 values", false},
		{"amounts", []string{"12.50 EUR", "£9", "-$3.00"}, Reading{model.Money, Point}, "All 3", false},
		{"percentages", []string{"12.5 %", "3%"}, Reading{model.Decimal, Point}, "All 2", false},
		{"with a time", []string{"2026-03-01 09:30", "2026-03-02T10:00:00Z"}, Reading{model.DateTime, YMD}, "All 2",
			false},
		{"addresses of mail", []string{"dana@quillmere.example", "bo@quillmere.example"}, Reading{Type: model.Email},
			"All 2", false},
		{"phone numbers", []string{"+44 1632 960123", "+44 1632 960124"}, Reading{Type: model.Phone}, "All 2", false},
		{"nothing", []string{"", " "}, Reading{Type: model.Text}, "empty", false},
		{"long text", []string{strings.Repeat("words ", 60), "x"}, Reading{Type: model.LongText}, "", false},
	} {
		p := newProfiler("H")
		for i, cell := range c.cells {
			p.take(i+2, cell)
		}
		got := p.finish()
		if got.Guess != c.want || !strings.Contains(got.Why, c.why) || got.Undecided != c.open {
			t.Errorf("%s: %v, %q, undecided %t", c.name, got.Guess, got.Why, got.Undecided)
		}
	}
}

func TestEvidenceNamesLines(t *testing.T) {
	_, a := analyse(t, "lifts.csv", []byte("Serial;Stops\nQL-1;4\nQL-2;four\nQL-3;\nQL-4;6\n"), 0)
	c := a.Columns[1]
	i := slices.IndexFunc(c.Evidence, func(e Evidence) bool { return e.Reading == Reading{model.Whole, Point} })
	if e := c.Evidence[i]; e.Fits != 2 || e.Misfits != 1 || c.Empty != 1 || e.Examples[0] != (Example{3, "four"}) {
		t.Errorf("%+v, empty %d", e, c.Empty)
	}
	if !a.Columns[0].Unique || a.Rows != 4 {
		t.Errorf("%+v", a)
	}
}

// Lines end with a carriage return, a line feed or both; the cells are the same.
func TestLineEnds(t *testing.T) {
	for name, end := range map[string]string{"feeds": "\n", "returns": "\r", "both": "\r\n"} {
		content := strings.Join([]string{"Name,Note", `Mill,"two` + end + `lines"`, "Quay,x",
			strings.Repeat("y", 9000) + ",z"}, end)
		for _, last := range []string{"", end} {
			_, a := analyse(t, "x.csv", []byte(content+last), 0)
			if a.Rows != 3 || len(a.Columns) != 2 ||
				fmt.Sprintf("%q", a.Columns[1].Samples) != `["two\nlines" "x" "z"]` {
				t.Errorf("%s: %d rows, %q", name, a.Rows, a.Columns[len(a.Columns)-1].Samples)
			}
		}
	}
}

func TestHeadingsAreMadeDifferent(t *testing.T) {
	_, a := analyse(t, "x.csv", []byte("\nLifts of Quillmere\nName,,Name,Town\na,b,c,d\n"), 0)
	var names []string
	for _, c := range a.Columns {
		names = append(names, c.Heading)
	}
	if got := strings.Join(names, "|"); got != "Name|Column B|Name 2|Town" || a.Line != 3 || len(a.Notes) != 3 {
		t.Errorf("%s, line %d, %v", got, a.Line, a.Notes)
	}
}

func TestWhatIsNoTableIsRefused(t *testing.T) {
	for name, c := range map[string]struct{ content, says string }{
		"empty.csv":   {"", "is empty"},
		"picture.csv": {"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x01\x02\x00", "not a table"},
		"broken.xlsx": {"PK\x03\x04 and then nothing", "cannot be opened"},
		"old.xls":     {"\xd0\xcf\x11\xe0\xa1\xb1", "old binary format"},
		"blank.csv":   {"\n\n \n", "holds no table"},
	} {
		f, err := Open(name, memory(c.content), Settings{})
		if err == nil {
			_, err = Analyse(f, 0, untold)
		}
		if err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v", name, err)
		}
	}
	open := `Name,Note` + "\n" + `Mill,"never closed` + strings.Repeat("\nx,y", 3000)
	f, err := Open("open.csv", memory(open), Settings{})
	if err != nil {
		t.Fatal(err)
	}
	if _, err := Analyse(f, 0, untold); err == nil || !strings.Contains(err.Error(), "line 2") {
		t.Errorf("a quote that is never closed: %v", err)
	}
}

func TestWorkbooks(t *testing.T) {
	b := excelize.NewFile()
	set := func(sheet, cell string, v any, format string) {
		t.Helper()
		if err := b.SetCellValue(sheet, cell, v); err != nil {
			t.Fatal(err)
		}
		if format != "" {
			style, err := b.NewStyle(&excelize.Style{CustomNumFmt: &format})
			if err != nil {
				t.Fatal(err)
			}
			if err := b.SetCellStyle(sheet, cell, cell, style); err != nil {
				t.Fatal(err)
			}
		}
	}
	day := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC)
	for i, h := range []string{"Day", "At", "Share", "Fee", "Active", "Code", "Sum", "Clock",
		"Local day", "Long day", "Lasts", "Price", "Red", "Result", "Month"} {
		set("Sheet1", columnLetters(i)+"1", h, "")
	}
	set("Sheet1", "A2", day, "dd/mm/yyyy")
	set("Sheet1", "B2", day.Add(9*time.Hour+30*time.Minute), "yyyy-mm-dd hh:mm")
	set("Sheet1", "C2", 0.125, "0.0%")
	set("Sheet1", "D2", 1234.5, "[$€-407] #,##0.00")
	set("Sheet1", "E2", true, "")
	set("Sheet1", "F2", "007", "")
	set("Sheet1", "H2", 0.5, "hh:mm")
	set("Sheet1", "I2", day, "[$-409]d mmm yyyy;@")
	set("Sheet1", "J2", day, "[$-F800]dddd, mmmm dd, yyyy")
	set("Sheet1", "K2", 2.0625, "[h]:mm:ss")
	set("Sheet1", "L2", 12.5, "")
	set("Sheet1", "M2", 3.25, "#,##0.00;[Red]-#,##0.00")
	set("Sheet1", "O2", day, "mmmm")
	price, err := b.NewStyle(&excelize.Style{NumFmt: 44})
	if err != nil {
		t.Fatal(err)
	}
	if err := b.SetCellStyle("Sheet1", "L2", "L2", price); err != nil {
		t.Fatal(err)
	}
	if err := b.SetCellFormula("Sheet1", "N2", `CONCATENATE("0","07")`); err != nil {
		t.Fatal(err)
	}
	if err := b.SetCellFormula("Sheet1", "G2", "1+2"); err != nil {
		t.Fatal(err)
	}
	for _, sheet := range []string{"Hidden", "Merged"} {
		if _, err := b.NewSheet(sheet); err != nil {
			t.Fatal(err)
		}
	}
	set("Hidden", "A1", "x", "")
	if err := b.SetSheetVisible("Hidden", false); err != nil {
		t.Fatal(err)
	}
	for cell, v := range map[string]string{"A1": "Address", "C1": "Lift", "A2": "Street", "B2": "Town", "C2": "Serial",
		"A3": "1 Mill Lane", "B3": "Varrow", "C3": "QL-1"} {
		set("Merged", cell, v, "")
	}
	if err := b.MergeCell("Merged", "A1", "B1"); err != nil {
		t.Fatal(err)
	}
	var raw bytes.Buffer
	if err := b.Write(&raw); err != nil {
		t.Fatal(err)
	}
	f, a := analyse(t, "lifts.xlsx", raw.Bytes(), 0)
	if len(f.Sheets) != 3 || !f.Sheets[1].Hidden || f.Sheets[0].Hidden {
		t.Errorf("sheets: %+v", f.Sheets)
	}
	want := []struct{ sample, kind string }{{"2026-03-01", "date"}, {"2026-03-01 09:30:00", "date_time"},
		{"0.125", "decimal"}, {"1234.5 EUR", "money"},
		{"yes", "yes_no"}, {"007", "text"}, {"3", "whole_number"}, {"12:00:00", "text"},
		{"2026-03-01", "date"}, {"2026-03-01", "date"}, {"49:30:00", "text"}, {"12.5 USD", "money"},
		{"3.25", "decimal"}, {"007", "text"}, {"2026-03-01", "date"}}
	for i, w := range want {
		c := a.Columns[i]
		if len(c.Samples) != 1 || c.Samples[0] != w.sample || string(c.Guess.Type) != w.kind {
			t.Errorf("%s: %v as %v", c.Heading, c.Samples, c.Guess)
		}
	}
	_, m := analyse(t, "lifts.xlsx", raw.Bytes(), 2)
	if m.Rows != 1 || m.Columns[0].Heading != "Address Street" || m.Columns[1].Heading != "Address Town" ||
		m.Columns[2].Heading != "Lift Serial" {
		t.Errorf("merged headings: %+v", m)
	}
}

func TestReferencesAreFoundByTheirValues(t *testing.T) {
	_, customers := analyse(t, "customers.csv",
		[]byte("Name,Town\nBeacon Homes,Varrow\nWeir Homes,Sandholt\nMill Trust,Varrow\n"), 0)
	_, lifts := analyse(t, "lifts.csv",
		[]byte("Serial,Owner\n1a,Weir Homes\n2a,Beacon Homes\n3a,Weir Homes\n4a,Weir Homes\n5a,Mill Trust\n6a,Nobody\n"), 0)
	m, err := lifts.Columns[1].Match(Target{Label: "Name"}, customers.Columns[0].Holds)
	if err != nil || m == nil || m.Matches != 5 || m.Misses != 1 || m.Examples[0] != "Nobody" {
		t.Errorf("%+v, %v", m, err)
	}
	if m, _ := lifts.Columns[0].Match(Target{}, customers.Columns[0].Holds); m != nil {
		t.Errorf("serial numbers match customers: %+v", m)
	}
}

func FuzzDatesAndNumbers(f *testing.F) {
	for _, s := range []string{"03/04/2026", "1.234,5", "(12)", "3 Mar 26", "2026-13-01", "€", "1e9", "--1"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		for i, r := range readings {
			v, err := r.Value(s, time.UTC)
			if fits(s)&(1<<i) != 0 && (err != nil || v == nil) {
				t.Errorf("%q fits %v but cannot be read: %v", s, r, err)
			}
		}
	})
}
