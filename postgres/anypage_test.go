package postgres_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
	"reflect"
	"slices"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/screen"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres/drafts"
	"plainpath/postgres/tables"
)

// anyPage is a page made at random: inputs, lists, tables of them, details and texts, each
// depending on some of those made before.
type anyPage struct {
	r        *rand.Rand
	searches []string
	parts    []string
	inputs   map[string]string // the type of each
	tables   map[string]string // the object of each
	sources  map[string]string // the list that feeds each
	chooses  map[string]string
	charts   map[string]bool
	// What can be asked about: texts, numbers, records and lists of each object.
	texts, records map[string][]string
	lists          map[string][]string
}

var anyColumns = map[string][]string{"building": {"name", "customer"}, "lift": {"serial_number", "building"},
	"service_call": {"number", "problem", "lift"}}
var anyText = map[string]string{"building": "name", "lift": "serial_number", "service_call": "problem"}

// condition compares a field of an object with something on the page, or with nothing.
func (p *anyPage) condition(object string) string {
	empty := []string{"skip", "nothing"}[p.r.IntN(2)]
	var all []string
	for _, text := range p.texts["text"] {
		all = append(all, fmt.Sprintf(`{"field":%q,"op":"contains","value":{"expression":%q},"empty":%q}`,
			anyText[object], text, empty))
	}
	for field, of := range map[string]string{"building": "lift", "lift": "service_call"} {
		if object != of {
			continue
		}
		for _, record := range p.records[field] {
			all = append(all, fmt.Sprintf(`{"field":%q,"op":"is","value":{"expression":%q},"empty":%q}`, field, record,
				empty))
		}
		for _, list := range p.lists[field] {
			all = append(all, fmt.Sprintf(`{"field":%q,"op":"one_of","value":{"expression":%q},"empty":%q}`, field,
				list, empty))
		}
	}
	slices.Sort(all)
	if len(all) == 0 || p.r.IntN(6) == 0 {
		return "{}"
	}
	return `{"all":[` + all[p.r.IntN(len(all))] + `]}`
}

func (p *anyPage) offered() string {
	all := append([]string{"n > 3"}, p.texts["text"]...)
	one := all[p.r.IntN(len(all))]
	switch {
	case p.r.IntN(3) > 0:
		return ""
	case one != "n > 3":
		one = "empty(" + one + ")"
	}
	return fmt.Sprintf(`,"offered_when":%q`, one)
}

func (p *anyPage) part(kind, key, rest string) {
	p.parts = append(p.parts, fmt.Sprintf(`{"key":%q,"kind":%q,"label":%q%s,%s}`, key, kind, key, p.offered(), rest))
}

func (p *anyPage) table(key string) {
	object := []string{"building", "lift", "service_call"}[p.r.IntN(3)]
	list := "q_" + key
	if known := p.lists[object]; len(known) > 0 && p.r.IntN(3) == 0 {
		list = known[p.r.IntN(len(known))]
	} else {
		p.searches = append(p.searches, fmt.Sprintf(`{"key":%q,"label":%q,"search":{"object":%q,"where":%s}}`, list,
			list, object, p.condition(object)))
	}
	selects := []string{"none", "one", "several"}[p.r.IntN(3)]
	var columns []string
	for _, c := range anyColumns[object] {
		columns = append(columns, fmt.Sprintf(`{"path":%q}`, c))
	}
	p.part("table", key, fmt.Sprintf(`"table":{"source":%q,"select":%q,"least":0,"edit":%t,"columns":[%s],"keyword":[%q]}`, list, selects, object == "service_call", strings.Join(columns, ","), anyText[object]))
	p.tables[key], p.chooses[key], p.sources[key] = object, selects, list
	p.texts["text"] = append(p.texts["text"], key+".words", key+".order")
	p.lists[object] = append(p.lists[object], key+".matching")
	switch selects {
	case "one":
		p.records[object] = append(p.records[object], key+".selected")
		p.texts["text"] = append(p.texts["text"], key+".selected."+anyText[object])
		if object == "lift" {
			p.records["building"] = append(p.records["building"], key+".selected.building")
		}
	case "several":
		p.lists[object] = append(p.lists[object], key+".selected")
	}
	if object == "service_call" {
		p.lists[object] = append(p.lists[object], key+".edited")
	}
}

