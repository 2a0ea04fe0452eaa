package main

import (
	"bytes"
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/demo"
)

// compile measures what an edit of the demo's largest page costs to compile, against all of the app anew.
func compile() ([]result, error) {
	docs, err := demo.Documents()
	if err != nil {
		return nil, err
	}
	at := 0
	for i, d := range docs {
		if d.Kind == definition.Page && (docs[at].Kind != definition.Page || len(d.Body) > len(docs[at].Body)) {
			at = i
		}
	}
	body, n := docs[at].Body, 0
	edited := func() {
		n++
		docs[at].Body = bytes.Replace(body, []byte(`"label"`), fmt.Appendf(nil, `"note":"%d","label"`, n), 1)
	}
	c := edition.NewCompiler()
	ours, anew, err := pair(200, func() error {
		edited()
		_, err := c.Compile(docs)
		return err
	}, func() error {
		edited()
		_, err := edition.Compile(docs)
		return err
	})
	return []result{{work: "Compile the demo after an edit of its largest page", ours: ours, byOne: anew,
		against: "all of it anew", atMost: "≤ 0.1 ×"}}, err
}
