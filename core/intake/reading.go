package intake

import (
	"fmt"
	"net/mail"
	"strconv"
	"strings"
	"time"

	"github.com/nyaruka/phonenumbers"
	"github.com/shopspring/decimal"
	"golang.org/x/text/currency"

	"plainpath/core/model"
	"plainpath/core/value"
)

// Reading is a way to read the cells of a column: a field type, and where it has
// several forms, which.
type Reading struct {
	Type model.FieldType `json:"type"`
	// Form is point or comma for the decimal mark of numbers and amounts, and dmy, mdy or
	// ymd for the order of dates.
	Form string `json:"form,omitempty"`
}

// The forms of numbers and dates.
const (
	Point = "point"
	Comma = "comma"
	DMY   = "dmy"
	MDY   = "mdy"
	YMD   = "ymd"
)

// readings are those a column is tried with. A cell's place in a mask is its place here.
var readings = []Reading{
	{model.Whole, Point}, {model.Whole, Comma}, {model.Decimal, Point}, {model.Decimal, Comma},
	{model.Money, Point}, {model.Money, Comma}, {model.YesNo, ""},
	{model.Date, YMD}, {model.Date, DMY}, {model.Date, MDY},
	{model.DateTime, YMD}, {model.DateTime, DMY}, {model.DateTime, MDY},
	{model.Email, ""}, {model.Phone, ""}, {model.WebLink, ""},
}

// mask says which readings a cell fits, by bit.
type mask uint32

func bit(r Reading) mask {
	for i, x := range readings {
		if x == r {
			return 1 << i
		}
	}
	return 0
}

// excluded are the readings that what was said of a file rules out.
func (s Settings) excluded() mask {
	var out mask
	for i, r := range readings {
		decimal := (r.Form == Point || r.Form == Comma) && s.Decimal != "" && r.Form != s.Decimal
		dates := (r.Form == DMY || r.Form == MDY) && s.Dates != "" && r.Form != s.Dates
		if decimal || dates {
			out |= 1 << i
		}
	}
	return out
}

var (
	numberBits = bit(Reading{model.Whole, Point}) | bit(Reading{model.Whole, Comma}) | bit(Reading{model.Decimal,
		Point}) | bit(Reading{model.Decimal, Comma})
	signs    = map[string]string{"€": "EUR", "£": "GBP", "$": "USD", "¥": "JPY", "₹": "INR", "zł": "PLN", "₺": "TRY"}
	yesWords = map[string]bool{"yes": true, "y": true, "true": true, "t": true, "on": true, "x": true, "1": true,
		"✓": true}
	noWords = map[string]bool{"no": true, "n": true, "false": true, "f": true, "off": true, "0": true}
)

// code3 is the ISO 4217 code for a sign or a code, "" when it is neither.
func code3(s string) string {
	s = strings.TrimSpace(s)
	if c := signs[s]; c != "" {
		return c
	}
	if len(s) == 3 {
		if c, err := currency.ParseISO(s); err == nil {
			return c.String()
		}
	}
	return ""
}

// fits finds every reading a cell fits. Letters and signs are looked at first, so that
// only likely readings are tried.
func fits(s string) mask {
	s = strings.TrimSpace(s)
	var digits, letters, at, slashes, spaces bool
	count, exponents := 0, 0
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c >= '0' && c <= '9':
			digits = true
			count++
		case c == '@':
			at = true
		case c == '/':
			slashes = true
		case c == ' ':
			spaces = true
		case c == 'e' || c == 'E': // one can belong to a number
			exponents++
			letters = letters || exponents > 1
		case c >= 'a' && c <= 'z', c >= 'A' && c <= 'Z', c >= 0x80:
			letters = true
		}
	}
	var out mask
	if !digits && len(s) > 8 && !at && !slashes {
		return 0
	}
	for i, r := range readings {
		switch r.Type {
		case model.Email:
			if !at {
				continue
			}
		case model.WebLink:
			if !slashes || !letters && exponents == 0 {
				continue
			}
		case model.YesNo:
			if len(s) > 5 {
				continue
			}
		case model.Phone:
			if !digits || s[0] != '+' {
				continue
			}
		case model.DateTime:
			if !digits || !spaces && !strings.Contains(s, "T") {
				continue
			}
		case model.Whole, model.Decimal, model.Money:
			if count > mostDigits || r.Type != model.Money &&
				(!digits || letters && !strings.ContainsAny(s, "\u00a0\u202f\u2212")) || !digits {
				continue
			}
		default:
			if !digits {
				continue
			}
		}
		if v, err := r.Value(s, time.UTC); err == nil && v != nil {
			out |= 1 << i
		}
	}
	return out
}

