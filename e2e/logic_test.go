package e2e

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"os/exec"
	"reflect"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"
	_ "time/tzdata"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"plainpath/core/edit"
)

// buildLogic makes one script of what the front end computes.
var buildLogic = sync.OnceValues(func() ([]byte, error) {
	build := exec.Command("npm", "run", "--silent", "logic")
	build.Dir = "../web"
	return build.CombinedOutput()
})

// logic is a page that has what the front end computes, on a fixed day, and a server to ask.
func logic(t *testing.T, now time.Time, api ...http.Handler) *browser {
	t.Helper()
	if testing.Short() {
		t.Skip("browser tests take their time")
	}
	if out, err := buildLogic(); err != nil {
		t.Fatalf("building what computes: %v\n%s", err, out)
	}
	mux := http.NewServeMux()
	for _, h := range api {
		mux.Handle("/api/", h)
	}
	mux.Handle("/dist/", http.StripPrefix("/dist/", http.FileServer(http.Dir("../web/dist/logic"))))
	mux.HandleFunc("/", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		_, _ = fmt.Fprintf(w, `<script>const Real = Date; globalThis.Date = class extends Real {
			constructor(...a) { a.length ? super(...a) : super(%[1]d) }
			static now() { return %[1]d }
		}</script><script type="module">import * as logic from '/dist/logic.js'; globalThis.logic = logic</script>`, now.UnixMilli())
	})
	server := httptest.NewServer(mux)
	t.Cleanup(server.Close)
	b := site{address: server.URL}.browser(t)
	// The browser stands elsewhere, which must not matter.
	if _, err := chromedp.Call(b.ctx, emulation.SetTimezoneOverride,
		emulation.SetTimezoneOverrideParams{TimezoneID: "America/Los_Angeles"}); err != nil {
		t.Fatal(err)
	}
	// Its language says which of 3/12 is the month.
	if _, err := chromedp.Call(b.ctx, emulation.SetLocaleOverride,
		emulation.SetLocaleOverrideParams{Locale: "en-GB"}); err != nil {
		t.Fatal(err)
	}
	b.open("/")
	b.until(`!!globalThis.logic`, "what computes is not there")
	return b
}

// computed gives what a function of the page makes of each case.
func computed[In, Out any](b *browser, function string, cases []In) []Out {
	b.t.Helper()
	raw, err := json.Marshal(cases)
	if err != nil {
		b.t.Fatal(err)
	}
	answer := run(b, chromedp.Evaluate[string](fmt.Sprintf(`JSON.stringify(%s.map(%s))`, raw, function)))
	var out []Out
	if err := json.Unmarshal([]byte(answer), &out); err != nil {
		b.t.Fatal(err)
	}
	return out
}

