package intake

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"golang.org/x/text/encoding/charmap"

	"plainpath/core/model"
)

// Whether all cells are different is known of any number of them.
func TestManyDifferentCells(t *testing.T) {
	for name, last := range map[string]string{"all different": "x", "one twice": "c5", "twice late": "c249999"} {
		p := newProfiler("Code")
		for i := range 250_000 {
			p.take(i, fmt.Sprint("c", i))
		}
		p.take(250_000, last)
		if c := p.finish(); c.Unique != (last == "x") || !c.mayBeKey(3) && c.Unique {
			t.Errorf("%s: unique %t", name, c.Unique)
		}
	}
	for heading, want := range map[string]bool{"Weight": false, "Part no": true, "Serial number": true, "Note": false} {
		c := Column{Heading: heading, Unique: true, Guess: Reading{Type: model.Whole, Form: Point}}
		if c.mayBeKey(2) != want || !c.mayBeKey(0) {
			t.Errorf("%s: %t", heading, c.mayBeKey(2))
		}
	}
	dublin, err := time.LoadLocation("Europe/Dublin")
	if err != nil {
		t.Fatal(err)
	}
	if v, err := (Reading{model.DateTime, YMD}).Value("2026-03-29 01:30", dublin); err == nil ||
		!strings.Contains(err.Error(), "clocks are put forward") {
		t.Errorf("a time that is not there: %v, %v", v, err)
	}
}

// Encodings that are not UTF-8 are guessed by the language, with words that show whether the guess
// is right, and can be set; so can the delimiter and where the headings stand.
func TestHowAFileIsRead(t *testing.T) {
	czech := strings.Repeat("Příliš žluťoučký kůň úpěl ďábelské ódy;Šťastný Řehoř;Čtvrtek\n", 8)
	russian := strings.Repeat("Съешь же ещё этих мягких французских булок;да выпей чаю;Москва\n", 8)
	for _, c := range []struct {
		name, text string
		as         *charmap.Charmap
		want       Encoding
		word       string
	}{
		{"Russian", russian, charmap.Windows1251, "Windows-1251", "Съешь"},
		{"Russian, older", russian, charmap.KOI8R, "KOI8-R", "Съешь"},
		{"German", strings.Repeat("Größe;Straße;Köln;Überprüfung\n", 8), charmap.Windows1252, Windows1252, "Größe"},
	} {
		raw, err := c.as.NewEncoder().String(c.text)
		if err != nil {
			t.Fatal(err)
		}
		f, err := Open("a.csv", memory(raw), Settings{})
		if err != nil || f.Encoding != c.want || !slices.Contains(f.Words, c.word) {
			t.Errorf("%s: %s, %q, %v", c.name, f.Encoding, f.Words, err)
		}
	}
	raw, err := charmap.Windows1250.NewEncoder().String(czech)
	if err != nil {
		t.Fatal(err)
	}
	f, err := Open("a.csv", memory(raw), Settings{Encoding: "Windows-1250", Delimiter: " ",
		Headings: map[int]Headings{0: {Line: 2, Rows: 0}}})
	if err != nil || f.Words != nil {
		t.Fatalf("%v, %v", f, err)
	}
	body, err := f.Body(0)
	if err != nil {
		t.Fatal(err)
	}
	line, cells, err := body.Next()
	if err != nil || line != 2 || cells[1] != "žluťoučký" || body.Headings[0] != "Column A" || body.Line != 2 &&
		body.Line != 0 {
		t.Errorf("%d %q %q, %v", line, cells, body.Headings, err)
	}
	for _, bad := range []Settings{{Encoding: "Klingon"}, {Delimiter: ";;"}, {Delimiter: "\n"}, {Decimal: "dot"},
		{Dates: YMD}, {Headings: map[int]Headings{0: {Line: 0, Rows: 1}}},
		{Headings: map[int]Headings{0: {Line: 1, Rows: 9}}}} {
		if bad.Check() == nil {
			t.Errorf("%+v is taken", bad)
		}
	}
}

// What is said of a file decides what its columns leave open, and is not decided again by them.
func TestDecimalMarksAndDatesAreSetForAFile(t *testing.T) {
	const table = "Day;Amount;ISO\n03/04/2026;1.234;2026-04-03\n05/06/2026;2.345;2026-06-05\n"
	for _, c := range []struct {
		set       Settings
		want      []Reading
		undecided []bool
	}{
		{Settings{}, []Reading{{model.Date, DMY}, {model.Decimal, Point}, {model.Date, YMD}},
			[]bool{true, true, false}},
		{Settings{Decimal: Comma, Dates: MDY}, []Reading{{model.Date, MDY}, {model.Whole, Comma}, {model.Date, YMD}},
			[]bool{false, false, false}},
		{Settings{Decimal: Point, Dates: DMY}, []Reading{{model.Date, DMY}, {model.Decimal, Point}, {model.Date, YMD}},
			[]bool{false, false, false}},
	} {
		c.set.Delimiter = ";"
		f, err := Open("a.csv", memory(table), c.set)
		if err != nil {
			t.Fatal(err)
		}
		a, err := Analyse(f, 0, func(int64) error { return nil })
		if err != nil {
			t.Fatal(err)
		}
		for i, column := range a.Columns {
			if column.Undecided != c.undecided[i] || !column.Undecided && column.Guess != c.want[i] {
				t.Errorf("%+v: %s is read as %+v, undecided %t; want %+v, %t", c.set, column.Heading, column.Guess,
					column.Undecided, c.want[i], c.undecided[i])
			}
		}
	}
}

// A file without headings keeps its first row; years above numbers are headings.
func TestFilesWithoutHeadings(t *testing.T) {
	for name, c := range map[string]struct {
		text     string
		headings string
		rows     int
	}{
		"none": {"12,2024-01-02,Hoist\n13,2024-01-03,Clamp\n14,2024-01-04,Hoist\n",
			"Column A, Column B, Column C", 3},
		"words":         {"No,Day,Kind\n13,2024-01-03,Clamp\n14,2024-01-04,Hoist\n", "No, Day, Kind", 2},
		"years":         {"Site,2023,2024\nNorth,5,7\nSouth,8,9\n", "Site, 2023, 2024", 2},
		"texts alone":   {"Name,Town\nNorth,Varrow\nSouth,Sandholt\n", "Name, Town", 2},
		"years of days": {"2023,a\n2024,b\n2025,c\n", "Column A, Column B", 3},
	} {
		f, err := Open("a.csv", memory(c.text), Settings{})
		if err != nil {
			t.Fatal(err)
		}
		a, err := Analyse(f, 0, func(int64) error { return nil })
		if err != nil {
			t.Fatal(err)
		}
		var headings []string
		for _, column := range a.Columns {
			headings = append(headings, column.Heading)
		}
		if got := strings.Join(headings, ", "); got != c.headings || a.Rows != int64(c.rows) {
			t.Errorf("%s: %s, %d rows", name, got, a.Rows)
		}
	}
	f, err := Open("a.csv", memory("2023,,2024,\nIn,Out,In,Out\n1,2,3,4\n"),
		Settings{Headings: map[int]Headings{0: {Line: 1, Rows: 2}}})
	if err != nil {
		t.Fatal(err)
	}
	if body, err := f.Body(0); err != nil || strings.Join(body.Headings,
		", ") != "2023 In, 2023 Out, 2024 In, 2024 Out" {
		t.Errorf("two lines of headings: %q, %v", body.Headings, err)
	}
}
