package e2e

import (
	"cmp"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
)

// promised is computed for functions that take their time; one case after the other.
func promised[In, Out any](b *browser, function string, cases []In) []Out {
	b.t.Helper()
	raw, err := json.Marshal(cases)
	if err != nil {
		b.t.Fatal(err)
	}
	answer := run(b, chromedp.Evaluate[string](fmt.Sprintf(`(async () => { const out = []; for (const c of %s) out.push(await %s(c)); return JSON.stringify(out) })()`, raw, function), chromedp.EvalAwaitPromise))
	var out []Out
	if err := json.Unmarshal([]byte(answer), &out); err != nil {
		b.t.Fatal(err)
	}
	return out
}

type tableAction struct {
	Do   string `json:"do"`
	Path string `json:"path"`
	N    int    `json:"n"`
	On   bool   `json:"on"`
}

type tableOrder struct {
	Path string `json:"path"`
	Desc bool   `json:"desc"`
}

type tableState struct {
	Arrangement struct {
		Look struct {
			Order   []tableOrder
			Columns []struct{ Path string }
			Group   *struct{ Path string }
		}
		Widths map[string]int
		Pinned int
	}
	Columns, Groups []string
	Rows            []tableRow
	Total, Open     int
	Counted, Busy   bool
}

type tableRow struct {
	ID    int
	Cells []string
}

// arranged is what somebody made of a table, worked out apart from the browser.
type arranged struct {
	order   []tableOrder
	columns []string
	widths  map[string]int
	pinned  int
	group   string
	words   string
	own     bool // columns were chosen
}

func (a *arranged) does(x tableAction) {
	at := slices.Index(a.columns, x.Path)
	switch x.Do {
	case "orderBy":
		n := slices.IndexFunc(a.order, func(o tableOrder) bool { return o.Path == x.Path })
		next := []tableOrder{{x.Path, false}}
		if n >= 0 {
			next = nil
			if !a.order[n].Desc {
				next = []tableOrder{{x.Path, true}}
			}
		}
		switch {
		case !x.On:
			a.order = next
		case n < 0:
			a.order = append(slices.Clone(a.order), next...)
		default:
			a.order = slices.Concat(a.order[:n], next, a.order[n+1:])
		}
	case "moveBy":
		if to := at + x.N; at >= 0 && to >= 0 && to < len(a.columns) {
			a.columns = slices.Insert(slices.Delete(slices.Clone(a.columns), at, at+1), to, x.Path)
			a.own = true
		}
	case "hide":
		a.columns, a.own = slices.DeleteFunc(slices.Clone(a.columns), func(c string) bool { return c == x.Path }), true
		if len(a.columns) == 0 { // none stands for those it came with
			a.columns, a.own = []string{"a", "b", "c"}, false
		}
	case "add":
		if at < 0 {
			a.columns, a.own = append(slices.Clone(a.columns), x.Path), true
		}
	case "width":
		a.widths = maps.Clone(a.widths)
		a.widths[x.Path] = max(48, x.N)
	case "fit":
		a.widths = maps.Clone(a.widths)
		delete(a.widths, x.Path)
	case "pin":
		a.pinned = x.N
	case "group":
		a.group = ""
		if x.On {
			a.group = x.Path
		}
	case "words":
		a.words = x.Path
	}
}

// rows are all that the server has for that, by group where there are any.
func (a *arranged) rows() (rows []tableRow, byGroup map[string][]tableRow) {
	type record struct {
		id     int
		values []string
	}
	letter := func(r record, path string) string { return r.values[path[0]-'a'] }
	var found []record
	for id := range 40 {
		r := record{id: id}
		for n, times := range []int{1, 7, 13, 3, 11} {
			r.values = append(r.values, strconv.Itoa(id*times%[]int{40, 10, 8, 3, 5}[n]))
		}
		if slices.ContainsFunc(r.values, func(v string) bool { return strings.Contains(v, a.words) }) {
			found = append(found, r)
		}
	}
	slices.SortStableFunc(found, func(x, y record) int {
		for _, o := range a.order {
			if by := cmp.Compare(letter(x, o.Path), letter(y, o.Path)); by != 0 {
				if o.Desc {
					by = -by
				}
				return by
			}
		}
		return 0
	})
	byGroup = map[string][]tableRow{}
	for _, r := range found {
		row := tableRow{ID: r.id}
		for _, c := range a.columns {
			row.Cells = append(row.Cells, letter(r, c))
		}
		rows = append(rows, row)
		if a.group != "" {
			byGroup[letter(r, a.group)] = append(byGroup[letter(r, a.group)], row)
		}
	}
	return rows, byGroup
}