// The browser's patches mean what Go's do: a list that was set is changed element by element to
// just what it was set to, in both.
func TestPatchesAgreeWithGos(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Now())
	r := rand.New(rand.NewPCG(3, 4))
	type element struct {
		Key   string `json:"key"`
		Label string `json:"label"`
	}
	type document struct {
		Label string    `json:"label"`
		Rows  []element `json:"rows"`
		Words []string  `json:"words"`
	}
	random := func() document {
		d := document{Label: fmt.Sprint("l", r.IntN(9)), Rows: []element{}, Words: []string{}}
		for _, k := range r.Perm(7)[:r.IntN(7)] {
			d.Rows = append(d.Rows, element{fmt.Sprint("k", k), fmt.Sprint("t", r.IntN(3))})
		}
		for range r.IntN(5) { // alike ones among them
			d.Words = append(d.Words, fmt.Sprint("w", r.IntN(4)))
		}
		return d
	}
	type one struct {
		From document   `json:"from"`
		To   document   `json:"to"`
		Ops  edit.Patch `json:"ops"`
	}
	var cases []one
	for range 3000 {
		c := one{From: random(), To: random()}
		for member, v := range map[string]any{"label": c.To.Label, "rows": c.To.Rows, "words": c.To.Words} {
			raw, err := json.Marshal(v)
			if err != nil {
				t.Fatal(err)
			}
			c.Ops = append(c.Ops, edit.Patch{{Op: "replace", Path: "/" + member, Value: raw}}...)
		}
		if r.IntN(2) == 0 { // an element at the end, by place
			c.Ops = append(c.Ops, edit.Patch{{Op: "add", Path: "/rows/-",
				Value: json.RawMessage(`{"key":"end","label":"e"}`)}, {Op: "add", Path: "/words/-",
				Value: json.RawMessage(`"end"`)}}...)
			c.To.Rows = append(slices.Clone(c.To.Rows), element{"end", "e"})
			c.To.Words = append(slices.Clone(c.To.Words), "end")
		}
		cases = append(cases, c)
	}
	moves := 0
	for i, got := range computed[one, struct {
		Patch edit.Patch      `json:"patch"`
		After json.RawMessage `json:"after"`
	}](b, `c => { const patch = logic.fine(c.from, c.ops); return { patch, after: logic.applied(c.from, patch) } }`,
		cases) {
		c := cases[i]
		raw, err := json.Marshal(c.From)
		if err != nil {
			t.Fatal(err)
		}
		after, _, err := got.Patch.Apply(raw)
		if err != nil {
			t.Fatalf("%+v: Go cannot apply %v: %v", c, got.Patch, err)
		}
		for where, body := range map[string]json.RawMessage{"the browser": got.After, "Go": after} {
			var is document
			if err := json.Unmarshal(body, &is); err != nil || !reflect.DeepEqual(is, c.To) {
				t.Fatalf("from %+v\nby %v\n%s comes to %+v\nwant %+v", c.From, got.Patch, where, is, c.To)
			}
		}
		for _, op := range got.Patch {
			if op.Op == "move" {
				moves++
			}
			if op.Path == "/rows" {
				t.Fatalf("a list whose elements have keys is set as a whole: %v", got.Patch)
			}
			if strings.HasSuffix(op.Path, "/-") {
				t.Fatalf("an end that may be another when the patch arrives: %v", got.Patch)
			}
		}
	}
	if moves < 1000 {
		t.Errorf("only %d moves: the test tries too little", moves)
	}
}

var zones = []string{"UTC", "Europe/Dublin", "America/New_York", "America/Asuncion", "America/Havana",
	"Australia/Lord_Howe", "Asia/Kathmandu", "Pacific/Apia", "America/Los_Angeles"}

// The clocks of the browser are Go's: what they show at any time, and at which times they show
// something, none where they are put forward and two where they are put back.
func TestClocksAgreeWithGos(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Now())
	r := rand.New(rand.NewPCG(5, 6))
	for _, name := range zones {
		zone, err := time.LoadLocation(name)
		if err != nil {
			t.Fatal(err)
		}
		run(b, chromedp.Evaluate[bool](fmt.Sprintf(`logic.setZone(%q) ?? true`, name)))
		var at []string
		for range 400 {
			at = append(at, time.Unix(r.Int64N(3_000_000_000)-800_000_000, 0).UTC().Format(time.RFC3339))
		}
		from := time.Date(2019, 1, 1, 0, 0, 0, 0, time.UTC)
		changes := 0
		for range 14 { // around every change of the clocks
			_, end := from.In(zone).ZoneBounds()
			if end.IsZero() {
				break
			}
			changes++
			for _, minutes := range []int{-91, -61, -31, -1, 0, 1, 29, 31, 61, 91} {
				at = append(at, end.Add(time.Duration(minutes)*time.Minute).UTC().Format(time.RFC3339))
			}
			from = end.Add(time.Hour)
		}
		type wall struct {
			Day     string   `json:"day"`
			Seconds int      `json:"seconds"`
			Times   []string `json:"times"`
		}
		for i, got := range computed[string, wall](b,
			`s => { const w = logic.wallAt(new Date(s)); return { ...w, times: logic.instants(w).map(d => d.toISOString()) } }`, at) {
			when, err := time.Parse(time.RFC3339, at[i])
			if err != nil {
				t.Fatal(err)
			}
			local := when.In(zone)
			if want := local.Format(time.DateOnly); got.Day != want ||
				got.Seconds != local.Hour()*3600+local.Minute()*60+local.Second() {
				t.Fatalf("%s in %s: the browser's clocks show %s and %d s, Go's %s", at[i], name, got.Day, got.Seconds,
					local)
			}
			if want := showing(local); fmt.Sprint(want) != fmt.Sprint(got.Times) {
				t.Fatalf("%s in %s is shown at %v, by Go's at %v", local, name, got.Times, want)
			}
		}
		if name != "UTC" && name != "Asia/Kathmandu" && changes < 2 {
			t.Errorf("%s: only %d changes of the clocks", name, changes)
		}
		// A time that no clock shows.
		if name == "Europe/Dublin" {
			if got := computed[string, []string](b,
				`day => logic.instants({ day, seconds: 5400 }).map(d => d.toISOString())`,
				[]string{"2026-03-29"}); len(got[0]) != 0 {
				t.Errorf("half past one on the day the clocks go forward: %v", got)
			}
		}
	}
}

