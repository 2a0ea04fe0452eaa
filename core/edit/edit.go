// Package edit lets several people edit one document. An edit is a JSON Patch
// (RFC 6902) against a revision; it is carried over what others changed since, and
// only a clash over the same value is refused.
package edit

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"

	jsonpatch "github.com/evanphx/json-patch/v5"

	"plainpath/core/checkup"
)

// Patch is a JSON Patch of add, remove and replace operations. A move is written as
// a remove and an add.
type Patch []checkup.Op

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

func applyOne(document json.RawMessage, op checkup.Op) (json.RawMessage, error) {
	raw, err := json.Marshal([]checkup.Op{op})
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

func invert(document json.RawMessage, op checkup.Op) (checkup.Op, error) {
	before, exists := lookup(document, op.Path)
	switch op.Op {
	case "add":
		if isElement(document, op.Path) { // pushes the rest of an array along
			return checkup.Op{Op: "remove", Path: settled(document, op.Path)}, nil
		}
		if exists {
			return checkup.Op{Op: "replace", Path: op.Path, Value: before}, nil
		}
		return checkup.Op{Op: "remove", Path: op.Path}, nil
	case "remove":
		if !exists {
			return checkup.Op{}, fmt.Errorf("there is nothing at %s to remove", op.Path)
		}
		return checkup.Op{Op: "add", Path: op.Path, Value: before}, nil
	case "replace":
		if !exists {
			return checkup.Op{}, fmt.Errorf("there is nothing at %s to replace", op.Path)
		}
		return checkup.Op{Op: "replace", Path: op.Path, Value: before}, nil
	}
	return checkup.Op{}, fmt.Errorf("an edit may add, remove and replace, not %q", op.Op)
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

// Over carries the patch over one that was applied meanwhile: places in arrays shift
// along. It is a *ClashError when both touch the same value differently.
func (p Patch) Over(theirs Patch) (Patch, error) {
	out := slices.Clone(p)
	for i := range out {
		for _, t := range theirs {
			var err error
			if out[i], err = over(out[i], t); err != nil {
				return nil, err
			}
		}
	}
	return out, nil
}

func over(ours, theirs checkup.Op) (checkup.Op, error) {
	clash := &ClashError{Pointer: ours.Path, Theirs: theirs.Value, Ours: ours.Value}
	parent, last := split(theirs.Path)
	place, err := strconv.Atoi(last)
	if err == nil && theirs.Op != "replace" { // an element came or went
		rest, below := strings.CutPrefix(ours.Path, parent+"/")
		if !below {
			return overPlain(ours, theirs, clash)
		}
		token, deeper, _ := strings.Cut(rest, "/")
		n, err := strconv.Atoi(token)
		if err != nil {
			return ours, nil
		}
		within := rest != token
		switch {
		case theirs.Op == "add" && (n > place || n == place && (within || ours.Op != "add")):
			n++
		case theirs.Op == "add":
			return ours, nil
		case n == place && ours.Op != "add", n == place && within:
			return ours, clash // it was removed
		case n > place:
			n--
		default:
			return ours, nil
		}
		ours.Path = parent + "/" + strconv.Itoa(n)
		if within {
			ours.Path += "/" + deeper
		}
		return ours, nil
	}
	return overPlain(ours, theirs, clash)
}

func overPlain(ours, theirs checkup.Op, clash *ClashError) (checkup.Op, error) {
	same := ours.Path == theirs.Path
	if same && ours.Op == theirs.Op && string(ours.Value) == string(theirs.Value) {
		return ours, nil
	}
	if same || strings.HasPrefix(ours.Path, theirs.Path+"/") || strings.HasPrefix(theirs.Path, ours.Path+"/") {
		return ours, clash
	}
	return ours, nil
}
