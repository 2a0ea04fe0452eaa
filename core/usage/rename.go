package usage

import (
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
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

// mostRounds bounds how often the documents are compiled: each round mends at least one
// name in every expression that has the old one.
const mostRounds = 50

// RenameField gives the patches after which a field has another key and everything that
// names it follows. The new key must be free.
func RenameField(docs []definition.Document, object, field, to string) ([]Change, error) {
	r, o, err := rename(docs, object, field, to)
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
	if err := r.rekey("object/"+object, fmt.Sprintf("/fields/%d", n), o.Fields[n].Was); err != nil {
		return nil, err
	}
	return r.settle()
}

// RenameChoice gives the patches after which a value of a choice has another key and
// everything that names it follows.
func RenameChoice(docs []definition.Document, object, field, choice, to string) ([]Change, error) {
	r, o, err := rename(docs, object, choice, to)
	if err != nil {
		return nil, err
	}
	n := slices.IndexFunc(o.Fields, func(f model.Field) bool { return f.Key == field })
	if n < 0 {
		return nil, fmt.Errorf("there is no field %q of %q", field, object)
	}
	f := &o.Fields[n]
	at := func(key string) int {
		return slices.IndexFunc(f.Choices, func(c model.ChoiceValue) bool { return c.Key == key })
	}
	switch {
	case at(choice) < 0:
		return nil, fmt.Errorf("%s has no value %q", f.Label, choice)
	case at(to) >= 0:
		return nil, fmt.Errorf("%s has a value %q already", f.Label, to)
	case !model.KeyPattern.MatchString(to):
		return nil, badKey(to)
	}
	name, pointer := "object/"+object, fmt.Sprintf("/fields/%d", n)
	if err := r.rekey(name, fmt.Sprintf("%s/choices/%d", pointer, at(choice)), f.Choices[at(choice)].Was); err != nil {
		return nil, err
	}
	if again := r.inList(f.Default); again != nil {
		if err := r.apply(name, definition.Op{Op: "replace", Path: pointer + "/default", Value: again}); err != nil {
			return nil, err
		}
	}
	return r.settle()
}

// RenameObject gives the patches after which an object has another key and everything
// that names it follows.
func RenameObject(docs []definition.Document, object, to string) ([]Change, error) {
	r, o, err := rename(docs, object, object, to)
	if err != nil {
		return nil, err
	}
	switch {
	case r.before.Model.Object(to) != nil:
		return nil, fmt.Errorf("there is an object %q already", to)
	case model.KeyProblem(to) != "":
		return nil, badKey(to)
	}
	// Expressions name an object only in the lists of records that refer to one.
	r.word, r.with = regexp.MustCompile(`\ball_`+regexp.QuoteMeta(object)+`((?:_by_\w+)?)\b`), "all_"+to+"${1}"
	r.moved, r.is = "object/"+object, "object/"+to
	for i, d := range r.docs {
		var named struct{ Organisation string }
		if d.Kind == definition.App && json.Unmarshal(d.Body, &named) == nil && named.Organisation == object {
			if err := r.apply(d.Name(), replace("/organisation", to)); err != nil {
				return nil, err
			}
		}
		if d.Name() == r.moved {
			if err := r.rekey(r.moved, "", o.Was); err != nil {
				return nil, err
			}
			r.docs[i].Key = to
		}
	}
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
	r := following(docs, before, held.Key, to)
	name := docs[at].Name()
	if hadKeys.MatchString(pointer) {
		err = r.rekey(name, pointer, held.Was)
	} else {
		err = r.apply(name, replace(pointer+"/key", to))
	}
	if err != nil {
		return nil, err
	}
	after, err := edition.Compile(r.docs)
	if err != nil {
		return nil, err
	}
	for _, f := range breaks(before, after) {
		// Another that has the key may be what is told, when it comes later.
		if f.Document == name && strings.HasSuffix(f.Pointer, "/key") {
			return nil, errors.New(f.Text)
		}
	}
	return r.settle()
}

func badKey(key string) error {
	return fmt.Errorf("%q cannot be a key: use small letters, digits and underscores, beginning with a letter", key)
}

// renaming is documents in which a new key is being followed.
type renaming struct {
	before   *edition.Edition
	from, to string
	// word finds the old name in expressions and texts; with is put in its place.
	word  *regexp.Regexp
	with  string
	docs  []definition.Document
	given []definition.Document
	// patches are by place among the documents.
	patches map[int]edit.Patch
	// moved is the name of a document whose own key changes, is its new one.
	moved, is string
}

func rename(docs []definition.Document, object, from, to string) (*renaming, *model.Object, error) {
	before, err := edition.Compile(docs)
	if err != nil {
		return nil, nil, err
	}
	o := before.Model.Object(object)
	if o == nil || o.BuiltIn() {
		return nil, nil, fmt.Errorf("there is no object %q", object)
	}
	return following(docs, before, from, to), o, nil
}

func following(docs []definition.Document, before *edition.Edition, from, to string) *renaming {
	return &renaming{before: before, from: from, to: to, word: regexp.MustCompile(`\b` + regexp.QuoteMeta(from) + `\b`),
		with: to,
		docs: slices.Clone(docs), given: docs, patches: map[int]edit.Patch{}}
}

// rekey gives what is at a pointer its new key, and notes the old one.
func (r *renaming) rekey(name, pointer string, was []string) error {
	raw, err := json.Marshal(append(slices.Clone(was), r.from))
	if err != nil {
		return err
	}
	if err := r.apply(name, definition.Op{Op: "add", Path: pointer + "/was", Value: raw}); err != nil {
		return err
	}
	return r.apply(name, replace(pointer+"/key", r.to))
}

// inList puts the new key in the place of the old one in a list of choices, nil when it is
// no list or has it not.
func (r *renaming) inList(raw json.RawMessage) json.RawMessage {
	var keys []string
	if json.Unmarshal(raw, &keys) != nil || !slices.Contains(keys, r.from) {
		return nil
	}
	keys[slices.Index(keys, r.from)] = r.to
	out, _ := json.Marshal(keys) // strings can always be written
	return out
}

// settle follows the new key from finding to finding until nothing is broken by it.
func (r *renaming) settle() ([]Change, error) {
	broken, err := r.broken()
	for range mostRounds {
		if err != nil || len(broken) == 0 {
			return r.changes(), err
		}
		moved := false
		for _, f := range broken {
			did, err := r.follow(f)
			if err != nil {
				return nil, err
			}
			moved = moved || did
		}
		if !moved {
			if moved, err = r.followInside(broken); err != nil {
				return nil, err
			}
		}
		if !moved {
			return nil, &StuckError{broken}
		}
		broken, err = r.broken()
	}
	return nil, errors.New("the new name could not be followed everywhere")
}

// broken are the findings that the new key has brought so far.
func (r *renaming) broken() ([]definition.Finding, error) {
	after, err := edition.Compile(r.docs)
	if err != nil {
		return nil, err
	}
	return breaksBut(r.before, after, r.moved, r.is), nil
}

// followInside puts the new key in the place of the old one within expressions, one at a time:
// a finding may be but the consequence of another, and then the name it points at means
// something else. What does not help is taken back.
func (r *renaming) followInside(broken []definition.Finding) (bool, error) {
	moved := false
	for _, f := range broken {
		at := r.at(f.Document)
		if at < 0 || f.Place == nil {
			continue
		}
		held, ok := lookup(r.docs[at].Body, f.Pointer)
		var text string
		if !ok || json.Unmarshal(held, &text) != nil || f.Place.Source != text {
			continue
		}
		next := r.replaceAt(text, f.Place.Offset)
		if next == text {
			continue
		}
		if err := r.apply(f.Document, replace(f.Pointer, next)); err != nil {
			return moved, err
		}
		after, err := r.broken()
		if err != nil {
			return moved, err
		}
		if !helped(f, after) {
			if err := r.takeBack(at, f.Document, replace(f.Pointer, text)); err != nil {
				return moved, err
			}
			continue
		}
		moved = true
	}
	return moved, nil
}

// helped says whether a finding is gone, or another stands elsewhere in its expression by now.
func helped(f definition.Finding, after []definition.Finding) bool {
	return !slices.ContainsFunc(after, func(o definition.Finding) bool {
		return o.Document == f.Document && o.Pointer == f.Pointer &&
			(o.Place == nil || o.Place.Offset == f.Place.Offset)
	})
}

// takeBack undoes the latest operation on a document.
func (r *renaming) takeBack(at int, name string, back definition.Op) error {
	if err := r.apply(name, back); err != nil {
		return err
	}
	r.patches[at] = r.patches[at][:len(r.patches[at])-2]
	return nil
}

func (r *renaming) at(name string) int {
	return slices.IndexFunc(r.docs, func(d definition.Document) bool { return d.Name() == name })
}

func (r *renaming) apply(name string, op definition.Op) error {
	for i, d := range r.docs {
		if d.Name() != name {
			continue
		}
		body, _, err := edit.Patch{op}.Apply(d.Body)
		if err != nil {
			return fmt.Errorf("renaming in %s: %w", name, err)
		}
		r.docs[i].Body = body
		r.patches[i] = append(r.patches[i], op)
	}
	return nil
}

// follow puts the new key in the place of the old one where a finding points at just that.
func (r *renaming) follow(f definition.Finding) (bool, error) {
	at := r.at(f.Document)
	if at < 0 {
		return false, nil
	}
	held, ok := lookup(r.docs[at].Body, f.Pointer)
	if !ok {
		return false, nil
	}
	if again := r.inList(held); again != nil {
		return true, r.apply(f.Document, definition.Op{Op: "replace", Path: f.Pointer, Value: again})
	}
	var text string
	if json.Unmarshal(held, &text) != nil {
		last := strings.LastIndexByte(f.Pointer, '/')
		if f.Pointer[last+1:] != r.from { // a member named like the field
			return false, nil
		}
		if err := r.apply(f.Document, definition.Op{Op: "remove", Path: f.Pointer}); err != nil {
			return false, err
		}
		return true, r.apply(f.Document, definition.Op{Op: "add", Path: f.Pointer[:last+1] + r.to, Value: held})
	}
	// elsewhere it means something else than an object
	if text != r.from || r.moved != "" && !strings.HasSuffix(f.Pointer, "/object") {
		return false, nil
	}
	return true, r.apply(f.Document, replace(f.Pointer, r.to))
}

// replaceAt puts the new key in the place of the first old one from an offset on, given in
// characters.
func (r *renaming) replaceAt(text string, offset int) string {
	chars := []rune(text)
	offset = min(max(offset, 0), len(chars))
	head, tail := string(chars[:offset]), string(chars[offset:])
	place := r.word.FindStringSubmatchIndex(tail)
	if place == nil {
		return text
	}
	return head + tail[:place[0]] + string(r.word.ExpandString(nil, r.with, tail, place)) + tail[place[1]:]
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
