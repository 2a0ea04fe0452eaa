package postgres_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
	"plainpath/postgres/schema"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/model"
	"plainpath/testdb"
)

// evolution is an app whose objects are changed at random.
type evolution struct {
	*testing.T
	r      *rand.Rand
	db     *postgres.DB
	app    string
	person int64
	made   int
	done   map[string]int
}

const evolvingFields = `{"key":"name","label":"Name","type":"text","required":true},{"key":"state","label":"State","type":"choice","choices":[{"key":"new","label":"New"},{"key":"old","label":"Old"}]},
	{"key":"stops","label":"Stops","type":"whole_number"},{"key":"price","label":"Price","type":"money"},{"key":"tags","label":"Tags","type":"several_choices","choices":[{"key":"new","label":"New"},{"key":"loud","label":"Loud"}]},
	{"key":"place","label":"Place","type":"address"},{"key":"since","label":"Since","type":"date"},
	{"key":"called","label":"Called","type":"worked_out","result":"text","expression":"name + (state == \"new\" ? \" (new)\" : \"\")"}`

func evolve(t *testing.T, db *postgres.DB, person int64, seed uint64) *evolution {
	t.Helper()
	e := &evolution{t, rand.New(rand.NewPCG(seed, 5)), db, fmt.Sprintf("evolve%d", seed), person, 0, map[string]int{}}
	doc := func(kind definition.Kind, key, body string) definition.Document {
		return definition.Document{Kind: kind, Key: key, Revision: 1, Body: json.RawMessage(body)}
	}
	docs := []definition.Document{doc(definition.App, e.app,
		`{"key":"`+e.app+`","label":"E","currency":"EUR","zone":"UTC"}`),
		doc(definition.Object, "lift",
			`{"key":"lift","label":"Lift","plural":"Lifts","label_field":"name","rules":[{"expression":"empty(stops) || stops != 13 || state == \"old\"","message":"not thirteen"}],"fields":[`+evolvingFields+`]}`),
		doc(definition.Object, "visit", `{"key":"visit","label":"Visit","plural":"Visits","label_field":"note","fields":[{"key":"note","label":"Note","type":"text"},
			{"key":"lift","label":"Lift","type":"reference","object":"lift","candidates":{"field":"tags","op":"includes_not","value":{"literal":"loud"}}},
			{"key":"of","label":"Of","type":"worked_out","result":"yes_no","expression":"lift.state == \"old\" || \"new\" in lift.tags"}]}`),
		doc(definition.Role, "all",
			`{"key":"all","label":"All","objects":{"lift":{"see":true,"add":true,"rows":{"field":"state","op":"is_not","value":{"literal":"old"}}},"visit":{"see":true,"add":true}}}`)}
	if err := apps.InstallApp(t.Context(), db, e.app, docs, person); err != nil {
		t.Fatal(err)
	}
	e.sql(`INSERT INTO %[1]s_trial.lift (name, state, stops, price, price_currency, tags, place, since) SELECT 'L' || n, CASE WHEN n %% 3 = 0 THEN 'old' WHEN n %% 3 = 1 THEN 'new' END, n %% 7, n, 'EUR',
		CASE WHEN n %% 2 = 0 THEN ARRAY['new','loud'] END, ROW('Lane ' || n, NULL, NULL, NULL)::plainpath.address, date '2026-01-01' + n FROM generate_series(1, 12) n`)
	e.sql(`INSERT INTO %[1]s_trial.visit (note, lift) SELECT 'N' || n, n FROM generate_series(1, 12) n`)
	return e
}

func (e *evolution) sql(query string) {
	e.Helper()
	if _, err := e.db.Exec(fmt.Sprintf(query, e.app)); err != nil {
		e.Fatal(err)
	}
}

func (e *evolution) documents() []definition.Document {
	e.Helper()
	docs, err := documents.Documents(e.Context(), e.db, e.app)
	if err != nil {
		e.Fatal(err)
	}
	return docs
}

