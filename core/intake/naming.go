package intake

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"github.com/gertd/go-pluralize"

	"plainpath/core/model"
)

// inflect knows the words that are irregular in English.
var inflect = func() *pluralize.Client {
	c := pluralize.NewClient()
	c.AddUncountableRule("species") // it makes "specie" of it
	return c
}()

// choicesOf makes the values of a choice of the cells of a column.
func choicesOf(counted []Counted) []model.ChoiceValue {
	var out []model.ChoiceValue
	for _, c := range counted {
		if slices.ContainsFunc(out, func(v model.ChoiceValue) bool { return strings.EqualFold(v.Label, c.Value) }) {
			continue
		}
		key := freeKey(KeyOf(c.Value), func(k string) bool {
			return slices.ContainsFunc(out, func(v model.ChoiceValue) bool { return v.Key == k })
		})
		out = append(out, model.ChoiceValue{Key: key, Label: c.Value})
	}
	return out
}

// apart counts the single choices in cells that hold several.
func apart(cells []Counted) []Counted {
	counts := map[string]int64{}
	var order []string
	for _, cell := range cells {
		for _, one := range severalIn(cell.Value) {
			if counts[one] == 0 {
				order = append(order, one)
			}
			counts[one] += cell.Count
		}
	}
	out := make([]Counted, len(order))
	for i, one := range order {
		out[i] = Counted{one, counts[one]}
	}
	return out
}

var noKey = regexp.MustCompile(`[^a-z0-9]+`)

// KeyOf makes a key of words.
func KeyOf(words string) string {
	plain := strings.Map(func(r rune) rune {
		if f := folded[unicode.ToLower(r)]; f != 0 {
			return f
		}
		return unicode.ToLower(r)
	}, words)
	key := strings.Trim(noKey.ReplaceAllString(plain, "_"), "_")
	key = strings.TrimLeft(key, "0123456789_")
	if len(key) > 40 {
		key = strings.TrimRight(key[:40], "_")
	}
	if key == "" {
		return "field"
	}
	return key
}

// folded are letters with marks and the plain ones that stand for them in keys.
var folded = map[rune]rune{'ä': 'a', 'á': 'a', 'à': 'a', 'â': 'a', 'å': 'a', 'ã': 'a', 'ö': 'o', 'ó': 'o', 'ò': 'o',
	'ô': 'o', 'ø': 'o', 'õ': 'o',

	'ü': 'u', 'ú': 'u', 'ù': 'u', 'û': 'u', 'é': 'e', 'è': 'e', 'ê': 'e', 'ë': 'e', 'í': 'i', 'ì': 'i', 'î': 'i',
	'ï': 'i', 'ñ': 'n', 'ç': 'c', 'ý': 'y', 'ß': 's'}

func freeKey(wish string, taken func(string) bool) string {
	key := wish
	for n := 2; taken(key); n++ {
		key = fmt.Sprintf("%s_%d", wish, n)
	}
	return key
}

func titled(name string) string {
	words := strings.Join(strings.FieldsFunc(name, func(r rune) bool { return r == '_' || r == '-' || r == ' ' }), " ")
	if words == "" {
		return "Records"
	}
	r := []rune(words)
	r[0] = unicode.ToUpper(r[0])
	return string(r)
}