// Whatever somebody does to a table, and in whatever order its questions are answered or lost, it
// is arranged as they said, shows rows and columns that belong together, and in the end what was
// asked for last.
func TestTablesShowWhatWasAskedForLast(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Now())
	r := rand.New(rand.NewPCG(7, 8))
	letters := []string{"a", "b", "c", "d", "e"}
	var scripts [][]tableAction
	for range 250 {
		var script []tableAction
		for range 5 + r.IntN(25) {
			does := []string{"orderBy", "orderBy", "moveBy", "moveBy", "hide", "add", "add", "width", "fit", "pin",
				"group", "toggle", "words", "more", "more", "again", "answer", "answer", "answer", "answer", "answer",
				"answer"}
			a := tableAction{Do: does[r.IntN(len(does))], Path: letters[r.IntN(5)], N: r.IntN(7) - 3,
				On: r.IntN(2) == 0}
			switch a.Do {
			case "answer":
				a.N, a.On = r.IntN(9), r.IntN(8) > 0
			case "words":
				a.Path = []string{"", "1", "3", "39"}[r.IntN(4)]
			case "width":
				a.N = r.IntN(300)
			case "pin", "toggle":
				a.N = r.IntN(4)
			}
			script = append(script, a)
		}
		// Then it is read once more, and all is answered, early questions late.
		script = append(script, tableAction{Do: "again"})
		for range 60 {
			script = append(script, tableAction{Do: "answer", N: r.IntN(9), On: true})
		}
		scripts = append(scripts, script)
	}
	for n, states := range promised[[]tableAction, []tableState](b, "logic.session", scripts) {
		a := &arranged{columns: []string{"a", "b", "c"}, widths: map[string]int{}}
		for i, s := range states {
			a.does(scripts[n][i])
			var columns []string
			for _, c := range s.Arrangement.Look.Columns {
				columns = append(columns, c.Path)
			}
			own := a.columns
			if !a.own {
				own = nil
			}
			group := ""
			if s.Arrangement.Look.Group != nil {
				group = s.Arrangement.Look.Group.Path
			}
			if !slices.Equal(s.Arrangement.Look.Order, a.order) || !slices.Equal(columns, own) ||
				!maps.Equal(s.Arrangement.Widths, a.widths) || s.Arrangement.Pinned != a.pinned || group != a.group {
				t.Fatalf("script %d: %+v at %d: arranged as %+v, want %+v", n, scripts[n][:i+1], i, s.Arrangement, a)
			}
			for _, row := range s.Rows {
				want := []string{}
				for _, c := range s.Columns {
					want = append(want, strconv.Itoa(row.ID*[]int{1, 7, 13, 3, 11}[c[0]-'a']%[]int{40, 10, 8, 3,
						5}[c[0]-'a']))
				}
				if !slices.Equal(row.Cells, want) {
					t.Fatalf("script %d: %+v: under %v stands %v of record %d", n, scripts[n][:i+1], s.Columns,
						row.Cells, row.ID)
				}
			}
		}
		last := states[len(states)-1]
		all, byGroup := a.rows()
		if last.Open != 0 || last.Busy || !last.Counted || last.Total != len(all) || !slices.Equal(last.Columns,
			a.columns) {
			t.Fatalf("script %d: %+v: in the end %+v; %d rows, columns %v", n, scripts[n], last, len(all), a.columns)
		}
		if a.group == "" {
			if len(last.Rows) < min(6, len(all)) || !reflect.DeepEqual(last.Rows, slices.Clip(all[:len(last.Rows)])) {
				t.Fatalf("script %d: %+v: the rows are %+v", n, scripts[n], last.Rows)
			}
			continue
		}
		groups := slices.Sorted(maps.Keys(byGroup))
		if !slices.Equal(last.Groups, groups) {
			t.Fatalf("script %d: %+v: the groups are %v, want %v", n, scripts[n], last.Groups, groups)
		}
		rest := last.Rows
		for _, g := range groups { // those that stand open begin with their first rows
			k := 0
			for k < len(rest) && k < len(byGroup[g]) && reflect.DeepEqual(rest[k], byGroup[g][k]) {
				k++
			}
			rest = rest[k:]
		}
		if len(rest) > 0 {
			t.Fatalf("script %d: %+v: the rows are %+v", n, scripts[n], last.Rows)
		}
	}
}

