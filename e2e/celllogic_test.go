package e2e

import (
	"fmt"
	"maps"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"
)

type tableCell struct {
	ID    int    `json:"id"`
	Path  string `json:"path"`
	Value string `json:"value"`
}

type cellAction struct {
	Do    string      `json:"do"`
	Cells []tableCell `json:"cells"`
	N     int         `json:"n"`
	Fate  string      `json:"fate"`
	Mine  bool        `json:"mine"`
}

type cellState struct {
	Columns []string
	Grouped string
	Rows    []struct {
		ID            int
		Group         string
		Stored, Shown []string
	}
	Groups []string
	Edits  []struct {
		ID     int
		Values map[string]string
	}
	Told []struct {
		ID       int
		Problems []string
		Clashes  []struct{ Field, Theirs string }
	}
	Server map[int]map[string]string
	Saving bool
	Failed string
	Open   int
}

// at is a cell by its record and column.
type at struct {
	id   int
	path string
}

// typist is somebody who changes cells, told apart from the browser: what they entered and have
// not saved, what they did in steps, and what they have seen in each cell.
type typist struct {
	entered map[at]string
	done    [][]stepBack
	sent    map[at]string
	saw     map[at][]string
	// since counts what had been stored in each cell when it was saved last.
	since map[at]int
}

type stepBack struct {
	cell           at
	stored, before string
}

func (p *typist) put(cell at, stored, value string) {
	if value == stored {
		delete(p.entered, cell)
	} else {
		p.entered[cell] = value
	}
}

func (p *typist) does(x cellAction, before cellState) {
	switch x.Do {
	case "set":
		var step []stepBack
		for _, c := range x.Cells {
			for _, row := range before.Rows {
				i := slices.Index(before.Columns, c.Path)
				if row.ID != c.ID || i < 0 {
					continue
				}
				cell, value := at{c.ID, c.Path}, c.Value
				if value == "back" {
					value = row.Stored[i]
				}
				shown, own := p.entered[cell]
				if !own {
					shown = row.Stored[i]
				}
				step = append(step, stepBack{cell, row.Stored[i], shown})
				p.put(cell, row.Stored[i], value)
			}
		}
		p.done = append(p.done, step)
	case "undo":
		if last := len(p.done) - 1; last >= 0 {
			for _, s := range p.done[last] {
				p.put(s.cell, s.stored, s.before)
			}
			p.done = p.done[:last]
		}
	case "save":
		if !before.Saving {
			p.sent = maps.Clone(p.entered)
		}
	case "settle":
		for _, told := range before.Told {
			for _, clash := range told.Clashes[:min(x.N, len(told.Clashes))] {
				if !x.Mine {
					delete(p.entered, at{told.ID, clash.Field})
				}
			}
		}
	}
}

// saved is what became of a request that was under way and is no longer.
func (p *typist) saved(well bool, stored map[at][]string) {
	if !well {
		return
	}
	for cell, value := range p.sent {
		p.since[cell] = slices.Index(stored[cell], value)
		if p.entered[cell] == value {
			delete(p.entered, cell)
		}
	}
	p.done = nil
}

// looks holds what is shown against what was entered and what has ever been stored.
func (p *typist) looks(s cellState, stored map[at][]string) error {
	once := map[int]bool{}
	for _, row := range s.Rows {
		if once[row.ID] {
			return fmt.Errorf("record %d stands there twice", row.ID)
		}
		once[row.ID] = true
		for i, path := range s.Columns {
			cell := at{row.ID, path}
			want, own := p.entered[cell]
			if !own {
				want = row.Stored[i]
				p.saw[cell] = append(p.saw[cell], want)
			}
			if row.Shown[i] != want || !slices.Contains(stored[cell][p.since[cell]:], row.Stored[i]) {
				return fmt.Errorf("%v is shown as %q over %q, want %q", cell, row.Shown[i], row.Stored[i], want)
			}
		}
		if s.Grouped == "" {
			continue
		}
		cell := at{row.ID, s.Grouped}
		if want, own := p.entered[cell]; own && row.Group != want || !own && !slices.Contains(stored[cell], row.Group) {
			return fmt.Errorf("record %d lies in group %q, want %q", row.ID, row.Group, want)
		}
	}
	entered := map[at]string{}
	for _, e := range s.Edits {
		for path, value := range e.Values {
			entered[at{e.ID, path}] = value
		}
	}
	if !maps.Equal(entered, p.entered) {
		return fmt.Errorf("not saved are %v, want %v", entered, p.entered)
	}
	return nil
}

// wrote holds what a request stored against what the person wanted and knew.
func (p *typist) wrote(x cellAction, before, after cellState, stored map[at][]string) error {
	for id, values := range after.Server {
		for path, now := range values {
			cell, was := at{id, path}, before.Server[id][path]
			if was == now {
				continue
			}
			stored[cell] = append(stored[cell], now)
			if x.Do == "theirs" {
				continue
			}
			if p.sent[cell] != now {
				return fmt.Errorf("%v became %q, nobody wanted it", cell, now)
			}
			if !slices.Contains(p.saw[cell], was) {
				return fmt.Errorf("%v had become %q by somebody else, which was never seen and is gone", cell, was)
			}
			p.saw[cell] = append(p.saw[cell], now)
		}
	}
	return nil
}

