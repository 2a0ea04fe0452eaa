package walk

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/core/value"
)

// On one screen: a second input is there only for some, a third begins with what was typed, a text follows, and so does
// what a table shows.
const live = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
	{"key":"all","kind":"search","search":{"object":"building","where":{}}},
	{"key":"s","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
		{"key":"title","kind":"input","label":"Title","input":{"type":"text","default":{"expression":"s.kind == \"other\" ? s.what : s.house.name"}}},
		{"key":"what","kind":"input","label":"What","offered_when":"s.kind == \"other\"","input":{"type":"text","required":true}},
		{"key":"kind","kind":"input","label":"Kind","input":{"type":"choice","required":true,"choices":[
			{"key":"fault","label":"Fault"},{"key":"other","label":"Other"}]}},
		{"key":"house","kind":"table","label":"House","offered_when":"s.kind == \"fault\"","table":{"source":"all","columns":[{"path":"name"}],"select":"one"}},
		{"key":"floors","kind":"text","text":"{s.house.floors} floors"}]}]}]}},
	{"key":"done","kind":"finish","finish":{"message":"{s.title}, {s.what}, {s.house.name}"}}]}`

func TestPartsOfAScreenFollowEachOther(t *testing.T) {
	ctx := context.Background()
	p, h := program(t, live)
	shown := func(run *Run, changed ...string) string {
		t.Helper()
		bands, err := run.Follow(ctx, "s", changed)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, part := range bands[0].Columns[0].Parts {
			text := part.Key
			switch {
			case part.Same:
				text += " same"
			case part.Text != nil:
				text += " " + part.Text.String()
			case part.Value != nil:
				raw, _ := json.Marshal(part.Value)
				text += " " + string(raw)
			}
			out = append(out, text)
		}
		return strings.Join(out, ", ")
	}
	for _, c := range []struct {
		given, changed, shows string
	}{
		{`{}`, "kind", `title, kind same, floors  floors`},
		{`{"kind":"other"}`, "kind", `title, what, kind same, floors  floors`},
		{`{"kind":"other","what":"Noise"}`, "what", `title "Noise", what same, kind same, floors same`},
		{`{"kind":"other","what":"Noise","title":"Mine"}`, "what", `title "Mine", what same, kind same, floors same`},
		{`{"kind":"fault"}`, "kind", `title, kind same, house, floors  floors`},
		{`{"kind":"fault","house":{"id":1}}`, "house", `title "Mill House", kind same, house same, floors 4 floors`},
		{`{"kind":"fault","house":{"id":77}}`, "house", `title, kind same, house same, floors  floors`},
		{`{"kind":"nothing","what":"x"}`, "kind", `title, kind same, floors  floors`},
		// What is not there is not known, whatever was given in it before.
		{`{"kind":"other","house":{"id":1}}`, "kind", `title, what, kind same, floors  floors`},
	} {
		run, err := p.Start(ctx, h, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		run.Typing(answers(c.given))
		if got := shown(run, c.changed); got != c.shows {
			t.Errorf("%s\n shows %s\n  want %s", c.given, got, c.shows)
		}
	}
	for _, c := range []struct{ given, says string }{
		{`{"kind":"other","title":"T","what":"Noise","house":{"id":1}}`, "T, Noise, "},
		{`{"kind":"fault","title":"T","what":"Noise","house":{"id":1}}`, "T, , Mill House"},
		{`{"kind":"other","title":"T"}`, "/what"},
		{`{"kind":"fault","title":"T"}`, "/house"},
		{`{"title":"T"}`, "/kind"},
	} {
		run, err := p.Start(ctx, h, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		v, err := run.Show(ctx)
		if err != nil || !slices.Equal(v.Feeds, []string{"kind", "house", "what"}) {
			t.Fatalf("%v, %v", v.Feeds, err)
		}
		err = run.Answer(ctx, "s", answers(c.given))
		if invalid, ok := err.(*InvalidError); ok {
			if len(invalid.Problems) != 1 || invalid.Problems[0].Pointer != c.says {
				t.Errorf("%s: %+v, want one at %s", c.given, invalid.Problems, c.says)
			}
			continue
		}
		if err != nil {
			t.Fatal(err)
		}
		var state State
		raw, _ := json.Marshal(run.State)
		if err := json.Unmarshal(raw, &state); err != nil {
			t.Fatal(err)
		}
		if run, err = p.Resume(ctx, h, state); err != nil {
			t.Fatal(err)
		}
		if v, err := run.Show(ctx); err != nil || v.Message.String() != c.says {
			t.Errorf("%s: %q, %v, want %q", c.given, v.Message, err, c.says)
		}
	}
}

// Where parts of a screen wait for each other it is said round which way; what may not be there may be empty then.
func TestPartsThatWaitForEachOther(t *testing.T) {
	for raw, want := range map[string]string{
		strings.Replace(live, `"input":{"type":"text","required":true}`,
			`"input":{"type":"text","default":{"expression":"s.title"}}`, 1): "Title → What → Title",
		strings.Replace(live, `"offered_when":"s.kind == \"fault\""`,
			`"offered_when":"empty(s.house)"`, 1): "House → House",
		strings.Replace(live, `{"key":"done"`, `{"key":"v","kind":"add","add":{"object":"visit","values":[`+
			`{"field":"building","value":{"expression":"s.house"}},{"field":"day","value":{"literal":"2026-01-01"}}]}},`+
			`{"key":"done"`, 1): "can be empty here",
	} {
		var w Walkthrough
		if err := json.Unmarshal([]byte(raw), &w); err != nil {
			t.Fatal(err)
		}
		_, found := Compile(small(), &w)
		if !slices.ContainsFunc(found.Findings(), func(f definition.Finding) bool {
			return strings.Contains(f.Text, want)
		}) {
			t.Errorf("%+v, want %q", found.Findings(), want)
		}
	}
}

// Names of records in an answer are found in what is offered by then.
func TestNamesAreFoundWhereTheyAreOffered(t *testing.T) {
	ctx := context.Background()
	p, h := program(t, live)
	run, err := p.Rehearse(ctx, h, Replay{Names: true, Recorded: []Recorded{{Screen: "s",
		Answers: answers(`{"kind":"fault","house":{"label":"Mill House"}}`)}}})
	if err != nil || run.Stopped != nil || !run.Run.State.Closed {
		t.Fatalf("%+v, %v", run, err)
	}
	if v, ok := run.Run.values["s"].(*value.Record); !ok || value.Display(v.Get("house")) != "Mill House" {
		t.Errorf("%+v", run.Run.values["s"])
	}
	if got := run.Named[0].Answers; string(got["house"]) != `{"label":"Mill House"}` {
		t.Errorf("%s", got["house"])
	}
}

// What a screen does by itself knows what is given on it; a rehearsal does it again, and tells what each line did.
func TestAScreenReacts(t *testing.T) {
	ctx := context.Background()
	const raw = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
	{"key":"s","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
		{"key":"words","kind":"input","label":"Words","input":{"type":"text","required":true}},
		{"key":"go","kind":"button","label":"Go","button":{}}]}]}],
		"reactions":[{"key":"on_go","when":{"event":"pressed","part":"go"},"do":[
			{"key":"new","kind":"add","only_when":"!empty(s.words)","add":{"object":"building","values":[
				{"field":"name","value":{"expression":"s.words"}},{"field":"floors","value":{"literal":2}}]}},
			{"kind":"say","say":{"text":"{s.words}: {new.name}"}}]}]}},
	{"key":"done","kind":"finish","finish":{"message":"So: {s.words}"}}]}`
	p, h := program(t, raw)
	run, err := p.Start(ctx, h, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	if v, err := run.Show(ctx); err != nil || len(v.Reactions) != 1 || len(v.Feeds) != 0 {
		t.Fatalf("%+v, %v", v, err)
	}
	for _, c := range []struct{ given, says, wrote string }{
		{`{}`, ": ", ""},
		{`{"words":"Dock"}`, "Dock: Dock", " floors=2 name=Dock"},
	} {
		run.Typing(answers(c.given))
		h.Wrote = nil
		out, err := run.React(ctx, h, screen.Reacting{Key: "on_go"})
		if err != nil || len(out.Effects) != 1 || out.Effects[0].Message.String() != c.says ||
			strings.Join(h.Wrote, ", ") != c.wrote {
			t.Errorf("%s: %+v, %v, wrote %q", c.given, out, err, h.Wrote)
		}
	}
	var missing *table.MissingError
	if _, err := run.React(ctx, h, screen.Reacting{Key: "off"}); !errors.As(err, &missing) {
		t.Errorf("a reaction that is not there: %v", err)
	}

	p, h = program(t, raw)
	done, err := p.Rehearse(ctx, h, Replay{Recorded: []Recorded{{Screen: "s", Answers: answers(`{"words":"Mill"}`),
		Pressed: []Pressed{{Reaction: "on_go", Given: answers(`{"words":"Dock"}`)}}}}})
	var traced []string
	for _, e := range done.Trace {
		traced = append(traced, e.Title)
	}
	if err != nil || !done.Run.State.Closed || strings.Join(h.Wrote, ", ") != " floors=2 name=Dock" ||
		!slices.Contains(traced, "add records") {
		t.Errorf("%+v, %v, wrote %q, traced %q", done.Run.State, err, h.Wrote, traced)
	}
	var w Walkthrough
	closing := strings.Replace(raw, `"So: {s.words}"`, `"So","bands":[{"columns":[{"parts":[`+
		`{"key":"go","kind":"button","label":"Go","button":{}}]}]}]`, 1)
	if err := json.Unmarshal([]byte(closing), &w); err != nil {
		t.Fatal(err)
	}
	if _, found := Compile(small(), &w); !slices.ContainsFunc(found.Findings(), func(f definition.Finding) bool {
		return strings.Contains(f.Text, "closing screen")
	}) {
		t.Errorf("a button on a closing screen: %+v", found.Findings())
	}
}

// What is searched for on a screen follows what is given there, waits where it is to be asked for, and where it is
// refused only what shows it is not there. It is known on that screen alone.
func TestAScreenSearches(t *testing.T) {
	ctx := context.Background()
	const raw = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
	{"key":"s","kind":"screen","screen":{
		"searches":[
			{"key":"visits","label":"Visits","on_demand":true,"search":{"object":"visit","where":{"field":"building","op":"is","value":{"expression":"s.house"}}}},
			{"key":"found","label":"Found","search":{"object":"building","where":{"field":"name","op":"is","value":{"expression":"needed(s.words, \"Say a name first.\")"}}}}],
		"bands":[{"columns":[{"parts":[
		{"key":"words","kind":"input","label":"Words","input":{"type":"text"}},
		{"key":"house","kind":"table","label":"House","table":{"source":"s.found","columns":[{"path":"name"}],"select":"one"}},
		{"key":"days","kind":"table","label":"Days","table":{"source":"s.visits","columns":[{"path":"day"}],"select":"none"}},
		{"key":"said","kind":"text","text":"{size(s.found)} found"}]}]}]}},
	{"key":"done","kind":"finish","finish":{"message":"{s.house.name}"}}]}`
	p, h := program(t, raw)
	start := func(given string) *Run {
		run, err := p.Start(ctx, h, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		run.Typing(answers(given))
		return run
	}
	for _, c := range []struct{ given, changed, shows string }{
		{`{"words":"Mill House"}`, "words", "words same, house 1, days waits for visits, said 1 found"},
		{`{"words":"Mill House","house":{"id":1},"visits":true}`, "visits", "words same, house same, days 0, said same"},
		{`{}`, "words", "words same, house refused, days waits for visits, said refused"},
	} {
		run := start(c.given)
		bands, err := run.Follow(ctx, "s", []string{c.changed})
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, part := range bands[0].Columns[0].Parts {
			text := part.Key
			switch {
			case part.Same:
				text += " same"
			case part.Waiting != nil:
				text += " waits for " + part.Waiting.Search
			case strings.Contains(part.Refused, "Say a name first."):
				text += " refused"
			case part.Text != nil:
				text += " " + part.Text.String()
			case part.Table != nil:
				text += fmt.Sprint(" ", len(part.Table.Rows.Rows))
			}
			out = append(out, text)
		}
		if got := strings.Join(out, ", "); got != c.shows {
			t.Errorf("%s\n shows %s\n  want %s", c.given, got, c.shows)
		}
	}
	var refused *act.RefusedError
	if _, err := start(`{}`).Listing(ctx, "house"); !errors.As(err, &refused) {
		t.Errorf("the table of a refused search: %v", err)
	}
	for given, want := range map[string]string{
		`{"words":"Mill House","house":{"id":1},"visits":true}`: "Mill House",
		`{"house":{"id":1}}`: "/house",
		`{"words":"Mill House","house":{"id":1},"none":true}`: "/none",
	} {
		run := start(`{}`)
		err := run.Answer(ctx, "s", answers(given))
		if invalid, ok := err.(*InvalidError); ok {
			if len(invalid.Problems) != 1 || invalid.Problems[0].Pointer != want {
				t.Errorf("%s: %+v", given, invalid.Problems)
			}
			continue
		}
		if err != nil {
			t.Fatal(err)
		}
		if v, err := run.Show(ctx); err != nil || v.Message.String() != want {
			t.Errorf("%s: %q, %v", given, v.Message, err)
		}
		if v := run.values["s"].(*value.Record); v.Fields["found"] != nil {
			t.Errorf("what was found is known after the screen: %+v", v)
		}
	}
	for broken, want := range map[string]string{
		strings.Replace(raw, `{s.house.name}`, `{size(s.found)}`, 1):                              "found",
		strings.Replace(raw, `needed(s.words, \"Say a name first.\")`, `text(size(s.visits))`, 1): "House → Found → Visits",
		strings.Replace(raw, `"key":"found"`, `"key":"words"`, 1):                                 "taken",
	} {
		var w Walkthrough
		if err := json.Unmarshal([]byte(broken), &w); err != nil {
			t.Fatal(err)
		}
		if _, found := Compile(small(), &w); !slices.ContainsFunc(found.Findings(), func(f definition.Finding) bool {
			return strings.Contains(f.Text, want)
		}) {
			t.Errorf("want %q, found %+v", want, found.Findings())
		}
	}
}
