package demo

import (
	"testing"

	"plainpath/core/edition"
)

func TestTheDemoHasNoFindings(t *testing.T) {
	docs, err := Documents()
	if err != nil {
		t.Fatal(err)
	}
	e, err := edition.Compile(docs)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range e.Findings {
		t.Errorf("%s%s: %s", f.Document, f.Pointer, f.Text)
	}
	if len(e.Walkthroughs) != 2 || len(e.Model.Keys()) != 17 {
		t.Errorf("%d walkthroughs and %d objects", len(e.Walkthroughs), len(e.Model.Keys()))
	}
}
