package screen

import (
	"encoding/json"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/table"
	"plainpath/core/value"
)

func scope() expr.Scope {
	return expr.Scope{Model: memory.Houses(), Names: []expr.Name{
		{Key: "lifts", Label: "Lifts found", Type: expr.Type{Kind: value.KindList, Object: "lift"}},
		{Key: "house", Label: "House", Type: expr.Type{Kind: value.KindRecord, Object: "building"}},
		{Key: "n", Label: "N", Type: expr.Type{Kind: value.KindWhole}}}}
}

func one(p Part) []Band { return []Band{{Columns: []Column{{Parts: []Part{p}}}}} }

func inputOf(in Input) Part      { return Part{Key: "p", Kind: InputPart, Label: "P", Input: &in} }
func tableOf(t table.Table) Part { return Part{Key: "p", Kind: TablePart, Label: "P", Table: &t} }

func compile(s expr.Scope, bands []Band, pointer string) (*Surface, []definition.Finding) {
	check := definition.NewCheck("walkthrough/w").In("s")
	return Compile(check, s, bands, pointer), check.Findings()
}

func TestWhatIsWrongWithAPart(t *testing.T) {
	columns := []table.Column{{Path: "serial"}}
	for _, c := range []struct {
		name          string
		part          Part
		pointer, says string
		mend          string
	}{
		{"a sound input", inputOf(Input{Type: model.Text}), "", "", ""},
		{"a sound table", tableOf(table.Table{Source: "lifts", Columns: []table.Column{{Path: "serial"},
			{Path: "building.name"}}, Select: table.SelectOne, Keyword: []string{"building.name"}}), "", "", ""},
		{"a sound text", Part{Key: "p", Kind: TextPart, Text: "{size(lifts)} lifts in {house.name}"}, "", "", ""},
		{"sound details", Part{Key: "p", Kind: DetailsPart,
			Details: &Details{Source: "house", Fields: []table.Column{{Path: "floors"}}}}, "", "", ""},
		{"a key that is none", Part{Key: "P!", Kind: TextPart}, "/key", "cannot be a key", ""},
		{"no settings", Part{Key: "p", Kind: TablePart}, "/kind", "needs its settings", ""},
		{"an unknown kind", Part{Key: "p", Kind: "picture"}, "/kind", "needs its settings", ""},
		{"offered under no condition", Part{Key: "p", Kind: TextPart, OfferedWhen: "n"}, "/offered_when",
			"yes or no is wanted", ""},
		{"a text with an unknown name", Part{Key: "p", Kind: TextPart, Text: "{hosue.name}"}, "/text",
			`did you mean "house"?`, "{house.name}"},
		{"a list in a text", Part{Key: "p", Kind: TextPart, Text: "{lifts}"}, "/text", "cannot stand in a text", ""},
		{"a brace left open", Part{Key: "p", Kind: TextPart, Text: "{house"}, "/text", "never closed", ""},
		{"an input nobody can fill in", inputOf(Input{Type: model.WorkedOut}), "/input/type",
			"not something a person can enter", ""},
		{"an input of no type", inputOf(Input{Type: "colour"}), "/input/type", "not something a person can enter", ""},
		{"a choice of nothing", inputOf(Input{Type: model.Choice}), "/input/choices", "offers nothing to choose", ""},
		{"a reference to nothing", inputOf(Input{Type: model.Reference, Object: "boat"}), "/input/object",
			`no object "boat"`, ""},
		{"no label", Part{Key: "p", Kind: InputPart, Input: &Input{Type: model.Text}}, "/label", "has no label", ""},
		{"a start of another type",
			inputOf(Input{Type: model.Whole, Default: &predicate.Operand{Expression: "house.name"}}),
			"/input/default/expression", "a whole number is wanted", ""},
		{"a start that cannot be read",
			inputOf(Input{Type: model.Whole, Default: &predicate.Operand{Literal: json.RawMessage(`"x"`)}}),
			"/input/default/literal", "not a whole number", ""},
		{"a table fed by nothing", tableOf(table.Table{Columns: columns, Select: table.SelectNone}), "/table/source",
			"fed by nothing", "lifts"},
		{"a table fed by one record", tableOf(table.Table{Source: "house", Columns: columns, Select: table.SelectNone}),
			"/table/source", "a list of", ""},
		{"a table without columns", tableOf(table.Table{Source: "lifts", Select: table.SelectNone}), "/table/columns",
			"no columns",
			`{"path":"serial"}`},
		{"a column there is not",
			tableOf(table.Table{Source: "lifts", Columns: []table.Column{{Path: "building.nmae"}},
				Select: table.SelectNone}),
			"/table/columns/0/path", `did you mean "name"?`, "building.name"},
		{"a keyword in numbers", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectNone,
			Keyword: []string{"building.floors"}}), "/table/keyword/0", "holds no text", ""},
		{"no way to select", tableOf(table.Table{Source: "lifts", Columns: columns, Select: "some"}), "/table/select",
			"not a way to select rows", "one"},
		{"more than can be", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectSeveral,
			Least: new(5),
			Most:  2}), "/table/least", "cannot be chosen", "5"},
		{"a sound button", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
			Buttons: []table.Button{{Key: "b", Label: "B", On: table.OnOne, OfferedWhen: "row.serial != house.name",
				Why: "It is.",
				Do: do(act.Act{Kind: act.ChangeAct,
					Change: &act.Change{Values: []act.Assignment{{Field: "serial",
						Value: predicate.Operand{Expression: "house.name + row.serial"}}}}})}}}), "", "", ""},
		{"a button that does nothing",
			tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
				Buttons: []table.Button{{Key: "b", Label: "B", On: table.OnOne}}}), "/table/buttons/0/do",
			"does nothing", ""},
		{"a button about nothing",
			tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
				Buttons: []table.Button{{Key: "b", On: "all", Do: do(act.Act{Kind: act.CopyLinkAct})}}}),
			"/table/buttons/0/on", "not what a button can be about", "one"},
		{"a button that does not say why",
			tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
				Buttons: []table.Button{{Key: "b", On: table.OnOne, OfferedWhen: "row.serial != \"\"",
					Do: do(act.Act{Kind: act.OpenAct})}}}), "/table/buttons/0/why", "does not say why", ""},
		{"a condition that has no SQL",
			tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
				Buttons: []table.Button{{Key: "b", On: table.OnOne, Why: "x",
					OfferedWhen: "lifts.exists(l, l.serial == row.serial)", Do: do(act.Act{Kind: act.OpenAct})}}}),
			"/table/buttons/0/offered_when", "cannot go through that list", ""},
		{"a field there is not", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
			Buttons: []table.Button{{Key: "b", On: table.OnOne,
				Do: do(act.Act{Kind: act.ChangeAct,
					Change: &act.Change{Values: []act.Assignment{{Field: "colour"}}}})}}}),
			"/table/buttons/0/do/0/change/values/0/field", "has no field", ""},
		{"a value of another type",
			tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
				Buttons: []table.Button{{Key: "b", On: table.OnOne,
					Do: do(act.Act{Kind: act.ChangeAct,
						Change: &act.Change{Values: []act.Assignment{{Field: "serial",
							Value: predicate.Operand{Expression: "n"}}}}})}}}),
			"/table/buttons/0/do/0/change/values/0/value/expression", "text is wanted", ""},
		{"a table without rows to change",
			tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
				Buttons: []table.Button{{Key: "b", On: table.OnTable,
					Do: do(act.Act{Kind: act.ChangeAct,
						Change: &act.Change{Values: []act.Assignment{{Field: "serial",
							Value: predicate.Operand{Literal: json.RawMessage(`"x"`)}}}}})}}}),
			"/table/buttons/0/do/0/change/of", "nothing says which records", ""},
		{"a file of no kind", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
			Buttons: []table.Button{{Key: "b", On: table.OnTable,
				Do: do(act.Act{Kind: act.DownloadAct, Download: &act.Download{Format: "doc"}})}}}),
			"/table/buttons/0/do/0/download/format", "not a kind of file", "csv"},
		{"a question that comes too late", tableOf(table.Table{Source: "lifts", Columns: columns,
			Select: table.SelectOne,
			Buttons: []table.Button{{Key: "b", On: table.OnOne, Do: append(do(act.Act{Kind: act.RemoveAct,
				Remove: &act.Remove{}}),
				do(act.Act{Kind: act.ConfirmAct, Confirm: &act.Confirm{Question: "Sure?"}})...)}}}),
			"/table/buttons/0/do/1", "asked after records were changed", ""},
		{"an input there is not", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
			Buttons: []table.Button{{Key: "b", On: table.OnOne,
				Do: do(act.Act{Kind: act.SetAct, Set: &act.Set{Part: "q", Value: "row.serial"}})}}}),
			"/table/buttons/0/do/0/set/part", `no part "q"`, "p"},
		{"a table that is set", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
			Buttons: []table.Button{{Key: "b", On: table.OnOne,
				Do: do(act.Act{Kind: act.SetAct, Set: &act.Set{Part: "p", Value: "row.serial"}})}}}),
			"/table/buttons/0/do/0/set/part", "is no input", ""},
		{"a message of what is not known", tableOf(table.Table{Source: "lifts", Columns: columns,
			Select: table.SelectOne,
			Buttons: []table.Button{{Key: "b", On: table.OnOne,
				Do: do(act.Act{Kind: act.SayAct, Say: &act.Say{Text: "{m} done"}})}}}),
			"/table/buttons/0/do/0/say/text", `by the name "m"`, ""},
		{"a mark in no colour", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
			Marks: []table.Mark{{When: "row.serial == \"x\"", Colour: "pink", Says: "x"}}}), "/table/marks/0/colour",
			"not a colour", "care"},
		{"a mark without a word",
			tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
				Marks: []table.Mark{{When: "true", Colour: "bad"}}}), "/table/marks/0/says", "has no word", ""},
		{"a mark in no column", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
			Marks: []table.Mark{{When: "true", Column: "building", Colour: "bad", Says: "x"}}}),
			"/table/marks/0/column",
			"has no column", ""},
		{"a view of a column there is not",
			tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
				Views: []table.ShippedView{{Label: "V",
					Body: table.Arrangement{Look: table.Look{Order: []table.LookOrder{{Path: "serial"},
						{Path: "serail"}}}}}}}),
			"/table/views/0/body/look/order/1/path", `did you mean "serial"?`, "serial"},
		{"a view without a name",
			tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
				Views: []table.ShippedView{{Body: table.Arrangement{
					Look: table.Look{Group: &table.LookGroup{Path: "building.name"}}}}}}),
			"/table/views/0/label", "has no name", ""},
		{"rows that open", tableOf(table.Table{Source: "lifts", Columns: columns, Select: table.SelectOne,
			Inside: &table.Inside{Object: "lift", Field: "building"}}), "/table/inside/field", "no reference", ""},
		{"details of a list", Part{Key: "p", Kind: DetailsPart, Details: &Details{Source: "lifts"}}, "/details/source",
			"a record is wanted", ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			_, findings := compile(scope(), one(c.part), "/steps/0/screen")
			if c.says == "" {
				if len(findings) != 0 {
					t.Errorf("%+v", findings)
				}
				return
			}
			if len(findings) != 1 {
				t.Fatalf("%+v", findings)
			}
			f := findings[0]
			if f.Pointer != "/steps/0/screen/bands/0/columns/0/parts/0"+c.pointer || !strings.Contains(f.Text,
				c.says) || f.Step != "s" || f.Consequence == "" {
				t.Errorf("%+v", f)
			}
			if c.mend != "" && (f.Mend == nil || !strings.Contains(string(f.Mend.Patch[0].Value),
				strings.ReplaceAll(c.mend, `"`, `"`))) {
				t.Errorf("the mend is %+v, want %s", f.Mend, c.mend)
			}
		})
	}
}

