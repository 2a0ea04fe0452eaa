package page

import (
	"slices"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/screen"
	"plainpath/core/table"
)

func searchOf(key, object string, where predicate.Condition) screen.Search {
	return screen.Search{Key: key, Label: strings.ToUpper(key[:1]) + key[1:],
		Search: act.Search{Object: object, Where: where}}
}

func is(field, expression string) predicate.Condition {
	return predicate.Condition{Field: field, Op: predicate.Is, Value: &predicate.Operand{Expression: expression}}
}

func tableOf(key, source, path string) screen.Part {
	return screen.Part{Key: key, Kind: screen.TablePart, Label: key, Table: &table.Table{Source: source,
		Select:  table.SelectOne,
		Columns: []table.Column{{Path: path}}}}
}

func page(searches []screen.Search, parts ...screen.Part) *Page {
	return &Page{Key: "p", Label: "P", Roles: []string{"all"}, Searches: searches,
		Bands: []screen.Band{{Columns: []screen.Column{{Parts: parts}}}}}
}

func TestWhatIsWrongWithAPage(t *testing.T) {
	house := searchOf("houses_found", "building", predicate.Condition{})
	lifts := searchOf("lifts_found", "lift", is("building", "houses.selected"))
	input := screen.Part{Key: "words", Kind: screen.InputPart, Label: "Words", Input: &screen.Input{Type: model.Text}}
	for _, c := range []struct {
		name          string
		page          *Page
		pointer, says string
	}{
		{"a chain of two tables", page([]screen.Search{house, lifts}, tableOf("houses", "houses_found", "name"),
			tableOf("lifts", "lifts_found", "serial")), "", ""},
		{"in whatever order it is written", page([]screen.Search{lifts, house}, tableOf("lifts", "lifts_found", "serial"),
			tableOf("houses", "houses_found", "name")), "", ""},
		{"fed by an input", page([]screen.Search{searchOf("found", "building", is("name", "words"))}, input,
			tableOf("t", "found", "name")), "", ""},
		{"two that wait for each other", page([]screen.Search{
			searchOf("a_found", "building",
				predicate.Condition{Related: &predicate.Related{Object: "lift", Field: "building",
					Where: is("serial", "b.selected.serial")}}),
			searchOf("b_found", "lift", is("building", "a.selected"))}, tableOf("a", "a_found", "name"),
			tableOf("b", "b_found", "serial")),
			"/searches/0", "in a circle: A_found → b → B_found → a → A_found"},
		{"one that waits for itself", page([]screen.Search{
			searchOf("a_found", "building", is("name", "a.selected.name"))},
			tableOf("a", "a_found", "name")), "/searches/0", "A_found → a → A_found"},
		{"a search and a part of one key", page([]screen.Search{searchOf("same", "building", predicate.Condition{})},
			tableOf("same", "same", "name")), "/bands/0/columns/0/parts/0/key", `"same" is taken`},
		{"a search called as the person is", page([]screen.Search{searchOf("today", "building", predicate.Condition{})}),
			"/searches/0/key", "is taken"},
		{"a table of nothing there is", page([]screen.Search{searchOf("found", "biulding", predicate.Condition{})},
			screen.Part{Key: "t", Kind: screen.TablePart, Label: "T", Table: &table.Table{Source: "found",
				Select: table.SelectOne,
				Buttons: []table.Button{{Key: "b", On: table.OnOne,
					Do: []act.Line{{Act: act.Act{Kind: act.ChangeAct,
						Change: &act.Change{Values: []act.Assignment{{Field: "name"}}}}}}}},
				Marks: []table.Mark{{When: "row.name == \"x\"", Colour: "bad", Says: "x"}}}}),
			"/searches/0/search/object", `did you mean "building"?`},
		{"a search of nothing there is", page([]screen.Search{searchOf("found", "biulding", predicate.Condition{})}),
			"/searches/0/search/object", `did you mean "building"?`},
		{"a condition on what is not known",
			page([]screen.Search{house, searchOf("l", "lift", is("building", "hosues.selected"))},
				tableOf("houses", "houses_found", "name")), "/searches/1/search/where/value/expression",
			"did you mean"},
		{"a role there is not", &Page{Key: "p", Roles: []string{"king"}}, "/roles/0", "no role"},
		{"nobody", &Page{Key: "p"}, "/roles", "no role may open"},
	} {
		base := expr.Scope{Model: memory.Houses(), Names: []expr.Name{{Key: "today"}}}
		_, check := Compile(base, []string{"all"}, c.page)
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
	def := page([]screen.Search{searchOf("houses_found", "building", is("name", "words")),
		searchOf("lifts_found", "lift", is("building", "houses.selected"))},
		screen.Part{Key: "words", Kind: screen.InputPart, Label: "Words", Input: &screen.Input{Type: model.Text}},
		tableOf("houses", "houses_found", "name"), tableOf("lifts", "lifts_found", "serial"),
		screen.Part{Key: "says", Kind: screen.TextPart, Text: "{houses.selected.name}"},
		screen.Part{Key: "still", Kind: screen.TextPart, Text: "always"})
	p, check := Compile(expr.Scope{Model: memory.Houses()}, []string{"all"}, def)
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
