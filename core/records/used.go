package records

import (
	"slices"
	"strings"

	"plainpath/core/model"
)

// FieldsUsed are the fields of a known value, a record or a list by a path of names, that
// expressions take from it.
func FieldsUsed(m *model.Model, object string, prefix []string, used [][]string) []model.Path {
	var out []model.Path
	seen := map[string]bool{}
	for _, u := range used {
		rest, ok := below(u, prefix)
		if !ok || object == "" {
			continue
		}
		path, err := m.Path(object, rest)
		if err == nil && !seen[rest] {
			seen[rest] = true
			out = append(out, path)
		}
	}
	return out
}

// below is what follows a prefix in a use of names.
func below(use, prefix []string) (string, bool) {
	if len(use) <= len(prefix) || !slices.Equal(use[:len(prefix)], prefix) {
		return "", false
	}
	return strings.Join(use[len(prefix):], "."), true
}
