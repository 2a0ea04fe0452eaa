package intake

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"strconv"
	"strings"
)

// A workbook is an archive of XML (ECMA-376). What is large in it, the sheets and the texts they
// share, is read as a stream; only the small rest is held in memory.

// Bounds of a workbook, in bytes: the file, what its small parts come to, one sheet, the texts that
// its sheets share; and how much of a sheet one piece of it may be.
const (
	mostZipped  = 100 << 20
	mostSmall   = 20 << 20
	mostUnpacks = 2 << 30
	mostShared  = 60 << 20
	mostPiece   = 2 << 20
)

// Bounds of a sheet, which are those of the format.
const (
	mostSheetLines   = 1 << 20
	mostSheetColumns = 1 << 14
)

var errTooLarge = errors.New("it is larger than a workbook that can be read here; save each sheet as CSV")

// part opens a part of the archive; it ends after as many bytes as a part may have.
func part(archive *zip.Reader, name string) (io.ReadCloser, error) {
	for _, f := range archive.File {
		if strings.EqualFold(strings.TrimPrefix(f.Name, "/"), name) {
			r, err := f.Open()
			if err != nil {
				return nil, fmt.Errorf("opening %s: %w", name, err)
			}
			return bounded{r, &io.LimitedReader{R: r, N: mostUnpacks}}, nil
		}
	}
	return nil, fmt.Errorf("it has no part %s", name)
}

type bounded struct {
	io.Closer
	left *io.LimitedReader
}

func (b bounded) Read(p []byte) (int, error) {
	n, err := b.left.Read(p)
	if b.left.N <= 0 {
		return n, errTooLarge
	}
	return n, err
}

// smallParts is the archive without what is large: the parts that describe the workbook, and its sheets
// as long as all of it stays small.
func smallParts(archive *zip.Reader) ([]byte, bool, error) {
	var out bytes.Buffer
	w := zip.NewWriter(&out)
	left, whole := int64(mostSmall), true
	for _, sheets := range []bool{false, true} {
		for _, f := range archive.File {
			name := strings.ToLower(strings.TrimPrefix(f.Name, "/"))
			inSheet := strings.HasPrefix(name, "xl/worksheets/") || name == "xl/sharedstrings.xml"
			if inSheet != sheets || !strings.HasSuffix(name, ".xml") && !strings.HasSuffix(name, ".rels") {
				continue
			}
			if inSheet && int64(f.UncompressedSize64) > left {
				whole = false
				continue
			}
			r, err := f.Open()
			if err != nil {
				return nil, false, fmt.Errorf("opening %s: %w", f.Name, err)
			}
			to, err := w.Create(strings.TrimPrefix(f.Name, "/"))
			if err == nil {
				var n int64
				n, err = io.Copy(to, io.LimitReader(r, left+1))
				left -= n
			}
			_ = r.Close()
			if err != nil {
				return nil, false, fmt.Errorf("reading %s: %w", f.Name, err)
			}
			if left < 0 {
				return nil, false, errTooLarge
			}
		}
	}
	if err := w.Close(); err != nil {
		return nil, false, fmt.Errorf("reading the parts of the workbook: %w", err)
	}
	return out.Bytes(), whole, nil
}

// sheetParts are the parts in which the sheets stand, by their names.
func sheetParts(archive *zip.Reader) (map[string]string, error) {
	var book struct {
		Sheets []struct {
			Name string `xml:"name,attr"`
			ID   string `xml:"http://schemas.openxmlformats.org/officeDocument/2006/relationships id,attr"`
			// Strict workbooks name the same otherwise.
			Strict string `xml:"http://purl.oclc.org/ooxml/officeDocument/relationships id,attr"`
		} `xml:"sheets>sheet"`
	}
	var relations struct {
		All []struct {
			ID     string `xml:"Id,attr"`
			Target string `xml:"Target,attr"`
		} `xml:"Relationship"`
	}
	for name, into := range map[string]any{"xl/workbook.xml": &book, "xl/_rels/workbook.xml.rels": &relations} {
		r, err := part(archive, name)
		if err != nil {
			return nil, err
		}
		err = xml.NewDecoder(io.LimitReader(r, mostSmall)).Decode(into)
		_ = r.Close()
		if err != nil {
			return nil, fmt.Errorf("reading %s: %w", name, err)
		}
	}
	out := map[string]string{}
	for _, s := range book.Sheets {
		for _, r := range relations.All {
			if r.ID == s.ID+s.Strict {
				target := strings.TrimPrefix(r.Target, "/")
				if target == r.Target {
					target = path.Join("xl", target)
				}
				out[s.Name] = target
			}
		}
	}
	return out, nil
}

