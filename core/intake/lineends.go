package intake

import (
	"bytes"

	"golang.org/x/text/transform"
)

// loneReturns makes line feeds of carriage returns that stand by themselves, which some
// programs end lines with.
type loneReturns struct{ transform.NopResetter }

func (loneReturns) Transform(dst, src []byte, atEOF bool) (nDst, nSrc int, err error) {
	for nSrc < len(src) {
		plain := bytes.IndexByte(src[nSrc:], '\r')
		if plain < 0 {
			plain = len(src) - nSrc
		}
		n := copy(dst[nDst:], src[nSrc:nSrc+plain])
		nDst, nSrc = nDst+n, nSrc+n
		switch {
		case n < plain:
			return nDst, nSrc, transform.ErrShortDst
		case nSrc == len(src):
			return nDst, nSrc, nil
		case nSrc+1 == len(src) && !atEOF:
			return nDst, nSrc, transform.ErrShortSrc
		case nDst == len(dst):
			return nDst, nSrc, transform.ErrShortDst
		}
		dst[nDst] = '\n'
		if nSrc+1 < len(src) && src[nSrc+1] == '\n' {
			dst[nDst] = '\r'
		}
		nDst, nSrc = nDst+1, nSrc+1
	}
	return nDst, nSrc, nil
}
