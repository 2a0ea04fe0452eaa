package e2e

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"net/http"
	"reflect"
	"strings"
	"sync"
	"testing"
	"time"

	"plainpath/core/definition"
	"plainpath/core/edit"
)

type draftBody struct {
	Label string `json:"label"`
	Rows  []struct {
		Key   string `json:"key"`
		Label string `json:"label"`
	} `json:"rows"`
}

// badLine is a document on a server that is reached badly: requests are lost on the way, or done
// and their answers lost, or refused for a moment; others edit the document among them.
type badLine struct {
	t        *testing.T
	mu       sync.Mutex
	r        *rand.Rand
	body     json.RawMessage
	revision int
	made     []edit.Made
	// taken and refused are what became of each request.
	taken, refused map[string]int
	lost, answers  int
	others         int
	// unseen counts the edits of others since the latest answer.
	unseen int
}

func newBadLine(t *testing.T, seed uint64) *badLine {
	return &badLine{t: t, r: rand.New(rand.NewPCG(seed, 13)),
		body:  json.RawMessage(`{"label":"l","rows":[{"key":"a","label":"a"},{"key":"b","label":"b"},{"key":"c","label":"c"}]}`),
		taken: map[string]int{}, refused: map[string]int{}}
}

// make makes a patch part of the document.
func (l *badLine) make(request string, patch edit.Patch, undoes int64) error {
	after, inverse, err := patch.Apply(l.body)
	if err != nil {
		return err
	}
	l.revision++
	l.body = after
	l.made = append(l.made, edit.Made{ID: int64(l.revision), Request: request, Patch: patch, Inverse: inverse,
		Undoes: undoes})
	return nil
}

// another is an edit by somebody else.
func (l *badLine) another() {
	l.others++
	l.unseen++
	text := json.RawMessage(fmt.Sprintf(`"o%d"`, l.revision))
	patch := edit.Patch{{Op: "replace", Path: "/label", Value: text}}
	var now draftBody
	if err := json.Unmarshal(l.body, &now); err != nil {
		l.t.Error(err)
		return
	}
	switch n := len(now.Rows); {
	case l.r.IntN(3) > 0 && n > 0:
		patch = edit.Patch{{Op: "replace", Path: fmt.Sprintf("/rows/%d/label", l.r.IntN(n)), Value: text}}
	case l.r.IntN(2) == 0:
		patch = edit.Patch{{Op: "add", Path: "/rows/0",
			Value: json.RawMessage(fmt.Sprintf(`{"key":"o%d","label":"o"}`, l.revision))}}
	case n > 0:
		patch = edit.Patch{{Op: "remove", Path: fmt.Sprintf("/rows/%d", l.r.IntN(n))}}
	}
	if err := l.make("", patch, 0); err != nil {
		l.t.Error(err)
	}
}

func (l *badLine) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	l.mu.Lock()
	defer l.mu.Unlock()
	fate := l.r.IntN(6)
	if fate == 0 { // it never arrives
		l.lost++
		panic(http.ErrAbortHandler)
	}
	if fate == 1 {
		l.lost++
		http.Error(w, "no", http.StatusServiceUnavailable)
		return
	}
	if l.r.IntN(5) == 0 {
		l.another()
	}
	status, problem := l.done(r)
	if fate == 2 { // the answer is lost
		l.lost++
		panic(http.ErrAbortHandler)
	}
	l.answers++
	l.unseen = 0
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	answer := any(map[string]any{"key": "d", "kind": "page", "revision": l.revision, "body": l.body,
		"findings": []string{}})
	if problem != nil {
		answer = problem
	}
	if err := json.NewEncoder(w).Encode(answer); err != nil {
		l.t.Error(err)
	}
}

// done does what a request asks for, once.
func (l *badLine) done(r *http.Request) (status int, problem map[string]any) {
	request := r.Header.Get("Idempotency-Key")
	if r.Method == http.MethodGet || l.taken[request] > 0 {
		return http.StatusOK, nil
	}
	var err error
	if strings.HasSuffix(r.URL.Path, "/undo") {
		err = l.undo(request)
	} else {
		var change edit.Change
		if err = json.NewDecoder(r.Body).Decode(&change); err != nil {
			l.t.Error(err)
		}
		var patch edit.Patch
		if patch, err = change.Over(l.made[change.Base:]); err == nil {
			err = l.make(request, patch, 0)
		}
	}
	if err == nil {
		l.taken[request]++
		return http.StatusOK, nil
	}
	l.refused[request]++
	var clash *edit.ClashError
	if errors.As(err, &clash) {
		return http.StatusConflict, map[string]any{"type": "clash", "title": "clash", "status": 409,
			"clash": map[string]any{"pointer": clash.Pointer, "theirs": "t", "ours": "o"}}
	}
	return http.StatusUnprocessableEntity, map[string]any{"type": "rejected", "title": err.Error(), "status": 422}
}

