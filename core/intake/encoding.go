// Package intake reads CSV and XLSX files, says with evidence what types their columns
// have, and turns their cells into values.
package intake

import (
	"bufio"
	"bytes"
	"fmt"
	"io"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
	"golang.org/x/text/transform"
)

// Encoding is how the characters of a text file are written.
type Encoding string

// The encodings that are told apart.
const (
	UTF8        Encoding = "UTF-8"
	UTF16LE     Encoding = "UTF-16 little endian"
	UTF16BE     Encoding = "UTF-16 big endian"
	Windows1252 Encoding = "Windows-1252"
)

// Source is a file that can be read from the start as often as need be.
type Source interface {
	Reader() (io.ReadCloser, error)
	Size() int64
}

// detect finds the encoding of a text: by its byte order mark, by the noughts that
// UTF-16 has in every other place, or else by whether all of it is UTF-8.
func detect(s Source) (Encoding, error) {
	r, err := s.Reader()
	if err != nil {
		return "", err
	}
	defer func() { _ = r.Close() }()
	b := bufio.NewReaderSize(r, 1<<16)
	head, err := b.Peek(4096)
	if err != nil && err != io.EOF && err != bufio.ErrBufferFull {
		return "", fmt.Errorf("reading the file: %w", err)
	}
	switch {
	case bytes.HasPrefix(head, []byte{0xff, 0xfe}):
		return UTF16LE, nil
	case bytes.HasPrefix(head, []byte{0xfe, 0xff}):
		return UTF16BE, nil
	}
	var noughts [2]int
	for i, c := range head {
		if c == 0 {
			noughts[i%2]++
		}
	}
	switch half := len(head) / 2; {
	case noughts[1] > half/2 && noughts[0] == 0:
		return UTF16LE, nil
	case noughts[0] > half/2 && noughts[1] == 0:
		return UTF16BE, nil
	case noughts[0]+noughts[1] > 0:
		return "", fmt.Errorf("this is not a table: it holds bytes that no text has. Bring a CSV or an XLSX file")
	}
	valid, err := allUTF8(b)
	if err != nil {
		return "", fmt.Errorf("reading the file: %w", err)
	}
	if valid {
		return UTF8, nil
	}
	return Windows1252, nil
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
		from = unicode.UTF16(unicode.LittleEndian, unicode.UseBOM)
	case UTF16BE:
		from = unicode.UTF16(unicode.BigEndian, unicode.UseBOM)
	case Windows1252:
		from = charmap.Windows1252
	default:
		b := bufio.NewReaderSize(r, 1<<16)
		if head, err := b.Peek(3); err == nil && bytes.Equal(head, []byte{0xef, 0xbb, 0xbf}) {
			_, _ = b.Discard(3)
		}
		return transform.NewReader(b, loneReturns{})
	}
	return transform.NewReader(r, transform.Chain(from.NewDecoder(), loneReturns{}))
}
