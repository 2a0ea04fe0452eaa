package surface

import (
	"slices"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
)

func searchOf(key, object string, where predicate.Condition) PageSearch {
	return PageSearch{Key: key, Label: strings.ToUpper(key[:1]) + key[1:],
		Search: act.Search{Object: object, Where: where}}
}

func is(field, expression string) predicate.Condition {
	return predicate.Condition{Field: field, Op: predicate.Is, Value: &predicate.Operand{Expression: expression}}
}

func tableOf(key, source, path string) Part {
	return Part{Key: key, Kind: TablePart, Label: key, Table: &Table{Source: source, Select: SelectOne,
		Columns: []TableColumn{{Path: path}}}}
}

func page(searches []PageSearch, parts ...Part) *Page {
	return &Page{Key: "p", Label: "P", Roles: []string{"all"}, Searches: searches,
		Bands: []Band{{Columns: []Column{{Parts: parts}}}}}
}

func TestWhatIsWrongWithAPage(t *testing.T) {
	house := searchOf("houses_found", "building", predicate.Condition{})
	lifts := searchOf("lifts_found", "lift", is("building", "houses.selected"))
	input := Part{Key: "words", Kind: InputPart, Label: "Words", Input: &Input{Type: model.Text}}
	for _, c := range []struct {
		name          string
		page          *Page
		pointer, says string
	}{
		{"a chain of two tables", page([]PageSearch{house, lifts}, tableOf("houses", "houses_found", "name"),
			tableOf("lifts", "lifts_found", "serial")), "", ""},
		{"in whatever order it is written", page([]PageSearch{lifts, house}, tableOf("lifts", "lifts_found", "serial"),
			tableOf("houses", "houses_found", "name")), "", ""},
		{"fed by an input", page([]PageSearch{searchOf("found", "building", is("name", "words"))}, input,
			tableOf("t", "found", "name")), "", ""},
		{"two that wait for each other", page([]PageSearch{
			searchOf("a_found", "building",
				predicate.Condition{Related: &predicate.Related{Object: "lift", Field: "building",
					Where: is("serial", "b.selected.serial")}}),
			searchOf("b_found", "lift", is("building", "a.selected"))}, tableOf("a", "a_found", "name"),
			tableOf("b", "b_found", "serial")),
			"/searches/0", "in a circle: A_found → b → B_found → a → A_found"},
		{"one that waits for itself", page([]PageSearch{searchOf("a_found", "building", is("name", "a.selected.name"))},
			tableOf("a", "a_found", "name")), "/searches/0", "A_found → a → A_found"},
		{"a search and a part of one key", page([]PageSearch{searchOf("same", "building", predicate.Condition{})},
			tableOf("same", "same", "name")), "/bands/0/columns/0/parts/0/key", `"same" is taken`},
		{"a search called as the person is", page([]PageSearch{searchOf("today", "building", predicate.Condition{})}),
			"/searches/0/key", "is taken"},
		{"a table of nothing there is", page([]PageSearch{searchOf("found", "biulding", predicate.Condition{})},
			Part{Key: "t", Kind: TablePart, Label: "T", Table: &Table{Source: "found", Select: SelectOne,
				Buttons: []Button{{Key: "b", On: OnOne,
					Do: do(act.Act{Kind: act.ChangeAct, Change: &act.Change{Values: []act.Setting{{Field: "name"}}}})}},
				Marks: []Mark{{When: "row.name == \"x\"", Colour: "bad", Says: "x"}}}}),
			"/searches/0/search/object", `did you mean "building"?`},
		{"a search of nothing there is", page([]PageSearch{searchOf("found", "biulding", predicate.Condition{})}),
			"/searches/0/search/object", `did you mean "building"?`},
		{"a condition on what is not known",
			page([]PageSearch{house, searchOf("l", "lift", is("building", "hosues.selected"))},
				tableOf("houses", "houses_found", "name")), "/searches/1/search/where/value/expression",
			"did you mean"},
		{"a role there is not", &Page{Key: "p", Roles: []string{"king"}}, "/roles/0", "no role"},
		{"nobody", &Page{Key: "p"}, "/roles", "no role may open"},
	} {
		base := expr.Scope{Model: scope().Model, Names: []expr.Name{{Key: "today"}}}
		_, check := CompilePage(base, []string{"all"}, c.page)
		findings := check.Findings()
		if c.says == "" {
			if len(findings) > 0 {
				t.Errorf("%s: %+v", c.name, findings)
			}
			continue
		}
		if len(findings) != 1 || findings[0].Pointer != c.pointer || !strings.Contains(findings[0].Text, c.says) {
			t.Errorf("%s: %+v", c.name, findings)
		}
	}
}

// Only what depends on what changed is shown anew.
func TestWhatAChangeReaches(t *testing.T) {
	def := page([]PageSearch{searchOf("houses_found", "building", is("name", "words")),
		searchOf("lifts_found", "lift", is("building", "houses.selected"))},
		Part{Key: "words", Kind: InputPart, Label: "Words", Input: &Input{Type: model.Text}},
		tableOf("houses", "houses_found", "name"), tableOf("lifts", "lifts_found", "serial"),
		Part{Key: "says", Kind: TextPart, Text: "{houses.selected.name}"},
		Part{Key: "still", Kind: TextPart, Text: "always"})
	p, check := CompilePage(expr.Scope{Model: scope().Model}, []string{"all"}, def)
	findings := check.Findings()
	if len(findings) > 0 {
		t.Fatal(findings)
	}
	for changed, want := range map[string]string{"words": "houses houses_found lifts lifts_found says",
		"houses": "lifts lifts_found says", "lifts": "", "still": ""} {
		var got []string
		for key, anew := range p.affected([]string{changed}) {
			if anew {
				got = append(got, key)
			}
		}
		slices.Sort(got)
		if strings.Join(got, " ") != want {
			t.Errorf("%s reaches %v, want %q", changed, got, want)
		}
	}
}
