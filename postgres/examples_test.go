package postgres_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"plainpath/core/walk"
	"plainpath/demo"
	"plainpath/postgres/jobs"
	"plainpath/postgres/runs"
)

// The kept rehearsals of the demo come out as expected, all of them soon, and put every record back.
func TestTheKeptRehearsalsOfTheDemo(t *testing.T) {
	r := newRehearsing(t, "mara")
	history := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`)
	began := time.Now()
	all, err := r.runs.Examples(t.Context(), demo.App, "")
	if err != nil {
		t.Fatal(err)
	}
	if took := time.Since(began); took > 5*time.Second {
		t.Errorf("they took %s", took)
	}
	kept := map[string]int{}
	for _, e := range all {
		kept[e.Walkthrough]++
		if !e.Holds() {
			t.Errorf("%s of %s: %s %+v", e.Name, e.Walkthrough, e.Failed, e.Differences)
		}
	}
	for key, n := range kept {
		if n < 2 {
			t.Errorf("%s has %d", key, n)
		}
	}
	if len(kept) < 4 {
		t.Errorf("only %d walkthroughs have any", len(kept))
	}
	if n := count(t, r.db, `SELECT count(*) FROM liftcare_trial.history`); n != history {
		t.Errorf("%d changes are left", n-history)
	}
}

// A rehearsal is kept by what records are called, holds where they have other keys, and says what is otherwise when
// something has changed.
func TestAKeptRehearsalSaysWhatIsOtherwise(t *testing.T) {
	r := newRehearsing(t, "mara")
	var brake struct {
		ID int64
	}
	if err := r.db.Get(&brake, `SELECT id FROM liftcare_trial.repair_package WHERE name = 'Brake service'`); err != nil {
		t.Fatal(err)
	}
	const table = `{"key":"all","kind":"search","search":{"object":"repair_package","where":{}}},
		{"key":"pick","kind":"screen","screen":{"bands":[{"columns":[{"parts":[{"key":"one","kind":"table","label":"P","table":{"source":"all","columns":[{"path":"name"}],"select":"one"}}]}]}]}},
		{"key":"dear","kind":"change","change":{"of":"pick.one","values":[{"field":"price","value":{"expression":"pick.one.price + pick.one.price"}}]}},
		{"key":"done","kind":"finish","finish":{"message":"{pick.one.name} on {today}"}}`
	r.add("dearer", table)
	ask := runs.Rehearsal{App: demo.App, Walkthrough: "dearer", As: r.as, On: "2031-03-04",
		Recorded: []walk.Recorded{given(t, "pick", "one", map[string]any{"id": brake.ID, "label": "Brake service"})}}
	made, err := r.runs.Keepable(t.Context(), ask)
	if err != nil {
		t.Fatal(err)
	}
	raw, _ := json.Marshal(made.Example)
	const want = `"given":[{"screen":"pick","answers":{"one":{"label":"Brake service"}}}],"expect":{"reached":"done","message":"Brake service on 2031-03-04","counts":[{"step":"all","found":12},{"step":"dear","written":1}]}`
	if !strings.Contains(string(raw), want) || made.Pinned != 0 || made.Example.As != "mara@quillmere.example" {
		t.Fatalf("%s, %d pinned\nwant %s", raw, made.Pinned, want)
	}
	example := func(change func(*walk.Example)) string {
		t.Helper()
		x := made.Example
		x.Key, x.Name = "kept", "Kept"
		change(&x)
		body, _ := json.Marshal(x)
		r.db.MustExec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(body, '{examples}', jsonb_build_array($1::jsonb)) WHERE key = 'dearer'`, body)
		all, err := r.runs.Examples(t.Context(), demo.App, "dearer")
		if err != nil || len(all) != 1 {
			t.Fatal(all, err)
		}
		var said []string
		for _, d := range all[0].Differences {
			said = append(said, d.What+": "+d.Expected+" / "+d.Now)
		}
		return strings.TrimSpace(all[0].Failed + strings.Join(said, "; "))
	}
	for _, c := range []struct {
		what   string
		change func(*walk.Example)
		want   string
	}{
		{"as it was kept", func(*walk.Example) {}, ""},
		{"a text with a gap", func(x *walk.Example) { x.Expect.Message = "Brake … on …-04" }, ""},
		{"another text", func(x *walk.Example) { x.Expect.Message = "Brake … off …" },
			"The closing message: Brake … off … / Brake service on 2031-03-04"},
		{"another end", func(x *walk.Example) { x.Expect.Reached = "pick" }, "It comes to: pick / done"},
		{"no such day", func(x *walk.Example) { x.On = "yesterday" }, `"yesterday" is no day such as 2026-03-05`},
		{"nobody", func(x *walk.Example) { x.As = "nobody@quillmere.example" },
			`nobody has the address "nobody@quillmere.example"`},
		{"no such record", func(x *walk.Example) {
			x.Given = []walk.Recorded{given(t, "pick", "one", map[string]any{"label": "Nothing"})}
		}, "It comes to: done / pick; It is refused:  / there is no repair package “Nothing” to choose; " +
			"The closing message: Brake service on 2031-03-04 / ; dear writes: 1 / not done"},
	} {
		if got := example(c.change); got != c.want {
			t.Errorf("%s: %q, want %q", c.what, got, c.want)
		}
	}
}

