package demo

import (
	"encoding/json"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"testing"

	"plainpath/core/edition"
)

// free are the members that hold what a builder writes freely: a word there means nothing to
// the program.
var free = []string{"as", "back", "cancel", "later", "refused", "label", "plural", "note", "title", "message", "text",
	"words", "name", "prefix", "suffix", "next", "help", "confirm", "why", "says", "nothing", "key", "called"}

var places = regexp.MustCompile(`/\d+`)

// texts goes through the texts of a document; what it is given back takes their place.
func texts(v any, at string, each func(at, text string) string) any {
	switch x := v.(type) {
	case map[string]any:
		for k, m := range x {
			x[k] = texts(m, at+"/"+k, each)
		}
	case []any:
		for i, m := range x {
			x[i] = texts(m, fmt.Sprintf("%s/%d", at, i), each)
		}
	case string:
		return each(at, x)
	}
	return v
}

func decoded(t *testing.T, raw json.RawMessage) any {
	t.Helper()
	var v any
	if err := json.Unmarshal(raw, &v); err != nil {
		t.Fatal(err)
	}
	return v
}

// A word that the program does not know is found wherever it would mean something, so that
// nobody's mistake is taken in silence for something else.
func TestNoUnknownWordIsTakenInSilence(t *testing.T) {
	docs := documents(t)
	kept := edition.NewCompiler()
	silent := map[string]string{}
	for n, d := range docs {
		tried := map[string]bool{}
		var all []string
		texts(decoded(t, d.Body), "", func(at, text string) string {
			if kind := places.ReplaceAllString(at, "/*"); !tried[kind] {
				tried[kind] = true
				all = append(all, at)
			}
			return text
		})
		for _, here := range all {
			last := here[strings.LastIndex(here, "/")+1:]
			if slices.Contains(free, last) || strings.Contains(here, "/answers/") { // what somebody gives is data
				continue
			}
			body := texts(decoded(t, d.Body), "", func(at, text string) string {
				if at == here {
					return "zzz"
				}
				return text
			})
			raw, err := json.Marshal(body)
			if err != nil {
				t.Fatal(err)
			}
			changed := slices.Clone(docs)
			changed[n].Body = raw
			if e, err := kept.Compile(changed); err == nil && len(e.Findings) == 0 {
				silent[string(d.Kind)+places.ReplaceAllString(here, "/*")] = d.Name()
			}
		}
	}
	for _, at := range slices.Sorted(maps.Keys(silent)) {
		t.Errorf("%s may be anything, as in %s", at, silent[at])
	}
}
