// Package release says what changes between two editions of an app.
package release

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"

	"plainpath/core/access"
	"plainpath/core/edition"
	"plainpath/core/model"
	"plainpath/core/surface"
	"plainpath/core/walk"
)

// Change is one difference between two editions, in words.
type Change struct {
	Document string `json:"document"`
	Label    string `json:"label"`
	// What is "added", "removed" or "changed".
	What string `json:"what"`
	// Details say what changed within the document.
	Details []string `json:"details"`
	// Stored says what happens to stored records.
	Stored []string `json:"stored"`
	// Roles are those for whom it changes what they may do.
	Roles []string `json:"roles"`
}

// Diff lists what changes from one set of documents to another.
func Diff(before, after []edition.Document) ([]Change, error) {
	names := labels(append(slices.Clone(before), after...))
	old := map[string]edition.Document{}
	for _, d := range before {
		old[d.Name()] = d
	}
	out := []Change{}
	for _, d := range after {
		was, existed := formerlyCalled(d, old)
		delete(old, was.Name())
		c := Change{Document: d.Name(), Label: label(d), What: "changed", Details: []string{}, Stored: []string{}, Roles: []string{}}
		if existed && was.Key != d.Key {
			c.Details = append(c.Details, fmt.Sprintf("the key %s, which was %s", d.Key, was.Key))
			c.Stored = append(c.Stored, fmt.Sprintf("The table %s is renamed to %s.", was.Key, d.Key))
		}
		switch {
		case !existed:
			c.What = "added"
			if d.Kind == edition.ObjectDocument {
				c.Stored = append(c.Stored, "A table is made for its records.")
			}
			if err := c.fresh(d, names); err != nil {
				return nil, err
			}
		case same(was.Body, d.Body):
			continue
		default:
			if err := c.describe(was, d, names); err != nil {
				return nil, err
			}
		}
		if d.Kind == edition.ObjectDocument {
			c.seenBy(d.Key, after)
		}
		out = append(out, c)
	}
	for _, d := range before {
		if _, gone := old[d.Name()]; gone {
			c := Change{Document: d.Name(), Label: label(d), What: "removed", Details: []string{}, Stored: []string{}, Roles: []string{}}
			if d.Kind == edition.ObjectDocument {
				c.Stored = append(c.Stored, "Its records are hidden, not lost.")
				c.seenBy(d.Key, before)
			}
			out = append(out, c)
		}
	}
	return out, nil
}

// formerlyCalled is the document that one was before, under the same key or, for objects,
// another.
func formerlyCalled(d edition.Document, old map[string]edition.Document) (edition.Document, bool) {
	if was, existed := old[d.Name()]; existed || d.Kind != edition.ObjectDocument {
		return was, existed
	}
	var now struct{ Was []string }
	if json.Unmarshal(d.Body, &now) != nil {
		return edition.Document{}, false
	}
	for _, key := range now.Was {
		if was, existed := old[string(edition.ObjectDocument)+"/"+key]; existed {
			return was, true
		}
	}
	return edition.Document{}, false
}

func label(d edition.Document) string {
	var named struct{ Label string }
	if json.Unmarshal(d.Body, &named) != nil || named.Label == "" {
		return d.Key
	}
	return named.Label
}

func same(a, b json.RawMessage) bool {
	var x, y any
	return json.Unmarshal(a, &x) == nil && json.Unmarshal(b, &y) == nil && reflect.DeepEqual(x, y)
}

// labels are what documents are called, by kind and key.
func labels(docs []edition.Document) map[edition.DocumentKind]map[string]string {
	out := map[edition.DocumentKind]map[string]string{}
	for _, d := range docs {
		if out[d.Kind] == nil {
			out[d.Kind] = map[string]string{}
		}
		out[d.Kind][d.Key] = label(d)
	}
	return out
}

// fresh says for whom a new document is.
func (c *Change) fresh(d edition.Document, names map[edition.DocumentKind]map[string]string) error {
	roles := names[edition.RoleDocument]
	switch d.Kind {
	case edition.WalkthroughDocument:
		var w walk.Walkthrough
		if err := edition.Decode(d.Body, &w); err != nil {
			return fmt.Errorf("reading %s: %w", d.Name(), err)
		}
		c.allowed("start it", nil, w.Roles, roles)
	case edition.PageDocument:
		var p surface.Page
		if err := edition.Decode(d.Body, &p); err != nil {
			return fmt.Errorf("reading %s: %w", d.Name(), err)
		}
		c.allowed("open it", nil, p.Roles, roles)
	}
	return nil
}

