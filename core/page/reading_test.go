package page

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
)

// houses are two buildings, one with a lift.
func houses(t *testing.T) *memory.Store { return housesOf(t, memory.Houses()) }

func housesOf(t *testing.T, m *model.Model) *memory.Store {
	s := memory.New(t, m)
	s.Put("building", 1, "Mill House", map[string]value.Value{"name": value.Text("Mill House"),
		"floors": value.Whole(4)})
	s.Put("building", 2, "Mill Court", map[string]value.Value{"name": value.Text("Mill Court")})
	s.Put("lift", 7, "QL-7", map[string]value.Value{"serial": value.Text("QL-7")})
	return s
}

func compiled(t *testing.T, def *Page) *Program {
	t.Helper()
	p, check := Compile(expr.Scope{Model: memory.Houses()}, []string{"all"}, def)
	findings := check.Findings()
	if len(findings) > 0 {
		t.Fatalf("%+v", findings)
	}
	return p
}

func given(answers string) screen.Given {
	var g screen.Given
	if err := json.Unmarshal([]byte(answers), &g); err != nil {
		panic(err)
	}
	return g
}

// A search that waits for a selection is not sent without one; a change has nothing read
// that does not depend on it.
func TestOnlyWhatIsNeededIsRead(t *testing.T) {
	p := compiled(t, page([]screen.Search{searchOf("houses_found", "building", is("name", "words")),
		searchOf("lifts_found", "lift", is("building", "houses.selected"))},
		screen.Part{Key: "words", Kind: screen.InputPart, Label: "Words", Input: &screen.Input{Type: model.Text}},
		tableOf("houses", "houses_found", "name"), tableOf("lifts", "lifts_found", "serial"),
		screen.Part{Key: "says", Kind: screen.TextPart, Text: "{houses.selected.name}"}))
	r := houses(t)
	for _, c := range []struct {
		name, given string
		changed     []string
		reads, says string
	}{
		{"nothing entered", `{}`, nil, "", ""},
		{"words entered", `{"answers":{"words":"Mill"}}`, []string{"words"}, "building", ""},
		{"a row chosen", `{"answers":{"words":"Mill","houses":{"id":1}}}`, []string{"houses"}, "building lift",
			"Mill House"},
		{"a row chosen in the last table", `{"answers":{"words":"Mill","houses":{"id":1},"lifts":{"id":7}}}`,
			[]string{"lifts"}, "building lift", ""},
	} {
		bands, err := p.Show(context.Background(), r, given(c.given), c.changed)
		if err != nil {
			t.Fatalf("%s: %v", c.name, err)
		}
		if got := r.Read(); got != c.reads {
			t.Errorf("%s: %q was read, want %q", c.name, got, c.reads)
		}
		parts := bands[0].Columns[0].Parts
		if got := parts[3].Text.String(); got != c.says {
			t.Errorf("%s: it says %q, want %q", c.name, got, c.says)
		}
		for _, part := range parts {
			again := c.changed == nil || p.affected(c.changed)[part.Key]
			if part.Same == again {
				t.Errorf("%s: %s is the same: %t", c.name, part.Key, part.Same)
			}
		}
	}
}

