package walk

import (
	"context"
	"encoding/json"
	"errors"
	"strings"
	"testing"

	"plainpath/core/value"
)

const checkedScreen = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
	{"key":"s","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
		{"key":"least","kind":"input","label":"Least","input":{"type":"whole_number"}},
		{"key":"most","kind":"input","label":"Most","input":{"type":"whole_number"}}]}]}],
		"next":"On","cancel":"End","later":"Keep","no_progress":true,"second":{"key":"none","label":"None of it"},
		"checks":[{"expression":"s.none || s.least <= s.most","message":"{s.least} is more than {s.most}","part":"most"},
			{"expression":"s.none || !empty(s.least)","message":"A least number, please"}]}},
	{"key":"t","kind":"screen","screen":{"bands":[],"back":"Return"}},
	{"key":"u","kind":"screen","screen":{"bands":[],"no_back":true}},
	{"key":"done","kind":"finish","finish":{"message":"{s.none ? \"none\" : text(s.least)}"}}]}`

// What must hold of several inputs is said where the builder says; the second way on is known to what follows; what
// was typed is kept whichever way a screen is left.
func TestAScreenHasChecksAndOtherButtons(t *testing.T) {
	ctx := context.Background()
	for _, c := range []struct{ answers, says, pointer, closing string }{
		{`{"least":5,"most":3}`, "5 is more than 3", "/most", ""},
		{`{"most":3}`, "is more than 3", "/most", ""},
		{`{"least":2,"most":3,"none":"perhaps"}`, "neither yes nor no", "/none", ""},
		{`{"least":2,"most":3}`, "", "", "2"},
		{`{"none":true}`, "", "", "none"},
		{`{"least":5,"most":3,"none":true}`, "", "", "none"},
	} {
		p, h := program(t, checkedScreen)
		run, err := p.Start(ctx, h, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		v, err := run.Show(ctx)
		if err != nil || v.Cancel != "End" || v.Later != "Keep" || v.Second.Label != "None of it" || !v.NoProgress ||
			v.Next != "On" || v.Back != "" {
			t.Fatalf("%+v, %v", v, err)
		}
		err = run.Answer(ctx, "s", answers(c.answers))
		var invalid *InvalidError
		if c.says != "" {
			if !errors.As(err, &invalid) || !strings.Contains(invalid.Problems[0].Text, c.says) ||
				invalid.Problems[0].Pointer != c.pointer {
				t.Errorf("%s: %v %+v, want %q at %s", c.answers, err, invalid, c.says, c.pointer)
			}
			continue
		}
		if err != nil {
			t.Errorf("%s: %v", c.answers, err)
			continue
		}
		raw, _ := json.Marshal(run.State)
		var state State
		if err := json.Unmarshal(raw, &state); err != nil {
			t.Fatal(err)
		}
		if run, err = p.Resume(ctx, h, state); err != nil {
			t.Fatal(err)
		}
		if v, err = run.Show(ctx); err != nil || v.BackLabel != "Return" || v.Back != "s" {
			t.Errorf("%+v, %v", v, err)
		}
		for _, at := range []string{"t", "u"} {
			if err := run.Answer(ctx, at, answers(`{}`)); err != nil {
				t.Fatal(err)
			}
			if run.State.Place != "u" {
				continue
			}
			if v, err = run.Show(ctx); err != nil || v.Back != "" || run.Back(ctx, "t") == nil {
				t.Errorf("back from where there is no back: %+v, %v", v, err)
			}
		}
		if v, err = run.Show(ctx); err != nil || v.Message.String() != c.closing {
			t.Errorf("%s: %q, %v; want %q", c.answers, v.Message, err, c.closing)
		}
	}

	p, h := program(t, checkedScreen)
	run, err := p.Start(ctx, h, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	run.Keep(answers(`{"least":"no number","nothing":1}`))
	v, err := run.Show(ctx)
	if err != nil {
		t.Fatal(err)
	}
	kept, _ := json.Marshal(v.Bands[0].Columns[0].Parts[0].Value)
	if string(kept) != `"no number"` || len(run.State.Answers["s"]) != 1 {
		t.Errorf("kept is %s of %v", kept, run.State.Answers)
	}
}

const gathering = `{"key":"w","label":"W","roles":["dispatcher"],"steps":[
	{"key":"all","kind":"search","search":{"object":"building","where":{},"order":[{"path":"name"}]}},
	{"key":"s","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
		{"key":"these","kind":"table","label":"Buildings","table":{"source":"all","columns":[{"path":"name"}],"select":"several","least":0,"most":2,
			"ask":[{"key":"n","label":"How many","type":"whole_number","required":true,"least":1},{"key":"why","label":"Why","type":"text"}]}}]}]}]}},
	{"key":"rows","kind":"gather","gather":{"columns":[{"key":"what","label":"What","type":"text"},{"key":"n","label":"N","type":"whole_number"},
			{"key":"of","label":"Of","type":"reference","object":"building"}],
		"from":[{"list":"s.these","item":"each","only_when":"each.n > 1","values":[{"column":"what","value":{"expression":"each.row.name"}},
				{"column":"n","value":{"expression":"each.n * each.row.floors"}},{"column":"of","value":{"expression":"each.row"}}]},
			{"list":"all","item":"one","values":[{"column":"what","value":{"literal":"all of it"}}]}]}},
	{"key":"over","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
		{"key":"l","kind":"lines","label":"Lines","lines":{"source":"rows","columns":[{"value":"what"},{"value":"n","total":true}]}}]}]}]}},
	{"key":"done","kind":"finish","finish":{"message":"{size(rows)}: {sum(rows.map(r, r.n))}, {first(rows).of.floors} floors"}}]}`

// A table that asks gives out the rows that were filled in, each with its values; they come together with others, are
// read over and stay as they were, also when the run is taken up again and the records have changed.
func TestRowsAreAskedGatheredAndReadOver(t *testing.T) {
	ctx := context.Background()
	p, h := program(t, gathering)
	h.Put("building", 2, "Dock", map[string]value.Value{"name": value.Text("Dock"), "floors": value.Whole(3)})
	h.Put("building", 3, "Yard", map[string]value.Value{"name": value.Text("Yard"), "floors": value.Whole(1)})
	for _, c := range []struct{ answers, says string }{
		{`{"these":[{"id":1,"values":{"n":0}}]}`, "Mill House: "},
		{`{"these":[{"id":1,"values":{"why":"so"}}]}`, "Mill House: How many is required"},
		{`{"these":[{"id":1,"values":{"n":"two"}}]}`, "Mill House: "},
		{`{"these":[{"id":1,"values":{"n":2,"other":1}}]}`, "nothing called"},
		{`{"these":[{"id":77,"values":{"n":2}}]}`, "no longer"},
		{`{"these":{"all":{}}}`, "cannot be read"},
		{`{"these":[{"id":1,"values":{"n":1}},{"id":2,"values":{"n":1}},{"id":3,"values":{"n":1}}]}`, "fill in at most 2 rows"},
	} {
		run, err := p.Start(ctx, h, nil, nil)
		if err != nil {
			t.Fatal(err)
		}
		err = run.Answer(ctx, "s", answers(c.answers))
		var invalid *InvalidError
		if !errors.As(err, &invalid) || !strings.Contains(invalid.Problems[0].Text, c.says) ||
			invalid.Problems[0].Pointer != "/these" {
			t.Errorf("%s: %v, want %q", c.answers, err, c.says)
		}
	}
	run, err := p.Start(ctx, h, nil, nil)
	if err != nil {
		t.Fatal(err)
	}
	const given = `{"these":[{"id":1,"label":"x","values":{"n":2}},{"id":2,"values":{"n":1,"why":"so"}},{"id":3,"values":{"n":null,"why":""}}]}`
	if err := run.Answer(ctx, "s", answers(given)); err != nil {
		t.Fatal(err)
	}
	h.Records["building"][0].Fields["floors"] = value.Whole(40)
	raw, _ := json.Marshal(run.State)
	var state State
	if err := json.Unmarshal(raw, &state); err != nil {
		t.Fatal(err)
	}
	if run, err = p.Resume(ctx, h, state); err != nil {
		t.Fatal(err)
	}
	v, err := run.Show(ctx)
	if err != nil {
		t.Fatal(err)
	}
	shown, _ := json.Marshal(v.Bands[0].Columns[0].Parts[0].Lines)
	const want = `"rows":[["Mill House",8],["all of it",null],["all of it",null],["all of it",null]],"totals":[[],[8]]`
	if !strings.Contains(string(shown), want) {
		t.Errorf("%s\nwant %s", shown, want)
	}
	if err := run.Answer(ctx, "over", answers(`{}`)); err != nil {
		t.Fatal(err)
	}
	if v, err = run.Show(ctx); err != nil || v.Message.String() != "4: 8, 40 floors" {
		t.Errorf("%q, %v", v.Message, err)
	}
	if err := run.Back(ctx, "s"); err != nil {
		t.Fatal(err)
	}
	v, err = run.Show(ctx)
	if err != nil {
		t.Fatal(err)
	}
	again, _ := json.Marshal(v.Bands[0].Columns[0].Parts[0].Table.Chosen)
	if string(again) != `[{"id":1,"label":"Mill House","values":{"n":2}},{"id":2,"label":"Dock","values":{"n":1,"why":"so"}}]` {
		t.Errorf("offered again: %s", again)
	}
}