// listOf is a list of an object that is known, or one that is searched for by a key.
func (p *anyPage) listOf(object, key string) string {
	if known := p.lists[object]; len(known) > 0 && p.r.IntN(3) > 0 {
		return known[p.r.IntN(len(known))]
	}
	p.searches = append(p.searches, fmt.Sprintf(`{"key":%q,"label":%q,"search":{"object":%q,"where":%s}}`, key, key,
		object, p.condition(object)))
	return key
}

// chart draws a list in groups, in groups in groups or by dots; what is pressed in it is a list for others.
func (p *anyPage) chart(key string) {
	object := []string{"building", "lift", "service_call"}[p.r.IntN(3)]
	by := map[string][]string{"building": {`"floors"`, `"customer"`}, "lift": {`"state"`, `"stops"`, `"building"`},
		"service_call": {`"opened","span":"month"`, `"due","span":"week"`, `"state"`,
			`"priority","empty":true`}}[object]
	split := func() string { return fmt.Sprintf(`{"path":%s}`, by[p.r.IntN(len(by))]) }
	list := p.listOf(object, "c_"+key)
	switch drawn := string(screen.Drawings[p.r.IntN(len(screen.Drawings))]); {
	case drawn == "dots" && object == "lift":
		p.part("chart", key, fmt.Sprintf(
			`"chart":{"source":%q,"drawn":"dots","dots":{"across":"stops","up":"installed_on"}}`, list))
	case drawn == "dots" || drawn == "shares" || p.r.IntN(2) == 0:
		p.part("chart", key, fmt.Sprintf(`"chart":{"source":%q,"drawn":"shares","by":%s}`, list, split()))
	default:
		p.part("chart", key, fmt.Sprintf(`"chart":{"source":%q,"drawn":%q,"by":%s,"split":%s}`, list, drawn, split(),
			split()))
	}
	p.charts[key] = true
	p.lists[object] = append(p.lists[object], key+".matching")
}

// figure counts a list, or makes something of a field of it, beside another of the same object.
func (p *anyPage) figure(key string) {
	object := []string{"building", "lift", "service_call"}[p.r.IntN(3)]
	made := ""
	if field, of := map[string]string{"building": "floors", "lift": "stops", "service_call": "opened"}[object],
		[]string{"least", "greatest", "sum"}[p.r.IntN(3)]; p.r.IntN(2) == 0 &&
		(of != "sum" || object != "service_call") {
		made = fmt.Sprintf(`,"path":%q,"of":%q`, field, of)
	}
	p.part("figure", key, fmt.Sprintf(`"figure":{"source":%q%s,"against":%q,"called":"the others","good":"more"}`,
		p.listOf(object, "f_"+key), made, p.listOf(object, "g_"+key)))
}

func (p *anyPage) text(key string) {
	var says []string
	for _, t := range p.texts["text"] {
		says = append(says, "{"+t+"}")
	}
	for _, lists := range p.lists {
		for _, l := range lists {
			says = append(says, "{size("+l+")}")
		}
	}
	slices.Sort(says)
	p.r.Shuffle(len(says), func(i, j int) { says[i], says[j] = says[j], says[i] })
	p.part("text", key, fmt.Sprintf(`"text":%q`, strings.Join(says[:min(len(says), 1+p.r.IntN(3))], " ")+"."))
}

