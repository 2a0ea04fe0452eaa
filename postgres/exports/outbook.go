package exports

import (
	"archive/zip"
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"io"
	"regexp"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/klauspost/compress/flate"

	"plainpath/core/value"
)

// outBook writes a workbook as its rows come, and keeps none of them: Office Open XML (ECMA-376)
// with texts in their cells. Rows that do not fit on a sheet go on on the next. Numbers, amounts,
// dates and times are cells of
// their own kind, everything else is text, which no spreadsheet runs.
type outBook struct {
	zip      *zip.Writer
	sheet    *bufio.Writer
	headings []string
	kinds    []value.Kind
	zone     *time.Location
	// formats are the number formats used, in the order of their styles.
	formats []string
	styles  map[string]int
	columns []string
	line    int
	// made is what is to be written of the row, digits its number.
	made, digits []byte
	// sheets are there so far, of at most so many rows each.
	sheets, most int
}

// The styles that every workbook has: plain, and that of headings.
const (
	plainStyle = iota
	headingStyle
	firstFormat
)

const xmlHead = `<?xml version="1.0" encoding="UTF-8" standalone="yes"?>` + "\n"

// mostSheetRows is how many rows a sheet has, that of the headings included.
const mostSheetRows = 1_048_576

func newOutBook(w io.Writer, headings []string, kinds []value.Kind, zone *time.Location) (*outBook, error) {
	b := &outBook{zip: zip.NewWriter(w), headings: headings, kinds: kinds, zone: zone, styles: map[string]int{},
		most: mostSheetRows}
	b.zip.RegisterCompressor(zip.Deflate,
		func(out io.Writer) (io.WriteCloser, error) { return flate.NewWriter(out, flate.BestSpeed) })
	for i := range headings {
		b.columns = append(b.columns, columnName26(i))
	}
	if err := b.open(); err != nil {
		return nil, err
	}
	// Whoever waits for the file sees that it has begun.
	if err := b.zip.Flush(); err != nil {
		return nil, fmt.Errorf("making a workbook: %w", err)
	}
	return b, nil
}

// open begins a sheet with the headings.
func (b *outBook) open() error {
	b.sheets++
	sheet, err := b.zip.Create(fmt.Sprintf("xl/worksheets/sheet%d.xml", b.sheets))
	if err != nil {
		return fmt.Errorf("making a workbook: %w", err)
	}
	b.sheet, b.line = bufio.NewWriterSize(sheet, 64<<10), 0
	b.say(xmlHead + `<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetViews><sheetView workbookViewId="0"><pane ySplit="1" topLeftCell="A2" activePane="bottomLeft" state="frozen"/></sheetView></sheetViews>`)
	b.say(fmt.Sprintf(`<cols><col min="1" max="%d" width="18" customWidth="1"/></cols><sheetData>`,
		max(1, len(b.headings))))
	b.begin()
	for i, h := range b.headings {
		b.text(i, headingStyle, []byte(h))
	}
	return b.end()
}

// shut ends a sheet.
func (b *outBook) shut() error {
	b.say("</sheetData></worksheet>")
	if err := errors.Join(b.write(), b.sheet.Flush()); err != nil {
		return fmt.Errorf("writing a workbook: %w", err)
	}
	return nil
}

// columnName26 is the name of a column: A … Z, AA and so on.
func columnName26(i int) string {
	name := ""
	for n := i + 1; n > 0; n = (n - 1) / 26 {
		name = string(rune('A'+(n-1)%26)) + name
	}
	return name
}

func (b *outBook) part(name, body string) error {
	w, err := b.zip.Create(name)
	if err == nil {
		_, err = io.WriteString(w, xmlHead+body)
	}
	if err != nil {
		return fmt.Errorf("making a workbook: %w", err)
	}
	return nil
}

func (b *outBook) say(text string) { b.made = append(b.made, text...) }

// write passes on what was said.
func (b *outBook) write() error {
	_, err := b.sheet.Write(b.made)
	if b.made = b.made[:0]; err != nil {
		return fmt.Errorf("writing a workbook: %w", err)
	}
	return nil
}

func (b *outBook) begin() {
	b.line++
	b.digits = strconv.AppendInt(b.digits[:0], int64(b.line), 10)
	b.say(`<row r="`)
	b.made = append(b.made, b.digits...)
	b.say(`">`)
}

func (b *outBook) end() error {
	b.say("</row>")
	return b.write()
}

