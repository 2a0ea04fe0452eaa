package page

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/screen"
)

// What a page is handed is known on it, with the fields that are used; it does not open without what it needs.
func TestAPageTakesValues(t *testing.T) {
	def := page([]screen.Search{searchOf("lifts_found", "lift", is("building", "house"))},
		screen.Part{Key: "says", Kind: screen.TextPart, Text: "{house.name} {word}"},
		tableOf("lifts", "lifts_found", "serial"))
	def.Takes = []screen.Take{{Key: "house", Label: "House", Type: model.Reference, Object: "building", Required: true},
		{Key: "word", Label: "Word", Type: model.Text}}
	p := compiled(t, def)
	r := houses(t)
	for _, c := range []struct{ given, says string }{
		{`{"taken":{"house":{"id":2}}}`, "Mill Court "},
		{`{"taken":{"house":{"id":1},"word":"new"}}`, "Mill House new"},
		{`{}`, "!House is required"},
		{`{"taken":{"house":{"id":99}}}`, "!House"},
		{`{"taken":{"house":"x"}}`, "!"},
		{`{"taken":{"house":{"id":1},"other":1}}`, "!no such value"},
	} {
		bands, err := p.Show(t.Context(), r, given(c.given), nil)
		if says, fails := strings.CutPrefix(c.says, "!"); fails {
			var not *NotOpenedError
			if !errors.As(err, &not) || !strings.Contains(err.Error(), says) {
				t.Errorf("%s: %v", c.given, err)
			}
			continue
		}
		if err != nil || bands[0].Columns[0].Parts[0].Text.String() != c.says {
			t.Errorf("%s: %+v, %v", c.given, bands, err)
		}
	}
	if !def.Needs() || (&Page{Takes: def.Takes[1:]}).Needs() {
		t.Error("it needs the house alone")
	}
	def.Takes = append(def.Takes, screen.Take{Key: "house", Label: "Again", Type: model.Text},
		screen.Take{Key: "lifts_found", Label: "Taken", Type: model.Text})
	if _, check := Compile(expr.Scope{Model: memory.Houses()}, []string{"all"}, def); len(check.Findings()) != 3 {
		t.Errorf("%+v", check.Findings())
	}
}

// A line opens a page with values handed over, of the row as well.
func TestALineOpensAPage(t *testing.T) {
	p := compiled(t, reactive(when("row", on(screen.RowPressed, "houses"), act.Act{Kind: act.OpenAct,
		Open: &act.Open{Page: "house", Beside: true,
			Hand: []act.Handing{{To: "house", Value: "row"}, {To: "word", Value: "words"}}}})))
	out, err := p.React(t.Context(), houses(t), given(`{"answers":{"words":"x"}}`), screen.Reacting{Key: "row", Row: 2})
	raw, _ := json.Marshal(out.Effects)
	const want = `[{"kind":"open","hand":{"house":{"id":2,"label":"Mill Court"},"word":"x"},` +
		`"page":"house","beside":true}]`
	if err != nil || string(raw) != want {
		t.Errorf("%s, %v", raw, err)
	}
}
