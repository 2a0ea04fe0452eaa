package server

import (
	"net/url"
	"strings"
	"unicode/utf8"

	"github.com/gofiber/fiber/v3"
)

// errUnstorable refuses characters that no text in the database can hold.
var errUnstorable = fiber.NewError(fiber.StatusBadRequest,
	"The request cannot be read: a text in it has the character U+0000, half of a character or bytes that are no UTF-8, which nothing can be searched for or stored with. Take it out.")

// storableAddress refuses addresses that have U+0000 or are not UTF-8.
func storableAddress(c fiber.Ctx) error {
	if said, err := url.QueryUnescape(c.OriginalURL()); err == nil &&
		(strings.ContainsRune(said, 0) || !utf8.ValidString(said)) {
		return errUnstorable
	}
	return c.Next()
}
