package page

import (
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"plainpath/core/act"
	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/memory"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/screen"
)

func reactive(reactions ...screen.Reaction) *Page {
	late := searchOf("lifts_found", "lift", is("building", "houses.selected"))
	late.OnDemand = true
	def := page([]screen.Search{searchOf("houses_found", "building", predicate.Condition{}), late},
		screen.Part{Key: "words", Kind: screen.InputPart, Label: "Words", Input: &screen.Input{Type: model.Text}},
		tableOf("houses", "houses_found", "name"), tableOf("lifts", "lifts_found", "serial"),
		screen.Part{Key: "says", Kind: screen.TextPart, Text: "{size(lifts_found)}"},
		screen.Part{Key: "still", Kind: screen.TextPart, Text: "always"},
		screen.Part{Key: "go", Kind: screen.ButtonPart, Label: "Go", Button: &screen.PressButton{}})
	def.Reactions = reactions
	return def
}

func say(text string) act.Act { return act.Act{Kind: act.SayAct, Say: &act.Say{Text: text}} }
func again(part string) act.Act {
	return act.Act{Kind: act.ReadAgainAct, ReadAgain: &act.ReadAgain{Part: part}}
}
func link(to string) act.Act                  { return act.Act{Kind: act.OpenAct, Open: &act.Open{Link: to}} }
func on(e screen.Event, p string) screen.When { return screen.When{Event: e, Part: p} }
func when(k string, w screen.When, a ...act.Act) screen.Reaction {
	return screen.Reaction{Key: k, When: w, Do: lines(a...)}
}

// What needs a search on demand waits until something asked for it, and reads nothing.
func TestWhatIsOnDemandWaits(t *testing.T) {
	p := compiled(t, reactive())
	r := houses(t)
	shown := func(g string, changed ...string) string {
		t.Helper()
		bands, err := p.Show(t.Context(), r, given(g), changed)
		if err != nil {
			t.Fatal(err)
		}
		var out []string
		for _, part := range bands[0].Columns[0].Parts {
			switch {
			case part.Waiting != nil:
				out = append(out, part.Key+" waits for "+part.Waiting.Search)
			case part.Same:
				out = append(out, part.Key+" same")
			default:
				out = append(out, part.Key)
			}
		}
		return strings.Join(out, ", ")
	}
	for _, c := range []struct {
		given, changed, shows, reads string
	}{
		{`{}`, "", "words, houses, lifts waits for lifts_found, says waits for lifts_found, still, go", "building"},
		{`{"answers":{"houses":{"id":1}}}`, "houses",
			"words same, houses same, lifts waits for lifts_found, says waits for lifts_found, still same, go same", "building"},
		{`{"answers":{"houses":{"id":1}},"loaded":["lifts_found"]}`, "lifts_found",
			"words same, houses same, lifts, says, still same, go same", "building lift"},
	} {
		var changed []string
		if c.changed != "" {
			changed = []string{c.changed}
		}
		if got := shown(c.given, changed...); got != c.shows {
			t.Errorf("%s: %s", c.given, got)
		}
		if got := r.Read(); got != c.reads {
			t.Errorf("%s reads %q, want %q", c.given, got, c.reads)
		}
	}
}

