package definition

import (
	"strconv"
	"unicode"
	"unicode/utf16"
	"unicode/utf8"
)

// Storable says whether JSON is UTF-8 and the texts in it have neither U+0000 nor a surrogate
// without the other half of its pair, as PostgreSQL asks of jsonb. Both can only stand there escaped.
func Storable(body []byte) bool {
	if !utf8.Valid(body) {
		return false
	}
	for i := 0; i < len(body); i++ {
		if body[i] != '\\' {
			continue
		}
		i++
		r, ok := escaped(body, i)
		if !ok {
			continue
		}
		i += 4
		if r == 0 {
			return false
		}
		if utf16.IsSurrogate(r) {
			low, _ := escaped(body, i+2)
			if i+1 >= len(body) || body[i+1] != '\\' || utf16.DecodeRune(r, low) == unicode.ReplacementChar {
				return false
			}
			i += 6
		}
	}
	return true
}

// escaped reads the four digits after a u.
func escaped(body []byte, at int) (rune, bool) {
	if at+5 > len(body) || body[at] != 'u' {
		return 0, false
	}
	n, err := strconv.ParseUint(string(body[at+1:at+5]), 16, 32)
	return rune(n), err == nil
}
