package act

import (
	"context"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

func lifts() *model.Model {
	return model.New("EUR", &model.Object{Key: "lift", Label: "Lift", Plural: "Lifts", LabelField: "serial",
		Fields: []model.Field{
			{Key: "serial", Label: "Serial", Type: model.Text, Required: true},
			{Key: "floors", Label: "Floors", Type: model.Whole}, {Key: "near", Label: "Near", Type: model.Reference,
				Object: "lift"}}})
}

func place(where Where) Environment {
	p := Environment{Where: where, Check: definition.NewCheck("page/p").In("s"),
		Scope: expr.Scope{Model: lifts(), Names: []expr.Name{
			{Key: "one", Label: "One", Type: expr.Type{Kind: value.KindRecord, Object: "lift"}},
			{Key: "all", Label: "All", Type: expr.Type{Kind: value.KindList, Object: "lift"}}}}}
	if where != InSteps {
		p.Parts = []Part{{Name: expr.Name{Key: "many", Label: "How many", Type: expr.Type{Kind: value.KindWhole}}},
			{Name: expr.Name{Key: "list", Label: "List"}, Table: true}}
	}
	if where == InLines {
		p.Rows, p.One = "lift", true
		p.Scope = p.Scope.With(expr.Name{Key: RowName, Label: "Row",
			Type: expr.Type{Kind: value.KindRecord, Object: "lift"}})
	}
	return p
}

func to(field, expression string) []Assignment {
	return []Assignment{{Field: field, Value: predicate.Operand{Expression: expression}}}
}

// sound is an act of each kind with nothing wrong.
var sound = map[Kind]Act{
	SearchAct: {Search: &Search{Object: "lift"}},
	AddAct:    {Add: &Add{Object: "lift", ForEach: "all", Item: "each", Values: to("serial", `each.serial + "b"`)}},
	ChangeAct: {Change: &Change{Of: "all", Item: "each", Values: to("floors", "each.floors + 1")}},
	RemoveAct: {Remove: &Remove{Of: "one"}},
	GatherAct: {Gather: &Gather{Columns: []GatherColumn{{Key: "what", Label: "What", Type: model.Text},
		{Key: "n", Label: "N", Type: model.Whole}},
		From: []GatherFrom{{List: "all", Item: "each", OnlyWhen: "each.floors > 1", Values: []ColumnValue{
			{Column: "what", Value: predicate.Operand{Expression: "each.serial"}},
			{Column: "n", Value: predicate.Operand{Literal: []byte("2")}}}}}}},
	WorkOutAct:  {WorkOut: &WorkOut{Value: "size(all) + 1"}},
	RunAct:      {Run: &Run{Walkthrough: "w", Hand: []Handing{{To: "lift", Value: "one"}}}},
	NotifyAct:   {Notify: &Notify{Roles: []string{"all"}, Text: "{one.serial}", Record: "one"}},
	SayAct:      {Say: &Say{Text: "{n} done", As: ToneDone}},
	OpenAct:     {Open: &Open{Record: "one"}},
	CopyLinkAct: {},
	DownloadAct: {Download: &Download{Part: "list", Format: "csv"}},

	ConfirmAct:   {Confirm: &Confirm{Question: "All {size(all)}?", Yes: "All"}},
	SetAct:       {Set: &Set{Part: "many", Value: "size(all)"}},
	ReadAgainAct: {ReadAgain: &ReadAgain{Part: "many"}},
	HoldAct:      {Hold: &Hold{Text: "Please wait"}},
}

// Every act in the list has words, is checked where it may stand and only there, says what it lacks, and
// can be carried out.
func TestEveryAct(t *testing.T) {
	m := lifts()
	for _, v := range Views() {
		a, there := sound[v.Kind]
		if !there || v.Words == "" || !v.InSteps && !v.InLines {
			t.Errorf("%s: %+v", v.Kind, v)
		}
		a.Kind = v.Kind
		for where, may := range map[Where]bool{InSteps: v.InSteps, InLines: v.InLines, InReactions: v.InReactions} {
			at := place(where)
			checked := Compile(at, &a, "/do/0")
			if ok := checked.Plan != nil && len(at.Check.Findings()) == 0; ok != may {
				t.Errorf("%s in %d: %+v", v.Kind, where, at.Check.Findings())
			}
			if !may || checked.Plan == nil {
				continue
			}
			at = place(where)
			if bare := Compile(at, &Act{Kind: v.Kind}, "/do/0"); v.Kind != OpenAct && v.Kind != CopyLinkAct &&
				v.Kind != ReadAgainAct &&
				(bare.Plan != nil || !definition.Blocks(at.Check.Findings())) {
				t.Errorf("%s without settings: %+v", v.Kind, at.Check.Findings())
			}
			s := memory.New(t, m)
			one := s.Put("lift", 1, "QL-1", map[string]value.Value{"serial": value.Text("QL-1"),
				"floors": value.Whole(3)})
			done, err := checked.Plan.Do(context.Background(), s, In{Through: "s", Rows: query.Query{Object: "lift"},
				Values: expr.Values{"one": one, "all": &value.List{Object: "lift", Source: value.Records{one}}}})
			if err != nil {
				t.Errorf("%s: %v", v.Kind, err)
			}
			gives, any := checked.Plan.Gives()
			if any != (done.Value != nil) || any && done.Value.Kind() != gives.Kind {
				t.Errorf("%s gives %v and then %v", v.Kind, gives.Kind, done.Value)
			}
			if writes := checked.Plan.Writes() != ""; writes != done.Kept.Wrote() || writes != (len(s.Wrote) > 0) {
				t.Errorf("%s says it writes: %v; it wrote %q", v.Kind, writes, s.Wrote)
			}
			if again, err := checked.Plan.Restore(context.Background(), s,
				In{Values: expr.Values{"one": one, "all": &value.List{Object: "lift", Source: value.Records{one}}}},
				done.Kept); err != nil || any && v.Kind != AddAct &&
				value.Display(again) != value.Display(done.Value) {
				t.Errorf("%s is known again as %v, %v; it was %v", v.Kind, again, err, done.Value)
			}
		}
	}
}

func TestWhatIsWrongWithAnAct(t *testing.T) {
	for _, c := range []struct {
		act           Act
		pointer, says string
	}{
		{Act{Kind: "dance"}, "/kind", "no act “dance” here"},
		{Act{Kind: SearchAct, Search: &Search{Object: "lfit"}}, "/search/object", `did you mean "lift"`},
		{Act{Kind: AddAct, Add: &Add{Object: "lift"}}, "/add/values", "Serial needs a value"},
		{Act{Kind: AddAct, Add: &Add{Object: "lift", ForEach: "one", Item: "x", Values: to("serial", `"a"`)}},
			"/add/for_each", "where a list is wanted"},
		{Act{Kind: AddAct, Add: &Add{Object: "lift", ForEach: "all", Values: to("serial", `"a"`)}}, "/add/item",
			"needs a name"},
		{Act{Kind: ChangeAct, Change: &Change{Values: to("floors", "1")}}, "/change/of", "nothing says which records"},
		{Act{Kind: ChangeAct, Change: &Change{Of: "size(all)", Values: to("floors", "1")}}, "/change/of",
			"a record or a list of records is wanted"},
		{Act{Kind: ChangeAct, Change: &Change{Of: "all"}}, "/change/values", "no field is set"},
		{Act{Kind: ChangeAct, Change: &Change{Of: "all", Values: to("flors", "1")}}, "/change/values/0/field",
			"did you mean"},
		{Act{Kind: ChangeAct, Change: &Change{Of: "all", Item: "each", Values: to("near", "all")}},
			"/change/values/0/value/expression", "one lift is wanted"},
		{Act{Kind: ChangeAct, Change: &Change{Of: "all", Item: "each",
			Values: to("floors", "size(all.filter(l, l.serial == each.serial))")}}, "/change/values",
			"cannot go through that list"},
		{Act{Kind: ChangeAct, Change: &Change{Of: "all", Values: append(to("floors", "1"), to("floors", "2")...)}},
			"/change/values/1/field", "set twice"},
		{Act{Kind: RemoveAct, Remove: &Remove{Of: "everything"}}, "/remove/of", "everything"},
		{Act{Kind: WorkOutAct, WorkOut: &WorkOut{}}, "/work_out/value", "nothing says what"},
		{Act{Kind: WorkOutAct, WorkOut: &WorkOut{Value: "one.serail"}}, "/work_out/value", "serail"},
		{Act{Kind: WorkOutAct, OnlyWhen: "size(all)", WorkOut: &WorkOut{Value: "1"}}, "/only_when",
			"yes or no is wanted"},
		{Act{Kind: WorkOutAct, OnlyWhen: "size(lal) > 1", WorkOut: &WorkOut{Value: "1"}}, "/only_when",
			`did you mean "all"`},
	} {
		at := place(InSteps)
		Compile(at, &c.act, "")
		found := at.Check.Findings()
		if !slices.ContainsFunc(found, func(f definition.Finding) bool {
			return f.Pointer == c.pointer && strings.Contains(f.Text, c.says) && f.Document == "page/p" && f.Step == "s"
		}) {
			t.Errorf("%+v: %+v\nwant %q at %s", c.act, found, c.says, c.pointer)
		}
	}
}

func TestWhatIsDownloaded(t *testing.T) {
	for _, c := range []struct {
		where         Where
		download      Download
		at, text, fix string
	}{
		{InLines, Download{Format: "csv"}, "", "", ""},
		{InReactions, Download{Format: "csv"}, "/part", "which table's rows", "list"},
		{InReactions, Download{Part: "many", Format: "xlsx"}, "/part", "How many shows no rows", "list"},
		{InReactions, Download{Part: "lists", Format: "csv"}, "/part", "no part", "list"},
		{InReactions, Download{Part: "list", Format: "doc"}, "/format", "not a kind of file", "csv"},
		{InLines, Download{File: "row.plan"}, "", "", ""},
		{InLines, Download{File: "row.serial"}, "/file", "", ""},
		{InLines, Download{File: "row.plan", Format: "csv"}, "/file", "no rows", ""},
	} {
		at := place(c.where)
		lift := at.Scope.Model.Object("lift")
		lift.Fields = append(lift.Fields, model.Field{Key: "plan", Label: "Plan", Type: model.File})
		Compile(at, &Act{Kind: DownloadAct, Download: &c.download}, "/do/0")
		found := at.Check.Findings()
		if c.at == "" {
			if len(found) > 0 {
				t.Errorf("%+v: %+v", c.download, found)
			}
			continue
		}
		if len(found) != 1 || found[0].Pointer != "/do/0/download"+c.at || !strings.Contains(found[0].Text, c.text) {
			t.Errorf("%+v: %+v", c.download, found)
		} else if c.fix != "" && (found[0].Mend == nil || string(found[0].Mend.Patch[0].Value) != `"`+c.fix+`"`) {
			t.Errorf("%+v: mend %+v", c.download, found[0].Mend)
		}
	}
}
