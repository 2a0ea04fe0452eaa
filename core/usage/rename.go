package usage

import (
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/edition"
	"plainpath/core/model"
)

// Change is what becomes of one document.
type Change struct {
	Document definition.Document
	// Key is the document's own key from now on.
	Key   string
	Patch edit.Patch
}

// StuckError says what cannot follow a new key by itself.
type StuckError struct{ Findings []definition.Finding }

func (e *StuckError) Error() string {
	return fmt.Sprintf("%d places cannot follow the new name by themselves: %s", len(e.Findings), e.Findings[0].Text)
}

// RenameField gives the patches after which a field has another key and everything that
// names it follows. The new key must be free.
func RenameField(docs []definition.Document, object, field, to string) ([]Change, error) {
	before, o, err := renamed(docs, object)
	if err != nil {
		return nil, err
	}
	n := slices.IndexFunc(o.Fields, func(f model.Field) bool { return f.Key == field })
	switch {
	case n < 0:
		return nil, fmt.Errorf("there is no field %q of %q", field, object)
	case o.Field(to) != nil:
		return nil, fmt.Errorf("%s has a field %q already", o.Label, to)
	case model.KeyProblem(to) != "" || slices.Contains(model.Reserved, to):
		return nil, badKey(to)
	}
	r := following(docs, before, model.Referent{Object: object, Field: field}, to)
	if err := r.rekey(definition.Name(definition.Object, object), fmt.Sprintf("/fields/%d", n), field,
		o.Fields[n].Was); err != nil {
		return nil, err
	}
	return r.settle()
}

// RenameChoice gives the patches after which a value of a choice has another key and
// everything that names it follows.
func RenameChoice(docs []definition.Document, object, field, choice, to string) ([]Change, error) {
	before, o, err := renamed(docs, object)
	if err != nil {
		return nil, err
	}
	n := slices.IndexFunc(o.Fields, func(f model.Field) bool { return f.Key == field })
	if n < 0 {
		return nil, fmt.Errorf("there is no field %q of %q", field, object)
	}
	f := &o.Fields[n]
	at := slices.IndexFunc(f.Choices, func(c model.ChoiceValue) bool { return c.Key == choice })
	switch {
	case at < 0:
		return nil, fmt.Errorf("%s has no value %q", f.Label, choice)
	case f.HasChoice(to):
		return nil, fmt.Errorf("%s has a value %q already", f.Label, to)
	case !model.KeyPattern.MatchString(to):
		return nil, badKey(to)
	}
	r := following(docs, before, model.Referent{Object: object, Field: field, Choice: choice}, to)
	if err := r.rekey(definition.Name(definition.Object, object), fmt.Sprintf("/fields/%d/choices/%d", n, at), choice,
		f.Choices[at].Was); err != nil {
		return nil, err
	}
	return r.settle()
}

// RenameObject gives the patches after which an object has another key and everything
// that names it follows.
func RenameObject(docs []definition.Document, object, to string) ([]Change, error) {
	before, o, err := renamed(docs, object)
	if err != nil {
		return nil, err
	}
	switch {
	case before.Model.Object(to) != nil:
		return nil, fmt.Errorf("there is an object %q already", to)
	case model.KeyProblem(to) != "":
		return nil, badKey(to)
	}
	r := following(docs, before, model.Referent{Object: object}, to)
	r.moved = definition.Name(definition.Object, object)
	r.is = definition.Name(definition.Object, to)
	if err := r.rekey(r.moved, "", object, o.Was); err != nil {
		return nil, err
	}
	r.docs[r.at(r.moved)].Key = to
	return r.settle()
}

// hadKeys are the places that note which keys they had: steps and parts.
var hadKeys = regexp.MustCompile(`/(steps|parts)/\d+$`)