// object picks one of the objects as it is now.
func (e *evolution) object() (definition.Document, model.Object) {
	e.Helper()
	docs := slices.DeleteFunc(e.documents(), func(d definition.Document) bool { return d.Kind != definition.Object })
	d := docs[e.r.IntN(len(docs))]
	var o model.Object
	if err := definition.Decode(d.Body, &o); err != nil {
		e.Fatal(err)
	}
	return d, o
}

func (e *evolution) fresh(what string) string {
	e.made++
	return fmt.Sprintf("%s_%d", what, e.made)
}

// step makes one random change. What is refused for a reason a person can do something
// about is none; everything else is an error.
func (e *evolution) step() {
	e.Helper()
	d, o := e.object()
	n := e.r.IntN(len(o.Fields))
	f := &o.Fields[n]
	at := fmt.Sprintf("/fields/%d", n)
	apply := func(ops ...definition.Op) error {
		_, err := drafts.Apply(e.Context(), e.db, documents.Edit{App: e.app, Kind: d.Kind, Key: d.Key,
			Change: edit.Change{Base: d.Revision, Patch: edit.Patch(ops)}, Person: e.person})
		return err
	}
	back := documents.Edit{App: e.app, Kind: d.Kind, Key: d.Key, Person: e.person}
	what, err := "", error(nil)
	switch e.r.IntN(14) {
	case 0:
		what = "add a field"
		kinds := []string{`"text"`, `"whole_number"`, `"money"`, `"yes_no","required":true,"default":true`, `"address"`,
			`"date"`, `"reference","object":"` + d.Key + `"`, `"several_choices","choices":[{"key":"a","label":"A"}]`,
			`"file"`, `"running_number","prefix":"N-"`}
		key := e.fresh("f")
		err = apply(op("add", "/fields/-", fmt.Sprintf(`{"key":%q,"label":"Fresh","type":%s}`, key,
			kinds[e.r.IntN(len(kinds))])))
	case 1:
		what = "remove a field"
		err = apply(op("remove", at, ""))
	case 2:
		what = "another type"
		kinds := []string{"text", "long_text", "whole_number", "decimal", "money", "choice", "several_choices",
			"address", "date_time", "date"}
		ops := []definition.Op{op("replace", at+"/type", fmt.Sprintf("%q", kinds[e.r.IntN(len(kinds))]))}
		if len(f.Choices) == 0 {
			ops = append(ops, op("add", at+"/choices", `[{"key":"new","label":"New"}]`))
		}
		err = apply(ops...)
	case 3:
		what = "needed or not"
		err = apply(op("add", at+"/required", fmt.Sprint(!f.Required)))
	case 4:
		what = "unique or not"
		err = apply(op("add", at+"/unique", fmt.Sprint(!f.Unique)))
	case 5:
		what = "a limit"
		err = apply(op("add", at+"/most", fmt.Sprint(e.r.IntN(12))))
	case 6:
		what = "move a field"
		raw, _ := json.Marshal(f)
		err = apply(op("remove", at, ""), op("add", fmt.Sprintf("/fields/%d", e.r.IntN(len(o.Fields))), string(raw)))
	case 7:
		what = "a field's key"
		_, err = drafts.RenameField(e.Context(), e.db, e.app, d.Key, f.Key, e.fresh("k"), e.person)
	case 8:
		what = "an object's key"
		_, err = drafts.RenameObject(e.Context(), e.db, e.app, d.Key, e.fresh("o"), e.person)
	case 9:
		if len(f.Choices) == 0 {
			return
		}
		what = "a choice's key"
		_, err = drafts.RenameChoice(e.Context(), e.db, e.app, d.Key, f.Key, f.Choices[e.r.IntN(len(f.Choices))].Key,
			e.fresh("c"), e.person)
	case 10:
		what = "the choices"
		err = apply(op("add", at+"/choices/-", fmt.Sprintf(`{"key":%q,"label":"Another"}`, e.fresh("v"))))
	case 11:
		what = "undo"
		_, err = drafts.Undo(e.Context(), e.db, back)
	case 13:
		what = "what stands for a record"
		err = apply(op("replace", "/label_field", fmt.Sprintf("%q", f.Key)))
	case 12:
		what = "redo"
		_, err = drafts.Redo(e.Context(), e.db, back)
	}
	var rejected *postgres.RejectedError
	var findings *documents.FindingsError
	var obstacles *schema.ObstacleError
	var clash *edit.ClashError
	switch {
	case err == nil:
		e.done[what]++
	case errors.As(err, &rejected), errors.As(err, &findings), errors.As(err, &obstacles), errors.As(err, &clash):
	default:
		e.Fatalf("%s of %s of %s: %v\n%s", what, f.Key, d.Key, err, d.Body)
	}
}

