// Package usage says what of an app uses a field, and lets everything follow when its key
// changes. The compiler is the judge: what uses a field is what would break without it.
package usage

import (
	"encoding/json"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"plainpath/core/checkup"
	"plainpath/core/edit"
	"plainpath/core/edition"
	"plainpath/core/model"
)

// gone is a key that no field has: it stands for a field that was taken away.
const gone = "zz_taken_away"

// OfField gives what would break if a field were taken away: one finding for each place
// that uses it.
func OfField(docs []edition.Document, object, field string) ([]checkup.Finding, error) {
	before, err := edition.Compile(docs)
	if err != nil {
		return nil, err
	}
	without, err := withKey(docs, object, field, gone)
	if err != nil {
		return nil, err
	}
	after, err := edition.Compile(without)
	if err != nil {
		return nil, err
	}
	return breaks(before, after), nil
}

// breaks are the findings that were not there before.
func breaks(before, after *edition.Edition) []checkup.Finding {
	type place struct{ document, pointer, text string }
	known := map[place]bool{}
	for _, f := range before.Findings {
		known[place{f.Document, f.Pointer, f.Text}] = true
	}
	out := []checkup.Finding{}
	for _, f := range after.Findings {
		if !known[place{f.Document, f.Pointer, f.Text}] {
			out = append(out, f)
		}
	}
	return out
}

// withKey gives the documents with another key for a field, and nothing following it.
func withKey(docs []edition.Document, object, field, to string) ([]edition.Document, error) {
	out := slices.Clone(docs)
	for i, d := range out {
		if d.Kind != edition.ObjectDocument || d.Key != object {
			continue
		}
		var o model.Object
		if err := edition.Decode(d.Body, &o); err != nil {
			return nil, fmt.Errorf("reading %s: %w", d.Name(), err)
		}
		n := slices.IndexFunc(o.Fields, func(f model.Field) bool { return f.Key == field })
		if n < 0 {
			break
		}
		var err error
		out[i].Body, _, err = edit.Patch{replace(fmt.Sprintf("/fields/%d/key", n), to)}.Apply(d.Body)
		return out, err
	}
	return nil, fmt.Errorf("there is no field %q of %q", field, object)
}

// Change is what becomes of one document.
type Change struct {
	Document edition.Document
	Patch    edit.Patch
}

// StuckError says what cannot follow a new key by itself.
type StuckError struct{ Findings []checkup.Finding }

func (e *StuckError) Error() string {
	return fmt.Sprintf("%d places cannot follow the new name by themselves: %s", len(e.Findings), e.Findings[0].Text)
}

// mostRounds bounds how often the documents are compiled: each round mends at least one
// name in every expression that has the field.
const mostRounds = 50

// RenameField gives the patches after which a field has another key and everything that
// names it follows. The new key must be free.
func RenameField(docs []edition.Document, object, field, to string) ([]Change, error) {
	before, err := edition.Compile(docs)
	if err != nil {
		return nil, err
	}
	o := before.Model.Object(object)
	switch {
	case o == nil || o.BuiltIn() || o.Field(field) == nil:
		return nil, fmt.Errorf("there is no field %q of %q", field, object)
	case o.Field(to) != nil:
		return nil, fmt.Errorf("%s has a field %q already", o.Label, to)
	case model.KeyProblem(to) != "" || slices.Contains(model.Reserved, to):
		return nil, fmt.Errorf("%q cannot be a key: use small letters, digits and underscores, beginning with a letter", to)
	}
	r := &renaming{from: field, to: to, word: regexp.MustCompile(`\b` + regexp.QuoteMeta(field) + `\b`), patches: map[string]edit.Patch{}}
	n := slices.IndexFunc(o.Fields, func(f model.Field) bool { return f.Key == field })
	was, err := json.Marshal(append(slices.Clone(o.Fields[n].Was), field))
	if err != nil {
		return nil, err
	}
	r.docs = slices.Clone(docs)
	name := "object/" + object
	for _, op := range []checkup.Op{replace(fmt.Sprintf("/fields/%d/key", n), to), {Op: "add", Path: fmt.Sprintf("/fields/%d/was", n), Value: was}} {
		if err := r.apply(name, op); err != nil {
			return nil, err
		}
	}
	for range mostRounds {
		after, err := edition.Compile(r.docs)
		if err != nil {
			return nil, err
		}
		broken := breaks(before, after)
		if len(broken) == 0 {
			return r.changes(docs), nil
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
			return nil, &StuckError{broken}
		}
	}
	return nil, fmt.Errorf("the new name could not be followed everywhere")
}

type renaming struct {
	from, to string
	word     *regexp.Regexp
	docs     []edition.Document
	patches  map[string]edit.Patch
}

func (r *renaming) apply(name string, op checkup.Op) error {
	for i, d := range r.docs {
		if d.Name() != name {
			continue
		}
		body, _, err := edit.Patch{op}.Apply(d.Body)
		if err != nil {
			return fmt.Errorf("renaming in %s: %w", name, err)
		}
		r.docs[i].Body = body
		r.patches[name] = append(r.patches[name], op)
	}
	return nil
}

// follow puts the new key in the place of the old one where a finding points.
func (r *renaming) follow(f checkup.Finding) (bool, error) {
	at := slices.IndexFunc(r.docs, func(d edition.Document) bool { return d.Name() == f.Document })
	if at < 0 {
		return false, nil
	}
	held, ok := lookup(r.docs[at].Body, f.Pointer)
	if !ok {
		return false, nil
	}
	var text string
	if json.Unmarshal(held, &text) != nil {
		last := strings.LastIndexByte(f.Pointer, '/')
		if f.Pointer[last+1:] != r.from { // a member named like the field
			return false, nil
		}
		if err := r.apply(f.Document, checkup.Op{Op: "remove", Path: f.Pointer}); err != nil {
			return false, err
		}
		return true, r.apply(f.Document, checkup.Op{Op: "add", Path: f.Pointer[:last+1] + r.to, Value: held})
	}
	next := text
	switch {
	case text == r.from:
		next = r.to
	case f.Place != nil && f.Place.Source == text:
		next = r.replaceAt(text, f.Place.Offset)
	}
	if next == text {
		return false, nil
	}
	return true, r.apply(f.Document, replace(f.Pointer, next))
}

// replaceAt puts the new key in the place of the first old one from an offset on, given in
// characters.
func (r *renaming) replaceAt(text string, offset int) string {
	chars := []rune(text)
	offset = min(max(offset, 0), len(chars))
	head, tail := string(chars[:offset]), string(chars[offset:])
	place := r.word.FindStringIndex(tail)
	if place == nil {
		return text
	}
	return head + tail[:place[0]] + r.to + tail[place[1]:]
}

func (r *renaming) changes(docs []edition.Document) []Change {
	var out []Change
	for _, d := range docs {
		if p := r.patches[d.Name()]; len(p) > 0 {
			out = append(out, Change{d, p})
		}
	}
	return out
}

func replace(pointer, text string) checkup.Op {
	raw, _ := json.Marshal(text) // a string can always be written
	return checkup.Op{Op: "replace", Path: pointer, Value: raw}
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