// RenameIn gives the patches after which what is at a pointer into a document and has the key
// from, such as a step, a part, a button or a value handed over, has another and everything that
// names it follows.
func RenameIn(docs []definition.Document, kind definition.Kind, key, pointer, from, to string) ([]Change, error) {
	before, err := edition.Compile(docs)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(docs, func(d definition.Document) bool { return d.Kind == kind && d.Key == key })
	if at < 0 {
		return nil, fmt.Errorf("there is no %s %q", kind, key)
	}
	var held struct {
		Key string
		Was []string
	}
	raw, ok := lookup(docs[at].Body, pointer)
	if !ok || pointer == "" || json.Unmarshal(raw, &held) != nil || held.Key != from {
		return nil, fmt.Errorf("%q is not where it was; somebody may have moved or renamed it", from)
	}
	if model.KeyProblem(to) != "" {
		return nil, badKey(to)
	}
	name := docs[at].Name()
	r := following(docs, before, model.Referent{Document: name, At: pointer}, to)
	if hadKeys.MatchString(pointer) {
		err = r.rekey(name, pointer, from, held.Was)
	} else {
		err = r.apply(name, replace(pointer+"/key", to))
	}
	if err != nil {
		return nil, err
	}
	changes, err := r.settle()
	var stuck *StuckError
	if errors.As(err, &stuck) {
		for _, f := range stuck.Findings {
			// Another that has the key may be what is told, when it comes later.
			if f.Document == name && strings.HasSuffix(f.Pointer, "/key") {
				return nil, errors.New(f.Text)
			}
		}
	}
	return changes, err
}

func badKey(key string) error {
	return fmt.Errorf("%q cannot be a key: use small letters, digits and underscores, beginning with a letter", key)
}

// renaming is documents in which a new key is being followed.
type renaming struct {
	before *edition.Edition
	// of is what gets the key to.
	of    model.Referent
	to    string
	docs  []definition.Document
	given []definition.Document
	// patches are by place among the documents.
	patches map[int]edit.Patch
	// moved is the name of a document whose own key changes, is its new one.
	moved, is string
}

func renamed(docs []definition.Document, object string) (*edition.Edition, *model.Object, error) {
	before, err := edition.Compile(docs)
	if err != nil {
		return nil, nil, err
	}
	o := before.Model.Object(object)
	if o == nil || o.BuiltIn() {
		return nil, nil, fmt.Errorf("there is no object %q", object)
	}
	return before, o, nil
}

func following(docs []definition.Document, before *edition.Edition, of model.Referent, to string) *renaming {
	return &renaming{before: before, of: of, to: to, docs: slices.Clone(docs), given: docs,
		patches: map[int]edit.Patch{}}
}

// rekey gives what is at a pointer its new key, and notes the old one.
func (r *renaming) rekey(name, pointer, from string, was []string) error {
	raw, err := json.Marshal(append(slices.Clone(was), from))
	if err != nil {
		return err
	}
	if err := r.apply(name, definition.Op{Op: "add", Path: pointer + "/was", Value: raw}); err != nil {
		return err
	}
	return r.apply(name, replace(pointer+"/key", r.to))
}

// settle puts the new key wherever the old one is mentioned, and makes sure that everything means what it
// meant.
func (r *renaming) settle() ([]Change, error) {
	var texts, members []definition.Mention
	for _, m := range r.before.Mentions {
		switch {
		case m.Of != r.of:
		case m.Member:
			members = append(members, m)
		default:
			texts = append(texts, m)
		}
	}
	// From the end, so that what stands before stays where it is; members last, for they lead to texts.
	for _, m := range slices.Backward(sorted(texts)) {
		if err := r.inText(m); err != nil {
			return nil, err
		}
	}
	for _, m := range slices.Backward(sorted(members)) {
		if err := r.inName(m); err != nil {
			return nil, err
		}
	}
	after, err := edition.Compile(r.docs)
	if err != nil {
		return nil, err
	}
	broken := breaksBut(r.before, after, r.moved, r.is)
	if len(broken) == 0 {
		broken = r.otherwise(after)
	}
	if len(broken) > 0 {
		return nil, &StuckError{broken}
	}
	return r.changes(), nil
}

func (r *renaming) inText(m definition.Mention) error {
	at := r.at(m.Document)
	if at < 0 {
		return fmt.Errorf("there is no document %q", m.Document)
	}
	var text string
	held, ok := lookup(r.docs[at].Body, m.Pointer)
	if !ok || json.Unmarshal(held, &text) != nil {
		return fmt.Errorf("%s of %s is no text", m.Pointer, m.Document)
	}
	return r.apply(m.Document, replace(m.Pointer, r.put(text, m)))
}