func TestALookAtATableIsHeldToWhatThereIs(t *testing.T) {
	p := compiled(t, page([]screen.Search{searchOf("found", "lift", predicate.Condition{})},
		screen.Part{Key: "t", Kind: screen.TablePart, Label: "T",
			Table: &table.Table{Source: "found", Select: table.SelectSeveral, Columns: []table.Column{{Path: "serial"},
				{Path: "building.name", Label: "House"}}, Keyword: []string{"serial", "building.name"}}}))
	r := houses(t)
	l, err := p.Listing(context.Background(), r, screen.Given{}, "t")
	if err != nil {
		t.Fatal(err)
	}
	for look, want := range map[string]string{
		`{}`:               `lift read serial`,
		`{"text":"ab c%"}`: `where Serial contains “c%”`,
		`{"order":[{"path":"building.floors","desc":true}]}`:                         `by building.floors desc true`,
		`{"columns":[{"path":"building.floors"}]}`:                                   `read building.floors`,
		`{"filter":[{"field":"building.floors","op":"more","value":{"literal":3}}]}`: `Floors is more than 3`,
		`{"group":{"path":"building"},"within":{"id":1}}`:                            `where Building is`,
		`{"group":{"path":"serial"},"within":null}`:                                  `where Serial is empty`,
		`{"group":{"path":"serial","hidden":["x",null]}}`:                            `where not: Serial is empty`,
		`{"columns":[{"path":"biulding"}]}`:                                          `!did you mean "building"?`,
		`{"order":[{"path":"serial.x"}]}`:                                            `!not a reference`,
		`{"filter":[{"field":"serial","op":"more","value":{"literal":"x"}}]}`:        `!cannot be asked of Serial`,
		`{"filter":[{"field":"building.floors","op":"is","value":{"literal":"x"}}]}`: `!not a whole number`,
		`{"filter":[{"field":"serial","op":"is","value":{"expression":"words"}}]}`:   `!compares no field with a value`,
		`{"filter":[{"all":[]}]}`:                                                    `!compares no field with a value`,
		`{"totals":[{"path":"serial","of":"sum"}]}`:                                  `!There is no sum of Serial`,
		`{"group":{"path":"serial","span":"month"}}`:                                 `!cannot be grouped`,
		`{"group":{"path":"building.floors"},"within":"x"}`:                          `!no such group`,
		`{"after":"x"}`: `!Begin at the first page`,
	} {
		r.Asked = nil
		_, err := l.Rows(context.Background(), r, given(`{"looks":{"t":` + look + `}}`).Looks["t"])
		wanted, refused := strings.CutPrefix(want, "!")
		var wrong *query.LookError
		switch {
		case refused && (!errors.As(err, &wrong) || !strings.Contains(wrong.Text, wanted)):
			t.Errorf("%s: %v, want %q", look, err, wanted)
		case refused && len(r.Asked) > 0:
			t.Errorf("%s was refused and read all the same", look)
		case !refused && (err != nil || !strings.Contains(strings.Join(r.Asked, "\n"), wanted)):
			t.Errorf("%s: %v; %q lacks %q", look, err, r.Asked, wanted)
		}
	}
}

// A kept view opens without what is not there any more, and says so.
func TestAKeptViewIsFittedToWhatThereIs(t *testing.T) {
	p := compiled(t, page([]screen.Search{searchOf("found", "lift", predicate.Condition{})},
		tableOf("t", "found", "serial")))
	r := houses(t)
	l, err := p.Listing(context.Background(), r, screen.Given{}, "t")
	if err != nil {
		t.Fatal(err)
	}
	kept := given(`{"looks":{"t":{"text":"a","columns":[{"path":"colour"},{"path":"serial"}],"filter":[{"field":"colour","op":"is","value":{"literal":"red"}},{"field":"serial","op":"is_not_empty"}],
		"order":[{"path":"serial"},{"path":"colour"}],"totals":[{"path":"colour","of":"sum"}],"group":{"path":"colour"},"within":"red","after":"x"}}}`).Looks["t"]
	look, problems := l.Fit(r, kept)
	raw, _ := json.Marshal(look)
	if want := `{"text":"a","filter":[{"field":"serial","op":"is_not_empty"}],"order":[{"path":"serial"}],"columns":[{"path":"serial"}]}`; string(raw) != want {
		t.Errorf("it is %s\nwant %s", raw, want)
	}
	if len(problems) != 5 || slices.ContainsFunc(problems,
		func(s string) bool { return !strings.Contains(s, "colour") }) {
		t.Errorf("%q", problems)
	}
	if len(kept.Filter) != 2 || len(kept.Columns) != 2 || len(kept.Order) != 2 {
		t.Error("fitting a view changed the view")
	}
	if _, problems := l.Fit(r, look); len(problems) != 0 {
		t.Errorf("what was fitted does not fit: %q", problems)
	}
}

