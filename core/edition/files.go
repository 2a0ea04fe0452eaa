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
)

// Kinds are the kinds of documents there are, in the order in which they are brought in.
var Kinds = []DocumentKind{AppDocument, ObjectDocument, RoleDocument, WalkthroughDocument, PageDocument}

// SchemaFolder is where schemas of documents lie beside them; what is in it is not read.
const SchemaFolder = "schema"

// Files writes documents as files, one each, named by kind and key. The same documents are always
// the same bytes: members stand in the order of the alphabet, two spaces deep.
func Files(docs []Document) (map[string][]byte, error) {
	out := map[string][]byte{}
	for _, d := range docs {
		body, err := Stable(d.Body)
		if err != nil {
			return nil, fmt.Errorf("writing %s: %w", d.Name(), err)
		}
		out[d.Name()+".json"] = body
	}
	return out, nil
}

// Stable writes JSON so that the same is always the same bytes.
func Stable(raw json.RawMessage) ([]byte, error) {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.UseNumber() // numbers stay as they are written
	var tree any
	if err := d.Decode(&tree); err != nil {
		return nil, err
	}
	var out bytes.Buffer
	e := json.NewEncoder(&out)
	e.SetEscapeHTML(false)
	e.SetIndent("", "  ")
	err := e.Encode(tree)
	return out.Bytes(), err
}

// FileError says what is wrong with a file, and where.
type FileError struct{ File, Text string }

func (e *FileError) Error() string { return e.File + ": " + e.Text }

// FromFiles reads documents from files as Files writes them. What is wrong is one *FileError for each
// file, joined.
func FromFiles(files fs.FS) ([]Document, error) {
	var out []Document
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
	slices.SortFunc(out, func(a, b Document) int {
		if by := slices.Index(Kinds, a.Kind) - slices.Index(Kinds, b.Kind); by != 0 {
			return by
		}
		return strings.Compare(a.Key, b.Key)
	})
	return out, nil
}

func fromFile(files fs.FS, name string) (Document, error) {
	wrong := func(format string, args ...any) (Document, error) {
		return Document{}, &FileError{name, fmt.Sprintf(format, args...)}
	}
	kind, key := DocumentKind(path.Dir(name)), strings.TrimSuffix(path.Base(name), ".json")
	if !slices.Contains(Kinds, kind) || path.Ext(name) != ".json" {
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
	d := Document{Kind: kind, Key: key, Revision: 1, Body: raw}
	if _, err := Compile([]Document{d}); err != nil {
		return wrong("%v", err)
	}
	return d, nil
}

func kindList() string {
	names := make([]string, len(Kinds))
	for i, k := range Kinds {
		names[i] = string(k)
	}
	return strings.Join(names[:len(names)-1], ", ") + " or " + names[len(names)-1]
}