// undo takes back the latest edit that was not taken back.
func (l *badLine) undo(request string) error {
	back := map[int64]bool{}
	for _, m := range l.made {
		back[m.Undoes] = true
	}
	for n := len(l.made) - 1; n >= 0; n-- {
		m := l.made[n]
		if m.Request == "" || m.Undoes > 0 || back[m.ID] {
			continue
		}
		patch, err := m.Inverse.Over(joined(l.made[n+1:]))
		if err != nil {
			return err
		}
		return l.make(request, patch, m.ID)
	}
	return errors.New("there is nothing to take back")
}

func joined(made []edit.Made) edit.Patch {
	var out []definition.Op
	for _, m := range made {
		out = append(out, m.Patch...)
	}
	return out
}

// Whatever is edited over a bad connection, with others at the same document and the page loaded
// anew in between: every edit is made once and in order, or its maker is told that it was not;
// none is lost in silence, and in the end the page shows what the server has.
func TestEditsOutlastABadConnection(t *testing.T) {
	t.Parallel()
	lines := map[string]*badLine{}
	var mu sync.Mutex
	type script struct {
		Name    string           `json:"name"`
		Actions []map[string]any `json:"actions"`
	}
	r := rand.New(rand.NewPCG(3, 31))
	var scripts []script
	for n := range 50 {
		s := script{Name: fmt.Sprint("d", n)}
		lines[s.Name] = newBadLine(t, uint64(n))
		for k := range 4 + r.IntN(16) {
			does := []string{"label", "label", "add", "add", "row", "row", "drop", "move", "pause", "pause", "undo",
				"reload"}
			s.Actions = append(s.Actions, map[string]any{"do": does[r.IntN(len(does))], "n": r.IntN(12),
				"text": fmt.Sprintf("k%d_%d", n, k)})
		}
		scripts = append(scripts, s)
	}
	b := logic(t, time.Now(), http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		mu.Lock()
		line := lines[strings.Split(r.URL.Path, "/")[4]]
		mu.Unlock()
		line.ServeHTTP(w, r)
	}))
	lost, told, others := 0, 0, 0
	for n, out := range promised[script, struct {
		Shown             draftBody
		Made, Told, Wrong []string
	}](b, "logic.drafts", scripts) {
		l := lines[scripts[n].Name]
		fail := func(format string, args ...any) {
			t.Helper()
			t.Fatalf("%s: %s, after %v", scripts[n].Name, fmt.Sprintf(format, args...), scripts[n].Actions)
		}
		var want draftBody
		if err := json.Unmarshal(l.body, &want); err != nil {
			t.Fatal(err)
		}
		if len(out.Wrong) > 0 {
			fail("%v", out.Wrong)
		}
		if !reflect.DeepEqual(out.Shown, want) && l.unseen == 0 {
			fail("in the end it shows %+v, the server has %+v", out.Shown, want)
		}
		// What became of each, in the order they were made.
		place := -1
		for _, request := range out.Made {
			switch at := madeAt(l.made, request); {
			case l.taken[request] > 1:
				fail("%s was made %d times", request, l.taken[request])
			case at >= 0 && at < place:
				fail("%s was made before one that came before it", request)
			case at >= 0:
				place = at
			}
		}
		not := 0
		for _, request := range out.Made {
			if l.taken[request] == 0 {
				not++
			}
		}
		said := 0
		for _, words := range out.Told {
			switch {
			case strings.Contains(words, "more not changed"):
				k := 0
				if _, err := fmt.Sscan(words, &k); err != nil {
					t.Fatal(err)
				}
				said += k
			default:
				said++
			}
		}
		if not != said {
			fail("%d were not made, %d were told: %v", not, said, out.Told)
		}
		lost, told, others = lost+l.lost, told+said, others+l.others
	}
	if lost < 120 || told < 8 || others < 60 {
		t.Errorf("%d lost on the way, %d refusals told, %d edits by others: the test tries too little", lost, told,
			others)
	}
}

func madeAt(made []edit.Made, request string) int {
	for i, m := range made {
		if m.Request == request {
			return i
		}
	}
	return -1
}
