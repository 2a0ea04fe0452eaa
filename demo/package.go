// Package demo makes the demo: the app of a company that maintains lifts, its people
// and its records.
package demo

import (
	"embed"
	"fmt"
	"io/fs"
	"path"
	"strings"

	"plainpath/core/definition"
)

//go:embed package
var files embed.FS

// App is the key of the demo's app.
const App = "liftcare"

// Documents reads the app's definition.
func Documents() ([]definition.Document, error) {
	var out []definition.Document
	err := fs.WalkDir(files, "package", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		body, err := files.ReadFile(name)
		if err != nil {
			return err
		}
		out = append(out, definition.Document{Kind: definition.Kind(path.Base(path.Dir(name))),
			Key: strings.TrimSuffix(path.Base(name), ".json"), Revision: 1, Body: body})
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("reading the demo's documents: %w", err)
	}
	return out, nil
}
