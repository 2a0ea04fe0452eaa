package edit

import (
	"bytes"
	"cmp"
	"slices"
	"strconv"
	"strings"

	"plainpath/core/definition"
)

// Over carries the patch over one that was made from the same document and applied meanwhile:
// places in arrays shift along, and what both did the same is done once. It is a *ClashError
// when both touch the same value differently.
//
// Both patches are settled. Each operation is carried through the other's, and the other's
// through it before the next, so that every operation is held against one made of the same
// document (operational transformation; Ellis and Gibbs, 1989).
func (p Patch) Over(theirs Patch) (Patch, error) {
	out, _, err := cross(p, theirs)
	return out, err
}

// cross carries two patches over each other.
func cross(ours, theirs Patch) (overTheirs, overOurs Patch, err error) {
	rest := slices.Clone(theirs)
	for _, op := range ours {
		mine := &op
		var kept Patch
		for _, t := range rest {
			if mine == nil {
				kept = append(kept, t)
				continue
			}
			var other *definition.Op
			if mine, other, err = pair(*mine, t); err != nil {
				return nil, nil, err
			}
			if other != nil {
				kept = append(kept, *other)
			}
		}
		rest = kept
		if mine != nil {
			overTheirs = append(overTheirs, *mine)
		}
	}
	return overTheirs, rest, nil
}

// pair carries two operations on the same document over each other. One that the other has
// done already is nil.
func pair(a, b definition.Op) (overB, overA *definition.Op, err error) {
	switch {
	case equalOps(a, b) && !inserts(a):
		return nil, nil, nil
	case idle(a):
		return nil, &b, nil
	case idle(b):
		return &a, nil, nil
	}
	x, y := effectOf(a), effectOf(b)
	if x.hits(y) || y.hits(x) {
		return nil, nil, &ClashError{Pointer: a.Path, Theirs: b.Value, Ours: a.Value}
	}
	first := comesFirst(a, b)
	return x.carry(a, y, first), y.carry(b, x, !first), nil
}

func equalOps(a, b definition.Op) bool {
	return a.Op == b.Op && a.Path == b.Path && a.From == b.From && bytes.Equal(a.Value, b.Value)
}

// idle says whether an operation moves something to where it is.
func idle(op definition.Op) bool { return op.Op == "move" && op.From == op.Path }

func inserts(op definition.Op) bool {
	_, _, ok := element(op.Path)
	return op.Op == "add" && ok
}

// comesFirst says which of two operations that put something at the same place comes first,
// whichever of them is asked: additions before moves, then by what is put there or was moved.
func comesFirst(a, b definition.Op) bool {
	if (a.Op == "move") != (b.Op == "move") {
		return b.Op == "move"
	}
	_, fromA, _ := element(a.From)
	_, fromB, _ := element(b.From)
	return cmp.Or(cmp.Compare(fromA, fromB), bytes.Compare(a.Value, b.Value)) < 0
}

// element splits a pointer to an element of an array.
func element(pointer string) (array string, at int, ok bool) {
	array, last := split(pointer)
	at, err := strconv.Atoi(last)
	return array, at, err == nil
}

// effect is what an operation does to places: an element of an array comes, goes, or does both,
// or a value is set.
type effect struct {
	// array is where elements come and go, "" where a value is set.
	array string
	// from is the place of the element that goes, to that of the one that comes, counted when
	// it is gone; -1 for none.
	from, to int
	// set is the pointer to a value that is set or taken away.
	set string
}

func effectOf(op definition.Op) effect {
	array, at, isElement := element(op.Path)
	switch {
	case op.Op == "move":
		_, from, _ := element(op.From)
		return effect{array: array, from: from, to: at}
	case op.Op == "add" && isElement:
		return effect{array: array, from: -1, to: at}
	case op.Op == "remove" && isElement:
		return effect{array: array, from: at, to: -1}
	}
	return effect{set: op.Path, from: -1, to: -1}
}

// removes is the pointer to what an operation does away with as a whole, "" for none.
func (e effect) removes() string {
	if e.array == "" {
		return e.set
	}
	if e.to < 0 {
		return e.array + "/" + strconv.Itoa(e.from)
	}
	return ""
}

