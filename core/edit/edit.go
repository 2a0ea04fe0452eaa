// Package edit lets several people edit one document. An edit is a JSON Patch
// (RFC 6902) against a revision; it is carried over what others changed since, and
// only a clash over the same value is refused. In whatever order two edits arrive, both
// orders give the same document, or both clash.
package edit

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	jsonpatch "github.com/evanphx/json-patch/v5"

	"plainpath/core/definition"
)

// Patch is a JSON Patch of add, remove, replace and move operations. A move stays within its
// array. A numeral in a path is always a place in an array: no object has keys like that.
type Patch []definition.Op

// ClashError says that somebody else changed the same value meanwhile.
type ClashError struct {
	Pointer      string
	Theirs, Ours json.RawMessage
}

func (e *ClashError) Error() string {
	return fmt.Sprintf("somebody else changed %s meanwhile", e.Pointer)
}

// Apply gives the document after the patch, and the patch that undoes it.
func (p Patch) Apply(document json.RawMessage) (after json.RawMessage, inverse Patch, err error) {
	after = document
	for _, op := range p {
		undo, err := invert(after, op)
		if err != nil {
			return nil, nil, err
		}
		if after, err = applyOne(after, op); err != nil {
			return nil, nil, err
		}
		inverse = append(inverse, undo)
	}
	slices.Reverse(inverse)
	return after, inverse, nil
}

func applyOne(document json.RawMessage, op definition.Op) (json.RawMessage, error) {
	raw, err := json.Marshal([]definition.Op{op})
	if err != nil {
		return nil, fmt.Errorf("writing the edit: %w", err)
	}
	decoded, err := jsonpatch.DecodePatch(raw)
	if err != nil {
		return nil, fmt.Errorf("reading the edit of %s: %w", op.Path, err)
	}
	after, err := decoded.Apply(document)
	if err != nil {
		return nil, fmt.Errorf("carrying out the edit of %s: %w", op.Path, err)
	}
	return after, nil
}

func invert(document json.RawMessage, op definition.Op) (definition.Op, error) {
	if op.Op == "move" {
		from, _, okFrom := element(op.From)
		to, _, ok := element(op.Path)
		if _, exists := lookup(document, op.From); !exists || !ok || !okFrom || from != to || !isElement(document,
			op.Path) {
			return definition.Op{},
				fmt.Errorf("%s cannot be moved to %s: an element moves to another place within its list", op.From,
					op.Path)
		}
		return definition.Op{Op: "move", From: op.Path, Path: op.From}, nil
	}
	before, exists := lookup(document, op.Path)
	switch op.Op {
	case "add":
		if isElement(document, op.Path) { // pushes the rest of an array along
			return definition.Op{Op: "remove", Path: settled(document, op.Path)}, nil
		}
		if exists {
			return definition.Op{Op: "replace", Path: op.Path, Value: before}, nil
		}
		return definition.Op{Op: "remove", Path: op.Path}, nil
	case "remove":
		if !exists {
			return definition.Op{}, fmt.Errorf("there is nothing at %s to remove", op.Path)
		}
		return definition.Op{Op: "add", Path: op.Path, Value: before}, nil
	case "replace":
		if !exists {
			return definition.Op{}, fmt.Errorf("there is nothing at %s to replace", op.Path)
		}
		return definition.Op{Op: "replace", Path: op.Path, Value: before}, nil
	}
	return definition.Op{}, fmt.Errorf("an edit may add, remove, replace and move, not %q", op.Op)
}

// Settle writes "the end of the array" as a number, which stays right when the patch
// is carried over other edits or undone.
func (p Patch) Settle(document json.RawMessage) (Patch, error) {
	out := slices.Clone(p)
	for i := range out {
		out[i].Path = settled(document, out[i].Path)
		after, err := applyOne(document, out[i])
		if err != nil {
			return nil, err
		}
		document = after
	}
	return out, nil
}

func settled(document json.RawMessage, pointer string) string {
	parent, last := split(pointer)
	if last != "-" {
		return pointer
	}
	raw, _ := lookup(document, parent)
	var array []json.RawMessage
	if json.Unmarshal(raw, &array) != nil {
		return pointer
	}
	return parent + "/" + strconv.Itoa(len(array))
}

func isElement(document json.RawMessage, pointer string) bool {
	parent, _ := split(pointer)
	raw, ok := lookup(document, parent)
	return ok && len(raw) > 0 && raw[0] == '['
}

func split(pointer string) (parent, last string) {
	i := strings.LastIndexByte(pointer, '/')
	if i < 0 {
		return "", pointer
	}
	return pointer[:i], pointer[i+1:]
}

var unescape = strings.NewReplacer("~1", "/", "~0", "~")

// lookup finds what a JSON Pointer (RFC 6901) points at.
func lookup(document json.RawMessage, pointer string) (json.RawMessage, bool) {
	at := document
	if pointer == "" {
		return at, true
	}
	for token := range strings.SplitSeq(pointer[1:], "/") {
		if trimmed := strings.TrimSpace(string(at)); strings.HasPrefix(trimmed, "[") {
			var array []json.RawMessage
			i, err := strconv.Atoi(token)
			if err != nil || json.Unmarshal(at, &array) != nil || i < 0 || i >= len(array) {
				return nil, false
			}
			at = array[i]
			continue
		}
		var object map[string]json.RawMessage
		if json.Unmarshal(at, &object) != nil {
			return nil, false
		}
		next, ok := object[unescape.Replace(token)]
		if !ok {
			return nil, false
		}
		at = next
	}
	return at, true
}
