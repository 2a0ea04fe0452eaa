package edition

import (
	"bytes"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/walk"
)

// running says which walkthroughs run which.
type running struct {
	docs map[string]definition.Document
	// keys are those of all, in the order of their documents.
	keys []string
	runs map[string][]string
}

// runs reads which walkthroughs run which.
func (e *Edition) runs(docs []definition.Document) (running, error) {
	out := running{docs: map[string]definition.Document{}, runs: map[string][]string{}}
	for i, d := range docs {
		out.docs[d.Key] = d
		out.keys = append(out.keys, d.Key)
		if !bytes.Contains(d.Body, []byte(`"run"`)) {
			continue
		}
		runs, err := piece(e.made, func() digest { return e.made.digests.of("runs", docs[i:i+1]) },
			func() ([]string, error) {
				read, err := bodies[walk.Walkthrough](docs[i : i+1])
				if err != nil {
					return nil, err
				}
				return read[0].Runs(), nil
			})
		if err != nil {
			return out, err
		}
		out.runs[d.Key] = runs
	}
	return out, nil
}

// path is the shortest way from one walkthrough to another over those that each runs, both included; nil where there
// is none.
func (r running) path(from, to string) []string {
	before := map[string]string{from: ""}
	for queue := []string{from}; len(queue) > 0; queue = queue[1:] {
		at := queue[0]
		if at == to {
			var out []string
			for ; at != ""; at = before[at] {
				out = append(out, at)
			}
			slices.Reverse(out)
			return out
		}
		for _, next := range r.runs[at] {
			if _, known := before[next]; !known {
				before[next] = at
				queue = append(queue, next)
			}
		}
	}
	return nil
}

// circle is the way from a walkthrough over one that it runs back to itself, nil where there is none.
func (r running) circle(key, runs string) []string {
	if back := r.path(runs, key); back != nil {
		return append([]string{key}, back...)
	}
	return nil
}

// order is all walkthroughs, each behind those that it runs, circles aside.
func (r running) order() []string {
	var out []string
	done := map[string]bool{}
	var visit func(key string)
	visit = func(key string) {
		if done[key] {
			return
		}
		done[key] = true
		for _, inner := range r.runs[key] {
			if _, there := r.docs[inner]; there {
				visit(inner)
			}
		}
		out = append(out, key)
	}
	for _, key := range r.keys {
		visit(key)
	}
	return out
}

// reached are the documents of a walkthrough and of all that it runs, its own first.
func (r running) reached(key string) []definition.Document {
	out := []definition.Document{r.docs[key]}
	done := map[string]bool{key: true}
	for queue := []string{key}; len(queue) > 0; queue = queue[1:] {
		for _, inner := range r.runs[queue[0]] {
			if d, there := r.docs[inner]; there && !done[inner] {
				done[inner] = true
				out = append(out, d)
				queue = append(queue, inner)
			}
		}
	}
	return out
}
