package server

import (
	"strconv"
	"strings"
	"unicode"
	"unicode/utf16"

	"github.com/gofiber/fiber/v3"
)

// errUnstorable refuses characters that no text in the database can hold.
var errUnstorable = fiber.NewError(fiber.StatusBadRequest, "The request cannot be read: a text in it has the character U+0000 or half of a character, which nothing can be searched for or stored with. Take it out.")

// storable says whether the texts in JSON have neither U+0000 nor a surrogate without the
// other half of its pair, as PostgreSQL asks of jsonb. Both can only stand there escaped.
func storable(body []byte) bool {
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

// storableAddress refuses addresses that have U+0000.
func storableAddress(c fiber.Ctx) error {
	if strings.Contains(c.OriginalURL(), "%00") {
		return errUnstorable
	}
	return c.Next()
}