// A table fills its room and no more, keeps widths that were set to the pixel, holds columns in
// sight as far as there is room for others, and draws all that can be seen.
func TestTablesLieInTheirRoom(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Now())
	r := rand.New(rand.NewPCG(9, 9))
	type room struct {
		Width    int            `json:"width"`
		Columns  []string       `json:"columns"`
		Types    []string       `json:"types"`
		Widths   map[string]int `json:"widths"`
		Pinned   int            `json:"pinned"`
		Numbers  bool           `json:"numbers"`
		Select   string         `json:"select"`
		Buttons  []string       `json:"buttons"`
		Scrolled int            `json:"scrolled"`
	}
	var rooms []room
	for range 150 {
		one := room{Width: 200 + r.IntN(1400), Widths: map[string]int{}, Pinned: r.IntN(5), Numbers: r.IntN(2) == 0,
			Select: []string{"none", "several"}[r.IntN(2)], Buttons: []string{}, Scrolled: r.IntN(4000)}
		for i := range 1 + r.IntN(45) {
			key := fmt.Sprint("c", i)
			one.Columns, one.Types = append(one.Columns, key),
				append(one.Types, []string{"text", "text", "whole_number", "long_text"}[r.IntN(4)])
			if r.IntN(4) == 0 {
				one.Widths[key] = 48 + r.IntN(400)
			}
		}
		if r.IntN(2) == 0 {
			one.Buttons = append(one.Buttons, "Mark as done")
		}
		rooms = append(rooms, one)
	}
	type lies struct {
		Widths        []int
		Acting, Whole int
		Tracks        int
		Before        int
		Pinned        []string
		Drawn         []int
		Scrolled      float64
		Room          int
	}
	for i, l := range promised[room, lies](b, "logic.laidOut", rooms) {
		in := rooms[i]
		ticks := 0
		if in.Select != "none" {
			ticks += 34
		}
		if in.Numbers {
			ticks += 52
		}
		sum := ticks + l.Acting
		for n, w := range l.Widths {
			if set, ok := in.Widths[in.Columns[n]]; ok && w != set || w < 48 {
				t.Fatalf("%+v: column %d is %d wide", in, n, w)
			}
			sum += w
		}
		free := len(in.Columns) - len(in.Widths)
		if l.Whole != sum || sum > l.Room && sum-l.Room < 1 || free > 0 && sum < l.Room-free {
			t.Fatalf("%+v: %d wide in %d, the sum is %d", in, l.Whole, l.Room, sum)
		}
		extra := 0
		if len(in.Buttons) > 0 {
			extra = 1
		}
		if l.Tracks != l.Before+len(in.Columns)+extra {
			t.Fatalf("%+v: %d tracks", in, l.Tracks)
		}
		left, pinned := ticks, 0
		for n, at := range l.Pinned {
			if (at != "") != (n < len(l.Pinned) && pinned == n && at == fmt.Sprint(left, "px")) {
				t.Fatalf("%+v: column %d stays at %q, %d are before it", in, n, at, left)
			}
			left += l.Widths[n]
			if at != "" {
				if pinned++; float64(left) > float64(l.Room-l.Acting)*0.6 {
					t.Fatalf("%+v: what stays takes %d of %d", in, left, l.Room)
				}
			}
		}
		if pinned > in.Pinned {
			t.Fatalf("%+v: %d stay", in, pinned)
		}
		left = ticks
		for n, w := range l.Widths {
			seen := float64(left+w) > l.Scrolled && float64(left) < l.Scrolled+float64(l.Room)
			if (seen || n < pinned) && !slices.Contains(l.Drawn, n) {
				t.Fatalf("%+v: scrolled to %v column %d can be seen and is not drawn: %v", in, l.Scrolled, n, l.Drawn)
			}
			left += w
		}
		if len(in.Columns) > 30 && len(l.Drawn) == len(in.Columns) && l.Whole > l.Room+2000 &&
			!slices.Contains(in.Types, "long_text") {
			t.Fatalf("%+v: all is drawn", in)
		}
	}
}

