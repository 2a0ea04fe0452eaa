package edition

import (
	"strings"
	"testing"

	"plainpath/core/definition"
)

func walkthrough(key, runs string) definition.Document {
	step := ""
	if runs != "" {
		step = `{"key":"inside","kind":"run","run":{"walkthrough":"` + runs + `"}},`
	}
	return definition.Document{Kind: definition.Walkthrough, Key: key, Body: []byte(`{"key":"` + key + `","label":"` +
		key + `","roles":[],"steps":[` + step + `{"key":"done","kind":"finish","finish":{"message":"Done."}}],
		"gives":[{"key":"n","label":"N","value":"1"}]}`)}
}

// A walkthrough may run others, in whatever order their documents stand, and is compiled anew where one of those
// changes; one that would come back to itself is told over which.
func TestWalkthroughsRunOthers(t *testing.T) {
	for name, c := range map[string]struct{ runs, finds map[string]string }{
		"in a row": {map[string]string{"a": "b", "b": "c", "c": ""}, map[string]string{"a": "", "b": "", "c": ""}},
		"itself":   {map[string]string{"a": "a"}, map[string]string{"a": "a → a"}},
		"in a circle": {map[string]string{"c": "a", "a": "b", "b": "c"},
			map[string]string{"a": "a → b → c → a", "b": "b → c → a → b", "c": "c → a → b → c"}},
		"beside a circle": {map[string]string{"d": "a", "a": "b", "b": "a"},
			map[string]string{"d": "", "a": "a → b → a"}},
		"what is none": {map[string]string{"a": "z"}, map[string]string{"a": `no walkthrough "z"`}},
	} {
		docs := app()
		for key, runs := range c.runs { // in any order
			docs = append(docs, walkthrough(key, runs))
		}
		compiler := NewCompiler()
		for range 2 { // and from what is kept
			e, err := compiler.Compile(docs)
			if err != nil {
				t.Fatal(err)
			}
			for key, want := range c.finds {
				got := ""
				for _, f := range e.Of("walkthrough/" + key) {
					if f.Severity == definition.Stop {
						got += f.Text
					}
				}
				if want == "" && got != "" || !strings.Contains(got, want) {
					t.Errorf("%s: %s finds %q, want %q", name, key, got, want)
				}
			}
		}
	}
	handed := append(app(), walkthrough("a", "b"), walkthrough("b", ""))
	handed[len(handed)-1].Body = []byte(strings.Replace(string(handed[len(handed)-1].Body), `"roles":[]`,
		`"roles":[],"takes":[{"key":"n","label":"N","type":"whole_number","required":true}]`, 1))
	for hand, want := range map[string]string{``: "needs N", `{"to":"n","value":"2"}`: "",
		`{"to":"n","value":"\"2\""}`: "gives text, but N takes", `{"to":"n","value":"1"},{"to":"m","value":"1"}`: `takes no "m"`} {
		handed[len(handed)-2].Body = []byte(strings.Replace(string(walkthrough("a", "b").Body), `"walkthrough":"b"`,
			`"walkthrough":"b","hand":[`+hand+`]`, 1))
		e, err := Compile(handed)
		if err != nil {
			t.Fatal(err)
		}
		got := ""
		for _, f := range e.Of("walkthrough/a") {
			if f.Severity == definition.Stop {
				got += f.Text
			}
		}
		if want == "" && got != "" || !strings.Contains(got, want) {
			t.Errorf("handed %s: %q, want %q", hand, got, want)
		}
	}
	compiler := NewCompiler()
	docs := append(app(), walkthrough("a", "b"), walkthrough("b", ""))
	first, err := compiler.Compile(docs)
	if err != nil {
		t.Fatal(err)
	}
	docs[len(docs)-1] = walkthrough("b", "a")
	second, err := compiler.Compile(docs)
	if err != nil {
		t.Fatal(err)
	}
	if first.Walkthroughs["a"] == second.Walkthroughs["a"] || !definition.Blocks(second.Of("walkthrough/a")) {
		t.Error("what runs a walkthrough that changed is as before")
	}
}
