package edition

import (
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/page"
)

// kind is all that the program knows of one kind of document.
type kind struct {
	name definition.Kind
	// schema is what the published schema calls such a document.
	schema string
	// tables says that there is a table for each, which follows its document.
	tables bool
	// decode reads a document.
	decode func(definition.Document) (any, error)
	// compile makes something to run of all documents of the kind. Those of kinds that stand
	// earlier in the list are compiled by then.
	compile func(*Edition, []definition.Document) error
	// differ describes what changes from one to another; was is nil for one that is new.
	differ func(d *definition.Difference, was, is any)
	// known is what expressions at each place of a document may name, and what each of its
	// parts depends on; nil for kinds without places of their own.
	known func(e *Edition, key string) (scopes map[string][]expr.Name, wires []page.Wire)
}

// kinds are the kinds of documents there are, in the order in which they are compiled.
var kinds = []kind{
	of(definition.App, "App", false, (*Edition).settings, appDiffers),
	of(definition.Object, "Object", true, (*Edition).objects, objectDiffers),
	of(definition.Role, "Role", false, (*Edition).roles, roleDiffers),
	of(definition.Walkthrough, "Walkthrough", false, (*Edition).walkthroughs,
		walkthroughDiffers).knowing(knownInWalkthrough),
	of(definition.Page, "Page", false, (*Edition).pages, pageDiffers).knowing(knownInPage),
}

// Kinds are the kinds of documents there are, in the order in which they are compiled.
func Kinds() []definition.Kind {
	out := make([]definition.Kind, len(kinds))
	for i, k := range kinds {
		out[i] = k.name
	}
	return out
}

// of is a kind whose documents are read as a T.
func of[T any, P keyed[T]](name definition.Kind, schema string, tables bool, compile func(*Edition,
	[]definition.Document) error,
	differ func(was, is *T, d *definition.Difference)) kind {
	return kind{name: name, schema: schema, tables: tables, compile: compile,
		decode: func(d definition.Document) (any, error) {
			read, err := bodies[T, P]([]definition.Document{d})
			if err != nil {
				return nil, err
			}
			return read[0], nil
		},
		differ: func(d *definition.Difference, was, is any) {
			before, _ := was.(*T)
			differ(before, is.(*T), d)
		}}
}

func (k kind) knowing(known func(e *Edition, key string) (scopes map[string][]expr.Name,
	wires []page.Wire)) kind {
	k.known = known
	return k
}

// Known is what expressions at each place of a document may name, and what each of its parts
// depends on.
func (e *Edition) Known(name definition.Kind, key string) (scopes map[string][]expr.Name, wires []page.Wire) {
	at := rank(name)
	if at < 0 || kinds[at].known == nil {
		return nil, nil
	}
	return kinds[at].known(e, key)
}

// Readable says what keeps a document from being read as what its kind is.
func Readable(d definition.Document) error {
	_, err := decode(d)
	return err
}

// rank is where a kind stands in the list, -1 for one that there is not.
func rank(name definition.Kind) int {
	return slices.IndexFunc(kinds, func(k kind) bool { return k.name == name })
}

// Schemas are what the published schema calls the documents of each kind.
func Schemas() map[definition.Kind]string {
	out := map[definition.Kind]string{}
	for _, k := range kinds {
		out[k.name] = k.schema
	}
	return out
}

// HasTables says whether there is a table for each document of a kind, which follows it.
func HasTables(name definition.Kind) bool {
	at := rank(name)
	return at >= 0 && kinds[at].tables
}

// decode reads a document as what its kind is.
func decode(d definition.Document) (any, error) {
	at := rank(d.Kind)
	if at < 0 {
		return nil, &definition.UnreadableError{Document: d.Name(), Cause: fmt.Errorf("there is no kind of document %q",
			d.Kind)}
	}
	return kinds[at].decode(d)
}

// Differ describes what changes from one document to another of its kind, both as they are now and
// as they were; was has no kind where there was none.
func Differ(d *definition.Difference, was, is definition.Document) error {
	var before any
	if was.Kind != "" {
		var err error
		if before, err = decode(was); err != nil {
			return fmt.Errorf("as released: %w", err)
		}
	}
	now, err := decode(is)
	if err != nil {
		return err
	}
	kinds[rank(is.Kind)].differ(d, before, now)
	return nil
}