// cellScript is what somebody, and others, do to a table at random. At the end all is mended,
// settled and saved.
func cellScript(r *rand.Rand) []cellAction {
	number := 0
	some := func(n int) []tableCell {
		var cells []tableCell
		for _, k := range r.Perm(18)[:n] {
			number++
			c := tableCell{k/3 + 1, []string{"a", "b", "c"}[k%3], fmt.Sprint("v", number)}
			switch {
			case r.IntN(6) == 0:
				c.Value = "back"
			case c.Path == "a" && r.IntN(2) == 0:
				c.Value = fmt.Sprint("a", r.IntN(3))
			case c.ID == 6 && r.IntN(3) == 0:
				c.Value = fmt.Sprint("bad", number)
			}
			cells = append(cells, c)
		}
		return cells
	}
	var script []cellAction
	for range 8 + r.IntN(30) {
		does := []string{"set", "set", "set", "undo", "save", "save", "theirs", "settle", "again", "columns", "group",
			"answer", "answer", "answer", "answer", "answer"}
		x := cellAction{Do: does[r.IntN(len(does))], N: r.IntN(3), Mine: r.IntN(2) == 0, Cells: []tableCell{}}
		switch x.Do {
		case "set":
			x.Cells = some(1 + r.IntN(3))
		case "theirs":
			x.Cells = some(1 + r.IntN(3))
			for i := range x.Cells {
				number++
				x.Cells[i].Value = fmt.Sprint("t", number)
			}
		case "columns":
			for _, k := range r.Perm(3)[:1+r.IntN(3)] {
				x.Cells = append(x.Cells, tableCell{Path: []string{"a", "b", "c"}[k]})
			}
		case "group":
			x.Cells = []tableCell{{Path: []string{"a", "a", "b"}[r.IntN(3)]}}
		case "answer":
			x.N, x.Fate = r.IntN(5), []string{"give", "give", "give", "give", "lose", "swallow"}[r.IntN(6)]
		}
		script = append(script, x)
	}
	answers := func(n int) {
		for range n {
			script = append(script, cellAction{Do: "answer", N: r.IntN(5), Fate: "give", Cells: []tableCell{}})
		}
	}
	script = append(script, cellAction{Do: "group", Cells: []tableCell{}},
		cellAction{Do: "columns", Cells: []tableCell{}})
	answers(40)
	script = append(script, cellAction{Do: "set", Cells: []tableCell{{6, "a", "good1"}, {6, "b", "good2"},
		{6, "c", "good3"}}})
	for range 5 {
		script = append(script, cellAction{Do: "save", Cells: []tableCell{}})
		answers(6)
		script = append(script, cellAction{Do: "settle", N: 9, Mine: true, Cells: []tableCell{}})
	}
	return script
}

// Whatever somebody enters in cells while answers come in any order or never, and others change
// the same records: it is shown until it is saved, taken back or given up, saved as it was entered,
// and never put over what somebody else wrote and they have not seen.
func TestCellsKeepWhatWasEntered(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Now())
	r := rand.New(rand.NewPCG(21, 4))
	var scripts [][]cellAction
	for range 180 {
		scripts = append(scripts, cellScript(r))
	}
	clashes, saves, moved := 0, 0, 0
	for n, states := range promised[[]cellAction, []cellState](b, "logic.cells", scripts) {
		p := &typist{entered: map[at]string{}, saw: map[at][]string{}, since: map[at]int{}}
		stored := map[at][]string{}
		before := cellState{Columns: []string{"a", "b", "c"}, Server: map[int]map[string]string{}}
		for id := range 6 {
			before.Server[id+1] = map[string]string{"a": fmt.Sprint("a", (id+1)%2), "b": fmt.Sprint("b", id+1),
				"c": fmt.Sprint("c", id+1)}
			for path, v := range before.Server[id+1] {
				stored[at{id + 1, path}] = []string{v}
				p.saw[at{id + 1, path}] = []string{v}
			}
			before.Rows = append(before.Rows, struct {
				ID            int
				Group         string
				Stored, Shown []string
			}{id + 1, "", []string{fmt.Sprint("a", (id+1)%2), fmt.Sprint("b", id+1), fmt.Sprint("c", id+1)}, nil})
		}
		for i, s := range states {
			x := scripts[n][i]
			fail := func(format string, args ...any) {
				t.Helper()
				t.Fatalf("script %d: %s, after %+v", n, fmt.Sprintf(format, args...), scripts[n][:i+1])
			}
			p.does(x, before)
			if before.Saving && !s.Saving {
				p.saved(s.Failed == "", stored)
				saves++
			}
			if err := p.wrote(x, before, s, stored); err != nil {
				fail("%v", err)
			}
			for _, told := range s.Told {
				for _, c := range told.Clashes {
					p.saw[at{told.ID, c.Field}] = append(p.saw[at{told.ID, c.Field}], c.Theirs)
					clashes++
				}
			}
			if err := p.looks(s, stored); err != nil {
				fail("%v", err)
			}
			if _, own := p.entered[at{1, s.Grouped}]; own {
				moved++
			}
			before = s
		}
		if len(p.entered) > 0 || before.Saving || before.Failed != "" || before.Open > 0 {
			t.Fatalf("script %d: in the end %v is not saved: %q (%d open), after %+v", n, p.entered, before.Failed,
				before.Open, scripts[n])
		}
		for _, row := range before.Rows {
			if got, want := strings.Join(row.Shown, " "),
				before.Server[row.ID]["a"]+" "+before.Server[row.ID]["b"]+" "+before.Server[row.ID]["c"]; got != want {
				t.Fatalf("script %d: in the end record %d is shown as %s, stored is %s, after %+v", n, row.ID, got,
					want, scripts[n])
			}
		}
	}
	if clashes < 60 || saves < 250 || moved < 60 {
		t.Errorf("%d clashes, %d savings, %d moves: the test tries too little", clashes, saves, moved)
	}
}
