package page

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
)

func literal(raw string) *predicate.Operand {
	return &predicate.Operand{Literal: json.RawMessage(raw)}
}

// A proof names the conditions in the order they are counted, whose each is, and keeps to
// itself what only those who build may know.
func TestAProofNamesItsConditions(t *testing.T) {
	found := searchOf("found", "lift",
		predicate.Condition{All: []predicate.Condition{{Field: "serial", Op: predicate.StartsWith,
			Value: literal(`"QL"`)}, {Field: "building.floors", Op: predicate.More, Value: literal(`3`)},
			{Expression: "record.serial != record.building.name"}}})
	part := tableOf("t", "found", "serial")
	part.Table.Keyword = []string{"serial"}
	p := compiled(t, page([]screen.Search{found}, part))
	r := houses(t)
	l, err := p.Listing(context.Background(), r, screen.Given{}, "t")
	if err != nil {
		t.Fatal(err)
	}
	look := table.Look{Text: "7", Filter: []predicate.Condition{{Field: "building", Op: predicate.IsNotEmpty}}}
	r.Left = []int64{40, 30, 20, 20, 9, 1}
	proof, err := l.Proof(context.Background(), r, look)
	if err != nil {
		t.Fatal(err)
	}
	var said []string
	for _, s := range proof.Steps {
		said = append(said, fmt.Sprintf("%s %d: %s", s.By, s.Left, s.Words))
	}
	want := "search 30: Serial starts with “QL”; search 20: Building › Floors is more than 3; search 20: record.serial != record.building.name; look 9: Serial contains “7”; look 1: Building is not empty"
	if got := strings.Join(said, "; "); got != want {
		t.Errorf("%s\nwant %s", got, want)
	}
	if proof.All != 40 || proof.Shown != 1 || proof.Kind != "Lifts" || !strings.Contains(proof.SQL,
		"Serial contains “7”") {
		t.Errorf("%+v", proof)
	}
	proof.Steps = append([]table.ProofStepView{{By: "rights", Words: "yours", Left: 35}}, proof.Steps...)
	proof.WithoutRights()
	if proof.All != 35 || len(proof.Steps) != 5 || proof.SQL != "" {
		t.Errorf("what is kept to the builders is told: %+v", proof)
	}

	r.Held = query.Held{Holds: []bool{true, false, true, true, true}, Saw: []string{"QL-7", "2", "Mill House", "QL-7",
		"QL-7", "Mill House"}}
	one, err := l.ProofOf(context.Background(), r, look, 7, "QL-7")
	if err != nil || one.In || len(one.Steps) != 5 {
		t.Fatalf("%+v, %v", one, err)
	}
	if saw := one.Steps[2].Saw; len(saw) != 2 || saw[0] != (table.SawView{Label: "Building › Name",
		Value: "Mill House"}) ||
		saw[1] != (table.SawView{Label: "Serial", Value: "QL-7"}) {
		t.Errorf("an expression looked at %+v", saw)
	}
	if s := one.Steps[1]; s.Holds || len(s.Saw) != 1 || s.Saw[0].Label != "Building › Floors" || s.Saw[0].Value != "2" {
		t.Errorf("%+v", s)
	}
}

// What a table gives out follows how it is looked at, what is chosen and what is edited.
func TestWhatATableGivesOut(t *testing.T) {
	several := tableOf("t", "found", "name")
	several.Table.Select, several.Table.Edit, several.Table.Keyword = table.SelectSeveral, true, []string{"name"}
	p := compiled(t, page([]screen.Search{searchOf("found", "building", predicate.Condition{})}, several,
		screen.Part{Key: "says", Kind: screen.TextPart,
			Text: "{size(t.selected)} of {size(t.matching)}, {size(t.edited)} edited, “{t.words}”, by {t.order}"}))
	for entered, want := range map[string]string{
		`{}`: "0 of 2, 0 edited, “”, by ",
		`{"looks":{"t":{"text":" mill  house ","order":[{"path":"floors","desc":true},{"path":"name"}]}}}`: "0 of 2, 0 edited, “mill  house”, by Floors downwards, Name",
		// the store gives both
		`{"answers":{"t":[{"id":1},{"id":2}]},"edited":{"t":[1]}}`: "2 of 2, 1 edited, “”, by ",
		`{"answers":{"t":{"all":{"text":"x"},"except":[1]}}}`:      "2 of 2, 0 edited, “”, by ",
	} {
		bands, err := p.Show(context.Background(), houses(t), given(entered), nil)
		if err != nil {
			t.Errorf("%s: %v", entered, err)
			continue
		}
		if got := bands[0].Columns[0].Parts[1].Text.String(); got != want {
			t.Errorf("%s: %s, want %s", entered, got, want)
		}
	}
	if got := strings.Join(p.Looked(), " "); got != "t" {
		t.Errorf("looked at: %s", got)
	}
}