// sharedTexts are the texts that cells of all sheets name by number, one after the other.
type sharedTexts struct {
	text []byte
	ends []uint32
}

func (s *sharedTexts) at(n int) (string, bool) {
	if n < 0 || n >= len(s.ends) {
		return "", false
	}
	from := uint32(0)
	if n > 0 {
		from = s.ends[n-1]
	}
	return string(s.text[from:s.ends[n]]), true
}

func readShared(archive *zip.Reader) (*sharedTexts, error) {
	out := &sharedTexts{}
	r, err := part(archive, "xl/sharedStrings.xml")
	if err != nil {
		return out, nil // a workbook without texts has none
	}
	defer func() { _ = r.Close() }()
	d := newPieces(r)
	for {
		t, err := d.next()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, fmt.Errorf("reading its texts: %w", err)
		}
		if start, ok := t.(xml.StartElement); ok && start.Name.Local == "si" {
			text, err := d.richText("si")
			if err != nil {
				return nil, fmt.Errorf("reading its texts: %w", err)
			}
			if out.text = append(out.text, text...); len(out.text)+4*len(out.ends) > mostShared {
				return nil, errTooLarge
			}
			out.ends = append(out.ends, uint32(len(out.text)))
		}
	}
}

// pieces reads XML token by token, none of which may be out of all proportion.
type pieces struct {
	*xml.Decoder
	from *counted
}

type counted struct {
	io.Reader
	n int
}

var errPiece = errors.New("a text in it is longer than any cell holds")

func (c *counted) Read(p []byte) (int, error) {
	if c.n > mostPiece {
		return 0, errPiece
	}
	n, err := c.Reader.Read(p)
	c.n += n
	return n, err
}

func newPieces(r io.Reader) *pieces {
	from := &counted{Reader: r}
	d := xml.NewDecoder(from)
	d.Strict = false
	return &pieces{d, from}
}

func (p *pieces) next() (xml.Token, error) {
	p.from.n = 0
	return p.RawToken() //nolint:wrapcheck // who asked says what was read
}

// within is next where something has begun that must end.
func (p *pieces) within() (xml.Token, error) {
	t, err := p.next()
	if errors.Is(err, io.EOF) {
		err = io.ErrUnexpectedEOF
	}
	return t, err
}

// richText is the text within an element, of all its runs but without how it is pronounced.
func (p *pieces) richText(until string) (string, error) {
	var out strings.Builder
	inText, spoken := false, 0
	for {
		t, err := p.within()
		if err != nil {
			return "", err
		}
		switch x := t.(type) {
		case xml.StartElement:
			switch x.Name.Local {
			case "t":
				inText = true
			case "rPh":
				spoken++
			}
		case xml.CharData:
			if inText && spoken == 0 {
				if out.Len()+len(x) > mostPiece {
					return "", errPiece
				}
				out.Write(x)
			}
		case xml.EndElement:
			switch x.Name.Local {
			case "t":
				inText = false
			case "rPh":
				spoken--
			case until:
				return unescaped(out.String()), nil
			}
		}
	}
}

var escapedRune = regexp.MustCompile(`_x[0-9A-Fa-f]{4}_`)

// unescaped undoes how the format writes characters that XML has no place for: _x000D_.
func unescaped(text string) string {
	if !strings.Contains(text, "_x") {
		return text
	}
	return escapedRune.ReplaceAllStringFunc(text, func(code string) string {
		n, err := strconv.ParseUint(code[2:6], 16, 32)
		if err != nil || n == 0 || n >= 0xd800 && n < 0xe000 {
			return code
		}
		return string(rune(n))
	})
}
