// Package hostile bends what is sound, so that tests can see whether bad input is refused
// wherever it stands.
package hostile

import (
	"encoding/json"
	"strings"
)

// values is what is put in the place of every value of a sound request in turn.
var values = []string{`null`, `true`, `-1`, `1e400`, `9223372036854775807`, `0.5`, `""`, `"\u0000"`, `"\ud800"`,
	`"'; DROP TABLE x; --"`, `"%_\\"`, `"2026-13-45"`, `[]`, `[null]`, `[[[]]]`, `{}`, `{"x":null}`,
	`"` + strings.Repeat("ä", 3000) + `"`}

// Bent are the texts in JSON that differ from a sound one in one value each, the whole
// included. It panics when the sound one is no JSON.
func Bent(sound string) []string {
	var tree any
	d := json.NewDecoder(strings.NewReader(sound))
	d.UseNumber() // a number may be too large for any type
	if err := d.Decode(&tree); err != nil {
		panic(err)
	}
	var out []string
	var walk func(node any, put func(json.RawMessage) any)
	walk = func(node any, put func(json.RawMessage) any) {
		for _, h := range values {
			raw, err := json.Marshal(put(json.RawMessage(h)))
			if err == nil {
				out = append(out, string(raw))
			}
		}
		switch x := node.(type) {
		case map[string]any:
			for k := range x {
				walk(x[k], func(h json.RawMessage) any { return put(with(x, k, h)) })
			}
		case []any:
			for i := range x {
				walk(x[i], func(h json.RawMessage) any {
					list := append([]any{}, x...)
					list[i] = h
					return put(encoded(list))
				})
			}
		}
	}
	walk(tree, func(h json.RawMessage) any { return h })
	return out
}

func with(x map[string]any, key string, h json.RawMessage) json.RawMessage {
	changed := map[string]any{}
	for k, v := range x {
		changed[k] = v
	}
	changed[key] = h
	return encoded(changed)
}

func encoded(v any) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		panic(err)
	}
	return raw
}
