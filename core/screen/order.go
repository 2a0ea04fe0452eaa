package screen

import (
	"slices"
	"strings"
)

// InOrder puts keys after those that they wait for, and otherwise as they come. Where some wait for each other it gives
// the circle, from a key back to itself, and no order. Keys that are waited for and do not come are passed over.
func InOrder(keys []string, waits map[string][]string) (order, circle []string) {
	done := map[string]bool{}
	var way []string
	var visit func(key string) bool
	visit = func(key string) bool {
		if i := slices.Index(way, key); i >= 0 {
			circle = append(slices.Clone(way[i:]), key)
			return false
		}
		if done[key] || !slices.Contains(keys, key) {
			return true
		}
		way = append(way, key)
		for _, n := range waits[key] {
			if !visit(n) {
				return false
			}
		}
		way = way[:len(way)-1]
		done[key] = true
		order = append(order, key)
		return true
	}
	for _, key := range keys {
		if !visit(key) {
			return nil, circle
		}
	}
	return order, nil
}

// Circle says in words what waits for what.
func Circle(labels []string) string {
	return "this goes round in a circle: " + strings.Join(labels, " → ")
}
