package release

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
)

// No change of a document of the demo goes without a word, whatever kind it is and whichever
// of its members changes; and for every kind of document there is one.
func TestNoKindOfDocumentIsSilent(t *testing.T) {
	var docs []definition.Document
	paths, err := filepath.Glob("../../demo/package/*/*.json")
	if err != nil || len(paths) < 20 {
		t.Fatalf("%d documents, %v", len(paths), err)
	}
	kinds := map[definition.Kind]int{}
	for _, path := range paths {
		raw, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		docs = append(docs, definition.Document{Kind: definition.Kind(filepath.Base(filepath.Dir(path))),
			Key: strings.TrimSuffix(filepath.Base(path), ".json"), Body: raw})
	}
	for i, d := range docs {
		var body map[string]json.RawMessage
		if err := json.Unmarshal(d.Body, &body); err != nil {
			t.Fatal(err)
		}
		for member, raw := range body {
			if member == "key" {
				continue
			}
			changed := map[string]json.RawMessage{}
			for k, v := range body {
				changed[k] = v
			}
			var list []json.RawMessage
			var members map[string]json.RawMessage
			switch {
			case json.Unmarshal(raw, &list) == nil && len(list) > 0:
				changed[member], _ = json.Marshal(list[1:])
			case json.Unmarshal(raw, &members) == nil && len(members) > 0 && member == "objects":
				for k := range members {
					delete(members, k)
					break
				}
				changed[member], _ = json.Marshal(members)
			case len(raw) > 0 && raw[0] == '"':
				changed[member] = json.RawMessage(`"another"`)
			case len(raw) > 0 && raw[0] == '{':
				delete(changed, member)
			default:
				continue
			}
			after := slices.Clone(docs)
			after[i].Body, _ = json.Marshal(changed)
			said, err := Diff(docs, after)
			if err != nil {
				t.Fatal(err)
			}
			if len(said) != 1 || len(said[0].Details) == 0 {
				t.Errorf("%s changed in %s without a word: %+v", d.Name(), member, said)
			}
			kinds[d.Kind]++
		}
	}
	for _, kind := range []definition.Kind{definition.App, definition.Object, definition.Role, definition.Walkthrough,
		definition.Page} {
		if kinds[kind] < 3 {
			t.Errorf("only %d changes of kind %s", kinds[kind], kind)
		}
	}
}
