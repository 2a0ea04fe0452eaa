package expr

import (
	"testing"

	"plainpath/core/model"
	"plainpath/core/value"
)

// An expression that is kept gives rows as they are called where it stands now.
func TestWhatRowsHoldIsCalledAsItIsNow(t *testing.T) {
	m := model.New("EUR")
	for _, label := range []string{"Quantity", "How many"} {
		of := model.Referent{Document: "walkthrough/w", At: "/steps/" + label}
		s := Scope{Model: m, Names: []Name{{Key: "lines", Type: Type{Kind: value.KindRows,
			Answers: []Name{{Key: "n", Label: label, Type: Type{Kind: value.KindWhole}, Of: of}}}}}}
		for range 2 {
			p, err := Compile(s, "lines.filter(l, l.n > 1)")
			if err != nil || p.Type.Kind != value.KindRows || p.Type.Answers[0].Label != label ||
				p.Type.Answers[0].Of != of {
				t.Fatalf("%+v, %v; want %q", p, err, label)
			}
		}
	}
}
