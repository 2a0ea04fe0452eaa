package usage

import (
	"strings"

	"plainpath/core/definition"
	"plainpath/core/edition"
)

// Stuck says which walkthroughs of an older edition cannot go on with what has changed since,
// and why: those that use such a field, or add records that would lack something now.
func Stuck(docs []definition.Document, e *edition.Edition, changed []edition.Changed) (map[string]string, error) {
	out := map[string]string{}
	note := func(walkthrough, why string) {
		if out[walkthrough] == "" {
			out[walkthrough] = why
		}
	}
	for _, c := range changed {
		if c.Field == "" {
			for key, w := range e.Walkthroughs {
				if w.Adds(c.Object) {
					note(key, c.Text)
				}
			}
			continue
		}
		found, err := OfField(docs, c.Object, c.Field)
		if err != nil {
			return nil, err
		}
		for _, f := range found {
			if key, ok := strings.CutPrefix(f.Document, "walkthrough/"); ok {
				note(key, c.Text)
			}
		}
	}
	for more := true; more; { // what runs one that cannot go on cannot either
		more = false
		for key, w := range e.Walkthroughs {
			for _, inner := range w.Def.Runs() {
				if out[inner] != "" && out[key] == "" {
					out[key], more = out[inner], true
				}
			}
		}
	}
	return out, nil
}