// catalogue is everything in a schema that the model asks for: columns with their types
// and rules, constraints and indexes. What is hidden is left out.
func catalogue(t *testing.T, db *postgres.DB, schema string) []string {
	t.Helper()
	var out []string
	err := db.Select(&out, `WITH tables AS (SELECT c.oid, c.relname FROM pg_class c WHERE c.relnamespace = $1::regnamespace AND c.relkind = 'r' AND c.relname <> 'history'),
		columns AS (SELECT t.relname, a.attrelid, a.attname, a.attnum, format_type(a.atttypid, a.atttypmod) AS type, a.attnotnull, a.attgenerated, pg_get_expr(d.adbin, d.adrelid) AS expression,
			coalesce(col_description(t.oid, a.attnum), '') AS made FROM tables t JOIN pg_attribute a ON a.attrelid = t.oid AND a.attnum > 0 AND NOT a.attisdropped LEFT JOIN pg_attrdef d ON d.adrelid = t.oid AND d.adnum = a.attnum),
		shown AS (SELECT * FROM columns WHERE made NOT LIKE 'plainpath hidden%' AND (made <> '' OR attname IN ('id', 'revision', 'created_at', 'created_by', 'changed_at', 'changed_by')
			OR EXISTS (SELECT 1 FROM columns o WHERE o.attrelid = columns.attrelid AND o.attname || '_currency' = columns.attname AND o.made NOT LIKE 'plainpath hidden%' AND o.made <> '')))
		SELECT 'column ' || relname || '.' || attname || ' ' || type || CASE WHEN attnotnull THEN ' needed' ELSE '' END || ' ' || attgenerated::text || ' ' || coalesce(expression, '') FROM shown
		UNION ALL SELECT 'constraint ' || t.relname || ' ' || k.conname || ' ' || pg_get_constraintdef(k.oid) FROM tables t JOIN pg_constraint k ON k.conrelid = t.oid
			WHERE NOT EXISTS (SELECT 1 FROM columns h WHERE h.attrelid = t.oid AND h.attnum = ANY(k.conkey) AND NOT EXISTS (SELECT 1 FROM shown s WHERE s.attrelid = h.attrelid AND s.attnum = h.attnum))
		UNION ALL SELECT 'index ' || i.indexrelid::regclass::text || ' ' || pg_get_indexdef(i.indexrelid) FROM tables t JOIN pg_index i ON i.indrelid = t.oid
			WHERE NOT EXISTS (SELECT 1 FROM columns h WHERE h.attrelid = t.oid AND h.attnum = ANY(i.indkey) AND NOT EXISTS (SELECT 1 FROM shown s WHERE s.attrelid = h.attrelid AND s.attnum = h.attnum))
		ORDER BY 1`, schema)
	if err != nil {
		t.Fatal(err)
	}
	for i := range out {
		out[i] = strings.ReplaceAll(out[i], schema+".", "")
	}
	return out
}

