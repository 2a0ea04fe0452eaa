package page

import (
	"strings"
	"testing"

	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/screen"
)

// A page of records knows the one that it is opened with, and is how those are seen for which its condition holds.
func TestAPageOfRecords(t *testing.T) {
	def := page([]screen.Search{searchOf("lifts_found", "lift", is("building", "record"))},
		screen.Part{Key: "says", Kind: screen.TextPart, Text: "{record.name}"},
		tableOf("lifts", "lifts_found", "serial"),
		screen.Part{Key: "past", Kind: screen.HistoryPart, History: &screen.History{Source: "record"}},
		screen.Part{Key: "of", Kind: screen.HistoryPart, History: &screen.History{Source: "lifts.selected"}})
	def.Record = &OfRecord{Object: "building", When: `record.name == "Mill House"`}
	p := compiled(t, def)
	if !def.Needs() {
		t.Error("it can be opened with no record")
	}
	r := houses(t)
	bands, err := p.Show(t.Context(), r, given(`{"taken":{"record":{"id":2}}}`), nil)
	if err != nil {
		t.Fatal(err)
	}
	parts := bands[0].Columns[0].Parts
	if parts[0].Text.String() != "Mill Court" || *parts[2].History != (screen.HistoryPartView{Object: "building",
		Record: 2}) || *parts[3].History != (screen.HistoryPartView{Object: "lift"}) {
		t.Errorf("%+v", parts)
	}
	for id, want := range map[int64]bool{1: true, 2: false, 99: false} {
		if shows, err := p.Shows(t.Context(), r, "building", id); err != nil || shows != want {
			t.Errorf("record %d: %v, %v", id, shows, err)
		}
	}
	if shows, err := p.Shows(t.Context(), r, "lift", 1); err != nil || shows {
		t.Errorf("another object: %v, %v", shows, err)
	}
	def.Record.When = ""
	if shows, err := compiled(t, def).Shows(t.Context(), r, "building", 2); err != nil || !shows {
		t.Errorf("all records: %v, %v", shows, err)
	}
	for text, change := range map[string]func(*Page){
		"no object":             func(p *Page) { p.Record.Object = "house" },
		"yes or no":             func(p *Page) { p.Record.When = "record.name" },
		"nothing is known here": func(p *Page) { p.Record.When = "lifts.selected == record" },
		"handed the record alon": func(p *Page) {
			p.Takes = []screen.Take{{Key: "w", Label: "W", Type: "text", Required: true}}
		},
		`"record" is taken`: func(p *Page) { p.Takes = []screen.Take{{Key: "record", Label: "W", Type: "text"}} },
	} {
		broken := *def
		record := *def.Record
		broken.Record = &record
		change(&broken)
		_, check := Compile(expr.Scope{Model: memory.Houses()}, []string{"all"}, &broken)
		said := ""
		for _, f := range check.Findings() {
			said += f.Text + "\n"
		}
		if !strings.Contains(said, text) {
			t.Errorf("want %q: %s", text, said)
		}
	}
}