func TestTwoPartsOfOneKey(t *testing.T) {
	bands := []Band{{Columns: []Column{{Parts: []Part{inputOf(Input{Type: model.Text})}},
		{Parts: []Part{inputOf(Input{Type: model.Date})}}}}}
	_, findings := compile(scope(), bands, "")
	if len(findings) != 1 || findings[0].Severity != definition.Stop || !strings.Contains(findings[0].Text,
		"two parts") {
		t.Errorf("%+v", findings)
	}
}

// What a part gives out has the type of what was entered or chosen.
func TestWhatPartsGiveOut(t *testing.T) {
	for _, c := range []struct {
		part Part
		want expr.Type
	}{
		{inputOf(Input{Type: model.Date}), expr.Type{Kind: value.KindDate, Empty: true}},
		{inputOf(Input{Type: model.Money, Required: true}), expr.Type{Kind: value.KindMoney}},
		{inputOf(Input{Type: model.Reference, Object: "lift"}), expr.Type{Kind: value.KindRecord, Object: "lift",
			Empty: true}},
		{tableOf(table.Table{Source: "lifts", Columns: []table.Column{{Path: "serial"}}, Select: table.SelectOne}),
			expr.Type{Kind: value.KindRecord, Object: "lift"}},
		{tableOf(table.Table{Source: "lifts", Columns: []table.Column{{Path: "serial"}}, Select: table.SelectSeveral}),
			expr.Type{Kind: value.KindList, Object: "lift"}},
	} {
		s, findings := compile(scope(), one(c.part), "")
		if len(findings) != 0 || len(s.Answers) != 1 || s.Answers[0].Key != "p" ||
			s.Answers[0].Type.Kind != c.want.Kind || s.Answers[0].Type.Object != c.want.Object ||
			s.Answers[0].Type.Empty != c.want.Empty {
			t.Errorf("%+v, %+v", s.Answers, findings)
		}
	}
	if s, _ := compile(scope(),
		one(tableOf(table.Table{Source: "lifts", Columns: []table.Column{{Path: "serial"}}, Select: table.SelectNone})),
		""); len(s.Answers) != 0 {
		t.Errorf("%+v", s.Answers)
	}
}