// A view that was kept before fields and choices got other keys opens as it was meant.
func TestAKeptViewFollowsNewKeys(t *testing.T) {
	m := memory.Houses()
	lift := m.Object("lift")
	lift.Fields[0].Was, m.Object("building").Fields[0].Was = []string{"no", "number"}, []string{"title"}
	lift.Fields = append(lift.Fields, model.Field{Key: "kind", Label: "Kind", Type: model.Choice, Was: []string{"sort"},
		Choices: []model.ChoiceValue{{Key: "freight", Was: []string{"goods"}, Label: "Freight"},
			{Key: "people", Label: "People"}}})
	l := table.NewListing(lift, nil, nil)
	var kept, want table.Arrangement
	for text, into := range map[string]*table.Arrangement{
		`{"look":{"columns":[{"path":"number"},{"path":"building.title"},{"path":"gone.x"}],"filter":[{"field":"sort","op":"is","value":{"literal":"goods"}},{"field":"sort","op":"one_of","values":[{"literal":"people"},{"literal":"goods"}]}],"order":[{"path":"no"}],"totals":[{"path":"number","of":"count"}],"group":{"path":"sort","hidden":["goods",null]}},"widths":{"number":90},"pinned":1}`:          &kept,
		`{"look":{"columns":[{"path":"serial"},{"path":"building.name"},{"path":"gone.x"}],"filter":[{"field":"kind","op":"is","value":{"literal":"freight"}},{"field":"kind","op":"one_of","values":[{"literal":"people"},{"literal":"freight"}]}],"order":[{"path":"serial"}],"totals":[{"path":"serial","of":"count"}],"group":{"path":"kind","hidden":["freight",null]}},"widths":{"serial":90},"pinned":1}`: &want,
	} {
		if err := json.Unmarshal([]byte(text), into); err != nil {
			t.Fatal(err)
		}
	}
	before, _ := json.Marshal(kept)
	got, _ := json.Marshal(l.Renewed(m, kept))
	wanted, _ := json.Marshal(want)
	if string(got) != string(wanted) {
		t.Errorf("it is   %s\nwant   %s", got, wanted)
	}
	if after, _ := json.Marshal(kept); string(after) != string(before) {
		t.Error("what was kept was changed")
	}
}