func makePage(r *rand.Rand) *anyPage {
	p := &anyPage{r: r, inputs: map[string]string{"w": "text", "n": "whole_number", "b": "reference"},
		tables: map[string]string{}, sources: map[string]string{}, chooses: map[string]string{},
		charts: map[string]bool{},
		texts:  map[string][]string{"text": {"w"}}, records: map[string][]string{"building": {"b"}},
		lists: map[string][]string{}}
	p.parts = []string{`{"key":"w","kind":"input","label":"W","input":{"type":"text"}}`,
		`{"key":"n","kind":"input","label":"N","input":{"type":"whole_number"}}`,
		`{"key":"b","kind":"input","label":"B","input":{"type":"reference","object":"building"}}`}
	for i := range 4 + r.IntN(5) {
		key := fmt.Sprint("p", i)
		var records []string
		for _, object := range []string{"building", "lift", "service_call"} {
			records = append(records, p.records[object]...)
		}
		switch r.IntN(10) {
		case 0:
			p.text(key)
		case 5:
			p.figure(key)
		case 6:
			p.chart(key)
		case 1:
			record := records[r.IntN(len(records))]
			field := "name"
			for object, of := range p.records {
				if slices.Contains(of, record) {
					field = anyText[object]
				}
			}
			p.part("details", key, fmt.Sprintf(`"details":{"source":%q,"fields":[{"path":%q}]}`, record, field))
		default:
			p.table(key)
		}
	}
	p.text("last")
	r.Shuffle(len(p.parts), func(i, j int) { p.parts[i], p.parts[j] = p.parts[j], p.parts[i] })
	return p
}

func (p *anyPage) body(key string) string {
	return fmt.Sprintf(`{"key":%q,"label":%q,"roles":["dispatcher"],"searches":[%s],"bands":[{"columns":[{"parts":[%s]}]}]}`, key, key, strings.Join(p.searches, ","), strings.Join(p.parts, ","))
}

// does is something that somebody does on the page; it gives the part that changes.
func (p *anyPage) does(given *screen.Given, shown map[string]screen.PartView) string {
	var keys []string
	for key := range shown {
		if p.inputs[key] != "" || p.tables[key] != "" || p.charts[key] {
			keys = append(keys, key)
		}
	}
	slices.Sort(keys)
	key := keys[p.r.IntN(len(keys))]
	switch p.inputs[key] {
	case "text":
		given.Answers[key] = raw([]string{"", "1", "QL", "house", "a"}[p.r.IntN(5)])
		return key
	case "whole_number":
		given.Answers[key] = raw(p.r.IntN(8))
		return key
	case "reference":
		given.Answers[key] = raw(map[string]any{"id": 1 + p.r.IntN(60)})
		return key
	}
	if chart := shown[key].Chart; chart != nil {
		given.Answers[key] = p.presses(chart)
		return key
	}
	var rows []map[string]any
	for _, row := range shown[key].Table.Rows.Rows {
		rows = append(rows, map[string]any{"id": row.ID})
	}
	look := table.Look{Text: []string{"", "1", "house", "a"}[p.r.IntN(4)]}
	if p.r.IntN(2) == 0 {
		look.Order = []table.LookOrder{{Path: anyText[p.tables[key]], Desc: p.r.IntN(2) == 0}}
	}
	switch n := p.r.IntN(4); {
	case n == 0 || len(rows) == 0:
		given.Looks[key] = look
	case n == 1 && p.tables[key] == "service_call":
		given.Edited[key] = []int64{int64(1 + p.r.IntN(300)), int64(1 + p.r.IntN(300))}
	case p.chooses[key] == "one":
		given.Answers[key] = raw(rows[p.r.IntN(len(rows))])
	case p.chooses[key] == "several" && n == 2:
		given.Answers[key] = raw(map[string]any{"all": look, "except": []any{rows[0]["id"]}})
	case p.chooses[key] == "several":
		given.Answers[key] = raw(rows[:1+p.r.IntN(min(4, len(rows)))])
	default:
		given.Looks[key] = look
	}
	return key
}

