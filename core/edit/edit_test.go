package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"

	"plainpath/core/definition"
)

func same(t *testing.T, a, b json.RawMessage) bool {
	t.Helper()
	var x, y any
	if json.Unmarshal(a, &x) != nil || json.Unmarshal(b, &y) != nil {
		t.Fatalf("not JSON: %s, %s", a, b)
	}
	return reflect.DeepEqual(x, y)
}

// randomPatch makes at most so many operations that fit the document.
func randomPatch(r *rand.Rand, document json.RawMessage, most int) Patch {
	var p Patch
	for range 1 + r.IntN(most) {
		d := read(document)
		n := len(d.Steps)
		step := json.RawMessage(fmt.Sprintf(`{"id":%d,"title":"t%d","parts":[1,2]}`, r.Int32(), r.IntN(100)))
		at := func() string { return fmt.Sprintf("/steps/%d", r.IntN(n)) }
		var op definition.Op
		switch k := r.IntN(11); {
		case k == 0 || n == 0:
			op = definition.Op{Op: "add", Path: "/steps/-", Value: step}
		case k == 1:
			op = definition.Op{Op: "add", Path: fmt.Sprintf("/steps/%d", r.IntN(n+1)), Value: step}
		case k == 2:
			op = definition.Op{Op: "remove", Path: at()}
		case k == 3:
			op = definition.Op{Op: "add", Path: at() + fmt.Sprintf("/parts/%d", r.IntN(2)),
				Value: fmt.Append(nil, r.IntN(5))}
		case k == 4:
			op = definition.Op{Op: "add", Path: "/label", Value: fmt.Appendf(nil, `"l%d"`, r.IntN(100))}
		case k == 5 || k == 6:
			op = definition.Op{Op: "move", From: at(), Path: at()}
		case k == 7:
			op = definition.Op{Op: "move", From: at() + "/parts/0", Path: at() + "/parts/1"}
		case k == 8:
			op = definition.Op{Op: "remove", Path: at() + "/parts/0"}
		case k == 9 && r.IntN(3) == 0:
			op = definition.Op{Op: "replace", Path: at(), Value: step}
		default:
			op = definition.Op{Op: "replace", Path: at() + "/title", Value: fmt.Appendf(nil, `"n%d"`, r.IntN(100))}
		}
		after, _, err := Patch{op}.Apply(document)
		if err != nil {
			continue
		}
		p, document = append(p, op), after
	}
	return p
}

type steps struct {
	Label string
	Steps []struct {
		ID    int
		Title string
		Parts []any
	}
}

func read(document json.RawMessage) steps {
	var d steps
	if err := json.Unmarshal(document, &d); err != nil {
		panic(err)
	}
	return d
}

// byID writes each step of a document by its id.
func byID(document json.RawMessage) map[int]string {
	out := map[int]string{}
	for _, s := range read(document).Steps {
		out[s.ID] = fmt.Sprint(s.Title, s.Parts)
	}
	return out
}

const start = `{"label":"a","steps":[{"id":1,"title":"one","parts":[]},{"id":2,"title":"two","parts":[1]},{"id":3,"title":"three","parts":[1,2]},{"id":4,"title":"four","parts":[3,2,1]}]}`

func TestAPatchAndItsInverseCancel(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 2000 {
		document := json.RawMessage(start)
		p, err := randomPatch(r, document, 3).Settle(document)
		if err != nil {
			t.Fatal(err)
		}
		after, inverse, err := p.Apply(document)
		if err != nil {
			t.Fatalf("%v: %v", p, err)
		}
		back, again, err := inverse.Apply(after)
		if err != nil || !same(t, back, document) {
			t.Fatalf("%v\nback to %s\nwanted %s, %v", p, back, document, err)
		}
		if forth, _, err := again.Apply(back); err != nil || !same(t, forth, after) {
			t.Fatalf("%v: redone to %s, wanted %s, %v", p, forth, after, err)
		}
	}
}

// In whatever order two edits of several operations land, the document is the same, or both
// clash. A step that only one of them changed is as that one left it, and one that neither
// named is as it was.
func TestEditsThatDoNotClashMerge(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	merged, clashes := 0, 0
	for range 3000 {
		document := json.RawMessage(start)
		var sides [2]Patch
		var alone [2]map[int]string
		for i := range sides {
			var err error
			if sides[i], err = randomPatch(r, document, 3).Settle(document); err != nil {
				t.Fatal(err)
			}
			after, _, err := sides[i].Apply(document)
			if err != nil {
				t.Fatal(err)
			}
			alone[i] = byID(after)
		}
		a, errA := land(document, sides[0], sides[1])
		b, errB := land(document, sides[1], sides[0])
		if errA != nil || errB != nil {
			var clash *ClashError
			if !errors.As(errA, &clash) || !errors.As(errB, &clash) {
				t.Fatalf("%v and %v: %v, %v", sides[0], sides[1], errA, errB)
			}
			clashes++
			continue
		}
		merged++
		if !same(t, a, b) {
			t.Fatalf("%v and %v\ngive %s\nor   %s", sides[0], sides[1], a, b)
		}
		was, is := byID(document), byID(a)
		for id, before := range was {
			want := before
			for i := range alone {
				if alone[i][id] != before {
					want = alone[i][id]
				}
			}
			both := alone[0][id] != before && alone[1][id] != before
			if !both && is[id] != want {
				t.Fatalf("%v and %v\nleave step %d as %q, want %q", sides[0], sides[1], id, is[id], want)
			}
		}
	}
	if merged < 1500 || clashes < 400 {
		t.Errorf("%d merged, %d clashed: the test tries too little", merged, clashes)
	}
}

// An edit that was taken back again is no hindrance to those carried over it, and shifts nothing.
func TestWhatWasTakenBackLeavesNoTrace(t *testing.T) {
	r := rand.New(rand.NewPCG(5, 6))
	compared, kept := 0, 0
	for range 2000 {
		document := json.RawMessage(start)
		next := func(document json.RawMessage) (Patch, json.RawMessage, Patch) {
			p, err := randomPatch(r, document, 2).Settle(document)
			if err != nil {
				t.Fatal(err)
			}
			after, inverse, err := p.Apply(document)
			if err != nil {
				t.Fatal(err)
			}
			return p, after, inverse
		}
		taken, after, back := next(document)
		between, after, betweenBack := next(after)
		undo, err := back.Over(between)
		if err != nil {
			continue // it could not have been taken back
		}
		if _, _, err := undo.Apply(after); err != nil {
			t.Fatal(err)
		}
		net := Net([]Made{{ID: 1, Patch: taken, Inverse: back}, {ID: 2, Patch: between, Inverse: betweenBack},
			{ID: 3, Undoes: 1, Patch: undo}})
		if len(net) != 1 { // what came between took part of it away already, and is kept with it
			kept++
			continue
		}
		end, _, err := undo.Apply(after)
		if err != nil {
			t.Fatal(err)
		}
		if direct, _, err := net[0].Apply(document); err != nil || !same(t, direct, end) {
			t.Fatalf("%v, then %v, then %v\ngives %s\nat once %s, %v", taken, between, undo, end, direct, err)
		}
		compared++
	}
	if compared < 1250 || kept > compared/20 {
		t.Errorf("only %d compared, %d kept", compared, kept)
	}
}

func land(document json.RawMessage, first, second Patch) (json.RawMessage, error) {
	after, _, err := first.Apply(document)
	if err != nil {
		return nil, err
	}
	carried, err := second.Over(first)
	if err != nil {
		return nil, err
	}
	after, _, err = carried.Apply(after)
	return after, err
}