// Whatever way definitions were changed, the tables are those that the same definitions
// would make from nothing, and no record is lost.
func TestEveryWayLeadsToTheSameTables(t *testing.T) {
	db := testdb.New(t)
	person := personID(t, db, "bo")
	done := map[string]int{}
	for seed := range uint64(3) {
		e := evolve(t, db, person, seed)
		for n := range 60 {
			e.step()
			if n%12 != 11 {
				continue
			}
			docs := e.documents()
			twin := fmt.Sprintf("twin%d_%d", seed, n)
			for i, d := range docs {
				if d.Kind == definition.App {
					docs[i].Key, docs[i].Body = twin, json.RawMessage(strings.ReplaceAll(string(d.Body), e.app, twin))
				}
			}
			if err := apps.InstallApp(t.Context(), db, twin, docs, person); err != nil {
				t.Fatal(err)
			}
			is, want := catalogue(t, db, e.app+"_trial"), catalogue(t, db, twin+"_trial")
			for _, line := range is {
				if !slices.Contains(want, line) {
					t.Errorf("seed %d, step %d: beyond the definitions: %s", seed, n, line)
				}
			}
			for _, line := range want {
				if !slices.Contains(is, line) {
					t.Errorf("seed %d, step %d: missing: %s", seed, n, line)
				}
			}
			if t.Failed() {
				t.FailNow()
			}
		}
		records := 0
		for _, d := range e.documents() {
			if d.Kind == definition.Object {
				records += count(t, db, `SELECT count(*) FROM `+e.app+`_trial."`+d.Key+`"`)
			}
		}
		if records != 24 {
			t.Errorf("seed %d: %d records are left of 24", seed, records)
		}
		for what, n := range e.done {
			done[what] += n
		}
	}
	for _, what := range []string{"add a field", "remove a field", "another type", "needed or not", "unique or not",
		"a field's key", "an object's key", "a choice's key", "undo", "redo"} {
		if done[what] == 0 {
			t.Errorf("no change was %q: %v", what, done)
		}
	}
}

// stored is all that is stored in the tables that are shown, and what they are called.
func (e *evolution) stored() []string {
	e.Helper()
	var out []string
	for _, d := range e.documents() {
		if d.Kind != definition.Object {
			continue
		}
		var o model.Object
		if err := definition.Decode(d.Body, &o); err != nil {
			e.Fatal(err)
		}
		var rows []string
		columns := []string{"id"}
		for _, f := range o.Fields {
			if f.Type != model.WorkedOut {
				columns = append(columns, `"`+f.Key+`"`)
			}
			if f.Type == model.Money {
				columns = append(columns, `"`+f.Key+`_currency"`)
			}
		}
		if err := e.db.Select(&rows, `SELECT '`+d.Key+` ' || ROW(`+strings.Join(columns,
			", ")+`)::text FROM `+e.app+`_trial."`+d.Key+`" ORDER BY id`); err != nil {
			e.Fatal(err)
		}
		out = append(out, rows...)
		out = append(out, string(d.Body))
	}
	return out
}

// What is made ready before, beside what is there, comes to the same tables and records as what is
// made while others wait, change by change, and leaves nothing.
func TestMadeReadyOrAtOnceIsTheSame(t *testing.T) {
	db, aside := testdb.New(t), testdb.New(t)
	aside.MostAtOnce = 1
	done := 0
	for seed := range uint64(5) {
		at, before := evolve(t, db, personID(t, db, "bo"), seed), evolve(t, aside, personID(t, aside, "bo"), seed)
		for n := range 60 {
			at.step()
			before.step()
			if is, want := before.stored(), at.stored(); !slices.Equal(is, want) {
				t.Fatalf("seed %d, step %d: made ready it is\n%s\nat once\n%s", seed, n, strings.Join(is, "\n"),
					strings.Join(want, "\n"))
			}
			if left := count(t, aside, `SELECT (SELECT count(*) FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid WHERE c.relkind = 'r' AND attname LIKE '.%' AND NOT attisdropped)
				+ (SELECT count(*) FROM pg_constraint WHERE conname LIKE '.%') + (SELECT count(*) FROM pg_trigger WHERE tgname LIKE '.%') + (SELECT count(*) FROM pg_description WHERE description LIKE 'plainpath ready%')`); left != 0 {
				t.Fatalf("seed %d, step %d: %d things are left", seed, n, left)
			}
		}
		if err := schema.MakeIndexes(t.Context(), documents.NewEditions(aside)); err != nil {
			t.Fatal(err)
		}
		schema := at.app + "_trial"
		if is, want := catalogue(t, aside, schema), catalogue(t, db, schema); !slices.Equal(is, want) {
			t.Errorf("seed %d: the tables are\n%s\nat once\n%s", seed, strings.Join(is, "\n"), strings.Join(want, "\n"))
		}
		done += before.done["another type"] + before.done["unique or not"]
	}
	if done < 12 {
		t.Errorf("only %d changes had something to make ready", done)
	}
}