// Value reads a cell. Cells of nothing but spaces are empty. The zone is that of dates
// with a time and without a zone.
func (r Reading) Value(cell string, zone *time.Location) (value.Value, error) {
	s := strings.TrimSpace(cell)
	if s == "" {
		return nil, nil
	}
	if kind := r.Type.Kind(); value.Parts(kind) != nil {
		return composite(kind, s), nil
	}
	switch r.Type {
	case model.Whole, model.Decimal:
		return r.number(s)
	case model.Money:
		return r.money(s)
	case model.YesNo:
		switch word := strings.ToLower(s); {
		case yesWords[word]:
			return value.YesNo(true), nil
		case noWords[word]:
			return value.YesNo(false), nil
		}
		return nil, fmt.Errorf("%q is neither yes nor no", s)
	case model.Date:
		d, rest, ok := parseDate(s, r.Form)
		if !ok || rest != "" && rest != "00:00" && rest != "00:00:00" {
			return nil, fmt.Errorf("%q is not a date with %s", s, formWords[r.Form])
		}
		return d, nil
	case model.DateTime:
		return r.instant(s, zone)
	case model.Email:
		if a, err := mail.ParseAddress(s); err != nil || a.Address != s ||
			!strings.Contains(s[strings.LastIndexByte(s, '@'):], ".") {
			return nil, fmt.Errorf("%q is not an e-mail address", s)
		}
	case model.Phone:
		n, err := phonenumbers.Parse(s, "ZZ")
		if err != nil || !phonenumbers.IsPossibleNumber(n) {
			return nil, fmt.Errorf("%q is not a phone number with its country code", s)
		}
	case model.WebLink:
		if !strings.HasPrefix(s, "http://") && !strings.HasPrefix(s, "https://") || strings.ContainsAny(s, " \n") {
			return nil, fmt.Errorf("%q is not a web address", s)
		}
	case model.Text, model.LongText, model.Choice, model.Choices:
		return value.Text(cell), nil
	}
	return value.Text(s), nil
}

// composite reads a value that is made of parts, with semicolons between them; without, all of it is the
// first, where a comma ends a line if there is but one.
func composite(kind value.Kind, s string) value.Value {
	if parts := partsOf(s); len(parts) == len(value.Parts(kind)) {
		return value.OfParts(kind, parts...)
	}
	if !strings.Contains(s, "\n") {
		s = strings.ReplaceAll(s, ",", "\n")
	}
	return value.OfParts(kind, s)
}

// partsOf takes a text apart at its semicolons; a backslash makes the next character a part of the text. It is
// nil for one that ends in a backslash.
func partsOf(s string) []string {
	parts := []string{""}
	escaped := false
	for _, r := range s {
		last := len(parts) - 1
		switch {
		case escaped || r != '\\' && r != ';':
			parts[last] += string(r)
			escaped = false
		case r == '\\':
			escaped = true
		default:
			parts = append(parts, "")
		}
	}
	if escaped {
		return nil
	}
	return parts
}

var formWords = map[string]string{Point: "a decimal point", Comma: "a decimal comma", DMY: "the day first",
	MDY: "the month first", YMD: "the year first"}

// mostDigits is how many digits a number may have to be taken for one; longer ones are names of
// something, unless somebody says that they are numbers.
const mostDigits = 15

// number reads a number with its groups of thousands. Leading noughts are refused: what
// has them is a code.
func (r Reading) number(s string) (value.Value, error) {
	plain, percent, ok := digitsOf(s, r.Form)
	if !ok && r.Type == model.Whole {
		return nil, fmt.Errorf("%q is not a whole number", s)
	}
	if !ok {
		return nil, fmt.Errorf("%q is not a number with %s", s, formWords[r.Form])
	}
	d, err := decimal.NewFromString(plain)
	if err != nil {
		return nil, fmt.Errorf("%q is not a number", s)
	}
	if percent {
		d = d.Shift(-2)
	}
	if r.Type == model.Decimal {
		return value.Decimal{Decimal: d}, nil
	}
	if percent || !d.IsInteger() || strings.ContainsRune(plain, '.') {
		return nil, fmt.Errorf("%q is not a whole number", s)
	}
	if !d.BigInt().IsInt64() {
		return nil, fmt.Errorf("%q is %s", s, value.TooLarge)
	}
	return value.Whole(d.IntPart()), nil
}

