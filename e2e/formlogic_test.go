package e2e

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"
	"time"
)

type formAction struct {
	Do    string `json:"do"`
	ID    int    `json:"id"`
	Field string `json:"field"`
	Value string `json:"value"`
	N     int    `json:"n"`
	Fate  string `json:"fate"`
	Mine  bool   `json:"mine"`
}

type formState struct {
	ID            int
	Values, Below []string
	Dirty, Saving bool
	Theirs        *struct{ Field, Value string }
	Failed        string
	Problems      map[string]string
	Stored        [][]string
	Open          int
}

var formFields = []string{"a", "b", "c"}

func formScript(r *rand.Rand) []formAction {
	script := []formAction{{Do: "load", ID: 1}, {Do: "answer", Fate: "give"}}
	does := []string{"set", "set", "set", "set", "save", "save", "theirs", "settle", "reset", "load", "again", "answer",
		"answer", "answer", "answer"}
	for n := range 6 + r.IntN(30) {
		x := formAction{Do: does[r.IntN(len(does))], ID: 1 + r.IntN(2), Field: formFields[r.IntN(3)], N: r.IntN(4),
			Fate: "give", Mine: r.IntN(2) == 0}
		switch x.Do {
		case "set":
			x.Value = []string{fmt.Sprint("v", n), fmt.Sprint("v", n), "a1", "b2", "", fmt.Sprint("bad", n)}[r.IntN(6)]
		case "theirs":
			x.Value = fmt.Sprint("t", n)
		case "reset":
			if r.IntN(3) > 0 {
				x.Do = "answer"
			}
		}
		if x.Do == "answer" {
			x.Fate = []string{"give", "give", "give", "lose", "swallow"}[r.IntN(5)]
		}
		script = append(script, x)
	}
	for n := range 12 {
		if n == 8 {
			script = append(script, formAction{Do: "load", ID: 1})
		}
		script = append(script, formAction{Do: "answer", Fate: "give"})
	}
	for _, f := range formFields {
		script = append(script, formAction{Do: "set", Field: f, Value: "good " + f})
	}
	for range 5 {
		script = append(script, formAction{Do: "save"}, formAction{Do: "answer", Fate: "give"},
			formAction{Do: "settle", Mine: true}, formAction{Do: "answer", Fate: "give"})
	}
	return script
}

// editor is somebody at a form, told apart from the browser.
type editor struct {
	entered map[string]string
	sent    map[string]string
	under   map[string]string // what stood below what was sent
	saw     map[string][]string
}

// does takes note of what somebody does, and of what became of what they sent.
func (e *editor) does(x formAction, before, after formState) {
	below := func(f string) string { return before.Below[slices.Index(formFields, f)] }
	switch {
	case before.ID == 0:
	case x.Do == "set" && x.Value == below(x.Field):
		delete(e.entered, x.Field)
	case x.Do == "set":
		e.entered[x.Field] = x.Value
	case x.Do == "reset":
		e.entered = map[string]string{}
	case x.Do == "settle" && before.Theirs != nil && !x.Mine:
		delete(e.entered, before.Theirs.Field)
	}
	if after.Saving && !before.Saving {
		e.sent, e.under = maps.Clone(e.entered), map[string]string{}
		for f := range e.sent {
			e.under[f] = below(f)
		}
	}
	if before.Saving && !after.Saving && after.Failed == "" && after.Theirs == nil && after.ID == before.ID {
		for f, v := range e.sent {
			now, still := e.entered[f]
			switch {
			case !still && e.under[f] != v: // it was taken back while it was saved
				e.entered[f] = e.under[f]
			case still && now == v:
				delete(e.entered, f)
			}
		}
	}
}

// Whatever is entered in a form while its answers come late, out of turn or never, and others
// change the same record: it stays until it is saved, taken back or given up, goes into the record
// it was entered for, and is never put over what somebody else wrote unseen.
func TestFormsKeepWhatWasEntered(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Now())
	r := rand.New(rand.NewPCG(31, 7))
	var scripts [][]formAction
	for range 350 {
		scripts = append(scripts, formScript(r))
	}
	clashes, saves, others := 0, 0, 0
	for n, states := range promised[[]formAction, []formState](b, "logic.forms", scripts) {
		e := &editor{entered: map[string]string{}, saw: map[string][]string{}}
		before := formState{Stored: [][]string{{"a1", "b1", ""}, {"a2", "b2", ""}}}
		for i, s := range states {
			x := scripts[n][i]
			fail := func(format string, args ...any) {
				t.Helper()
				t.Fatalf("script %d: %s, after %+v", n, fmt.Sprintf(format, args...), scripts[n][:i+1])
			}
			dirty := len(e.entered) > 0
			e.does(x, before, s)
			if before.Saving && !s.Saving && s.Failed == "" && s.Theirs == nil {
				saves++
			}
			if before.ID != 0 && s.ID != before.ID {
				others++
				if dirty {
					fail("what was entered in %d is gone for %d: %v", before.ID, s.ID, e.entered)
				}
			}
			for id, values := range s.Stored {
				for k, now := range values {
					was, cell := before.Stored[id][k], fmt.Sprint(id+1, formFields[k])
					switch {
					case now == was || x.Do == "theirs":
					case now != e.sent[formFields[k]]:
						fail("%s became %q, nobody wanted it", cell, now)
					case !slices.Contains(e.saw[cell], was):
						fail("%s had become %q by somebody else, which was never seen and is gone", cell, was)
					default:
						e.saw[cell] = append(e.saw[cell], now)
					}
				}
			}
			if s.Theirs != nil {
				clashes++
				cell := fmt.Sprint(s.ID, s.Theirs.Field)
				e.saw[cell] = append(e.saw[cell], s.Theirs.Value)
			}
			if s.Dirty != (len(e.entered) > 0) {
				fail("changed: %t, entered are %v", s.Dirty, e.entered)
			}
			for k, shown := range s.Values {
				want, own := e.entered[formFields[k]]
				if !own {
					want = s.Below[k]
					cell := fmt.Sprint(s.ID, formFields[k])
					e.saw[cell] = append(e.saw[cell], want)
				}
				if shown != want {
					fail("%s is shown as %q, want %q", formFields[k], shown, want)
				}
			}
			before = s
		}
		if len(e.entered) > 0 || before.Failed != "" || before.Theirs != nil || before.Open > 0 || before.ID > 0 &&
			!slices.Equal(before.Values, before.Stored[before.ID-1]) {
			t.Fatalf("script %d: in the end %v is not saved: %+v, after %+v", n, e.entered, before, scripts[n])
		}
	}
	if clashes < 50 || saves < 150 || others < 50 {
		t.Errorf("%d clashes, %d savings, %d other records: the test tries too little", clashes, saves, others)
	}
}
