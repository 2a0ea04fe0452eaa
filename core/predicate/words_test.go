package predicate

import (
	"encoding/json"
	"testing"

	"plainpath/core/expr"
	"plainpath/core/value"
)

// What a condition asks is said in words that anybody can read, labels and all.
func TestConditionsInWords(t *testing.T) {
	mill := &value.Record{Object: "building", ID: 3, Label: "Mill House"}
	known := expr.Values{"word": value.Text("door"), "n": value.Whole(2), "today": value.Date{Year: 2026, Month: 11,
		Day: 24},
		"some": &value.List{Object: "building",
			Source: value.Records{mill, {Object: "building", ID: 4, Label: "Dock Gate"}}}}
	for _, c := range []struct{ object, condition, says string }{
		{"building", `{"all":[]}`, "always"},
		{"building", `{"field":"name","op":"contains","value":{"expression":"word"}}`, "Name contains “door”"},
		{"building", `{"field":"name","op":"is_empty"}`, "Name is empty"},
		{"building", `{"field":"floors","op":"between","value":{"literal":2},"to":{"literal":4}}`,
			"Floors is between 2 and 4"},
		{"building", `{"field":"floors","op":"one_of","values":[{"literal":1},{"expression":"n"}]}`,
			"Floors is one of 1, 2"},
		{"building", `{"field":"value","op":"more_or_equal","value":{"literal":{"amount":"1250","currency":"EUR"}}}`,
			"Value is at least 1250.00 EUR"},
		{"building", `{"field":"listed","op":"is","value":{"literal":true}}`, "Listed is yes"},
		{"building", `{"field":"built","op":"less","value":{"literal":"1901-05-01"}}`, "Built is before 1901-05-01"},
		{"building", `{"field":"built","op":"within_last_days","value":{"literal":7}}`,
			"Built is between 2026-11-17 and 2026-11-24"},
		{"building", `{"field":"use","op":"is_not","value":{"literal":"shop"}}`, "Use is not Shop"},
		{"lift", `{"field":"building.name","op":"starts_with","value":{"literal":"M"}}`,
			"Building › Name starts with “M”"},
		{"lift", `{"field":"building","op":"one_of","value":{"expression":"some"}}`,
			"Building is one of Mill House, Dock Gate"},
		{"lift", `{"all":[{"any":[{"field":"serial","op":"is","value":{"literal":"a"}},{"field":"serial","op":"is","value":{"literal":"b"}}]},{"field":"building","op":"is_not_empty"}]}`,
			"(Serial is “a” or Serial is “b”) and Building is not empty"},
		{"lift", `{"expression":"record.serial == word"}`, "record.serial == word"},
		{"building", `{"related":{"object":"lift","field":"building","where":{"all":[]}}}`, "has a lift (by Building)"},
		{"building", `{"related":{"object":"lift","field":"building","none":true,"where":{"field":"serial","op":"is","value":{"literal":"QL-7"}}}}`, "has no lift (by Building) where Serial is “QL-7”"},
	} {
		var condition Condition
		if err := json.Unmarshal([]byte(c.condition), &condition); err != nil {
			t.Fatal(err)
		}
		checked, problems := Check(scope(), c.object, condition, "")
		if len(problems) > 0 {
			t.Errorf("%s: %v", c.condition, problems)
			continue
		}
		p, err := checked.Bind(known)
		if err != nil {
			t.Errorf("%s: %v", c.condition, err)
		} else if got := Words(p); got != c.says {
			t.Errorf("%s\nsays %s\nwant %s", c.condition, got, c.says)
		}
	}
	m := scope().Model
	name, _ := m.Path("building", "name")
	price, _ := m.Path("building", "value")
	owner, _ := m.Path("lift", "building")
	for says, p := range map[string]Predicate{
		"Name is empty":               Same{Path: name},
		"not: Building is Mill House": Not{Of: Same{Path: owner, Value: mill}},
		"Value is in SEK":             InCurrency{Path: price, Currency: "SEK"},
		"is one of 2 records":         Keys{1, 2},
		"never":                       Any{},
		"always":                      nil,
	} {
		if got := Words(p); got != says {
			t.Errorf("%#v says %s, want %s", p, got, says)
		}
	}
}
