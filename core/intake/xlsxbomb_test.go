package intake

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"io"
	"os"
	"runtime"
	"strings"
	"testing"
)

// archived is a workbook whose parts are written by hand.
func archived(t *testing.T, parts map[string]func(io.Writer)) []byte {
	t.Helper()
	all := map[string]func(io.Writer){
		"[Content_Types].xml":        says(`<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/></Types>`),
		"_rels/.rels":                says(`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/></Relationships>`),
		"xl/workbook.xml":            says(`<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships"><sheets><sheet name="Lifts" sheetId="1" r:id="r1"/></sheets></workbook>`),
		"xl/_rels/workbook.xml.rels": says(`<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="r1" Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`),
		"xl/worksheets/sheet1.xml":   says(sheetOf(`<row r="1"><c r="A1" t="inlineStr"><is><t>Name</t></is></c><c r="B1" t="inlineStr"><is><t>Stops</t></is></c></row><row r="2"><c r="A2" t="inlineStr"><is><t>A</t></is></c><c r="B2"><v>5</v></c></row>`)),
	}
	for name, write := range parts {
		all[name] = write
	}
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, write := range all {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		write(w)
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return out.Bytes()
}

func says(text string) func(io.Writer) {
	return func(w io.Writer) { _, _ = io.WriteString(w, text) }
}

func sheetOf(rows string) string {
	return `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>` + rows +
		`</sheetData></worksheet>`
}

// repeated writes a text again and again between two others.
func repeated(before string, times int, each func(n int) string, after string) func(io.Writer) {
	return func(w io.Writer) {
		_, _ = io.WriteString(w, before)
		for n := range times {
			_, _ = io.WriteString(w, each(n))
		}
		_, _ = io.WriteString(w, after)
	}
}

type inMemory []byte

func (m inMemory) Reader() (io.ReadCloser, error) { return io.NopCloser(bytes.NewReader(m)), nil }

func (m inMemory) Size() int64 { return int64(len(m)) }

// goneThrough reads all rows of the first sheet, and gives how many there are and how much memory
// was in use at most besides what was before.
func goneThrough(raw []byte) (rows int, most uint64, err error) {
	var m runtime.MemStats
	runtime.GC()
	runtime.ReadMemStats(&m)
	before := m.HeapAlloc
	look := func() {
		runtime.ReadMemStats(&m)
		if m.HeapAlloc > before {
			most = max(most, m.HeapAlloc-before)
		}
	}
	defer look()
	f, err := Open("bomb.xlsx", inMemory(raw), Settings{})
	look()
	if err != nil {
		return 0, most, err
	}
	defer func() { _ = f.Close() }()
	r, err := f.Rows(0)
	if err != nil {
		return 0, most, err
	}
	defer func() { _ = r.Close() }()
	for {
		_, _, err := r.Next()
		if errors.Is(err, io.EOF) {
			return rows, most, nil
		}
		if err != nil {
			return rows, most, err
		}
		if rows++; rows%20_000 == 0 {
			look()
		}
	}
}

// However much a small file unpacks to, it is read in bounded memory, or refused in words.
func TestWorkbooksThatUnpackToVeryMuch(t *testing.T) {
	rows, size := 65_000, 300 // 20 MB; in make attack 300 MB and 4 GB
	if os.Getenv("PLAINPATH_ATTACK") != "" {
		rows = 300_000
	}
	long := strings.Repeat("x", size)
	cell := func(n int) string {
		return fmt.Sprintf(`<row r="%d"><c r="A%d" t="inlineStr"><is><t>%s</t></is></c></row>`, n+1, n+1, long)
	}
	sheet := strings.Split(sheetOf("|"), "|")
	for name, c := range map[string]struct {
		parts map[string]func(io.Writer)
		rows  int
		says  string
	}{
		"a plain one": {nil, 2, ""},
		"many rows": {map[string]func(io.Writer){"xl/worksheets/sheet1.xml": repeated(sheet[0], rows,
			cell, sheet[1])}, rows, ""},
		"one long text": {map[string]func(io.Writer){"xl/worksheets/sheet1.xml": repeated(sheet[0]+`<row r="1"><c r="A1" t="inlineStr"><is><t>`, rows, func(int) string { return long }, `</t></is></c></row>`+sheet[1])}, 0, "longer than any cell"},
		"one long tag": {map[string]func(io.Writer){"xl/worksheets/sheet1.xml": repeated(sheet[0]+`<row r="1" spans="`,
			rows, func(int) string { return long }, `"/>`+sheet[1])}, 0, "longer than any cell"},
		"no end": {map[string]func(io.Writer){"xl/worksheets/sheet1.xml": repeated(sheet[0], 3, cell,
			"<row>")}, 3, "does not end"},
		"many texts": {map[string]func(io.Writer){"xl/sharedStrings.xml": repeated(`<sst>`, 4*rows,
			func(int) string { return "<si><t>" + long + "</t></si>" }, `</sst>`)}, 0, "larger than a workbook"},
		"many styles": {map[string]func(io.Writer){"xl/styles.xml": repeated(`<styleSheet>`, 2*rows,
			func(int) string { return "<x>" + long + "</x>" }, `</styleSheet>`)}, 0, "larger than a workbook"},
		"a picture": {map[string]func(io.Writer){"xl/media/a.png": repeated("", rows,
			func(int) string { return long }, "")}, 2, ""},
		"far columns":              {map[string]func(io.Writer){"xl/worksheets/sheet1.xml": says(sheetOf(`<row r="1"><c r="XFD1"><v>1</v></c><c><v>2</v></c></row>`))}, 0, "16385 columns"},
		"far rows":                 {map[string]func(io.Writer){"xl/worksheets/sheet1.xml": says(sheetOf(`<row r="99999999"><c><v>1</v></c></row>`))}, 0, "a line 99999999"},
		"a text that is not there": {map[string]func(io.Writer){"xl/worksheets/sheet1.xml": says(sheetOf(`<row r="1"><c r="A1" t="s"><v>7</v></c></row>`))}, 0, "not there"},
	} {
		raw := archived(t, c.parts)
		got, most, err := goneThrough(raw)
		if got != c.rows || (err == nil) != (c.says == "") || err != nil && !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %d rows, %v; want %d, %q", name, got, err, c.rows, c.says)
		}
		if len(raw) > 2<<20 || most > 200<<20 {
			t.Errorf("%s: %d KB took %d MB", name, len(raw)>>10, most>>20)
		}
	}
}

