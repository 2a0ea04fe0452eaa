package edition_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/expr"
	"plainpath/core/value"
	"plainpath/demo"
)

// Whatever is changed one after another, what is kept gives the same edition as compiling all anew.
func TestWhatIsKeptIsWhatWouldBeMade(t *testing.T) {
	docs, err := demo.Documents()
	if err != nil {
		t.Fatal(err)
	}
	r := rand.New(rand.NewPCG(3, 9))
	c := edition.NewCompiler()
	found := 0
	for turn := range 60 {
		next := slices.Clone(docs)
		i := r.IntN(len(next))
		switch r.IntN(5) {
		case 0:
			next = slices.Delete(next, i, i+1)
		case 1: // back to how it was
		default:
			var body map[string]json.RawMessage
			if err := json.Unmarshal(next[i].Body, &body); err != nil {
				t.Fatal(err)
			}
			for member := range body {
				if member == "key" || member == "zone" {
					continue
				}
				body[member] = json.RawMessage(strings.NewReplacer("serial_number", "serial", "engineer", "fitter",
					"dispatcher", "chief").Replace(string(body[member])))
				break
			}
			next[i].Body, _ = json.Marshal(body)
		}
		kept, errKept := c.Compile(next)
		anew, errAnew := edition.Compile(next)
		if fmt.Sprint(errKept) != fmt.Sprint(errAnew) {
			t.Fatalf("turn %d, %s: %v, anew %v", turn, next[min(i, len(next)-1)].Name(), errKept, errAnew)
		}
		if errAnew != nil {
			continue
		}
		if a, b := said(kept), said(anew); !slices.Equal(a, b) {
			t.Fatalf("turn %d:\n%q\nanew\n%q", turn, a, b)
		}
		found += len(anew.Findings)
		if r.IntN(3) == 0 {
			docs = next
		}
	}
	if found < 100 {
		t.Errorf("%d findings: the test tries too little", found)
	}
}

func said(e *edition.Edition) []string {
	var out []string
	for _, f := range e.Findings {
		raw, _ := json.Marshal(f)
		out = append(out, string(raw))
	}
	for key := range e.Walkthroughs {
		out = append(out, "walkthrough "+key)
	}
	for key := range e.Pages {
		out = append(out, "page "+key)
	}
	for _, r := range e.Roles {
		out = append(out, "role "+r.Key+r.Label)
	}
	slices.Sort(out)
	return append(out, e.Model.Keys()...)
}

// BenchmarkCompile compiles the demo anew, and after one of its documents changed.
func BenchmarkCompile(b *testing.B) {
	docs, err := demo.Documents()
	if err != nil {
		b.Fatal(err)
	}
	b.Run("anew", func(b *testing.B) {
		for b.Loop() {
			if _, err := edition.Compile(docs); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("after an edit of a page", func(b *testing.B) {
		c, n := edition.NewCompiler(), 0
		at := slices.IndexFunc(docs, func(d definition.Document) bool { return d.Name() == "page/calls" })
		for b.Loop() {
			n++
			docs := slices.Clone(docs)
			docs[at].Body = json.RawMessage(strings.Replace(string(docs[at].Body), `"label"`,
				fmt.Sprintf(`"note":"%d","label"`, n), 1))
			if _, err := c.Compile(docs); err != nil {
				b.Fatal(err)
			}
		}
	})
}

// The bound of texts is that of whoever compiles, in Go and in SQL.
func TestTextsAreBoundedAsSet(t *testing.T) {
	docs := []definition.Document{{Kind: definition.App, Key: "a",
		Body: json.RawMessage(`{"key":"a","label":"A","currency":"EUR","zone":"UTC"}`)},
		{Kind: definition.Object, Key: "o",
			Body: json.RawMessage(`{"key":"o","label":"O","plural":"Os","label_field":"t","fields":[{"key":"t","label":"T","type":"long_text"},{"key":"w","label":"W","type":"worked_out","result":"text","expression":"t + t + t + t + t + t + t + t + t"}]}`)}}
	for most, fits := range map[int]bool{0: false, 2 << 20: true} {
		c := edition.NewCompiler()
		c.MostText = most
		e, err := c.Compile(docs)
		if err != nil || len(e.Findings) > 0 {
			t.Fatal(err, e.Findings)
		}
		w, _ := e.WorkedOut("o", "w")
		v, err := w.Program.Eval(expr.Values{"t": value.Text(strings.Repeat("x", 150_000))})
		if _, failed := v.(value.Failure); err != nil || failed == fits {
			t.Errorf("bound %d: %.80s, %v", most, value.Display(v), err)
		}
	}
}
