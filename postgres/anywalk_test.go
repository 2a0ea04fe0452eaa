package postgres_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/screen"
	"plainpath/demo"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/runs"
	"plainpath/testdb"
)

// anyWalk is a walkthrough made at random, for tests that hold what the program does with it
// against what it says.
type anyWalk struct {
	r     *rand.Rand
	name  string
	steps []anyStep
	count int
	// inner are the walkthroughs that steps run; hard says that what is refused is caught further out.
	inner []*anyStep
	hard  bool
}

// anyStep is a step of it; the members that are set say what it does.
type anyStep struct {
	key      string
	required bool // whether the text of a screen is
	lifts    string
	forEach  string // the screen whose chosen lifts get a call each
	lift     string // or that the call is for what is at hand of a repeat
	problem  string // the screen whose text the calls have
	needs    bool   // the text may be empty, and nothing is added then
	fails    []anyStep
	catches  bool   // what is refused leads to fails
	runs     string // the walkthrough that is run, of last
	each     string // the screen whose chosen lifts are gone through by last
	changes  string // the step whose calls get the text worked out from a screen's besides
	works    string
	ways     []anyWay
	last     []anyStep
	shows    []string // the screens whose answers a message tells
	counts   []string // and those in repeats whose rows it counts
	finish   bool
}

type anyWay struct {
	screen, asks string
	steps        []anyStep
}

// scope are the steps whose values are known for certain. Turns are screens of which there is a row for each turn.
type scope struct{ screens, texts, picks, adds, turns []string }

func (w *anyWalk) key(kind string) string { w.count++; return fmt.Sprint(kind, w.count) }

// make makes some steps, and those of their branches.
func (w *anyWalk) make(known scope, depth, most int) (steps []anyStep, after scope) {
	known = scope{slices.Clone(known.screens), slices.Clone(known.texts), slices.Clone(known.picks),
		slices.Clone(known.adds), slices.Clone(known.turns)}
	for range 1 + w.r.IntN(most) {
		switch n := w.r.IntN(11); {
		case n < 3 || len(known.screens) == 0:
			s := anyStep{key: w.key("s"), required: w.r.IntN(2) == 0}
			if w.r.IntN(2) == 0 {
				s.lifts = "all"
				if len(known.screens) > 0 {
					s.lifts = known.screens[w.r.IntN(len(known.screens))]
				}
				known.picks = append(known.picks, s.key)
			}
			if s.required {
				known.texts = append(known.texts, s.key)
			}
			known.screens = append(known.screens, s.key)
			steps = append(steps, s)
		case n == 3 && len(known.texts) > 0:
			s := anyStep{key: w.key("a"), problem: known.texts[w.r.IntN(len(known.texts))]}
			if len(known.picks) > 0 && w.r.IntN(2) == 0 {
				s.forEach = known.picks[w.r.IntN(len(known.picks))]
			}
			known.adds = append(known.adds, s.key)
			steps = append(steps, s)
		case n == 4 && len(known.adds) > 0:
			steps = append(steps, anyStep{key: w.key("c"), changes: known.adds[w.r.IntN(len(known.adds))],
				works: known.texts[w.r.IntN(len(known.texts))]})
		case n == 5:
			s := w.mayFail(known, depth)
			steps = append(steps, s)
		case n == 6 && depth > 0:
			s := w.run(&known, depth)
			steps = append(steps, s)
		case n == 7 && len(known.picks) > 0:
			s := anyStep{key: w.key("e"), each: known.picks[w.r.IntN(len(known.picks))]}
			in := anyStep{key: w.key("s"), required: w.r.IntN(2) == 0}
			add := anyStep{key: w.key("a"), problem: in.key, lift: "i" + s.key}
			if !in.required {
				add.needs, add.catches = true, true
			}
			s.last = []anyStep{in, add}
			known.turns = append(known.turns, in.key)
			steps = append(steps, s)
		case n > 7 && depth > 0:
			s := anyStep{key: w.key("b")}
			for range 1 + w.r.IntN(2) {
				way := anyWay{screen: known.screens[w.r.IntN(len(known.screens))],
					asks: []string{"n", "b", "t"}[w.r.IntN(3)]}
				way.steps, _ = w.make(known, depth-1, 3)
				if w.r.IntN(4) == 0 {
					way.steps = append(way.steps, w.end(known))
				}
				s.ways = append(s.ways, way)
			}
			if w.r.IntN(2) == 0 {
				s.last, _ = w.make(known, depth-1, 2)
			}
			steps = append(steps, s)
		}
	}
	return steps, known
}

// mayFail adds a call whose text may be empty, which is refused.
func (w *anyWalk) mayFail(known scope, depth int) anyStep {
	s := anyStep{key: w.key("a"), problem: known.screens[w.r.IntN(len(known.screens))], needs: true}
	if s.catches = !w.hard || w.r.IntN(2) == 0; s.catches {
		s.fails, _ = w.make(known, max(depth-1, 0), 2)
	}
	return s
}

