package edition

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"path"
	"slices"
	"strings"

	"plainpath/core/act"
	"plainpath/core/definition"
)

// SchemaFolder is where schemas of documents lie beside them; what is in it is not read.
const SchemaFolder = "schema"

// Files writes documents as files, one each, named by kind and key. The same documents are always
// the same bytes: members stand in the order of the alphabet, two spaces deep.
func Files(docs []definition.Document) (map[string][]byte, error) {
	out := map[string][]byte{}
	for _, d := range docs {
		body, err := definition.Stable(d.Body)
		if err != nil {
			return nil, fmt.Errorf("writing %s: %w", d.Name(), err)
		}
		out[d.Name()+".json"] = body
	}
	return out, nil
}

// FileError says what is wrong with a file, and where.
type FileError struct{ File, Text string }

func (e *FileError) Error() string { return e.File + ": " + e.Text }

// FromFiles reads documents from files as Files writes them. What is wrong is one *FileError for each
// file, joined.
func FromFiles(files fs.FS) ([]definition.Document, error) {
	var out []definition.Document
	var wrong []error
	err := fs.WalkDir(files, ".", func(name string, entry fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case entry.IsDir() && (name == SchemaFolder || name != "." && strings.HasPrefix(entry.Name(), ".")):
			return fs.SkipDir
		case entry.IsDir() || strings.HasPrefix(entry.Name(), "."):
			return nil
		}
		d, err := fromFile(files, name)
		if err != nil {
			wrong = append(wrong, err)
			return nil
		}
		out = append(out, d)
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("reading the files: %w", err)
	}
	if len(wrong) > 0 {
		return nil, errors.Join(wrong...)
	}
	slices.SortFunc(out, func(a, b definition.Document) int {
		if by := rank(a.Kind) - rank(b.Kind); by != 0 {
			return by
		}
		return strings.Compare(a.Key, b.Key)
	})
	return out, nil
}

func fromFile(files fs.FS, name string) (definition.Document, error) {
	wrong := func(format string, args ...any) (definition.Document, error) {
		return definition.Document{}, &FileError{name, fmt.Sprintf(format, args...)}
	}
	kind, key := definition.Kind(path.Dir(name)), strings.TrimSuffix(path.Base(name), ".json")
	if rank(kind) < 0 || path.Ext(name) != ".json" {
		return wrong("this is no document; each is a file such as object/lift.json, in a folder called %s", kindList())
	}
	raw, err := fs.ReadFile(files, name)
	if err != nil {
		return wrong("it cannot be read: %v", err)
	}
	raw = bytes.TrimPrefix(raw, []byte("\ufeff"))
	var syntax *json.SyntaxError
	switch err := json.Unmarshal(raw, new(any)); {
	case errors.As(err, &syntax):
		before := raw[:min(int(syntax.Offset), len(raw))]
		return wrong("line %d: this is no JSON: %v", 1+bytes.Count(before, []byte("\n")), syntax)
	case err != nil:
		return wrong("this is no JSON: %v", err)
	}
	if earlier, err := act.Earlier(raw); err == nil { // files of an earlier version are read, too
		raw = earlier
	}
	if !definition.Storable(raw) {
		return wrong("a text in it has the character U+0000, half of a character or bytes that are no UTF-8; take it out")
	}
	d := definition.Document{Kind: kind, Key: key, Revision: 1, Body: raw}
	if _, err := decode(d); err != nil {
		return wrong("%v", err)
	}
	return d, nil
}

func kindList() string {
	names := make([]string, len(kinds))
	for i, k := range kinds {
		names[i] = string(k.name)
	}
	return strings.Join(names[:len(names)-1], ", ") + " or " + names[len(names)-1]
}
