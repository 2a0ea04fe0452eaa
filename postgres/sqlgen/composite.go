package sqlgen

import (
	"strings"

	"plainpath/core/value"
)

// Values that are made of parts are of composite types (PostgreSQL manual, 8.16), each called as its kind, with a
// function that writes one as a line, called as its kind with _text behind.

func compositeType(k value.Kind) string { return "plainpath." + string(k) }

func compositeText(k value.Kind, sql string) string { return compositeType(k) + "_text(" + sql + ")" }

// compositeOut writes a value as intake reads it back: its parts with semicolons between them, those in the
// parts with a backslash before.
func compositeOut(k value.Kind, sql string) string {
	names := value.Parts(k)
	parts := make([]string, len(names))
	for i, name := range names {
		parts[i] = `replace(replace(coalesce((` + sql + `).` + name + `, ''), '\', '\\'), ';', '\;')`
	}
	return "CASE WHEN NOT (" + sql + ") IS NULL THEN " + strings.Join(parts, " || '; ' || ") + " END"
}