// run runs a walkthrough, which gives back what is given on its first screen.
func (w *anyWalk) run(known *scope, depth int) anyStep {
	s := anyStep{key: w.key("r"), catches: w.r.IntN(2) == 0}
	s.runs = w.name + "_" + s.key
	hard := w.hard
	w.hard = hard || s.catches
	s.last, _ = w.make(scope{}, depth-1, 4)
	w.hard = hard
	w.inner = append(w.inner, &s)
	if s.catches {
		s.fails, _ = w.make(*known, depth-1, 2)
		return s
	}
	known.screens = append(known.screens, s.key)
	if s.last[0].lifts != "" {
		known.picks = append(known.picks, s.key)
	}
	return s
}

func (w *anyWalk) end(known scope) anyStep {
	return anyStep{key: w.key("f"), finish: true, shows: known.screens, counts: known.turns}
}

var anyAsks = map[string]string{"n": "%s.n > 3", "b": "%s.b", "t": "empty(%s.t)"}

// sheet is steps as a builder would write them.
func sheet(steps []anyStep) string {
	var out []string
	for _, s := range steps {
		var one string
		switch {
		case s.finish:
			var message []string
			for _, k := range s.shows {
				message = append(message, fmt.Sprintf("%[1]s:{%[1]s.t}/{%[1]s.n}/{%[1]s.b}", k))
			}
			for _, k := range s.counts {
				message = append(message, fmt.Sprintf("%[1]s:{size(%[1]s)}/{size(%[1]s.filter(r, r.n > 3))}", k))
			}
			one = fmt.Sprintf(`{"key":%q,"kind":"finish","finish":{"message":%q}}`, s.key,
				strings.Join(message, " ")+".")
		case s.runs != "":
			one = fmt.Sprintf(`{"key":%q,"kind":"run",%s"run":{"walkthrough":%q}}`, s.key, s.instead(), s.runs)
		case s.each != "":
			one = fmt.Sprintf(`{"key":%[1]q,"kind":"repeat","repeat":{"for_each":"%[2]s.lifts","item":"i%[1]s","steps":[%[3]s]}}`, s.key, s.each, sheet(s.last))
		case s.problem != "" && s.forEach != "":
			one = fmt.Sprintf(`{"key":%q,"kind":"add","add":{"object":"service_call","for_each":"%s.lifts","item":"lift","values":[{"field":"lift","value":{"expression":"lift"}},{"field":"problem","value":{"expression":"%s.t + \" %s\""}},{"field":"opened","value":{"expression":"now"}}]}}`, s.key, s.forEach, s.problem, s.key)
		case s.problem != "":
			lift, text := `"literal":{"id":1}`, fmt.Sprintf(`%s.t + \" %s\"`, s.problem, s.key)
			if s.lift != "" {
				lift = fmt.Sprintf(`"expression":%q`, s.lift)
			}
			if s.needs {
				text = `needed(` + text + `, \"No text.\")`
			}
			one = fmt.Sprintf(`{"key":%q,"kind":"add",%s"add":{"object":"service_call","values":[{"field":"lift","value":{%s}},{"field":"problem","value":{"expression":"%s"}},{"field":"opened","value":{"expression":"now"}}]}}`, s.key, s.instead(), lift, text)
		case s.changes != "":
			one = fmt.Sprintf(`{"key":"v%[1]s","kind":"work_out","work_out":{"value":"\"+\" + %[3]s.t"}},{"key":%[1]q,"kind":"change","change":{"of":%[2]q,"item":"each","values":[{"field":"problem","value":{"expression":"each.problem + v%[1]s"}}]}}`, s.key, s.changes, s.works)
		case len(s.ways) > 0:
			var ways []string
			for _, way := range s.ways {
				ways = append(ways, fmt.Sprintf(`{"title":"w","when":%q,"steps":[%s]}`,
					fmt.Sprintf(anyAsks[way.asks], way.screen), sheet(way.steps)))
			}
			one = fmt.Sprintf(`{"key":%q,"kind":"branch","branch":{"ways":[%s],"otherwise":[%s]}}`, s.key,
				strings.Join(ways, ","), sheet(s.last))
		default:
			parts := fmt.Sprintf(`{"key":"t","kind":"input","label":"T","input":{"type":"text","required":%t}},{"key":"n","kind":"input","label":"N","input":{"type":"whole_number"}},{"key":"b","kind":"input","label":"B","input":{"type":"yes_no"}}`, s.required)
			search := ""
			if s.lifts != "" {
				where := "{}"
				if s.lifts != "all" {
					where = fmt.Sprintf(`{"all":[{"field":"serial_number","op":"contains","value":{"expression":"%s.t"},"empty":"skip"}]}`, s.lifts)
				}
				search = fmt.Sprintf(`{"key":"q%s","kind":"search","search":{"object":"lift","where":%s}},`, s.key,
					where)
				parts += fmt.Sprintf(`,{"key":"lifts","kind":"table","label":"Lifts","table":{"source":"q%s","columns":[{"path":"serial_number"}],"select":"several","least":0}}`, s.key)
			}
			one = fmt.Sprintf(`%s{"key":%q,"kind":"screen","screen":{"bands":[{"columns":[{"parts":[%s]}]}]}}`, search,
				s.key, parts)
		}
		out = append(out, one)
	}
	return strings.Join(out, ",")
}

