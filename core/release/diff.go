// Package release says what changes between two editions of an app.
package release

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/edition"
)

// Diff lists what changes from one set of documents to another.
func Diff(before, after []definition.Document) ([]definition.Difference, error) {
	names := labels(append(slices.Clone(before), after...))
	old := map[string]definition.Document{}
	for _, d := range before {
		old[d.Name()] = d
	}
	out := []definition.Difference{}
	for _, d := range after {
		was, existed := formerlyCalled(d, old)
		delete(old, was.Name())
		what := "changed"
		switch {
		case !existed:
			what = "added"
		case same(was.Body, d.Body):
			continue
		}
		c := definition.NewDifference(d.Name(), label(d), what, names)
		if err := edition.Differ(c, was, d); err != nil {
			return nil, fmt.Errorf("comparing %s: %w", d.Name(), err)
		}
		seenBy(c, d, after)
		out = append(out, *c)
	}
	for _, d := range before {
		if _, gone := old[d.Name()]; gone {
			c := definition.NewDifference(d.Name(), label(d), "removed", names)
			if edition.HasTables(d.Kind) {
				c.Store("Its records are hidden, not lost.")
			}
			seenBy(c, d, before)
			out = append(out, *c)
		}
	}
	return out, nil
}

// formerlyCalled is the document that one was before, under the same key or, for objects,
// another.
func formerlyCalled(d definition.Document, old map[string]definition.Document) (definition.Document, bool) {
	if was, existed := old[d.Name()]; existed || !edition.HasTables(d.Kind) {
		return was, existed
	}
	var now struct{ Was []string }
	if json.Unmarshal(d.Body, &now) != nil {
		return definition.Document{}, false
	}
	for _, key := range now.Was {
		if was, existed := old[definition.Name(d.Kind, key)]; existed {
			return was, true
		}
	}
	return definition.Document{}, false
}

func label(d definition.Document) string {
	var named struct{ Label string }
	if json.Unmarshal(d.Body, &named) != nil || named.Label == "" {
		return d.Key
	}
	return named.Label
}

func same(a, b json.RawMessage) bool {
	var x, y any
	return json.Unmarshal(a, &x) == nil && json.Unmarshal(b, &y) == nil && reflect.DeepEqual(x, y)
}

// labels are what documents are called, by kind and key.
func labels(docs []definition.Document) map[definition.Kind]map[string]string {
	out := map[definition.Kind]map[string]string{}
	for _, d := range docs {
		if out[d.Kind] == nil {
			out[d.Kind] = map[string]string{}
		}
		out[d.Kind][d.Key] = label(d)
	}
	return out
}

// seenBy says that a change of an object concerns the roles that see its records.
func seenBy(c *definition.Difference, of definition.Document, docs []definition.Document) {
	for _, d := range docs {
		var role struct {
			Objects map[string]struct{ See bool }
		}
		if of.Kind == definition.Object && d.Kind == definition.Role && json.Unmarshal(d.Body, &role) == nil &&
			role.Objects[of.Key].See {
			c.Concerns(d.Key)
		}
	}
}
