package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"reflect"
	"testing"

	"plainpath/core/checkup"
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
		var d struct{ Steps []struct{ Parts []any } }
		if json.Unmarshal(document, &d) != nil {
			return p
		}
		value := json.RawMessage(fmt.Sprintf(`{"title":"t%d","parts":[1,2]}`, r.IntN(100)))
		n := len(d.Steps)
		var op checkup.Op
		switch k := r.IntN(6); {
		case k == 0 || n == 0:
			op = checkup.Op{Op: "add", Path: "/steps/-", Value: value}
		case k == 1:
			op = checkup.Op{Op: "add", Path: fmt.Sprintf("/steps/%d", r.IntN(n+1)), Value: value}
		case k == 2:
			op = checkup.Op{Op: "remove", Path: fmt.Sprintf("/steps/%d", r.IntN(n))}
		case k == 3:
			op = checkup.Op{Op: "add", Path: fmt.Sprintf("/steps/%d/parts/0", r.IntN(n)), Value: []byte("7")}
		case k == 4:
			op = checkup.Op{Op: "add", Path: "/label", Value: fmt.Appendf(nil, `"l%d"`, r.IntN(100))}
		default:
			op = checkup.Op{Op: "replace", Path: fmt.Sprintf("/steps/%d/title", r.IntN(n)), Value: fmt.Appendf(nil, `"n%d"`, r.IntN(100))}
		}
		after, _, err := Patch{op}.Apply(document)
		if err != nil {
			continue
		}
		p, document = append(p, op), after
	}
	return p
}

const start = `{"label":"a","steps":[{"title":"one","parts":[]},{"title":"two","parts":[1]},{"title":"three","parts":[1,2]}]}`

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

// Two edits that do not clash come to the same document whichever lands first, as far
// as the elements go; those put in at the same place may stand in either order.
func TestEditsThatDoNotClashMerge(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	merged, clashes := 0, 0
	for range 2000 {
		document := json.RawMessage(start)
		ours, theirs := randomPatch(r, document, 1), randomPatch(r, document, 1)
		if len(ours) == 0 || len(theirs) == 0 {
			continue
		}
		ours, errOurs := ours.Settle(document)
		theirs, errTheirs := theirs.Settle(document)
		if errOurs != nil || errTheirs != nil {
			t.Fatal(errOurs, errTheirs)
		}
		a, errA := land(document, theirs, ours)
		b, errB := land(document, ours, theirs)
		var clash *ClashError
		if errA != nil || errB != nil {
			if !errors.As(errA, &clash) && !errors.As(errB, &clash) {
				t.Fatalf("%v and %v: %v, %v", ours, theirs, errA, errB)
			}
			clashes++
			continue
		}
		merged++
		if !same(t, a, b) && ours[0].Path != theirs[0].Path {
			t.Fatalf("%v and %v\ngive %s\nor   %s", ours, theirs, a, b)
		}
	}
	if merged < 500 || clashes < 50 {
		t.Errorf("%d merged, %d clashed: the test tries too little", merged, clashes)
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