func (b *outBook) row(cells [][]byte) error {
	if b.line == b.most {
		if err := errors.Join(b.shut(), b.open()); err != nil {
			return err
		}
	}
	b.begin()
	for i, cell := range cells {
		if cell == nil {
			continue
		}
		if number, style, ok := b.number(b.kinds[i], cell); ok {
			b.cell(i, style)
			b.say(`><v>`)
			b.say(number)
			b.say(`</v></c>`)
			continue
		}
		b.text(i, plainStyle, cell)
	}
	return b.end()
}

// cell begins a cell, up to what its tag goes on with.
func (b *outBook) cell(column, style int) {
	b.say(`<c r="`)
	b.say(b.columns[column])
	b.made = append(b.made, b.digits...)
	if b.say(`"`); style != plainStyle {
		b.say(` s="`)
		b.made = strconv.AppendInt(b.made, int64(style), 10)
		b.say(`"`)
	}
}

// spaced says whether a reader might leave out some of the space in a text.
func spaced(text []byte) bool {
	before := true // as at the beginning
	for _, c := range text {
		if c < ' ' || before && c == ' ' {
			return true
		}
		before = c == ' '
	}
	return before && len(text) > 0
}

func (b *outBook) text(column, style int, text []byte) {
	b.cell(column, style)
	if spaced(text) {
		b.say(` t="inlineStr"><is><t xml:space="preserve">`)
	} else {
		b.say(` t="inlineStr"><is><t>`)
	}
	b.escape(text)
	b.say(`</t></is></c>`)
}

// looksEscaped is what a reader would take for an escaped character (ECMA-376 part 1, 22.9.2.19).
var looksEscaped = regexp.MustCompile(`_x[0-9A-Fa-f]{4}_`)

var noLetter = []byte("\uFFFE")

func (b *outBook) escape(text []byte) {
	if bytes.Contains(text, []byte("_x")) {
		text = looksEscaped.ReplaceAllFunc(text, func(m []byte) []byte { return append([]byte("_x005F"), m...) })
	}
	from := 0
	for i, c := range text {
		var with string
		switch {
		case c == '&':
			with = "&amp;"
		case c == '<':
			with = "&lt;"
		case c == '>':
			with = "&gt;"
		case c < ' ' && c != '\n' && c != '\t':
			with = fmt.Sprintf("_x%04X_", c)
		default:
			continue
		}
		b.made = append(b.made, text[from:i]...)
		b.say(with)
		from = i + 1
	}
	text = text[from:]
	for { // a letter that XML does not know
		i := bytes.Index(text, noLetter)
		if i < 0 {
			break
		}
		b.made = utf8.AppendRune(append(b.made, text[:i]...), utf8.RuneError)
		text = text[i+len(noLetter):]
	}
	b.made = append(b.made, text...)
}

// longestNumber is how many characters a number may have for a spreadsheet to keep it
// exactly; longer ones are text.
const longestNumber = 15

// number is what a cell holds that is more than text, and its style. What a spreadsheet could
// not keep exactly is false: it goes in as text.
func (b *outBook) number(kind value.Kind, cell []byte) (number string, style int, ok bool) {
	switch kind {
	case value.KindWhole, value.KindDecimal:
		return string(cell), plainStyle, len(cell) <= longestNumber && numeral(cell)
	case value.KindMoney:
		if amount, currency, two := bytes.Cut(cell, []byte(" ")); two && len(amount) <= longestNumber &&
			numeral(amount) {
			return string(amount), b.style(`#,##0.00######" ` + string(currency) + `"`), true
		}
	case value.KindDate:
		if t, err := time.Parse(time.DateOnly, string(cell)); err == nil {
			if days, ok := serial(t); ok {
				return days, b.style("yyyy-mm-dd"), true
			}
		}
	case value.KindInstant:
		t, err := time.Parse(time.RFC3339Nano, string(cell))
		if err != nil || t.Nanosecond() != 0 {
			return "", 0, false
		}
		_, offset := t.In(b.zone).Zone()
		shown := t.Add(time.Duration(offset) * time.Second).UTC()
		if again := time.Date(shown.Year(), shown.Month(), shown.Day(), shown.Hour(), shown.Minute(), shown.Second(), 0,
			b.zone); !again.Equal(t) {
			return "", 0, false // the hour that comes twice when the clock goes back
		}
		if days, ok := serial(shown); ok {
			return days, b.style("yyyy-mm-dd hh:mm:ss"), true
		}
	}
	return "", 0, false
}