// presses is what is given when somebody presses something in a chart, or lets go of it.
func (p *anyPage) presses(chart *screen.ChartPartView) json.RawMessage {
	switch {
	case p.r.IntN(3) == 0:
	case chart.Dots != nil && len(chart.Dots.Rows) > 0:
		return raw(map[string]any{"dot": chart.Dots.Rows[p.r.IntN(len(chart.Dots.Rows))].ID})
	case chart.Charted != nil && len(chart.Charted.Groups) > 0:
		g := chart.Charted.Groups[p.r.IntN(len(chart.Charted.Groups))]
		return raw(map[string]any{"within": g.Key, "deeper": g.Then})
	}
	return raw(nil)
}

// Whatever a page is made of and whatever somebody does on it, what is asked anew after each
// change, put together with what was there, is what the page shows when it is asked for as a whole.
func TestAnyPageShowsAfterAChangeWhatItWouldAsAWhole(t *testing.T) {
	o := newOffice(t)
	r := rand.New(rand.NewPCG(5, 50))
	var pages []*anyPage
	for n := range 26 {
		p := makePage(r)
		pages = append(pages, p)
		key := fmt.Sprint("any", n)
		if err := drafts.AddDocument(o.Context(), o.db, demo.App, o.place.Person,
			definition.Document{Kind: definition.Page, Key: key, Body: json.RawMessage(p.body(key))}); err != nil {
			t.Fatalf("%v: %s", err, p.body(key))
		}
	}
	o.place.Person = personID(t, o.db, "dana")
	anew, same, narrowed, proved := 0, 0, 0, 0
	for n, p := range pages {
		key := fmt.Sprint("any", n)
		given := screen.Given{Answers: screen.Answers{}, Looks: map[string]table.Look{},
			Edited: map[string][]int64{}}
		shown := o.asked(key, p, given, nil)
		var waiting []string
		looks := map[string]table.Look{} // as the rows before somebody were read
		for range 25 {
			earlier := maps.Clone(given.Answers)
			k := p.does(&given, shown)
			waiting = append(waiting, k)
			if chose := shown[k]; string(given.Answers[k]) != string(earlier[k]) {
				chose.Lost = "" // what is said of an earlier choice ends with the next
				shown[k] = chose
			}
			if r.IntN(4) == 0 {
				continue // and something else before it is asked
			}
			part := o.asked(key, p, given, waiting)
			for k, v := range part {
				if !v.Same {
					anew++
					looks[k] = given.Looks[k]
					continue
				}
				same++
				before, there := shown[k]
				if !there {
					t.Fatalf("after %v %s is as it was, but was not there: %s", waiting, k, p.body(key))
				}
				part[k] = before
				if before.Table != nil && !reflect.DeepEqual(looks[k], given.Looks[k]) {
					// The table reads its own rows when it is looked at another way.
					rows, err := o.tables().Rows(t.Context(), o.place,
						tables.TableAt{Page: &tables.PageTable{Page: key, Part: k, Given: given}}, given.Looks[k], nil)
					if err != nil {
						t.Fatal(err)
					}
					table := *before.Table
					table.Rows, before.Table = rows, &table
					part[k], looks[k] = before, given.Looks[k]
				}
			}
			whole := o.asked(key, p, given, nil)
			for k := range whole {
				if got, want := bareView(part[k]), bareView(whole[k]); !reflect.DeepEqual(got, want) {
					t.Fatalf("after %v with %s %s shows\n%s\nas a whole\n%s\non %s", waiting, raw(given), k, raw(got),
						raw(want), p.body(key))
				}
			}
			proved += o.proves(key, given, whole)
			for k, fed := range p.sources { // a table shows what matches in the one that feeds it
				from, matching := strings.CutSuffix(fed, ".matching")
				if !matching || whole[k].Table == nil || whole[from].Table == nil || whole[from].Table.Rows.Next != "" {
					continue
				}
				for _, row := range whole[k].Table.Rows.Rows {
					if !slices.ContainsFunc(whole[from].Table.Rows.Rows,
						func(r table.RowView) bool { return r.ID == row.ID }) {
						t.Fatalf("%s shows %s, which does not match in %s: %s on %s", k, row.Label, from, raw(given),
							p.body(key))
					}
				}
				narrowed++
			}
			if len(part) != len(whole) {
				t.Fatalf("after %v there are %d parts, as a whole %d: %s", waiting, len(part), len(whole), p.body(key))
			}
			shown, waiting = part, nil
		}
	}
	if anew < 350 || same < 1000 || narrowed < 50 || proved < 200 {
		t.Errorf("%d parts were shown anew, %d stayed, %d were fed by others, %d figures proved: the test tries too little",
			anew, same, narrowed, proved)
	}
}

