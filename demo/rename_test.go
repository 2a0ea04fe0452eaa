package demo

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand"
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

// Objects, fields and choices of the demo are renamed and renamed back: everything says again what it
// said, but for the keys that are noted.
func TestRenamingThereAndBack(t *testing.T) {
	docs := documents(t)
	e, err := edition.Compile(docs)
	if err != nil {
		t.Fatal(err)
	}
	type rename func(docs []definition.Document, back bool) ([]usage.Change, error)
	all := map[string]rename{}
	turn := func(from, to string, back bool) (string, string) {
		if back {
			return to, from
		}
		return from, to
	}
	for _, key := range e.Model.Keys() {
		all[key] = func(docs []definition.Document, back bool) ([]usage.Change, error) {
			from, to := turn(key, "renamed_"+key, back)
			return usage.RenameObject(docs, from, to)
		}
		for _, f := range e.Model.Object(key).Fields {
			all[key+"."+f.Key] = func(docs []definition.Document, back bool) ([]usage.Change, error) {
				from, to := turn(f.Key, "renamed_"+f.Key, back)
				return usage.RenameField(docs, key, from, to)
			}
			for _, c := range f.Choices {
				all[key+"."+f.Key+"."+c.Key] = func(docs []definition.Document, back bool) ([]usage.Change, error) {
					from, to := turn(c.Key, "renamed_"+c.Key, back)
					return usage.RenameChoice(docs, key, f.Key, from, to)
				}
			}
		}
	}
	names := slices.Sorted(maps.Keys(all))
	rand.New(rand.NewSource(14)).Shuffle(len(names), func(i, j int) { names[i], names[j] = names[j], names[i] })
	follows := 0
	for _, name := range names[:min(len(names), 40)] {
		there := renamed(t, docs, name, func(d []definition.Document) ([]usage.Change,
			error) {
			return all[name](d, false)
		})
		back := renamed(t, there, name, func(d []definition.Document) ([]usage.Change,
			error) {
			return all[name](d, true)
		})
		changed := 0
		for i, d := range docs {
			if said(t, back[i].Body) != said(t, d.Body) || back[i].Key != d.Key {
				t.Errorf("%s: %s is\n%s\nand was\n%s", name, d.Name(), back[i].Body, d.Body)
			}
			if said(t, there[i].Body) != said(t, d.Body) {
				changed++
			}
		}
		if changed > 1 {
			follows++
		}
	}
	if follows < 12 {
		t.Errorf("%d of them are named in another document: the test tries too little", follows)
	}
}

// renamed are documents after a rename, in which nothing is found.
func renamed(t *testing.T, docs []definition.Document, name string,
	rename func([]definition.Document) ([]usage.Change, error)) []definition.Document {
	t.Helper()
	changes, err := rename(docs)
	if err != nil {
		t.Fatalf("%s: %v", name, err)
	}
	after := slices.Clone(docs)
	for _, c := range changes {
		i := slices.IndexFunc(docs, func(o definition.Document) bool { return o.Name() == c.Document.Name() })
		if after[i].Body, _, err = c.Patch.Apply(docs[i].Body); err != nil {
			t.Fatal(err)
		}
		after[i].Key = c.Key
	}
	return after
}

var noted = regexp.MustCompile(`(?s),?\s*"was": \[[^\]]*\]`)

// said is a body without the keys that are noted.
func said(t *testing.T, body json.RawMessage) string {
	t.Helper()
	out, err := definition.Stable(body)
	if err != nil {
		t.Fatal(err)
	}
	return noted.ReplaceAllString(string(out), "")
}

func count(body, key string) int {
	return len(regexp.MustCompile(`\b`+key+`\b`).FindAllString(body, -1))
}