// showing are the points in time at which the clocks of a zone show what they do at one.
func showing(local time.Time) []string {
	out := []string{}
	for hours := -3 * 60; hours <= 3*60; hours += 30 {
		other := local.Add(time.Duration(hours) * time.Minute)
		if other.Format(time.DateTime) == local.Format(time.DateTime) {
			out = append(out, other.UTC().Format("2006-01-02T15:04:05.000Z"))
		}
	}
	return out
}

// Dates and times are read as people write them, on Friday the 27th of November 2026 in Dublin.
func TestDatesAsPeopleWriteThem(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Date(2026, 11, 27, 23, 30, 0, 0, time.UTC))
	run(b, chromedp.Evaluate[bool](`logic.setZone('Europe/Dublin') ?? true`))
	type written struct{ Value, Later, Wrong string }
	dates := map[string]string{
		"today": "2026-11-27", "Tomorrow": "2026-11-28", "yesterday": "2026-11-26", "mon": "2026-11-30",
		"Friday": "2026-12-04", "next wed": "2026-12-02",
		"+2w": "2026-12-11", "-3d": "2026-11-24", "+1m": "2026-12-27", "in 3 months": "2027-02-27",
		"2 weeks ago": "2026-11-13", "+1y": "2027-11-27",
		"2026-12-03": "2026-12-03", "2026-1-3": "2026-01-03", "3 dec": "2026-12-03", "3rd December 2027": "2027-12-03",
		"Dec 3": "2026-12-03", "dec 3, 2025": "2025-12-03",
		"3 jan": "2027-01-03", "1 jul": "2026-07-01", "3.12.": "2026-12-03", "3.12.26": "2026-12-03",
		"03.12.2026": "2026-12-03", "3/12/2026": "2026-12-03", "3/12": "2026-12-03",
		"fri, 4 dec 2026": "2026-12-04", "29 feb 2028": "2028-02-29", "3 dec 99": "1999-12-03",
		"1 Jan 0001": "0001-01-01", "31 Dec 9999": "9999-12-31", "  3   DEC ": "2026-12-03",
		"29 feb 2027": "", "31.4.2026": "", "3 foo": "", "13/13/2026": "", "dec": "", "2026-00-10": "",
		"1 Jan 0000": "", "3 dec 14:30": "", "soon": "", "+99999y": "",
	}
	times := map[string]string{
		"3 dec 14:30": "2026-12-03T14:30:00Z", "tomorrow 9": "2026-11-28T09:00:00Z",
		"tomorrow at 9am": "2026-11-28T09:00:00Z", "mon 2:15 pm": "2026-11-30T14:15:00Z",
		"14:30":            "2026-11-27T14:30:00Z",
		"2026-07-01 12:00": "2026-07-01T11:00:00Z", "2026-07-01T12:00": "2026-07-01T11:00:00Z",
		"3 Jul 2026, 09:05": "2026-07-03T08:05:00Z", "3 dec": "2026-12-03T00:00:00Z",
		"12 am": "2026-11-27T00:00:00Z", "12 pm": "2026-11-27T12:00:00Z",
		"now": "2026-11-27T23:30:00Z", "+2h": "2026-11-28T01:30:00Z", "+45 min": "2026-11-28T00:15:00Z",
		"3 dec 23:59:58": "2026-12-03T23:59:58Z", "25 oct 2026 0:30": "2026-10-24T23:30:00Z",
		"25 oct 2026 1:30": "2026-10-25T00:30:00Z", "3 dec 25:00": "", "3 dec 14:61": "", "29 mar 2026 1:30": "",
		"13 pm": "", "at noon": "", "3 dec 14.30": "",
	}
	check := func(function string, cases map[string]string) {
		t.Helper()
		var texts []string
		for text := range cases {
			texts = append(texts, text)
		}
		for i, got := range computed[string, written](b, function, texts) {
			want := cases[texts[i]]
			at, err := time.Parse("2006-01-02T15:04:05.000Z", got.Value)
			if is := got.Value; is != want && (err != nil || at.Format(time.RFC3339) != want) ||
				(want == "") != (got.Wrong != "") {
				t.Errorf("%q is read as %+v, want %q", texts[i], got, want)
			}
			if (texts[i] == "25 oct 2026 1:30") != (got.Later != "") {
				t.Errorf("%q could be later: %q", texts[i], got.Later)
			}
		}
	}
	check(`logic.readDate`, dates)
	check(`logic.readDateTime`, times)

	// What an input shows is read back as the same.
	r := rand.New(rand.NewPCG(7, 8))
	var values []string
	for range 1500 {
		values = append(values, time.Unix(r.Int64N(6_000_000_000)-2_000_000_000,
			0).UTC().Format("2006-01-02T15:04:05.000Z"))
	}
	for i, got := range computed[string, written](b, `s => logic.readDateTime(logic.writtenDate(s, true))`, values) {
		if got.Value != values[i] && got.Later != values[i] {
			t.Errorf("%s comes back as %+v", values[i], got)
		}
	}
	if got := computed[string, string](b, `s => logic.inFull(s, true)`,
		[]string{"2026-12-03T14:30:00.000Z"}); !strings.HasPrefix(got[0], "Thursday") || !strings.HasSuffix(got[0],
		"3 December 2026, 14:30") {
		t.Errorf("in full it is %q", got[0])
	}
}

// Numbers are sent digit by digit as they were written; what could mean two is left to be refused.
func TestNumbersAsPeopleWriteThem(t *testing.T) {
	t.Parallel()
	b := logic(t, time.Now())
	cases := map[string]string{"1234.5": "1234.5", "1,234.5": "1234.5", " 12 ": "12", "-1,234,567.891": "-1234567.891",
		"1,5": "1,5", "12,34": "12,34", "0.10": "0.10",
		"123456789012345678901234567890.123": "123456789012345678901234567890.123", "1,23,456": "1,23,456",
		"abc": "abc", "": ""}
	var texts []string
	for text := range cases {
		texts = append(texts, text)
	}
	for i, got := range computed[string, string](b, `logic.read`, texts) {
		if got != cases[texts[i]] {
			t.Errorf("%q is sent as %q, want %q", texts[i], got, cases[texts[i]])
		}
	}
	for i, got := range computed[string, string](b, `s => logic.read(logic.written(s))`, texts) {
		if strings.Contains(texts[i], ",") || strings.Contains(texts[i], " ") {
			continue
		}
		if got != texts[i] {
			t.Errorf("%q comes back as %q", texts[i], got)
		}
	}
}
