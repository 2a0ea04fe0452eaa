package value

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/language"
	"golang.org/x/text/unicode/norm"
)

// Fold makes texts alike that differ in case only, by the full mappings of Unicode (Standard,
// 3.13): "STRASSE" and "Straße" are one word. The database has the same as plainpath.folded.
func Fold(s string) string {
	if isASCII(s) {
		return strings.ToLower(s)
	}
	upper := cases.Upper(language.Und).String(s)
	return strings.ReplaceAll(cases.Lower(language.Und).String(upper), "ς", "σ")
}

// unaccentedLetters have their accent within, so that it does not come off.
var unaccentedLetters = strings.NewReplacer("ø", "o", "ł", "l", "đ", "d", "ħ", "h", "ŧ", "t", "ı", "i",
	"Ø", "O", "Ł", "L", "Đ", "D", "Ħ", "H", "Ŧ", "T", "æ", "ae", "œ", "oe")

// Unaccented is a text without the accents of its letters. The database has the same as
// plainpath.unaccented.
func Unaccented(s string) string {
	if isASCII(s) {
		return s
	}
	bare := strings.Map(func(r rune) rune {
		if r >= '\u0300' && r <= '\u036f' {
			return -1
		}
		return r
	}, norm.NFD.String(s))
	return unaccentedLetters.Replace(norm.NFC.String(bare))
}

func isASCII(s string) bool {
	for i := range len(s) {
		if s[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// Contains says whether text holds part, without regard to case.
func Contains(text, part string) bool { return strings.Contains(Fold(text), Fold(part)) }

// StartsWith says whether text begins with part, without regard to case.
func StartsWith(text, part string) bool { return strings.HasPrefix(Fold(text), Fold(part)) }

// EndsWith says whether text ends with part, without regard to case.
func EndsWith(text, part string) bool { return strings.HasSuffix(Fold(text), Fold(part)) }

// Capitalized is a text whose words begin with a capital.
func Capitalized(s string) string {
	before := ' '
	return strings.Map(func(r rune) rune {
		begins := !unicode.IsLetter(before) && !unicode.IsDigit(before) && before != '\'' && before != '’'
		before = r
		if begins {
			return unicode.ToTitle(r)
		}
		return r
	}, s)
}
