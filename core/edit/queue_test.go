package edit

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"testing"
)

// Edits that follow quickly are made on what the ones before them leave, while their answers
// are still on the way. Whenever somebody else's edit arrives among them, the document is the
// same as if theirs had come before all of them, or all clash.
func TestEditsBuiltOnOnesOwnLandAmongThoseOfOthers(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	compared, shifted := 0, 0
	for range 750 {
		document := json.RawMessage(start)
		theirs, err := randomPatch(r, document, 2).Settle(document)
		if err != nil {
			t.Fatal(err)
		}
		var own []Sent
		local := document
		for i := range 3 {
			p, err := randomPatch(r, local, 2).Settle(local)
			if err != nil {
				t.Fatal(err)
			}
			own = append(own, Sent{Request: fmt.Sprint("mine ", i), Patch: p})
			if local, _, err = p.Apply(local); err != nil {
				t.Fatal(err)
			}
		}
		var all Patch
		for _, s := range own {
			all = append(all, s.Patch...)
		}
		want, wantErr := land(document, theirs, all)
		for arrives := range len(own) { // before the first, between the first and the second, …
			got, naive, err := arrival(document, theirs, own, arrives)
			if err != nil || wantErr != nil {
				var clash *ClashError
				if !errors.As(err, &clash) || !errors.As(wantErr, &clash) {
					t.Fatalf("%v among %v, at %d: %v, at once %v", theirs, own, arrives, err, wantErr)
				}
				continue
			}
			if !same(t, got, want) {
				t.Fatalf("%v among %v, at %d, gives\n%s\nwant\n%s", theirs, own, arrives, got, want)
			}
			compared++
			if !naive {
				shifted++
			}
		}
	}
	if compared < 750 || shifted < 75 {
		t.Errorf("%d compared, in %d of them the others' edit shifted something: the test tries too little", compared,
			shifted)
	}
}

// arrival lands somebody's edits one by one with another's among them; plain says whether
// each could have been applied as it was sent.
func arrival(document json.RawMessage, theirs Patch, own []Sent,
	at int) (after json.RawMessage, plain bool, err error) {
	after, plain = document, true
	var since []Made
	apply := func(p Patch, request string) error {
		next, inverse, err := p.Apply(after)
		if err == nil {
			since = append(since, Made{ID: int64(len(since) + 1), Request: request, Patch: p, Inverse: inverse})
			after = next
		}
		return err
	}
	for i, s := range own {
		if i == at {
			landed, err := (Change{Patch: theirs}).Over(since)
			if err == nil {
				err = apply(landed, "theirs")
			}
			if err != nil {
				return nil, plain, err
			}
		}
		p, err := (Change{Before: own[:i], Patch: s.Patch}).Over(since)
		if err == nil {
			err = apply(p, s.Request)
		}
		if err != nil {
			return nil, plain, err
		}
		a, _ := json.Marshal(p)
		b, _ := json.Marshal(s.Patch)
		plain = plain && string(a) == string(b)
	}
	return after, plain, nil
}

func TestAnEditBuiltOnOneThatWasNotMadeIsRefused(t *testing.T) {
	title := Patch{{Op: "replace", Path: "/label", Value: json.RawMessage(`"x"`)}}
	before := []Sent{{Request: "lost", Patch: title}}
	if _, err := (Change{Before: before, Patch: title}).Over([]Made{{ID: 1, Request: "other", Patch: title,
		Inverse: title}}); !errors.Is(err, ErrNotMade) {
		t.Errorf("got %v", err)
	}
}
