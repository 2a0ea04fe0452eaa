package usage

import (
	"encoding/json"
	"strconv"
	"strings"
)

// lookup reads the value at a JSON Pointer (RFC 6901).
func lookup(body json.RawMessage, pointer string) (json.RawMessage, bool) {
	for _, token := range strings.Split(pointer, "/")[1:] {
		token = strings.NewReplacer("~1", "/", "~0", "~").Replace(token)
		var members map[string]json.RawMessage
		var items []json.RawMessage
		if json.Unmarshal(body, &members) == nil {
			next, ok := members[token]
			if !ok {
				return nil, false
			}
			body = next
			continue
		}
		i, err := strconv.Atoi(token)
		if err != nil || json.Unmarshal(body, &items) != nil || i < 0 || i >= len(items) {
			return nil, false
		}
		body = items[i]
	}
	return body, true
}
