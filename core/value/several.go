package value

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
)

// Several is several choices at once, by key, in the order they were given, which makes no
// difference between them. There is at least one; none at all is the empty value.
type Several struct{ joined string }

// between separates keys; it cannot be typed in.
const between = "\x1f"

// NewSeveral puts choices together, each once; none give the empty value.
func NewSeveral(keys ...string) Value {
	var once []string
	for _, k := range keys {
		if !slices.Contains(once, k) {
			once = append(once, k)
		}
	}
	if len(once) == 0 {
		return nil
	}
	return Several{strings.Join(once, between)}
}

// Kind is that of several choices.
func (Several) Kind() Kind { return KindSeveral }

// Keys are the choices.
func (s Several) Keys() []string { return strings.Split(s.joined, between) }

// set is what all with the same choices have in common.
func (s Several) set() string { return strings.Join(slices.Sorted(slices.Values(s.Keys())), between) }

// Has says whether a choice is among them.
func (s Several) Has(key string) bool { return slices.Contains(s.Keys(), key) }

func parseSeveral(raw []byte) (Value, error) {
	var keys []string
	if err := json.Unmarshal(raw, &keys); err != nil {
		return nil, fmt.Errorf("%s is not a list of choices", raw)
	}
	for _, k := range keys {
		if k == "" || strings.Contains(k, between) {
			return nil, fmt.Errorf("%q cannot be one of several choices", k)
		}
	}
	return NewSeveral(keys...), nil
}
