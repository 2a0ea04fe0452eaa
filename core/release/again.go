package release

import (
	"encoding/json"
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/edit"
)

// Again is the documents of an earlier release as they are put in force again. Objects that have
// another key by now are told so, or their records would be taken for another's.
func Again(earlier, now []definition.Document) ([]definition.Document, error) {
	out := slices.Clone(earlier)
	known := map[string]bool{}
	for _, d := range earlier {
		known[d.Name()] = true
	}
	for _, d := range now {
		if d.Kind != definition.Object || known[d.Name()] {
			continue
		}
		var o struct{ Was []string }
		if err := json.Unmarshal(d.Body, &o); err != nil {
			return nil, fmt.Errorf("reading %s: %w", d.Name(), err)
		}
		for i := range out {
			if out[i].Kind != definition.Object || !slices.Contains(o.Was, out[i].Key) {
				continue
			}
			var had struct{ Was []string }
			if err := json.Unmarshal(out[i].Body, &had); err != nil {
				return nil, fmt.Errorf("reading %s: %w", out[i].Name(), err)
			}
			raw, err := json.Marshal(append(had.Was, d.Key))
			if err != nil {
				return nil, fmt.Errorf("writing %s: %w", out[i].Name(), err)
			}
			if out[i].Body, _, err = (edit.Patch{{Op: "add", Path: "/was",
				Value: raw}}).Apply(out[i].Body); err != nil {
				return nil, err
			}
		}
	}
	return out, nil
}