// A reaction is carried out with what is known on the page, and the row that was pressed.
func TestReactions(t *testing.T) {
	p := compiled(t, reactive(
		when("begin", on(screen.Pressed, "go"), again("houses_found"), again("lifts_found"), again("")),
		when("typed", on(screen.Changed, "words"), say("It says {words}"),
			act.Act{Kind: act.SetAct, OnlyWhen: `words == "mill"`, Set: &act.Set{Part: "words", Value: `"Mill"`}}),
		when("row", on(screen.RowPressed, "houses"), say("{row.name}"),
			act.Act{Kind: act.OpenAct}, act.Act{Kind: act.OpenAct, Open: &act.Open{Edit: true}}),
		when("ask", screen.When{Event: screen.Every, Minutes: 5},
			act.Act{Kind: act.ConfirmAct, Confirm: &act.Confirm{Question: "Now?"}}, say("Yes")),
		when("link", screen.When{Event: screen.CameBack}, link(`https://maps.example/{words}?of={"https://x.example"}`), link("{words}")),
		screen.Reaction{Key: "two", When: on(screen.Changed, "houses"), Do: []act.Line{{Act: again("houses_found")},
			{Act: again("lifts_found"), Alongside: true}, {Act: say("Done")}}},
		when("hold", on(screen.Written, "lifts"),
			act.Act{Kind: act.HoldAct, Hold: &act.Hold{Text: "Please wait"}}, say("ok"))))
	if got := p.Reactions(); len(got) != 7 || got[6].Hold != "Please wait" || got[3].When.Minutes != 5 {
		t.Errorf("%+v", got)
	}
	r := houses(t)
	said := func(text string) string { return `{"kind":"say","message":[` + text + `]}` }
	for _, c := range []struct {
		to           screen.Reacting
		given, wants string
	}{
		{screen.Reacting{Key: "begin"}, `{}`, `{"kind":"read_again","part":"houses_found"},` +
			`{"kind":"read_again","part":"lifts_found"},{"kind":"read_again"}`},
		{screen.Reacting{Key: "typed"}, `{"answers":{"words":"dam"}}`, said(`{"text":"It says "},{"text":"dam","given":true}`)},
		{screen.Reacting{Key: "typed"}, `{"answers":{"words":"mill"}}`,
			said(`{"text":"It says "},{"text":"mill","given":true}`) + `,{"kind":"set","part":"words","value":"Mill"}`},
		{screen.Reacting{Key: "row", Row: 2}, `{}`,
			said(`{"text":"Mill Court","given":true}`) + `,{"kind":"open","object":"building","record":2},` +
				`{"kind":"open","object":"building","record":2,"edit":true}`},
		{screen.Reacting{Key: "row", Row: 99}, `{}`, "!not in the table"},
		{screen.Reacting{Key: "ask"}, `{}`, `{"kind":"confirm","message":[{"text":"Now?"}]}`},
		{screen.Reacting{Key: "ask", Confirmed: []int{0}}, `{}`, said(`{"text":"Yes"}`)},
		{screen.Reacting{Key: "link"}, `{"answers":{"words":"a b&c"}}`,
			`{"kind":"open","link":"https://maps.example/a%20b%26c?of=https%3A%2F%2Fx.example"},` +
				`{"kind":"say","message":[{"text":"\"a b\u0026c\" is not a web address and was not opened."}],"as":"care"}`},
		{screen.Reacting{Key: "link"}, `{"answers":{"words":"https://quillmere.example/a b"}}`,
			`{"kind":"open","link":"https://maps.example/https%3A%2F%2Fquillmere.example%2Fa%20b?of=https%3A%2F%2Fx.example"},` +
				`{"kind":"open","link":"https://quillmere.example/a b"}`},
		{screen.Reacting{Key: "two"}, `{}`, `{"kind":"read_again","part":"houses_found"},` +
			`{"kind":"read_again","part":"lifts_found","alongside":true},` + said(`{"text":"Done"}`)},
		{screen.Reacting{Key: "none"}, `{}`, "!reaction"},
	} {
		out, err := p.React(t.Context(), r, given(c.given), c.to)
		if says, fails := strings.CutPrefix(c.wants, "!"); fails {
			if err == nil || !strings.Contains(err.Error(), says) {
				t.Errorf("%+v: %v", c.to, err)
			}
			continue
		}
		raw, _ := json.Marshal(out.Effects)
		if err != nil || string(raw) != "["+c.wants+"]" {
			t.Errorf("%+v: %s, %v\nwant %s", c.to, raw, err, c.wants)
		}
	}
	var off *act.NotOfferedError
	if _, err := p.React(t.Context(), r, given(`{}`), screen.Reacting{Key: "row"}); !errors.As(err, &off) {
		t.Errorf("a row that was not pressed: %v", err)
	}
}

func adds(name string) act.Act {
	return act.Act{Kind: act.AddAct, Add: &act.Add{Object: "building",
		Values: []act.Assignment{{Field: "name",
			Value: predicate.Operand{Literal: json.RawMessage(`"` + name + `"`)}}}}}
}