func TestMarksOfRows(t *testing.T) {
	part := tableOf("t", "found", "name")
	part.Table.Marks = []table.Mark{{When: "row.floors > 3", Column: "name", Colour: "bad", Says: "high", Icon: "flag"},
		{When: `row.name.startsWith("Mill")`, Colour: "good", Says: "mill"}}
	p := compiled(t, page([]screen.Search{searchOf("found", "building", predicate.Condition{})}, part))
	l, err := p.Listing(context.Background(), houses(t), screen.Given{}, "t")
	if err != nil {
		t.Fatal(err)
	}
	rows, err := l.Rows(context.Background(), houses(t), table.Look{})
	if err != nil || len(rows.Rows) != 2 {
		t.Fatalf("%+v, %v", rows, err)
	}
	raw, _ := json.Marshal([]any{rows.Rows[0].Marks, rows.Rows[1].Marks})
	if want := `[[{"column":"name","colour":"bad","says":"high","icon":"flag"},{"colour":"good","says":"mill"}],[{"colour":"good","says":"mill"}]]`; string(raw) != want {
		t.Errorf("%s, want %s", raw, want)
	}
}

// Rows open only where the builder says so, and only rows that are in the table.
func TestRowsThatOpen(t *testing.T) {
	part := tableOf("t", "found", "name")
	part.Table.Inside = &table.Inside{Object: "lift", Field: "building", Label: "Lifts",
		Table: table.Table{Columns: []table.Column{{Path: "serial"}}, Select: table.SelectNone}}
	p := compiled(t, page([]screen.Search{searchOf("found", "building", predicate.Condition{})}, part,
		tableOf("flat", "found", "name")))
	r := houses(t)
	for key, says := range map[string]string{"t": "", "flat": "do not open"} {
		l, err := p.Listing(context.Background(), r, screen.Given{}, key)
		if err != nil {
			t.Fatal(err)
		}
		inner, err := l.Into(context.Background(), r, 1)
		if says != "" {
			if err == nil || !strings.Contains(err.Error(), says) {
				t.Errorf("%s: %v", key, err)
			}
			continue
		}
		if err != nil {
			t.Fatal(err)
		}
		r.Asked = nil
		if rows, err := inner.Rows(context.Background(), r, table.Look{}); err != nil || len(rows.Rows) != 1 ||
			!strings.Contains(r.Asked[0], "where Building is") {
			t.Errorf("%+v, %v: %v", rows, err, r.Asked)
		}
		r.Records["building"] = nil
		if _, err := l.Into(context.Background(), r, 1); err == nil || !strings.Contains(err.Error(),
			"not in the table any more") {
			t.Errorf("%v", err)
		}
	}
}

// The values of a choice that no record has stand in their place when they are asked for.
func TestGroupsOfAChoice(t *testing.T) {
	m := memory.Houses()
	lift := m.Object("lift")
	lift.Fields = append(lift.Fields, model.Field{Key: "kind", Label: "Kind", Type: model.Choice,
		Choices: []model.ChoiceValue{{Key: "goods", Label: "Goods"}, {Key: "people", Label: "People"},
			{Key: "beds", Label: "Beds"}, {Key: "old", Label: "Old", Retired: true}}})
	for group, want := range map[string]string{
		`{"path":"kind"}`:                                 "people 3",
		`{"path":"kind","empty":true}`:                    "goods 0, people 3, beds 0",
		`{"path":"kind","empty":true,"desc":true}`:        "beds 0, people 3, goods 0",
		`{"path":"kind","empty":true,"hidden":["goods"]}`: "people 3, beds 0",
		`{"path":"serial","empty":true}`:                  "people 3",
	} {
		r := housesOf(t, m)
		r.Pieces = []query.Piece{{Keys: []value.Value{value.Text("people")}, Count: 3}}
		var look table.Look
		if err := json.Unmarshal([]byte(`{"group":`+group+`}`), &look); err != nil {
			t.Fatal(err)
		}
		groups, err := table.NewListing(lift, nil, nil).Groups(context.Background(), r, look)
		var got []string
		for _, g := range groups.Groups {
			got = append(got, fmt.Sprintf("%v %d", g.Key, g.Count))
		}
		if err != nil || strings.Join(got, ", ") != want || groups.Total != 3 {
			t.Errorf("%s: %v %v, want %s", group, got, err, want)
		}
	}
}
