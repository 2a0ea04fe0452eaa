package screen

import (
	"slices"
	"testing"
)

// Every kind of part is in the list, with its check.
func TestThePartsAreComplete(t *testing.T) {
	kinds := []PartKind{InputPart, EntriesPart, TablePart, FormPart, DetailsPart, LinesPart, HistoryPart, FigurePart,
		ChartPart, CardsPart, CalendarPart, ViewerPart, PicturePart, PlacePart, TextPart, ButtonPart, FinderPart,
		MenuPart}
	for _, k := range partKinds {
		if !slices.Contains(kinds, k.kind) || k.set == nil || k.check == nil {
			t.Errorf("%q lacks something", k.kind)
		}
	}
	if len(partKinds) != len(kinds) {
		t.Errorf("%d kinds are listed, there are %d", len(partKinds), len(kinds))
	}
	if kindOf("carousel") != nil {
		t.Error("a kind that there is not is known")
	}
}
