package demo

import (
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/edition"
	"plainpath/core/usage"
)

// keyed are the pointers to what has a key within a document: steps, parts, buttons, values
// that are handed over, searches.
func keyed(t *testing.T, raw json.RawMessage, at string, each func(pointer, key string)) {
	t.Helper()
	var list []json.RawMessage
	if json.Unmarshal(raw, &list) == nil {
		for i, item := range list {
			pointer := fmt.Sprintf("%s/%d", at, i)
			var has struct{ Key string }
			if json.Unmarshal(item, &has) == nil && has.Key != "" && !strings.HasSuffix(at, "/choices") {
				each(pointer, has.Key)
			}
			keyed(t, item, pointer, each)
		}
		return
	}
	var members map[string]json.RawMessage
	if json.Unmarshal(raw, &members) == nil {
		for name, member := range members {
			keyed(t, member, at+"/"+name, each)
		}
	}
}

// Whatever has a key in a walkthrough or on a page can be given another, and everything that
// names it follows: nothing says the old key any more but what notes it, and nothing is found.
func TestEveryKeyOfTheDemoCanBeRenamed(t *testing.T) {
	docs := documents(t)
	renamed, followed := 0, 0
	for _, d := range docs {
		if d.Kind != definition.Walkthrough && d.Kind != definition.Page {
			continue
		}
		keyed(t, d.Body, "", func(pointer, key string) {
			changes, err := usage.RenameIn(docs, d.Kind, d.Key, pointer, key, "renamed_"+key)
			if err != nil {
				t.Errorf("%s%s, %s: %v", d.Name(), pointer, key, err)
				return
			}
			renamed++
			if len(changes) > 1 || len(changes[0].Patch) > 2 {
				followed++
			}
			after := slices.Clone(docs)
			for _, c := range changes {
				i := slices.IndexFunc(docs, func(o definition.Document) bool { return o.Name() == c.Document.Name() })
				if after[i].Body, _, err = c.Patch.Apply(docs[i].Body); err != nil {
					t.Fatal(err)
				}
			}
			e, err := edition.Compile(after)
			if err != nil || len(e.Findings) > 0 {
				t.Errorf("%s%s: %v %v", d.Name(), pointer, err, e.Findings)
			}
			i := slices.IndexFunc(after, func(o definition.Document) bool { return o.Name() == d.Name() })
			if was := regexp.MustCompile(`"was":\["`+key+`"\]`).ReplaceAllString(string(after[i].Body), ""); count(was,
				key) > 0 && count(string(d.Body), key) == count(was, key) {
				t.Errorf("%s%s: nothing of it follows\n%s", d.Name(), pointer, was)
			}
		})
	}
	if renamed < 40 || followed < 20 {
		t.Errorf("%d renamed, %d of them named elsewhere: the test tries too little", renamed, followed)
	}
	d := docs[slices.IndexFunc(docs, func(d definition.Document) bool { return d.Key == "book_a_visit" })]
	for to, says := range map[string]string{"choose_lifts": "taken", "Not a key": "cannot be a key",
		"person": "taken"} {
		if _, err := usage.RenameIn(docs, d.Kind, d.Key, "/steps/1", "buildings", to); err == nil ||
			!strings.Contains(err.Error(), says) {
			t.Errorf("%s: %v", to, err)
		}
	}
}

func count(body, key string) int {
	return len(regexp.MustCompile(`\b`+key+`\b`).FindAllString(body, -1))
}