// What stands in the parts by hand comes out as it is meant: runs of a text, how it is spoken, escapes,
// merged cells, cells and rows without a place, yes and no, errors and results of formulas.
func TestCellsAsTheyStandInTheFile(t *testing.T) {
	raw := archived(t, map[string]func(io.Writer){
		"xl/sharedStrings.xml": says(`<sst><si><t>plain</t></si><si><r><t>ri</t></r><r><rPr><b/></rPr><t xml:space="preserve">ch </t></r><rPh sb="0" eb="1"><t>spoken</t></rPh></si><si><t>a_x000D_b &amp; c</t></si><si/></sst>`),
		"xl/worksheets/sheet1.xml": says(`<x:worksheet xmlns:x="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><x:sheetData>` +
			`<x:row r="2"><x:c r="B2" t="s"><x:v>0</x:v></x:c><x:c t="s"><x:v>1</x:v></x:c><x:c r="F2" t="s"><x:v>2</x:v></x:c><x:c t="s"><x:v>3</x:v></x:c></x:row>` +
			`<x:row/><x:row><x:c t="b"><x:v>1</x:v></x:c><x:c t="b"><x:v>0</x:v></x:c><x:c t="e"><x:v>#N/A</x:v></x:c><x:c t="str"><x:f>A1</x:f><x:v>text</x:v></x:c><x:c><x:f>1+1</x:f><x:v>2</x:v></x:c><x:c t="d"><x:v>2026-03-01</x:v></x:c></x:row>` +
			`<x:row r="7"><x:c r="A7"><x:v>1.5E3</x:v></x:c></x:row><x:row r="8"><x:c r="C8"><x:v>9</x:v></x:c></x:row></x:sheetData>` +
			`<x:mergeCells count="2"><x:mergeCell ref="A7:B8"/><x:mergeCell ref="B2:C2"/></x:mergeCells></x:worksheet>`),
	})
	f, err := Open("hand.xlsx", inMemory(raw), Settings{})
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = f.Close() }()
	r, err := f.Rows(0)
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for {
		line, cells, err := r.Next()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
		got = append(got, fmt.Sprintf("%d %q", line, cells))
	}
	want := []string{
		`2 ["" "plain" "rich " "" "" "a\rb & c" ""]`,
		`4 ["yes" "no" "#N/A" "text" "2" "2026-03-01"]`,
		`7 ["1500" "1500"]`,
		`8 ["1500" "1500" "9"]`,
	}
	if strings.Join(got, "\n") != strings.Join(want, "\n") {
		t.Errorf("%s\nwant\n%s", strings.Join(got, "\n"), strings.Join(want, "\n"))
	}
	if !f.book.mergedAcross("Lifts", 2) || f.book.mergedAcross("Lifts", 7) {
		t.Error("which lines have headings over several columns")
	}
}
