package definition

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
)

// Kind is a kind of document.
type Kind string

// The kinds of documents.
const (
	App         Kind = "app"
	Object      Kind = "object"
	Role        Kind = "role"
	Walkthrough Kind = "walkthrough"
	Page        Kind = "page"
)

// Document is one part of an app's definition.
type Document struct {
	Kind     Kind            `json:"kind"`
	Key      string          `json:"key"`
	Revision int             `json:"revision"`
	Body     json.RawMessage `json:"body"`
}

// Name is the document's kind and key, as findings call it.
func (d Document) Name() string { return Name(d.Kind, d.Key) }

// Name is what findings call the document of a kind and key.
func Name(kind Kind, key string) string { return string(kind) + "/" + key }

// Keyed is what a document is read as, which says by which key it goes.
type Keyed interface{ DocumentKey() string }

// CheckKey says what is wrong when a document, read, calls itself otherwise than it is called.
func (d Document) CheckKey(read Keyed) error {
	if key := read.DocumentKey(); key != d.Key {
		return fmt.Errorf("it calls itself %q; a key stays as it is once there is a document by it", key)
	}
	return nil
}

// UnreadableError says that a document is not one that this version of the program can read.
type UnreadableError struct {
	Document string
	Cause    error
}

func (e *UnreadableError) Error() string { return "reading " + e.Document + ": " + e.Cause.Error() }
func (e *UnreadableError) Unwrap() error { return e.Cause }

// Decode reads JSON into a definition and refuses members it does not know.
func Decode(raw json.RawMessage, into any) error {
	d := json.NewDecoder(bytes.NewReader(raw))
	d.DisallowUnknownFields()
	if err := d.Decode(into); err != nil {
		return errors.New(strings.TrimPrefix(err.Error(), "json: "))
	}
	return nil
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