func (c *Change) describe(was, is edition.Document, names map[edition.DocumentKind]map[string]string) error {
	roles := names[edition.RoleDocument]
	switch is.Kind {
	case edition.AppDocument:
		var a, b edition.App
		if err := decode(was, &a, is, &b); err != nil {
			return err
		}
		c.app(&a, &b)
	case edition.RoleDocument:
		var a, b access.Role
		if err := decode(was, &a, is, &b); err != nil {
			return err
		}
		c.role(&a, &b, names[edition.ObjectDocument])
	case edition.PageDocument:
		var a, b surface.Page
		if err := decode(was, &a, is, &b); err != nil {
			return err
		}
		c.page(&a, &b, roles)
	case edition.ObjectDocument:
		var a, b model.Object
		if err := decode(was, &a, is, &b); err != nil {
			return err
		}
		c.fields(&a, &b)
		c.objectItself(&a, &b)
	case edition.WalkthroughDocument:
		var a, b walk.Walkthrough
		if err := decode(was, &a, is, &b); err != nil {
			return err
		}
		c.steps(&a, &b, roles)
	}
	return nil
}

func decode(was edition.Document, a any, is edition.Document, b any) error {
	if err := edition.Decode(was.Body, a); err != nil {
		return fmt.Errorf("reading %s as released: %w", was.Name(), err)
	}
	if err := edition.Decode(is.Body, b); err != nil {
		return fmt.Errorf("reading %s: %w", is.Name(), err)
	}
	return nil
}

// formerly is the field that one was before its key changed.
func formerly(o *model.Object, f *model.Field) *model.Field {
	for _, key := range f.Was {
		if was := o.Field(key); was != nil {
			return was
		}
	}
	return nil
}

func (c *Change) fields(a, b *model.Object) {
	taken := map[string]bool{}
	for i := range b.Fields {
		f := &b.Fields[i]
		was := a.Field(f.Key)
		if was == nil {
			if was = formerly(a, f); was != nil {
				taken[was.Key] = true
				c.Details = append(c.Details, fmt.Sprintf("field %s has the key %s, which was %s", f.Label, f.Key, was.Key))
				c.Stored = append(c.Stored, fmt.Sprintf("The column %s is renamed to %s.", was.Key, f.Key))
			}
		}
		switch {
		case was == nil:
			c.Details = append(c.Details, fmt.Sprintf("field %s added", f.Label))
			c.Stored = append(c.Stored, added(f))
		case !reflect.DeepEqual(was, f):
			c.Details = append(c.Details, fmt.Sprintf("field %s changed", f.Label))
			if (model.Conversion{From: was, To: f}).Needed() && was.Type == f.Type {
				c.Stored = append(c.Stored, fmt.Sprintf("Stored values of %s get their new keys.", f.Label))
			} else if (model.Conversion{From: was, To: f}).Needed() {
				c.Stored = append(c.Stored, fmt.Sprintf("What is stored in %s is converted from %s to %s.", f.Label, model.Words(was.Type), model.Words(f.Type)))
			}
			if f.Required && !was.Required {
				c.Stored = append(c.Stored, fmt.Sprintf("%s becomes required.", f.Label))
			}
			if f.Unique && !was.Unique {
				c.Stored = append(c.Stored, fmt.Sprintf("%s becomes unique.", f.Label))
			}
		}
	}
	for i := range a.Fields {
		if f := &a.Fields[i]; b.Field(f.Key) == nil && !taken[f.Key] {
			c.Details = append(c.Details, fmt.Sprintf("field %s removed", f.Label))
			c.Stored = append(c.Stored, fmt.Sprintf("The column of %s is hidden, not lost.", f.Label))
		}
	}
}

func added(f *model.Field) string {
	if f.Required && len(f.Default) > 0 {
		return fmt.Sprintf("A column for %s is added; the records there are get its default.", f.Label)
	}
	return fmt.Sprintf("A column for %s is added; it is empty in the records there are.", f.Label)
}

func (c *Change) steps(a, b *walk.Walkthrough, roles map[string]string) {
	c.setting("its name", a.Label, b.Label)
	c.setting("its note", a.Note, b.Note)
	was, is := flatten(a.Steps), flatten(b.Steps)
	for _, s := range is {
		old, existed := find(was, s.Key)
		switch {
		case !existed:
			c.Details = append(c.Details, "step “"+name(s)+"” added")
		case !reflect.DeepEqual(old, s):
			c.Details = append(c.Details, "step “"+name(s)+"” changed")
		}
	}
	for _, s := range was {
		if _, still := find(is, s.Key); !still {
			c.Details = append(c.Details, "step “"+name(s)+"” removed")
		}
	}
	c.allowed("start it", a.Roles, b.Roles, roles)
	if !reflect.DeepEqual(a.Takes, b.Takes) {
		c.say("what it takes from what opens it changed")
	}
	if len(c.Details) == 0 {
		c.say("the order of its steps changed")
	}
}

func name(s walk.Step) string {
	if s.Title != "" {
		return s.Title
	}
	return s.Key
}

func find(steps []walk.Step, key string) (walk.Step, bool) {
	for _, s := range steps {
		if s.Key == key {
			return s, true
		}
	}
	return walk.Step{}, false
}

// flatten lists steps with those inside branches behind them.
func flatten(steps []walk.Step) []walk.Step {
	var out []walk.Step
	for _, s := range steps {
		out = append(out, s)
		if s.Branch == nil {
			continue
		}
		for _, w := range s.Branch.Ways {
			out = append(out, flatten(w.Steps)...)
		}
		out = append(out, flatten(s.Branch.Otherwise)...)
	}
	return out
}