// Cells show every digit of exact numbers and amounts, grouped as people write them.
func TestCellsShowEveryDigit(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Now())
	r := rand.New(rand.NewPCG(5, 6))
	type cell struct {
		Type     string `json:"type"`
		Amount   string `json:"amount"`
		Currency string `json:"currency"`
	}
	var cells []cell
	for range 500 {
		digits := strconv.Itoa(1 + r.IntN(9))
		for range r.IntN(30) {
			digits += strconv.Itoa(r.IntN(10))
		}
		c := cell{Type: []string{"decimal", "whole_number", "money"}[r.IntN(3)], Amount: digits,
			Currency: []string{"EUR", "JPY", "KWD", "USD"}[r.IntN(4)]}
		if c.Type != "whole_number" && r.IntN(2) == 0 {
			c.Amount += "."
			for range 1 + r.IntN(9) {
				c.Amount += strconv.Itoa(r.IntN(10))
			}
		}
		if r.IntN(2) == 0 {
			c.Amount = "-" + c.Amount
		}
		cells = append(cells, c)
	}
	shown := computed[cell, string](b,
		`c => logic.format({ type: c.type }, c.type === 'money' ? { amount: c.amount, currency: c.currency } : c.amount)`, cells)
	for i, text := range shown {
		whole, places, _ := strings.Cut(strings.TrimPrefix(cells[i].Amount, "-"), ".")
		var grouped string
		for n, digit := range whole {
			if n > 0 && (len(whole)-n)%3 == 0 {
				grouped += ","
			}
			grouped += string(digit)
		}
		if cells[i].Type == "money" {
			places += strings.Repeat("0", max(0, 2-len(places)))
		}
		if places != "" {
			grouped += "." + places
		}
		got := strings.Map(func(r rune) rune {
			if r >= '0' && r <= '9' || r == ',' || r == '.' {
				return r
			}
			return -1
		}, text)
		if got != grouped || strings.HasPrefix(cells[i].Amount, "-") != strings.HasPrefix(text, "-") {
			t.Errorf("%+v is shown as %q, want %s", cells[i], text, grouped)
		}
	}
}

// A block is read as spreadsheets copy it: whatever stands in its cells comes back cell by cell.
func TestBlocksAreReadAsSpreadsheetsCopyThem(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Now())
	r := rand.New(rand.NewPCG(11, 3))
	var texts []string
	var grids [][][]string
	for range 1500 {
		columns, crlf := 1+r.IntN(4), r.IntN(2) == 0
		var grid [][]string
		for range 1 + r.IntN(5) {
			row := make([]string, columns)
			for i := range row {
				for range r.IntN(7) {
					row[i] += []string{"a", "ß", " ", `"`, "\t", "\n", ",", ";", "=", "'", "\U0001f6d7"}[r.IntN(11)]
				}
			}
			grid = append(grid, row)
		}
		var text strings.Builder
		w := csv.NewWriter(&text)
		w.Comma, w.UseCRLF = '\t', crlf
		if err := w.WriteAll(grid); err != nil {
			t.Fatal(err)
		}
		copied := text.String()
		if columns > 1 && r.IntN(3) == 0 { // some leave out the last end of a line
			copied = strings.TrimRight(copied, "\r\n")
		}
		for _, row := range grid {
			for i := range row {
				if crlf {
					row[i] = strings.ReplaceAll(row[i], "\n", "\r\n")
				}
			}
		}
		texts, grids = append(texts, copied), append(grids, grid)
	}
	for i, got := range computed[string, [][]string](b, "logic.block", texts) {
		if !reflect.DeepEqual(got, grids[i]) {
			t.Errorf("%q is read as %q, want %q", texts[i], got, grids[i])
		}
	}
}