func (r *renaming) inName(m definition.Mention) error {
	at := r.at(m.Document)
	if at < 0 {
		return fmt.Errorf("there is no document %q", m.Document)
	}
	held, ok := lookup(r.docs[at].Body, m.Pointer)
	if !ok {
		return fmt.Errorf("there is nothing at %s of %s", m.Pointer, m.Document)
	}
	if err := r.apply(m.Document, definition.Op{Op: "remove", Path: m.Pointer}); err != nil {
		return err
	}
	last := strings.LastIndexByte(m.Pointer, '/') + 1
	return r.apply(m.Document, definition.Op{Op: "add", Path: m.Pointer[:last] + r.put(m.Pointer[last:], m),
		Value: held})
}

// put is a text with the new key where it is mentioned.
func (r *renaming) put(text string, m definition.Mention) string {
	chars := []rune(text)
	return string(chars[:m.Start]) + r.to + string(chars[m.End:])
}

// otherwise finds what means something else with the new key, such as a field that has the name of a
// variable by now.
func (r *renaming) otherwise(after *edition.Edition) []definition.Finding {
	was, is := meanings(r.before.Mentions), meanings(after.Mentions)
	out := []definition.Finding{}
	for at, meant := range was {
		to := place{r.renamedDocument(at.document), r.renamedPointer(at)}
		for i, of := range meant {
			meant[i] = r.renamedReferent(of)
		}
		if !slices.Equal(meant, is[to]) {
			out = append(out, definition.Finding{Document: to.document, Pointer: to.pointer, Severity: definition.Stop,
				Text: fmt.Sprintf("with the name %q this would mean something else", r.to)})
		}
	}
	slices.SortFunc(out, func(a, b definition.Finding) int {
		return strings.Compare(a.Document+a.Pointer, b.Document+b.Pointer)
	})
	return out
}

type place struct{ document, pointer string }

// meanings are what is mentioned at each place, in order.
func meanings(mentions []definition.Mention) map[place][]model.Referent {
	out := map[place][]model.Referent{}
	for _, m := range sorted(mentions) {
		at := place{m.Document, m.Pointer}
		out[at] = append(out[at], m.Of)
	}
	return out
}

func sorted(mentions []definition.Mention) []definition.Mention {
	return slices.SortedStableFunc(slices.Values(mentions), func(a, b definition.Mention) int {
		if by := strings.Compare(a.Document+a.Pointer, b.Document+b.Pointer); by != 0 {
			return by
		}
		return a.Start - b.Start
	})
}

func (r *renaming) renamedDocument(name string) string {
	if name == r.moved {
		return r.is
	}
	return name
}

// renamedPointer is where a place is found once members have their new names.
func (r *renaming) renamedPointer(at place) string {
	for _, m := range r.before.Mentions {
		inside := at.pointer == m.Pointer || strings.HasPrefix(at.pointer, m.Pointer+"/")
		if m.Member && m.Of == r.of && m.Document == at.document && inside {
			last := strings.LastIndexByte(m.Pointer, '/') + 1
			at.pointer = m.Pointer[:last] + r.put(m.Pointer[last:], m) + at.pointer[len(m.Pointer):]
		}
	}
	return at.pointer
}

func (r *renaming) renamedReferent(of model.Referent) model.Referent {
	switch {
	case r.of.Choice != "" && of == r.of:
		of.Choice = r.to
	case r.of.Choice == "" && r.of.Field != "" && of.Object == r.of.Object && of.Field == r.of.Field:
		of.Field = r.to
	case r.of.Field == "" && r.of.Object != "" && of.Object == r.of.Object:
		of.Object = r.to
	}
	of.Document = r.renamedDocument(of.Document)
	return of
}

func (r *renaming) at(name string) int {
	return slices.IndexFunc(r.given, func(d definition.Document) bool { return d.Name() == name })
}

func (r *renaming) apply(name string, op definition.Op) error {
	i := r.at(name)
	body, _, err := edit.Patch{op}.Apply(r.docs[i].Body)
	if err != nil {
		return fmt.Errorf("renaming in %s: %w", name, err)
	}
	r.docs[i].Body = body
	r.patches[i] = append(r.patches[i], op)
	return nil
}

func (r *renaming) changes() []Change {
	var out []Change
	for i, d := range r.given {
		if p := r.patches[i]; len(p) > 0 {
			out = append(out, Change{d, r.docs[i].Key, p})
		}
	}
	return out
}

func replace(pointer, text string) definition.Op {
	raw, _ := json.Marshal(text) // a string can always be written
	return definition.Op{Op: "replace", Path: pointer, Value: raw}
}