// A file that was given in a rehearsal stays with it when it is kept, whoever it was rehearsed as, until no kept
// rehearsal gives it.
func TestAKeptRehearsalKeepsItsFiles(t *testing.T) {
	r := newRehearsing(t, "mara")
	file := func(by int64, name string) (id int64) {
		t.Helper()
		err := r.db.Get(&id, `INSERT INTO plainpath.file (app, name, size, media_type, added_by, added_at)
			VALUES ('liftcare', $1, 1, 'application/pdf', $2, now() - interval '40 days') RETURNING id`, name, by)
		if err != nil {
			t.Fatal(err)
		}
		return id
	}
	const ask = `{"key":"ask","kind":"screen","screen":{"bands":[{"columns":[{"parts":[
			{"key":"one","kind":"input","label":"One","input":{"type":"file"}},
			{"key":"all","kind":"input","label":"All","input":{"type":"file","several":true}}]}]}]}},
		{"key":"each","kind":"add","add":{"object":"document","for_each":"ask.all","item":"f","values":[
			{"field":"title","value":{"literal":"Of several"}},{"field":"kind","value":{"literal":"photo"}},{"field":"file","value":{"expression":"f"}}]}},
		{"key":"done","kind":"finish","finish":{"message":"{size(ask.all)} and {ask.one}"}}`
	r.add("papers", ask)
	one, two, three := file(r.as, "one.pdf"), file(r.as, "two.pdf"), file(r.as, "left.pdf")
	theirs := file(personID(t, r.db, "dana"), "dana.pdf")
	ref := func(id int64) map[string]any { return map[string]any{"id": id, "label": "f"} }
	play := runs.Rehearsal{App: demo.App, Walkthrough: "papers", As: r.as,
		Recorded: []walk.Recorded{given(t, "ask", "one", ref(one), "all", []any{ref(one), ref(two)})}}
	made, err := r.runs.Keepable(t.Context(), play)
	if err != nil || made.Example.Expect.Message != "2 and one.pdf" || made.Files != 2 || made.Pinned != 0 {
		t.Fatalf("%+v, %v", made, err)
	}
	play.Recorded = []walk.Recorded{given(t, "ask", "one", ref(theirs))}
	other, err := r.runs.Keepable(t.Context(), play)
	if err != nil || other.Example.Expect.Refused == "" || other.Files != 0 {
		t.Errorf("a file of somebody else: %+v, %v", other, err)
	}
	made.Example.Key, made.Example.Name = "kept", "Kept"
	body, _ := json.Marshal(made.Example)
	put := func(examples string) {
		r.db.MustExec(`UPDATE plainpath.document SET revision = revision + 1, body = jsonb_set(body, '{examples}', $1::jsonb) WHERE key = 'papers'`, examples)
	}
	clean := func(want ...int64) {
		t.Helper()
		if err := jobs.DropUnheld(t.Context(), r.db); err != nil {
			t.Fatal(err)
		}
		if n := count(t, r.db, `SELECT count(*) FROM plainpath.file WHERE id = ANY($1) AND kept`, want); n != len(want) {
			t.Errorf("%d of %d files are there", n, len(want))
		}
	}
	put("[" + string(body) + "]")
	clean(one, two)
	if all, err := r.runs.Examples(t.Context(), demo.App, "papers"); err != nil || len(all) != 1 || !all[0].Holds() {
		t.Errorf("%+v, %v", all, err)
	}
	r.db.MustExec(`UPDATE plainpath.rehearsal_file SET at = now() - interval '31 days'`)
	clean(one, two)
	put("[]")
	clean()
	if n := count(t, r.db, `SELECT count(*) FROM plainpath.file WHERE id = ANY($1)`, []int64{one, two, three}); n != 1 {
		t.Errorf("%d files, want that which nothing has to do with", n)
	}
}