// proves holds the figures of a page against what their proofs count, and gives how many there were.
func (o *office) proves(key string, given screen.Given, shown map[string]screen.PartView) int {
	o.Helper()
	n := 0
	for k, part := range shown {
		if part.Chart != nil && part.Chart.Charted != nil {
			n += o.provesChart(key, given, part)
		}
		if part.Figure == nil {
			continue
		}
		for list, made := range map[string]table.Reckoned{"": part.Figure.Reckoned, ".against": *part.Figure.Against} {
			at := tables.TableAt{Page: &tables.PageTable{Page: key, Part: k + list, Given: given}}
			proof, err := o.tables().Proof(o.Context(), o.place, at, part.Figure.Look, false)
			if err != nil {
				o.Fatalf("%s%s on %s: %v", k, list, key, err)
			}
			if n++; proof.Shown != made.Count {
				o.Fatalf("%s%s is made of %d records, its proof of %d: %s", k, list, made.Count, proof.Shown, raw(given))
			}
			if made.Total != nil && !reflect.DeepEqual(proof.Figures[0].Total, *made.Total) {
				o.Fatalf("%s%s is %s, its proof %s", k, list, raw(made.Total), raw(proof.Figures[0].Total))
			}
		}
	}
	return n
}

// provesChart holds what a chart draws against the proofs of all of it: each group, and their whole.
func (o *office) provesChart(key string, given screen.Given, part screen.PartView) int {
	o.Helper()
	at := tables.TableAt{Page: &tables.PageTable{Page: key, Part: part.Key, Given: given}}
	whole := int64(0)
	for _, g := range part.Chart.Charted.Groups {
		whole += g.Count
	}
	if whole != part.Chart.Charted.Total {
		o.Fatalf("%s draws %d records of %d", part.Key, whole, part.Chart.Charted.Total)
	}
	some := part.Chart.Charted.Groups
	for _, g := range some[:min(len(some), 3)] {
		look := part.Chart.Look
		look.Within = raw(g.Key)
		for _, then := range g.Then {
			look.Deeper = append(look.Deeper, raw(then))
		}
		proof, err := o.tables().Proof(o.Context(), o.place, at, look, false)
		if err != nil || proof.Shown != g.Count {
			o.Fatalf("%s: %s, %s has %d records, its proof %d, %v", part.Key, raw(g.Key), raw(g.Then), g.Count,
				proof.Shown, err)
		}
		same := func(k any) bool { return string(raw(k)) == string(raw(g.Key)) }
		if !slices.ContainsFunc(part.Chart.Charted.Keys, same) {
			o.Fatalf("%s: %s has no place", part.Key, raw(g.Key))
		}
	}
	return min(len(some), 3)
}

// asked is what the page shows, by part.
func (o *office) asked(key string, p *anyPage, given screen.Given, changed []string) map[string]screen.PartView {
	o.Helper()
	view, err := o.tables().Page(o.Context(), o.place, key, given, changed)
	if err != nil {
		o.Fatalf("%v: %s on %s", err, raw(given), p.body(key))
	}
	out := map[string]screen.PartView{}
	for _, part := range view.Bands[0].Columns[0].Parts {
		out[part.Key] = part
	}
	return out
}

// bareView is a part without what the person gave in it, which the browser keeps.
func bareView(v screen.PartView) screen.PartView {
	v.Value = nil
	if v.Table != nil {
		t := *v.Table
		t.Chosen = nil
		v.Table = &t
	}
	return v
}
