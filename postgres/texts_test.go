package postgres_test

import (
	"context"
	"math/rand/v2"
	"strings"
	"testing"
	"unicode"

	"golang.org/x/text/unicode/norm"

	"plainpath/core/value"
	"plainpath/testdb"
)

const mixedTexts = 20000

// inEurope says whether all letters were in Unicode before 6.2, whose order Go's tables have;
// signs that came later sort by their code there.
func inEurope(s string) bool {
	return !strings.ContainsFunc(s, func(r rune) bool { return r >= 0x0524 && (r < 0x1e00 || r > 0x1fff) })
}

// writtenTexts are all letters by themselves, and texts of letters that case, accents and
// languages make difficult.
func writtenTexts() []string {
	var out []string
	for r := rune(1); r < 0x2FA20; r++ {
		if r != 0 && unicode.In(r, unicode.Latin, unicode.Greek, unicode.Cyrillic, unicode.Armenian, unicode.Mn,
			unicode.N, unicode.P, unicode.S, unicode.Zs) && !unicode.Is(unicode.Cs, r) {
			out = append(out, norm.NFC.String(string(r)), norm.NFC.String("a"+string(r)+"B"))
		}
	}
	letters := []rune("aAbBzZ019 -_.,'éÉèöÖßẞøØłæœđıIİ€$%&/()\"ñΣσςΖжйЯ中文अªºﬁŉǆΐ@#:;!?…–“’")
	r := rand.New(rand.NewPCG(7, 1))
	for range mixedTexts {
		var b strings.Builder
		for range 1 + r.IntN(6) {
			b.WriteRune(letters[r.IntN(len(letters))])
		}
		out = append(out, norm.NFC.String(b.String()))
	}
	return out
}

func TestTextsFoldAndSortAsInTheDatabase(t *testing.T) {
	texts, db := writtenTexts(), testdb.New(t)
	var rows []struct {
		Folded, Unaccented string
		Order              int
	}
	err := db.SelectContext(context.Background(), &rows, `
		SELECT plainpath.folded(t) AS folded, plainpath.unaccented(plainpath.folded(t)) AS unaccented,
			CASE WHEN t COLLATE "und-x-icu" < before THEN -1 WHEN t = before THEN 0 ELSE 1 END AS order
		FROM (SELECT n, t, coalesce(lag(t) OVER (ORDER BY n), '') AS before FROM unnest($1::text[]) WITH ORDINALITY u (t, n)) q ORDER BY n`, texts)
	if err != nil {
		t.Fatal(err)
	}
	wrong, before := 0, ""
	for i, text := range texts {
		order, _ := value.Compare(value.Text(text), value.Text(before))
		folded := value.Fold(text)
		if unaccented := value.Unaccented(folded); folded != rows[i].Folded || unaccented != rows[i].Unaccented ||
			(i >= len(texts)-mixedTexts || inEurope(text+before)) && order != rows[i].Order {
			if wrong++; wrong < 20 {
				t.Errorf("%q after %q: Go has %q, %q and %d, the database %q, %q and %d", text, before, folded,
					unaccented, order, rows[i].Folded, rows[i].Unaccented, rows[i].Order)
			}
		}
		before = text
	}
	if wrong > 0 {
		t.Errorf("%d of %d differ", wrong, len(texts))
	}
}
