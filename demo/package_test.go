package demo

import (
	"encoding/json"
	"math/rand/v2"
	"slices"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/hostile"
)

func TestTheDemoHasNoFindings(t *testing.T) {
	e, err := edition.Compile(documents(t))
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range e.Findings {
		t.Errorf("%s%s: %s", f.Document, f.Pointer, f.Text)
	}
	if len(e.Walkthroughs) != 5 || len(e.Model.Keys()) != 17 {
		t.Errorf("%d walkthroughs and %d objects", len(e.Walkthroughs), len(e.Model.Keys()))
	}
}

func documents(t *testing.T) []definition.Document {
	t.Helper()
	docs, err := Documents()
	if err != nil {
		t.Fatal(err)
	}
	return docs
}

// A definition may say anything: it is refused, or compiles to findings whose places are
// there, or to what holds. The compiler never gives up.
func TestAnyDefinitionCompilesOrSaysWhy(t *testing.T) {
	docs := documents(t)
	var all []definition.Document
	for _, d := range docs {
		for _, body := range hostile.Bent(string(d.Body)) {
			d.Body = json.RawMessage(body)
			all = append(all, d)
		}
	}
	random := rand.New(rand.NewPCG(7, uint64(len(all))))
	random.Shuffle(len(all), func(i, j int) { all[i], all[j] = all[j], all[i] })
	found, kept := 0, edition.NewCompiler()
	for _, d := range all[:300] {
		changed := slices.Clone(docs)
		changed[slices.IndexFunc(docs, func(o definition.Document) bool { return o.Name() == d.Name() })] = d
		func() {
			defer func() {
				if gone := recover(); gone != nil {
					t.Errorf("%s: %v\n%.2000s", d.Name(), gone, d.Body)
				}
			}()
			e, err := kept.Compile(changed)
			if err != nil {
				return
			}
			for _, f := range e.Findings {
				found++
				if f.Text == "" || f.Consequence == "" || f.Document == "" {
					t.Errorf("%s: a finding that says little: %+v", d.Name(), f)
				}
			}
		}()
	}
	if found < 50 {
		t.Errorf("only %d findings in all", found)
	}
}