// Where a line is refused and others stand in its place, these are carried out, are told why, and may ask before they
// write in their turn; what was done before stays. Without them all stops.
func TestLinesInThePlaceOfOnesThatFail(t *testing.T) {
	def := reactive(screen.Reaction{Key: "a", When: screen.When{Event: screen.Opened}, Do: []act.Line{
		{Key: "new", Act: adds("Dock"), IfFails: lines(say("No: {failure}"),
			act.Act{Kind: act.ConfirmAct, Confirm: &act.Confirm{Question: "Go on?"}}, say("Then"))},
		{Act: say("After {new.name}")}}},
		when("b", screen.When{Event: screen.CameBack}, adds("Dock"), say("After")))
	p := compiled(t, def)
	for _, c := range []struct {
		refuses   string
		key       string
		confirmed []int
		want      string
	}{
		{"", "a", nil, "After Dock"},
		{"Too many.", "a", nil, "No: The building could not be added: Too many. Nothing was written. | Go on?"},
		{"Too many.", "a", []int{3}, "No: The building could not be added: Too many. Nothing was written. | Then | After "},
		{"", "b", nil, "After"},
		{"Too many.", "b", nil, "!Too many."},
	} {
		r := houses(t)
		r.Refuses = c.refuses
		out, err := p.React(t.Context(), r, given(`{}`), screen.Reacting{Key: c.key, Confirmed: c.confirmed})
		var said []string
		for _, e := range out.Effects {
			said = append(said, e.Message.String())
		}
		got := strings.Join(said, " | ")
		if err != nil {
			got = "!" + err.Error()
		}
		if want, fails := strings.CutPrefix(c.want, "!"); got != c.want && (!fails || !strings.Contains(got, want)) {
			t.Errorf("%s refused with %q: %s", c.key, c.refuses, got)
		}
		if wrote := len(r.Wrote); (wrote == 1) != (c.refuses == "") {
			t.Errorf("%s refused with %q wrote %d", c.key, c.refuses, wrote)
		}
	}
}

func TestFindingsOfReactions(t *testing.T) {
	kept := reactive(when("kept", on(screen.Written, "change"), say("Kept")))
	kept.Bands[0].Columns[0].Parts = append(kept.Bands[0].Columns[0].Parts, screen.Part{Key: "change",
		Kind: screen.FormPart,
		Form: &screen.Form{Source: "houses.selected", Fields: []screen.FormField{{Field: "name"}}}})
	compiled(t, kept)
	for says, r := range map[string]screen.Reaction{
		"no event":            when("a", screen.When{Event: "sneezed"}, say("x")),
		"0 minutes cannot be": when("a", screen.When{Event: screen.Every}, say("x")),
		`no part "lift"`:      when("a", on(screen.Changed, "lift"), say("x")),
		"does not happen to":  when("a", on(screen.RowPressed, "words"), say("x")),
		"happen to Says":      when("a", on(screen.Changed, "says"), say("x")),
		"nothing is done":     when("a", screen.When{Event: screen.Opened}),
		"cannot be a key":     when("A b", screen.When{Event: screen.Opened}, say("x")),
		`no part "lifs"`:      when("a", screen.When{Event: screen.Opened}, again("lifs")),
		"there is no act":     when("a", screen.When{Event: screen.Opened}, act.Act{Kind: act.CopyLinkAct}),
		`by the name "row"`:   when("a", on(screen.Written, "houses"), say("{row.name}")),
		"happen to Go":        when("a", on(screen.Changed, "go"), say("x")),
		"happen to lifts":     when("a", on(screen.Pressed, "lifts"), say("x")),
		"does not begin like": when("a", screen.When{Event: screen.Opened}, link("javascript:alert({words})")),
		"only a record opens": when("a", screen.When{Event: screen.Opened},
			act.Act{Kind: act.OpenAct, Open: &act.Open{Link: "https://a.example", Edit: true}}),
		"one line after another": {Key: "a", When: screen.When{Event: screen.Opened},
			Do: []act.Line{{Act: adds(""), Alongside: true}}},
		"never refused": {Key: "a", When: screen.When{Event: screen.Opened},
			Do: []act.Line{{Act: say("x"), IfFails: lines(say("y"))}}},
		"nothing is done if it fails": {Key: "a", When: screen.When{Event: screen.Opened},
			Do: []act.Line{{Act: adds(""), IfFails: []act.Line{}}}},
		"asked after records": when("a", screen.When{Event: screen.Opened}, adds(""),
			act.Act{Kind: act.ConfirmAct, Confirm: &act.Confirm{Question: "Now?"}}),
		`by the name "failure"`: when("a", screen.When{Event: screen.Opened}, adds(""), say("{failure}")),
		"is no input": when("a", screen.When{Event: screen.Opened},
			act.Act{Kind: act.SetAct, Set: &act.Set{Part: "lifts_found"}}),
	} {
		def := reactive(r)
		def.Bands[0].Columns[0].Parts[3].Label = "Says"
		_, check := Compile(expr.Scope{Model: memory.Houses()}, []string{"all"}, def)
		said := ""
		for _, f := range check.Findings() {
			said += f.Text + "\n"
		}
		if !strings.Contains(said, says) {
			t.Errorf("%q is not found: %s", says, said)
		}
	}
	_, check := Compile(expr.Scope{Model: memory.Houses()}, []string{"all"}, reactive(
		when("a", screen.When{Event: screen.Opened}, say("x")),
		when("a", screen.When{Event: screen.CameBack}, say("x"))))
	if !definition.Blocks(check.Findings()) {
		t.Error("two reactions have one key")
	}
}
