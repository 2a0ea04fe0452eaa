package intake

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"
)

// workbook is an XLSX file. Its cells become the texts a CSV would hold: dates and times
// in ISO 8601, yes/no in words, amounts with their currency, the stored results of
// formulas.
type workbook struct {
	// file describes the workbook: its sheets, styles and properties. It has the cells only where
	// all of it is small, for what formulas come to.
	file    *excelize.File
	whole   bool
	archive *zip.Reader
	parts   map[string]string
	shared  *sharedTexts
	merged  map[string][]merge
	formats map[int]numberFormat
	epoch04 bool
}

func openWorkbook(s Source) (*workbook, error) {
	r, err := s.Reader()
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	raw, err := io.ReadAll(io.LimitReader(r, mostZipped+1))
	if err != nil {
		return nil, fmt.Errorf("reading the workbook: %w", err)
	}
	if len(raw) > mostZipped {
		return nil, errTooLarge
	}
	b := &workbook{formats: map[int]numberFormat{}, merged: map[string][]merge{}}
	if err := b.open(raw); err != nil {
		return nil, fmt.Errorf("it cannot be opened as a workbook (%w); save it as XLSX or CSV again", err)
	}
	if p, err := b.file.GetWorkbookProps(); err == nil && p.Date1904 != nil {
		b.epoch04 = *p.Date1904
	}
	return b, nil
}

func (b *workbook) open(raw []byte) error {
	var err error
	if b.archive, err = zip.NewReader(bytes.NewReader(raw), int64(len(raw))); err != nil {
		return err
	}
	little, whole, err := smallParts(b.archive)
	if err != nil {
		return err
	}
	b.whole = whole
	if b.file, err = excelize.OpenReader(bytes.NewReader(little), excelize.Options{UnzipSizeLimit: 2 * mostSmall,
		UnzipXMLSizeLimit: 2 * mostSmall}); err != nil {
		return err
	}
	if b.parts, err = sheetParts(b.archive); err != nil {
		return err
	}
	b.shared, err = readShared(b.archive)
	return err
}

func (b *workbook) sheets() []Sheet {
	var out []Sheet
	for _, name := range b.file.GetSheetList() {
		visible, err := b.file.GetSheetVisible(name)
		out = append(out, Sheet{Name: name, Hidden: err == nil && !visible})
	}
	return out
}

// merge are cells that are one, by their first and last lines and columns, counted from one.
type merge struct {
	fromLine, toLine, from, to int
	text                       string
}

// mostMerges bounds the merged cells of a sheet that are looked at, and how many one may take up.
const mostMerges = 10_000

// merges are the merged cells of a sheet, which stand behind its rows.
func (b *workbook) merges(sheet string) ([]merge, error) {
	if have, ok := b.merged[sheet]; ok {
		return have, nil
	}
	r, err := part(b.archive, b.parts[sheet])
	if err != nil {
		return nil, fmt.Errorf("reading the sheet %q: %w", sheet, err)
	}
	defer func() { _ = r.Close() }()
	out := []merge{}
	rest, err := behind(r, []byte("sheetData>"))
	if err == nil {
		out, err = readMerges(rest)
	}
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("reading the sheet %q: %w", sheet, err)
	}
	b.merged[sheet] = out
	return out, nil
}

// behind is what stands behind the end of the rows. It is io.EOF where they have none.
func behind(r io.Reader, end []byte) (io.Reader, error) {
	piece := make([]byte, 1<<16)
	held := 0
	for {
		n, err := io.ReadAtLeast(r, piece[held:], 1)
		if err != nil {
			return nil, err
		}
		have := piece[:held+n]
		for from := 0; ; {
			at := bytes.Index(have[from:], end)
			if at < 0 {
				break
			}
			at += from
			// The mark that closes the rows, not the one that opens them.
			if open := bytes.LastIndexByte(have[:at], '<'); open >= 0 && have[open+1] == '/' {
				return io.MultiReader(bytes.NewReader(have[at+len(end):]), r), nil
			}
			from = at + len(end)
		}
		held = min(len(have), len(end)+20)
		copy(piece, have[len(have)-held:])
	}
}

func readMerges(r io.Reader) ([]merge, error) {
	var out []merge
	d := newPieces(r)
	for {
		t, err := d.next()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, err
		}
		start, ok := t.(xml.StartElement)
		if !ok || start.Name.Local != "mergeCell" {
			continue
		}
		first, last, _ := strings.Cut(attribute(start, "ref"), ":")
		c1, r1, err1 := excelize.CellNameToCoordinates(first)
		c2, r2, err2 := excelize.CellNameToCoordinates(last)
		if err1 == nil && err2 == nil && c2 >= c1 && r2 >= r1 && len(out) < mostMerges &&
			(c2-c1+1)*(r2-r1+1) <= mostMerges {
			out = append(out, merge{fromLine: r1, toLine: r2, from: c1, to: c2})
		}
	}
}

// mergedAcross says whether cells of a line are merged sideways, which makes them
// headings over several columns.
func (b *workbook) mergedAcross(sheet string, line int) bool {
	all, err := b.merges(sheet)
	if err != nil {
		return false
	}
	for _, m := range all {
		if m.fromLine == line && m.toLine == line && m.to > m.from {
			return true
		}
	}
	return false
}

func (b *workbook) format(style int) numberFormat {
	if f, ok := b.formats[style]; ok {
		return f
	}
	var f numberFormat
	if s, err := b.file.GetStyle(style); err == nil && s != nil {
		code := ""
		if s.CustomNumFmt != nil {
			code = *s.CustomNumFmt
		}
		f = formatOf(s.NumFmt, code)
	}
	b.formats[style] = f
	return f
}

func attribute(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name && a.Name.Space == "" {
			return a.Value
		}
	}
	return ""
}

// whole reads a whole number, nought where it is none.
func whole(text string) int {
	n, err := strconv.Atoi(text)
	if err != nil {
		return 0
	}
	return n
}