// numeral keeps out what is said in the place of a number that could not be computed.
func numeral(text []byte) bool {
	for i, c := range text {
		if (c < '0' || c > '9') && c != '.' && (c != '-' || i > 0) {
			return false
		}
	}
	return len(text) > 0
}

// epoch is day nought of spreadsheets, counted so that days from March 1900 on are right.
var epoch = time.Date(1899, time.December, 30, 0, 0, 0, 0, time.UTC)

// serial is a time as spreadsheets count it, in days.
func serial(t time.Time) (string, bool) {
	if t.Year() < 1901 {
		return "", false
	}
	seconds := t.Unix() - epoch.Unix()
	return strconv.FormatFloat(float64(seconds)/86400, 'f', -1, 64), true
}

func (b *outBook) style(format string) int {
	if id, ok := b.styles[format]; ok {
		return id
	}
	b.formats = append(b.formats, format)
	b.styles[format] = firstFormat + len(b.formats) - 1
	return b.styles[format]
}

// parts are the names and bodies of what a workbook has around its sheets.
func (b *outBook) parts() [][2]string {
	const office, relations = "http://schemas.openxmlformats.org/officeDocument/2006/relationships",
		"http://schemas.openxmlformats.org/package/2006/relationships"
	const kind = "application/vnd.openxmlformats-officedocument.spreadsheetml."
	var types, sheets, related strings.Builder
	for n := 1; n <= b.sheets; n++ {
		fmt.Fprintf(&types, `<Override PartName="/xl/worksheets/sheet%d.xml" ContentType="%sworksheet+xml"/>`, n, kind)
		fmt.Fprintf(&sheets, `<sheet name="Sheet%d" sheetId="%d" r:id="rId%d"/>`, n, n, n)
		fmt.Fprintf(&related, `<Relationship Id="rId%d" Type="%s/worksheet" Target="worksheets/sheet%d.xml"/>`, n,
			office, n)
	}
	return [][2]string{
		{"[Content_Types].xml", `<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/><Override PartName="/xl/workbook.xml" ContentType="` + kind + `sheet.main+xml"/>` + types.String() + `<Override PartName="/xl/styles.xml" ContentType="` + kind + `styles+xml"/></Types>`},
		{"_rels/.rels", `<Relationships xmlns="` + relations + `"><Relationship Id="rId1" Type="` + office +
			`/officeDocument" Target="xl/workbook.xml"/></Relationships>`},
		{"xl/workbook.xml", `<workbook xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main" xmlns:r="` +
			office + `"><sheets>` + sheets.String() + `</sheets></workbook>`},
		{"xl/_rels/workbook.xml.rels", `<Relationships xmlns="` + relations + `">` + related.String() +
			fmt.Sprintf(`<Relationship Id="rId%d" Type="%s/styles" Target="styles.xml"/></Relationships>`, b.sheets+1,
				office)},
	}
}

// firstOwn is where numbers of formats of one's own begin.
const firstOwn = 164

func (b *outBook) close() error {
	if err := b.shut(); err != nil {
		return err
	}
	var formats, cells strings.Builder
	for i, f := range b.formats {
		fmt.Fprintf(&formats, `<numFmt numFmtId="%d" formatCode="%s"/>`, firstOwn+i,
			strings.ReplaceAll(f, `"`, "&quot;"))
		fmt.Fprintf(&cells, `<xf numFmtId="%d" fontId="0" fillId="0" borderId="0" xfId="0" applyNumberFormat="1"/>`,
			firstOwn+i)
	}
	styles := `<styleSheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">`
	if len(b.formats) > 0 {
		styles += fmt.Sprintf(`<numFmts count="%d">%s</numFmts>`, len(b.formats), formats.String())
	}
	styles += `<fonts count="2"><font><sz val="11"/><name val="Calibri"/></font><font><b/><sz val="11"/><name val="Calibri"/></font></fonts>` +
		`<fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill></fills><borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders>` +
		`<cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs>` +
		fmt.Sprintf(`<cellXfs count="%d"><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/><xf numFmtId="0" fontId="1" fillId="0" borderId="0" xfId="0" applyFont="1"/>%s</cellXfs>`, firstFormat+len(b.formats), cells.String()) +
		`</styleSheet>`
	for _, part := range append(b.parts(), [2]string{"xl/styles.xml", styles}) {
		if err := b.part(part[0], part[1]); err != nil {
			return err
		}
	}
	if err := b.zip.Close(); err != nil {
		return fmt.Errorf("writing a workbook: %w", err)
	}
	return nil
}