// digitsOf takes a number apart: its digits with a decimal point, and whether it is a
// percentage. Groups of thousands may stand apart by the other mark, a space or an
// apostrophe.
func digitsOf(s, form string) (plain string, percent, ok bool) {
	mark, group := byte('.'), ','
	if form == Comma {
		mark, group = ',', '.'
	}
	if rest, cut := strings.CutSuffix(s, "%"); cut {
		s, percent = strings.TrimSpace(rest), true
	}
	s, minus, ok := unsigned(s)
	if !ok {
		return "", false, false
	}
	s, exponent, ok := cutExponent(s)
	if !ok {
		return "", false, false
	}
	whole, fraction, has := strings.Cut(s, string(mark))
	if has && (fraction == "" || !allDigits(fraction)) {
		return "", false, false
	}
	if has && whole == "" {
		whole = "0"
	}
	if whole, ok = ungroup(whole, group); !ok {
		return "", false, false
	}
	if len(whole) > 1 && whole[0] == '0' || len(whole)+len(fraction) > value.MostDigits {
		return "", false, false
	}
	plain = whole
	if has {
		plain += "." + fraction
	}
	if minus {
		if strings.Trim(plain, "0.") == "" {
			return "", false, false // minus nought would not come back
		}
		plain = "-" + plain
	}
	return plain + exponent, percent, true
}

// unsigned takes the sign off a number: before it, behind it, or brackets for minus.
func unsigned(s string) (rest string, minus, ok bool) {
	if rest, cut := strings.CutPrefix(s, "("); cut {
		rest, cut = strings.CutSuffix(rest, ")")
		return rest, true, cut
	}
	if rest, cut := strings.CutPrefix(s, "+"); cut {
		return rest, false, true
	}
	for _, sign := range []string{"-", "\u2212"} {
		if rest, cut := strings.CutPrefix(s, sign); cut {
			return rest, true, true
		}
		if rest, cut := strings.CutSuffix(s, sign); cut {
			return strings.TrimSpace(rest), true, true
		}
	}
	return s, false, true
}

// cutExponent takes the exponent off a number, as programs write it: 1.5e-3.
func cutExponent(s string) (mantissa, exponent string, ok bool) {
	i := strings.IndexAny(s, "eE")
	if i < 0 {
		return s, "", true
	}
	n, err := strconv.Atoi(s[i+1:])
	return s[:i], "e" + strconv.Itoa(n), err == nil && i > 0 && n >= -99 && n <= 99
}

// ungroup takes thousands together; groups but the first must have three digits.
func ungroup(s string, group rune) (string, bool) {
	if allDigits(s) {
		return s, s != ""
	}
	var parts []string
	for _, sep := range []string{string(group), " ", "\u00a0", "\u202f", "'", "’"} {
		if strings.Contains(s, sep) {
			parts = strings.Split(s, sep)
			break
		}
	}
	for i, p := range parts {
		if !allDigits(p) || i > 0 && len(p) != 3 || i == 0 && (len(p) == 0 || len(p) > 3) {
			return "", false
		}
	}
	return strings.Join(parts, ""), len(parts) > 1
}

func allDigits(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return true
}

// money reads an amount with its currency before or behind it.
func (r Reading) money(s string) (value.Value, error) {
	from := strings.IndexFunc(s, func(c rune) bool { return c >= '0' && c <= '9' || c == '(' })
	to := strings.LastIndexFunc(s, func(c rune) bool { return c >= '0' && c <= '9' || c == ')' })
	if from < 0 || to < from {
		return nil, fmt.Errorf("%q is not an amount of money", s)
	}
	before, amount, behind := strings.TrimSpace(s[:from]), s[from:to+1], strings.TrimSpace(s[to+1:])
	for _, minus := range []string{"-", "\u2212"} {
		if strings.HasPrefix(before, minus) || strings.HasSuffix(before, minus) {
			before, amount = strings.TrimSpace(strings.Trim(before, minus)), "-"+amount
		}
	}
	code := code3(before + behind)
	if code == "" || before != "" && behind != "" {
		return nil, fmt.Errorf("%q has no currency, such as EUR or €", s)
	}
	plain, percent, ok := digitsOf(strings.TrimSpace(amount), r.Form)
	if !ok || percent {
		return nil, fmt.Errorf("%q is not an amount with %s", s, formWords[r.Form])
	}
	d, err := decimal.NewFromString(plain)
	if err != nil {
		return nil, fmt.Errorf("%q is not an amount", s)
	}
	return value.Money{Amount: d, Currency: code}, nil
}
