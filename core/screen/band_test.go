package screen

import (
	"encoding/json"
	"strings"
	"testing"

	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/value"
)

func TestWhatIsWrongWithABand(t *testing.T) {
	pile := Column{Parts: []Part{}}
	for _, c := range []struct {
		name                string
		band                Band
		pointer, says, mend string
	}{
		{"a sound one", Band{Title: "More", Stands: Folded, OfferedWhen: "n > 1", Columns: []Column{{Width: 12}}},
			"", "", ""},
		{"sound tabs", Band{Stands: AsTabs, Columns: []Column{pile, pile, pile, pile, pile}}, "", "", ""},
		{"five columns", Band{Columns: []Column{pile, pile, pile, pile, pile}}, "/columns", "4 is the most", `"tabs"`},
		{"folded without a title", Band{Stands: Unfolded, Columns: []Column{pile}}, "/title", "needs a title", ""},
		{"standing on its head", Band{Stands: "upside_down", Columns: []Column{pile}}, "/stands", "cannot stand", ""},
		{"too wide", Band{Columns: []Column{{Width: 13}}}, "/columns/0/width", "1 to 12 wide", ""},
		{"of no width", Band{Columns: []Column{{Width: -1}}}, "/columns/0/width", "1 to 12 wide", ""},
		{"offered when nothing holds", Band{OfferedWhen: "n", Columns: []Column{pile}}, "/offered_when",
			"yes or no is wanted", ""},
	} {
		_, findings := compile(scope(), []Band{c.band}, "")
		if c.says == "" {
			if len(findings) > 0 {
				t.Errorf("%s: %+v", c.name, findings)
			}
			continue
		}
		if len(findings) != 1 || findings[0].Pointer != "/bands/0"+c.pointer ||
			!strings.Contains(findings[0].Text, c.says) {
			t.Errorf("%s: %+v", c.name, findings)
			continue
		}
		if m := findings[0].Mend; c.mend != "" && (m == nil || string(m.Patch[0].Value) != c.mend) {
			t.Errorf("%s is mended by %+v", c.name, m)
		}
	}
}

// A band that is not offered has nothing in it, and nothing can be given there; tabs are called something.
func TestBandsAreOffered(t *testing.T) {
	asked := Part{Key: "why", Kind: InputPart, Label: "Why", Input: &Input{Type: model.Text, Required: true}}
	s, findings := compile(scope(), []Band{
		{Title: "Many", OfferedWhen: "n > 1", Columns: []Column{{Parts: []Part{asked}}}},
		{Stands: AsTabs, Columns: []Column{{Title: "Own"},
			{Width: 2, Parts: []Part{{Key: "t", Kind: TextPart, Label: "First", Text: "x"}}}, {}}}}, "")
	if len(findings) > 0 {
		t.Fatal(findings)
	}
	if len(s.Answers) != 1 || !s.Answers[0].Type.Empty {
		t.Errorf("what may not be there is always given: %+v", s.Answers)
	}
	if uses := s.parts["why"].uses; len(uses) != 1 || uses[0][0] != "n" {
		t.Errorf("a part does not depend on what its band depends on: %v", uses)
	}
	none := func(string) []model.Path { return nil }
	for n, there := range map[int64]bool{1: false, 2: true} {
		values := expr.Values{"n": value.Whole(n)}
		r := memory.New(t, scope().Model)
		bands, err := s.Show(t.Context(), r, values, nil)
		if err != nil || bands[0].Absent == there || (len(bands[0].Columns[0].Parts) == 1) != there {
			t.Errorf("%d: %+v, %v", n, bands[0], err)
		}
		tabs := bands[1].Columns
		if tabs[0].Title != "Own" || tabs[1].Title != "First" || tabs[2].Title != "3" || tabs[1].Width != 2 ||
			tabs[0].Width != 1 {
			t.Errorf("tabs are %+v", tabs)
		}
		given, problems, err := s.Accept(t.Context(), r, values, Answers{"why": json.RawMessage(`"Because"`)}, none)
		if err != nil || len(problems) > 0 || (given.Fields["why"] != nil) != there {
			t.Errorf("%d: given %+v, %v, %v", n, given, problems, err)
		}
		if _, problems, _ = s.Accept(t.Context(), r, values, Answers{}, none); (len(problems) == 1) != there {
			t.Errorf("%d: with nothing given %v", n, problems)
		}
	}
}