// hits says whether an operation does away with something that another is about.
func (e effect) hits(o effect) bool {
	gone := e.removes()
	switch {
	case o.array == "" && within(o.set, gone), o.array != "" && within(o.array, gone):
		return true
	case o.from >= 0 && within(o.array+"/"+strconv.Itoa(o.from), gone):
		return true
	}
	// moved elsewhere, or moved and removed
	return e.array != "" && e.array == o.array && e.from >= 0 && e.from == o.from
}

func within(pointer, of string) bool {
	return of != "" && (pointer == of || strings.HasPrefix(pointer, of+"/"))
}

// carry writes an operation as it is after another has been carried out. First says that what
// it puts somewhere stands before what the other puts there.
func (e effect) carry(op definition.Op, other effect, first bool) *definition.Op {
	if e.array == "" || other.array != e.array {
		op.Path = other.carried(op.Path)
		if op.From != "" {
			op.From = other.carried(op.From)
		}
		return &op
	}
	from, to := e.from, e.to
	if to >= 0 { // a gap, counted where neither element is that goes
		gap, theirs := to, other.to
		if other.from >= 0 {
			gone := other.from
			if from >= 0 && from < gone {
				gone--
			}
			if gone < gap {
				gap--
			}
		}
		if from >= 0 && theirs >= 0 {
			own := from
			if other.from >= 0 && other.from < own {
				own--
			}
			if own < theirs {
				theirs--
			}
		}
		if theirs >= 0 && (theirs < gap || theirs == gap && !first) {
			gap++
		}
		to = gap
	}
	if from >= 0 {
		from = other.element(from)
	}
	switch op.Op {
	case "move":
		if from == to { // it is there already
			return nil
		}
		op.From, op.Path = e.array+"/"+strconv.Itoa(from), e.array+"/"+strconv.Itoa(to)
	case "add":
		op.Path = e.array + "/" + strconv.Itoa(to)
	case "remove":
		op.Path = e.array + "/" + strconv.Itoa(from)
	}
	return &op
}

// element is where an element of the array stands after the operation.
func (e effect) element(at int) int {
	if at == e.from {
		return e.to
	}
	if e.from >= 0 && e.from < at {
		at--
	}
	if e.to >= 0 && e.to <= at {
		at++
	}
	return at
}

// carried is a pointer as it is after the operation.
func (e effect) carried(pointer string) string {
	rest, below := strings.CutPrefix(pointer, e.array+"/")
	if e.array == "" || !below {
		return pointer
	}
	token, deeper, more := strings.Cut(rest, "/")
	at, err := strconv.Atoi(token)
	if err != nil {
		return pointer
	}
	out := e.array + "/" + strconv.Itoa(e.element(at))
	if more {
		out += "/" + deeper
	}
	return out
}

// Made is an edit as it was made: what it did, and what takes it back.
type Made struct {
	ID int64
	// Undoes is the edit that it takes back, nought for none.
	Undoes int64
	// Request is the key it was sent with, if any.
	Request        string
	Patch, Inverse Patch
}

// Net leaves out of the edits of a document those that were taken back again, and writes those
// that came between as if nothing had been.
func Net(made []Made) []Patch {
	var net []Made
	for _, m := range made {
		at := slices.IndexFunc(net, func(o Made) bool { return m.Undoes != 0 && o.ID == m.Undoes })
		if at >= 0 {
			if without, ok := without(net, at); ok {
				net = without
				continue
			}
		}
		net = append(net, m)
	}
	out := make([]Patch, len(net))
	for i, m := range net {
		out[i] = m.Patch
	}
	return out
}

// without is the edits without one of them.
func without(made []Made, at int) ([]Made, bool) {
	out := slices.Clone(made[:at])
	back := made[at].Inverse
	for _, m := range made[at+1:] {
		patch, rest, err := cross(m.Patch, back)
		if err != nil {
			return nil, false
		}
		inverse, _, err := cross(m.Inverse, rest)
		if err != nil {
			return nil, false
		}
		m.Patch, m.Inverse, back = patch, inverse, rest
		out = append(out, m)
	}
	return out, true
}