// instead is what is done where it fails.
func (s anyStep) instead() string {
	if !s.catches {
		return ""
	}
	return fmt.Sprintf(`"if_fails":[%s],`, sheet(s.fails))
}

// body is the walkthrough that a step runs.
func (s *anyStep) body() string {
	var gives []string
	for _, part := range []string{"t", "n", "b", "lifts"} {
		if part != "lifts" || s.last[0].lifts != "" {
			gives = append(gives, fmt.Sprintf(`{"key":%[1]q,"label":%[1]q,"value":"%[2]s.%[1]s"}`, part, s.last[0].key))
		}
	}
	return fmt.Sprintf(`{"key":%[1]q,"label":%[1]q,"roles":["dispatcher"],"steps":[%[2]s],"gives":[%[3]s]}`, s.runs, sheet(s.last), strings.Join(gives, ","))
}

// answered is what somebody gave on a screen.
type answered struct {
	t     string
	n     *int
	b     *bool
	lifts []int64
}

func (a answered) sent(t *testing.T, s anyStep) screen.Answers {
	pairs := []any{"t", a.t, "n", a.n, "b", a.b}
	if s.lifts != "" {
		chosen := []map[string]any{}
		for _, id := range a.lifts {
			chosen = append(chosen, map[string]any{"id": id})
		}
		pairs = append(pairs, "lifts", chosen)
	}
	return answers(t, pairs...)
}

func (a answered) shown() string {
	out := a.t + "/"
	if a.n != nil {
		out += fmt.Sprint(*a.n)
	}
	out += "/"
	if a.b != nil {
		out += map[bool]string{true: "yes", false: "no"}[*a.b]
	}
	return out
}

// Whatever a walkthrough is made of, and however somebody goes through it, forwards, back,
// with mistakes, twice, from an old screen: it goes where it says, keeps what was given, and
// writes what it says once. A rehearsal with the same answers comes to the same and keeps nothing.
func TestAnyWalkthroughGoesWhereItSays(t *testing.T) {
	db := testdb.New(t)
	ctx := t.Context()
	r := rand.New(rand.NewPCG(12, 44))
	bo, dana := personID(t, db, "bo"), personID(t, db, "dana")
	var walks []*anyWalk
	for n := range 18 {
		w := &anyWalk{r: r, name: fmt.Sprint("any", n)}
		var known scope
		w.steps, known = w.make(scope{}, 2, 6)
		w.steps = append(w.steps, w.end(known))
		walks = append(walks, w)
		for _, s := range w.inner {
			if err := drafts.AddDocument(ctx, db, demo.App, bo, definition.Document{Kind: definition.Walkthrough,
				Key: s.runs, Body: json.RawMessage(s.body())}); err != nil {
				t.Fatalf("%v: %s", err, s.body())
			}
		}
		body := fmt.Sprintf(`{"key":"any%d","label":"Any %d","roles":["dispatcher"],"steps":[%s]}`, n, n,
			sheet(w.steps))
		if err := drafts.AddDocument(ctx, db, demo.App, bo, definition.Document{Kind: definition.Walkthrough,
			Key: fmt.Sprint("any", n), Body: json.RawMessage(body)}); err != nil {
			t.Fatalf("%v: %s", err, body)
		}
	}
	p, err := drafts.PreviewRelease(ctx, db, demo.App, 0)
	if err != nil {
		t.Fatal(err)
	}
	if _, err = drafts.Release(ctx, db, demo.App, bo, drafts.Releasing{Previewed: p.Version}); err != nil {
		t.Fatalf("%v: %+v", err, p.Findings)
	}
	runs := &runs.Runs{DB: db, Editions: documents.NewEditions(db)}
	serials := map[int64]string{}
	var lifts []struct {
		ID     int64
		Serial string
	}
	if err := db.Select(&lifts,
		`SELECT id, serial_number AS serial FROM liftcare_production.lift ORDER BY id`); err != nil {
		t.Fatal(err)
	}
	for _, l := range lifts {
		serials[l.ID] = l.Serial
	}
	backs, added := 0, 0
	for n, w := range walks {
		for round := range 6 {
			h := &hiker{t: t, r: r, runs: runs, dana: dana, name: fmt.Sprint("any", n), steps: w.steps,
				given: map[string]answered{}, serials: serials, mark: fmt.Sprintf("%d-%d", n, round)}
			h.walk()
			backs, added = backs+h.backs, added+h.added
		}
	}
	if backs < 20 || added < 25 {
		t.Errorf("%d ways back, %d calls added: the test tries too little", backs, added)
	}
}

// hiker is somebody who goes through a walkthrough.
type hiker struct {
	t       *testing.T
	r       *rand.Rand
	runs    *runs.Runs
	dana    int64
	name    string
	steps   []anyStep
	given   map[string]answered
	serials map[int64]string
	mark    string
	path    []string // the screens answered, in order
	run     runs.Run
	backs   int
	added   int
}
