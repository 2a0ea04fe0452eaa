package intake

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"
)

// numberFormat is what a number in a cell of a workbook means.
type numberFormat struct {
	day, clock bool
	// elapsed is a length of time, which may be more than a day.
	elapsed  bool
	currency string
}

var (
	currencyTag = regexp.MustCompile(`\[\$([^\]-]+)(-[^\]]*)?\]`)
	quotedCode  = regexp.MustCompile(`"\s*([A-Z]{3})\s*"`)
	elapsedTag  = regexp.MustCompile(`(?i)\[(h+|m+|s+)\]`)
	brackets    = regexp.MustCompile(`\[[^\]]*\]`) // colours, conditions, languages
	literal     = regexp.MustCompile(`"[^"]*"|\\.|_.|\*.`)
)

// formatOf reads a number format: one of those ECMA-376 gives a number to (part 1,
// 18.8.30), or one written out.
func formatOf(id int, code string) numberFormat {
	switch {
	case code != "":
	case id >= 5 && id <= 8 || id == 42 || id == 44:
		return numberFormat{currency: signs["$"]}
	case id >= 14 && id <= 17 || id >= 27 && id <= 31 || id >= 34 && id <= 36 || id >= 50 && id <= 58:
		return numberFormat{day: true}
	case id == 46:
		return numberFormat{elapsed: true}
	case id >= 18 && id <= 21 || id >= 32 && id <= 33 || id >= 45 && id <= 47:
		return numberFormat{clock: true}
	case id == 22:
		return numberFormat{day: true, clock: true}
	}
	if m := currencyTag.FindStringSubmatch(code); m != nil {
		return numberFormat{currency: code3(m[1])}
	}
	elapsed := elapsedTag.MatchString(code)
	written := brackets.ReplaceAllString(code, "")
	plain, _, _ := strings.Cut(strings.ToLower(literal.ReplaceAllString(written, "")), ";")
	if strings.Contains(plain, "general") {
		return numberFormat{}
	}
	f := numberFormat{
		elapsed: elapsed,
		day:     !elapsed && (strings.ContainsAny(plain, "yd") || strings.Contains(plain, "mmm")),
		clock:   !elapsed && strings.ContainsAny(plain, "hs"),
	}
	if f.day || f.clock || f.elapsed {
		return f
	}
	if m := quotedCode.FindStringSubmatch(written); m != nil && code3(m[1]) != "" {
		return numberFormat{currency: code3(m[1])}
	}
	for sign, currency := range signs {
		if strings.Contains(written, sign) {
			return numberFormat{currency: currency}
		}
	}
	return f
}

// text writes a number as its format means it. Numbers keep the digits they are stored
// with; a time without a day that is more than a day has one after all.
func (f numberFormat) text(raw string, n float64, epoch04 bool) string {
	switch {
	case f.elapsed:
		seconds := int64(math.Round(math.Abs(n) * 24 * 60 * 60))
		sign := ""
		if n < 0 && seconds > 0 {
			sign = "-"
		}
		return fmt.Sprintf("%s%02d:%02d:%02d", sign, seconds/3600, seconds/60%60, seconds%60)
	case f.day || f.clock:
		t, err := excelize.ExcelDateToTime(n, epoch04)
		if err != nil {
			return raw
		}
		t = t.Round(time.Second)
		switch {
		case f.clock && (f.day || n >= 1), f.day && t.Hour()+t.Minute()+t.Second() > 0:
			return t.Format("2006-01-02 15:04:05")
		case f.day:
			return t.Format(time.DateOnly)
		}
		return t.Format(time.TimeOnly)
	case f.currency != "":
		return shortest(raw, n) + " " + f.currency
	}
	return shortest(raw, n)
}

// shortest writes a number without an exponent and without the noise that binary
// fractions leave in the file, such as 0.30000000000000004.
func shortest(raw string, n float64) string {
	if !strings.ContainsAny(raw, "eE.") {
		return raw
	}
	return strconv.FormatFloat(mustParse(strconv.FormatFloat(n, 'g', 15, 64)), 'f', -1, 64)
}

func mustParse(s string) float64 {
	n, _ := strconv.ParseFloat(s, 64) // it was just written
	return n
}