func TestPressingAButton(t *testing.T) {
	part := tableOf("t", "found", "name")
	part.Table.Select = table.SelectSeveral
	part.Table.Buttons = []table.Button{
		{Key: "boss", Label: "Boss", On: table.OnTable, Roles: []string{"boss"},
			Do: lines(act.Act{Kind: act.CopyLinkAct})},
		{Key: "whole", Label: "Whole", On: table.OnTable,
			Do: lines(act.Act{Kind: act.DownloadAct, Download: &act.Download{Format: "csv"}},
				act.Act{Kind: act.SayAct, Say: &act.Say{Text: "{n} done"}})},
		{Key: "one", Label: "One", On: table.OnOne,
			Do: lines(act.Act{Kind: act.RunAct, Run: &act.Run{Walkthrough: "w", Dialog: true,
				Hand: []act.Handing{{To: "floors", Value: "row.floors + 1"}, {To: "row", Value: "row"}}}})},
		{Key: "some", Label: "Some", On: table.OnSome, OfferedWhen: "row.floors > 3", Why: "Too low.",
			Do: lines(act.Act{Kind: act.ChangeAct,
				Change: &act.Change{Values: []act.Assignment{{Field: "name",
					Value: predicate.Operand{Expression: `row.name + "!"`}}}}})},
	}
	p := compiled(t, page([]screen.Search{searchOf("found", "building", predicate.Condition{})}, part))
	r := houses(t)
	l, err := p.Listing(context.Background(), r, screen.Given{}, "t")
	if err != nil {
		t.Fatal(err)
	}
	one := r.Records["building"][:1]
	for _, c := range []struct {
		button string
		keys   []int64
		stored []*value.Record
		says   string
		effect string
	}{
		{"boss", nil, one, "not for your role", ""},
		{"nothing", nil, one, `no button "nothing"`, ""},
		{"whole", nil, one, "", `[{"kind":"download","format":"csv"},{"kind":"say","message":[{"value":0,"type":"whole_number"},{"text":" done"}]}]`},
		{"one", []int64{1}, one, "",
			`[{"kind":"run","walkthrough":"w","dialog":true,"hand":{"floors":5,"row":{"id":1,"label":"Mill House"}}}]`},
		{"one", nil, nil, "Choose a row first", ""},
		{"one", []int64{1, 2}, r.Records["building"], "one at a time", ""},
		{"one", []int64{1, 2, 3}, one, "not in the table any more", ""},
		{"some", []int64{1}, one, "Too low.", ""}, // the store has a record for which it is off, too
	} {
		r.Records["building"] = c.stored
		press, err := l.Press(context.Background(), r, c.button, table.Chosen{Keys: c.keys})
		if c.says != "" {
			if err == nil || !strings.Contains(err.Error(), c.says) {
				t.Errorf("%s %v: %v, want %q", c.button, c.keys, err, c.says)
			}
			continue
		}
		if err != nil {
			t.Errorf("%s %v: %v", c.button, c.keys, err)
			continue
		}
		out, err := press.Do(context.Background(), r, nil, nil)
		raw, _ := json.Marshal(out.Effects)
		if err != nil || string(raw) != c.effect {
			t.Errorf("%s %v: %s %v\nwant %s", c.button, c.keys, raw, err, c.effect)
		}
	}
}

// Who said yes to one question has not said yes to another, also when what is asked depends on what others change
// between two answers.
func TestEachQuestionIsAskedForItself(t *testing.T) {
	part := tableOf("t", "found", "name")
	part.Table.Buttons = []table.Button{{Key: "b", Label: "B", On: table.OnOne, Do: lines(
		act.Act{Kind: act.ConfirmAct, OnlyWhen: "row.floors > 4", Confirm: &act.Confirm{Question: "So high?"}},
		act.Act{Kind: act.ConfirmAct, OnlyWhen: "row.floors < 9", Confirm: &act.Confirm{Question: "Sure?"}},
		act.Act{Kind: act.SayAct, Say: &act.Say{Text: "Done."}})}}
	p := compiled(t, page([]screen.Search{searchOf("found", "building", predicate.Condition{})}, part))
	r := houses(t)
	house := r.Records["building"][0]
	r.Records["building"] = r.Records["building"][:1]
	l, err := p.Listing(t.Context(), r, screen.Given{}, "t")
	if err != nil {
		t.Fatal(err)
	}
	var confirmed []int
	for _, c := range []struct {
		floors int64
		asked  string
	}{{4, "Sure?"}, {5, "So high?"}, {5, ""}, {9, ""}} {
		house.Fields["floors"] = value.Whole(c.floors)
		press, err := l.Press(t.Context(), r, "b", table.Chosen{Keys: []int64{1}})
		if err != nil {
			t.Fatal(err)
		}
		out, err := press.Do(t.Context(), r, confirmed, nil)
		if err != nil || len(out.Effects) != 1 {
			t.Fatalf("%+v, %v", out, err)
		}
		asked := ""
		if e := out.Effects[0]; e.Kind == act.ConfirmAct {
			asked, confirmed = e.Message.String(), append(confirmed, e.Line)
		}
		if asked != c.asked {
			t.Errorf("at %d floors it asks %q, want %q", c.floors, asked, c.asked)
		}
	}
}

