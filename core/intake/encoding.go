// Package intake reads CSV and XLSX files, says with evidence what types their columns
// have, and turns their cells into values.
package intake

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/wlynxg/chardet"
	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/htmlindex"
	utf16 "golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// Encoding is how the characters of a text file are written.
type Encoding string

// The encodings that are told apart by themselves, and that of the west of Europe.
const (
	UTF8        Encoding = "UTF-8"
	UTF16LE     Encoding = "UTF-16 little endian"
	UTF16BE     Encoding = "UTF-16 big endian"
	Windows1252 Encoding = "Windows-1252"
)

// Encodings are those that a file can be read in.
var Encodings = []Encoding{UTF8, UTF16LE, UTF16BE, Windows1252, "Windows-1250", "Windows-1251", "Windows-1253",
	"Windows-1254", "Windows-1257",
	"ISO-8859-2", "ISO-8859-15", "KOI8-R", "Macintosh", "IBM850", "Shift_JIS", "EUC-JP", "GB18030", "Big5", "EUC-KR"}

// Source is a file that can be read from the start as often as need be.
type Source interface {
	Reader() (io.ReadCloser, error)
	Size() int64
}

// detect finds the encoding of a text: by its byte order mark, by the noughts that UTF-16 has in
// every other place, by whether all of it is UTF-8, or else by how often letters follow each
// other in the languages that write it; then it is a guess.
func detect(s Source) (found Encoding, guessed bool, err error) {
	r, err := s.Reader()
	if err != nil {
		return "", false, err
	}
	defer func() { _ = r.Close() }()
	b := bufio.NewReaderSize(r, 1<<16)
	head, err := b.Peek(4096)
	if err != nil && err != io.EOF && err != bufio.ErrBufferFull {
		return "", false, fmt.Errorf("reading the file: %w", err)
	}
	switch {
	case bytes.HasPrefix(head, []byte{0xff, 0xfe}):
		return UTF16LE, false, nil
	case bytes.HasPrefix(head, []byte{0xfe, 0xff}):
		return UTF16BE, false, nil
	}
	var noughts [2]int
	for i, c := range head {
		if c == 0 {
			noughts[i%2]++
		}
	}
	switch half := len(head) / 2; {
	case noughts[1] > half/2 && noughts[0] == 0:
		return UTF16LE, false, nil
	case noughts[0] > half/2 && noughts[1] == 0:
		return UTF16BE, false, nil
	case noughts[0]+noughts[1] > 0:
		return "", false, fmt.Errorf("this is not a table: it holds bytes that no text has. Bring a CSV or an XLSX file")
	}
	valid, err := allUTF8(b)
	if err != nil {
		return "", false, fmt.Errorf("reading the file: %w", err)
	}
	if valid {
		return UTF8, false, nil
	}
	telling, err := tellingLines(s)
	if err != nil {
		return "", false, err
	}
	return guess(telling), true, nil
}

// mostTelling bounds the lines by which an encoding is guessed, and what is looked through for
// them, in bytes.
const (
	mostTelling  = 1 << 16
	lookedAtMost = 1 << 24
)

// tellingLines are the first lines of a file that have more than plain letters.
func tellingLines(s Source) ([]byte, error) {
	r, err := s.Reader()
	if err != nil {
		return nil, err
	}
	defer func() { _ = r.Close() }()
	lines := bufio.NewReaderSize(io.LimitReader(r, lookedAtMost), 1<<16)
	var out []byte
	for len(out) < mostTelling {
		line, err := lines.ReadSlice('\n')
		if bytes.ContainsFunc(line, func(r rune) bool { return r >= utf8.RuneSelf }) {
			out = append(out, line...)
		}
		if err == io.EOF {
			break
		}
		if err != nil && err != bufio.ErrBufferFull {
			return nil, fmt.Errorf("reading the file: %w", err)
		}
	}
	return out, nil
}

// alsoCalled are other names of encodings, or what another holds all of.
var alsoCalled = map[string]Encoding{"iso-8859-1": Windows1252, "cp932": "Shift_JIS", "gb2312": "GB18030",
	"cp949": "EUC-KR", "iso-8859-9": "Windows-1254", "iso-8859-7": "Windows-1253"}

// guess finds the likeliest encoding of lines that are not UTF-8, the commonest where another
// would give the same text.
func guess(telling []byte) Encoding {
	e := likeliest(telling)
	as, errA := io.ReadAll(decoded(bytes.NewReader(telling), e))
	common, errB := io.ReadAll(decoded(bytes.NewReader(telling), Windows1252))
	if errA == nil && errB == nil && bytes.Equal(as, common) {
		return Windows1252
	}
	return e
}

func likeliest(telling []byte) Encoding {
	for _, r := range chardet.DetectAll(telling) {
		name := strings.ToLower(r.Encoding)
		if e, ok := alsoCalled[name]; ok {
			return e
		}
		for _, e := range Encodings[3:] {
			if strings.ToLower(string(e)) == name {
				return e
			}
		}
	}
	return Windows1252
}

// samplesOf are a few words that an encoding makes of the bytes that are not plain.
func samplesOf(telling []byte, e Encoding) []string {
	text, err := io.ReadAll(decoded(bytes.NewReader(telling), e))
	if err != nil {
		return nil
	}
	var out []string
	for _, word := range strings.FieldsFunc(string(text), func(r rune) bool {
		return !unicode.IsLetter(r) && r != '-' &&
			r != utf8.RuneError
	}) {
		if len(word) < 40 && strings.ContainsFunc(word, func(r rune) bool { return r >= utf8.RuneSelf }) &&
			!slices.Contains(out, word) {
			if out = append(out, word); len(out) == 5 {
				break
			}
		}
	}
	return out
}

func allUTF8(r io.Reader) (bool, error) {
	buf := make([]byte, 1<<16)
	kept := 0
	for {
		n, err := r.Read(buf[kept:])
		n += kept
		part := buf[:n]
		for len(part) > 0 {
			c, size := utf8.DecodeRune(part)
			if c == utf8.RuneError && size <= 1 {
				if err == nil && !utf8.FullRune(part) {
					break // the rest of the character comes with the next piece
				}
				return false, nil
			}
			if c < utf8.RuneSelf { // most text is plain: skip along it quickly
				i := 1
				for i < len(part) && part[i] < utf8.RuneSelf {
					i++
				}
				size = i
			}
			part = part[size:]
		}
		kept = copy(buf, part)
		if err == io.EOF {
			return kept == 0, nil
		}
		if err != nil {
			return false, err
		}
	}
}

// decoded gives the text of a file as UTF-8, without a byte order mark, its lines ended by
// line feeds.
func decoded(r io.Reader, e Encoding) io.Reader {
	var from encoding.Encoding
	switch e {
	case UTF16LE:
		from = utf16.UTF16(utf16.LittleEndian, utf16.UseBOM)
	case UTF16BE:
		from = utf16.UTF16(utf16.BigEndian, utf16.UseBOM)
	case UTF8:
		b := bufio.NewReaderSize(r, 1<<16)
		if head, err := b.Peek(3); err == nil && bytes.Equal(head, []byte{0xef, 0xbb, 0xbf}) {
			_, _ = b.Discard(3)
		}
		return transform.NewReader(b, loneReturns{})
	case "IBM850":
		from = charmap.CodePage850
	default:
		var err error
		if from, err = htmlindex.Get(strings.ToLower(string(e))); err != nil {
			from = charmap.Windows1252
		}
	}
	return transform.NewReader(r, transform.Chain(from.NewDecoder(), loneReturns{}))
}