// Answers that were entered are checked part by part; what is not offered is not asked.
func TestAcceptingWhatWasEntered(t *testing.T) {
	bands := []Band{{Columns: []Column{{Parts: []Part{
		{Key: "name", Kind: InputPart, Label: "Name", Input: &Input{Type: model.Text, Required: true}},
		{Key: "floors", Kind: InputPart, Label: "Floors", Input: &Input{Type: model.Whole}},
		{Key: "mail", Kind: InputPart, Label: "Mail", OfferedWhen: "n > 1",
			Input: &Input{Type: model.Email, Required: true}},
	}}}}}
	s, findings := compile(scope(), bands, "")
	if len(findings) != 0 {
		t.Fatal(findings)
	}
	for _, c := range []struct {
		name, answers string
		n             int64
		problems      string
	}{
		{"all of it", `{"name":"Mill","floors":3}`, 1, ""},
		{"what is offered is required", `{"name":"Mill"}`, 2, "/mail Mail is required"},
		{"each on its own", `{"floors":"many","mail":"x"}`, 2,
			"/name Name is required|/floors \"many\" is not a whole number|/mail \"x\" is not an e-mail"},
		{"what is not offered is not taken", `{"name":"Mill","mail":"x"}`, 1, ""},
		{"what is no part", `{"name":"Mill","colour":"red"}`, 1, "/colour there is no such part"},
	} {
		var answers Answers
		if err := json.Unmarshal([]byte(c.answers), &answers); err != nil {
			t.Fatal(err)
		}
		given, problems, err := s.Accept(t.Context(), nil, expr.Values{"n": value.Whole(c.n)}, answers,
			func(string) []model.Path { return nil })
		if err != nil {
			t.Fatal(err)
		}
		want := strings.Split(c.problems, "|")
		if c.problems == "" {
			want = nil
		}
		if len(problems) != len(want) {
			t.Errorf("%s: %+v", c.name, problems)
			continue
		}
		for i, w := range want {
			if got := problems[i].Pointer + " " + problems[i].Text; !strings.HasPrefix(got, w) {
				t.Errorf("%s: %q, want %q", c.name, got, w)
			}
		}
		if c.problems == "" && (given.Get("name") != value.Text("Mill") || given.Get("mail") != nil) {
			t.Errorf("%s: %+v", c.name, given.Fields)
		}
	}
}

// do are lines that have no names.
func do(acts ...act.Act) []act.Line {
	out := make([]act.Line, len(acts))
	for i, a := range acts {
		out[i].Act = a
	}
	return out
}