func TestWhichRowsAreChosen(t *testing.T) {
	for answer, want := range map[string]string{
		``: "[] - []", `null`: "[] - []", `{"id":3}`: "[3] - []", `[{"id":3},{"id":4},{"id":3}]`: "[3 4] - []",
		`{"all":{"text":"a"},"except":[3]}`: "[] a [3]", ` [{"id":3,"label":"x"}]`: "[3] - []",
		`5`: "!cannot be read", `"x"`: "!cannot be read", `[5]`: "!cannot be read", `{"all":5}`: "!cannot be read",
		`[` + strings.Repeat(`{"id":1},`, table.MostChosen) + `{"id":2}]`: "!more than",
	} {
		c, err := table.ParseChosen(json.RawMessage(answer))
		text := "-"
		if c.All != nil {
			text = c.All.Text
		}
		got := fmt.Sprintf("%v %s %v", c.Keys, text, c.Except)
		if says, bad := strings.CutPrefix(want, "!"); bad && (err == nil || !strings.Contains(err.Error(), says)) ||
			!bad && (err != nil || got != want) {
			t.Errorf("%.80s: %s %v, want %s", answer, got, err, want)
		}
	}
}

// lines have no names.
func lines(acts ...act.Act) []act.Line {
	out := make([]act.Line, len(acts))
	for i, a := range acts {
		out[i].Act = a
	}
	return out
}

// A search that cannot be made with what is given says why where something of it would be shown, and nothing is done
// with it; all else is there.
func TestASearchThatIsRefusedStopsNothingElse(t *testing.T) {
	const says = "is empty. Say a name first."
	def := page([]screen.Search{searchOf("found", "building", is("name", `needed(words, "Say a name first.")`)),
		searchOf("lifts_found", "lift", is("building", "houses.selected")),
		searchOf("every", "lift", predicate.Condition{})},
		screen.Part{Key: "words", Kind: screen.InputPart, Label: "Words", Input: &screen.Input{Type: model.Text}},
		tableOf("houses", "found", "name"), tableOf("lifts", "lifts_found", "serial"),
		tableOf("all", "every", "serial"),
		screen.Part{Key: "says", Kind: screen.TextPart, Text: "{size(found)}"})
	def.Reactions = []screen.Reaction{when("tells", on(screen.Opened, ""), say("{size(lifts_found)} lifts")),
		when("greets", on(screen.Opened, ""), say("Hello"))}
	p := compiled(t, def)
	for g, wants := range map[string]string{`{}`: "houses lifts says", `{"answers":{"words":"Mill House"}}`: ""} {
		bands, err := p.Show(t.Context(), houses(t), given(g), nil)
		if err != nil {
			t.Fatal(err)
		}
		var refused []string
		for _, part := range bands[0].Columns[0].Parts {
			if part.Refused != "" {
				refused = append(refused, part.Key)
			}
			if part.Refused != "" && (!strings.HasSuffix(part.Refused, says) || part.Table != nil) {
				t.Errorf("%s: %+v", g, part)
			}
		}
		if got := strings.Join(refused, " "); got != wants {
			t.Errorf("%s: refused are %q, want %q", g, got, wants)
		}
		for part, waits := range map[string]bool{"houses": true, "lifts": true, "all": false} {
			_, err := p.Listing(t.Context(), houses(t), given(g), part)
			stopped := wants != "" && waits
			if (err != nil) != stopped || stopped && !strings.HasSuffix(err.Error(), says) {
				t.Errorf("%s: the rows of %s: %v", g, part, err)
			}
		}
		for reaction, waits := range map[string]bool{"tells": true, "greets": false} {
			_, err := p.React(t.Context(), houses(t), given(g), screen.Reacting{Key: reaction})
			if stopped := wants != "" && waits; (err != nil) != stopped {
				t.Errorf("%s: %s: %v", g, reaction, err)
			}
		}
	}
}
