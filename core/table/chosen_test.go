package table

import (
	"encoding/json"
	"strings"
	"testing"

	"plainpath/core/value"
)

func TestRowsThatWereChosen(t *testing.T) {
	for raw, want := range map[string]string{`[]`: "", `null`: "", ``: "", `{"id":3}`: "3",
		`[{"id":3},{"id":1},{"id":3}]`: "3 1", `[3]`: "cannot be read", `{"id":"x"}`: "cannot be read"} {
		c, err := ParseChosen(json.RawMessage(raw))
		var got []string
		for _, k := range c.Keys {
			got = append(got, value.Display(value.Whole(k)))
		}
		if err != nil {
			got = []string{err.Error()}
		}
		if !strings.Contains(strings.Join(got, " "), want) || want == "" && len(got) > 0 {
			t.Errorf("%s: %v", raw, got)
		}
	}
	many := "[" + strings.TrimSuffix(strings.Repeat(`{"id":1},`, MostChosen+1), ",") + "]"
	if _, err := ParseChosen(json.RawMessage(many)); err == nil || !strings.Contains(err.Error(), "more than") {
		t.Errorf("%v", err)
	}
}
