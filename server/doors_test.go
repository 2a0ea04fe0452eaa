package server_test

import (
	"encoding/base64"
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"plainpath/postgres/imports"
	"plainpath/server"
	"plainpath/testdb"
)

// At every door for records, rules and files, bad input is told what is wrong and changes
// nothing.
func TestBadInputAtEveryDoor(t *testing.T) {
	db, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	const objects, tables = "/api/build/spaces/trial/objects/", "/api/build/spaces/trial/tables/"
	digest := func() string {
		var out string
		err := db.Get(&out, `SELECT concat((SELECT count(*) FROM liftcare_trial.history), ' ', (SELECT sum(revision) FROM plainpath.document), ' ', (SELECT count(*) FROM plainpath.person), ' ', (SELECT count(*) FROM plainpath.audit))`)
		if err != nil {
			t.Fatal(err)
		}
		return out
	}
	before := digest()
	type m = map[string]any
	for _, c := range []struct {
		method, path string
		body         any
		status       int
		says         string
	}{
		{"POST", tables + "rows", m{"at": m{"object": "boat"}}, 404, "not here"},
		{"POST", tables + "rows", m{"at": m{"object": "file"}}, 404, "not here"},
		{"POST", tables + "rows", m{"at": m{}}, 404, "not here"},
		{"POST", tables + "rows", m{"at": m{"page": m{"page": "boats", "part": "x", "given": m{}}}}, 404, "not here"},
		{"POST", tables + "rows", m{"at": m{"page": m{"page": "calls", "part": "x", "given": m{}}}}, 404, "no table"},
		{"POST", "/api/use/tables/rows",
			m{"at": m{"rehearsal": m{"walkthrough": "book_a_visit", "as": 1, "part": "x"}}}, 404, "not here"},
		{"POST", "/api/build/spaces/moon/tables/rows", m{"at": m{"object": "lift"}}, 404, "not here"},
		{"GET", "/api/nowhere", nil, 404, "Not Found"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"colour": 1}}, 400, "unknown field"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"after": "x"}}, 400, "first page"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"order": []any{m{"path": "x"}}}}, 400,
			"no field"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"text": strings.Repeat("a ", 21)}}, 400,
			"21 words to look for, and at most 20"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"text": strings.Repeat("a", 501)}}, 400,
			"501 characters"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"columns": many(101, m{"path": "stops"})}},
			400, "101 columns"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"order": many(11, m{"path": "stops"})}}, 400,
			"11 orders"},
		{"POST", tables + "groups",
			m{"at": m{"object": "lift"}, "look": m{"totals": many(31, m{"path": "stops", "of": "sum"})}}, 400,
			"31 totals"},
		{"POST", tables + "rows",
			m{"at": m{"object": "lift"},
				"look": m{"filter": many(101, m{"field": "stops", "op": "is", "value": m{"literal": 1}})}}, 400,
			"101 conditions"},
		{"POST", tables + "rows",
			m{"at": m{"object": "lift"},
				"look": m{"filter": []any{within(12, m{"field": "stops", "op": "is", "value": m{"literal": 1}})}}}, 400,
			"within one another"},
		{"POST", tables + "rows",
			m{"at": m{"object": "lift"},
				"look": m{"filter": []any{m{"field": "kind", "op": "one_of",
					"values": many(1001, m{"literal": "goods"})}}}}, 400, "1001 values"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"size": -1}}, 400, "first page"},
		{"POST", tables + "rows",
			m{"at": m{"object": "lift"}, "look": m{"after": base64.RawURLEncoding.EncodeToString([]byte(`["x"]`))}},
			400, "first page"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"order": []any{m{"path": "serial_number"}},
			"after": base64.RawURLEncoding.EncodeToString([]byte(`["a\u0000", 5]`))}}, 400, "first page"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"after": strings.Repeat("a", 20_001)}}, 400,
			"first page"},
		{"POST", tables + "out", m{"at": m{"object": "lift"}, "look": m{}, "format": "csv",
			"name": strings.Repeat("a", 151)}, 422, "longer than 150"},
		{"PATCH", "/api/build/documents/page/calls",
			m{"base": 1, "patch": many(1001, m{"op": "replace", "path": "/label", "value": "x"})}, 422,
			"1001 operations"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"columns": []any{m{"path": "stops.x"}}}}, 400,
			"not a reference"},
		{"POST", tables + "rows",
			m{"at": m{"object": "lift"},
				"look": m{"filter": []any{m{"field": "stops", "op": "is", "value": m{"expression": "1"}}}}}, 400,
			"compares no field with a value"},
		{"POST", tables + "rows",
			m{"at": m{"object": "lift"},
				"look": m{"filter": []any{m{"related": m{"object": "visit", "field": "lift", "where": m{}}}}}}, 400,
			"compares no field with a value"},
		{"POST", tables + "groups",
			m{"at": m{"object": "lift"}, "look": m{"group": m{"path": "stops", "span": "month"}}}, 400,
			"cannot be grouped"},
		{"POST", tables + "groups",
			m{"at": m{"object": "lift"}, "look": m{"totals": []any{m{"path": "label", "of": "sum"}}}}, 400,
			"no sum of Label"},
		{"POST", tables + "rows", m{"at": m{"object": "lift"}, "look": m{"group": m{"path": "kind"}, "within": 5}}, 400,
			"no such group"},
		{"DELETE", "/api/use/views/77", nil, 404, "not here"},
		{"POST", tables + "rows", []byte(`{"at":{"object":"lift"},"look":{"text":"a\\\u0000"}}`), 400, "U+0000"},
		{"POST", tables + "rows", []byte(`{"at":{"object":"lift"},"look":{"text":"a\\\\u0000"}}`), 200, `"total":0`},
		{"POST", tables + "rows", []byte(`{"at":{"object":"lift"},"look":{"text":"\ud83d\ude00"}}`), 200, `"total":0`},
		{"POST", tables + "rows", []byte(`{"at":{"object":"lift"},"look":{"text":"\ud83d\ud83d"}}`), 400,
			"half of a character"},
		{"POST", tables + "rows", []byte(`{"at":{"object":"lift"},"look":{"text":"\ude00"}}`), 400,
			"half of a character"},
		{"GET", objects + "lift/options?text=%00", nil, 400, "U+0000"},
		{"GET", objects + "lift/options?text=%ff", nil, 400, "no UTF-8"},
		{"POST", tables + "out",
			[]byte("{\"at\":{\"object\":\"lift\",\"page\":{\"page\":\"calls\",\"part\":\"calls\",\"given\":{\"answers\":{\"since\":\"\xab\"}}}},\"format\":\"csv\",\"name\":\"n\"}"), 400, "no UTF-8"},
		{"GET", objects + "lift/records/999999", nil, 404, "not here"},
		{"GET", objects + "lift/records/x", nil, 404, "not here"},
		{"POST", objects + "lift/records", m{"values": m{}}, 422, "is required"},
		{"POST", objects + "lift/records",
			m{"values": m{"serial_number": "QL-10000", "building": m{"id": 1}, "kind": "goods", "state": "running"}},
			422, "same Serial number already"},
		{"POST", objects + "lift/records", m{"values": m{"colour": "red"}}, 422, "no field"},
		{"POST", objects + "lift/records", m{"values": m{"serial_number": 5}}, 422, "is not text"},
		{"POST", objects + "lift/records",
			m{"values": m{"serial_number": "x", "building": m{"id": 1}, "kind": "goods", "state": "running",
				"stops": 1}}, 422, "at least 2"},
		{"POST", objects + "lift/records", m{"wrong": 1}, 400, "unknown field"},
		{"PATCH", objects + "lift/records/0", m{"values": m{"label": "x"}}, 404, "not here"},
		{"PATCH", objects + "lift/records/1", m{"values": m{"serial_number": nil}}, 422, "is required"},
		{"PATCH", objects + "lift/records/1", m{"values": m{"building": m{"id": 12345}}}, 422, "cannot be found"},
		{"PATCH", objects + "lift/records/1", m{"values": m{"label": "x"}, "before": m{"label": "what nobody saw"}},
			409,
			"meanwhile"},
		{"PATCH", objects + "contract/records/1", m{"values": m{"ends": "1999-01-01"}}, 422,
			"a contract ends after it starts"},
		{"PATCH", objects + "building/records/1", m{"values": m{"key_holder": m{"id": 2}}}, 422,
			"does not hold; Customer is"},
		{"DELETE", objects + "building/records/5", nil, 422, "still refer to it"},
		{"POST", objects + "lift/options/serial_number", m{"editing": m{"id": 0, "values": m{}}}, 404, "not here"},
		{"POST", objects + "lift/fit", m{"id": 4, "values": m{"building": "x"}}, 200, "[]"},
		{"POST", objects + "building/candidates", m{"field": "name", "editing": m{"id": 0, "values": m{}}}, 404,
			"not here"},
		{"POST", objects + "building/candidates", m{"field": "customer", "rule": m{"field": "x", "op": "is"},
			"editing": m{"id": 0, "values": m{}}}, 200, "has no field"},
		{"POST", objects + "building/evaluate", m{"expression": "flors + 1", "record": 1}, 200,
			`did you mean \"floors\"?`},
		{"POST", objects + "quote/evaluate", m{"expression": "sum(all_quote_line.map(l, l.amount))", "record": 1}, 200,
			" EUR"},
		{"GET", "/api/build/fields/lift/colour/uses", nil, 404, "no such field"},
		{"POST", "/api/build/fields/lift/kind/key", m{"key": "state"}, 422, "already"},
		{"POST", "/api/build/fields/lift/kind/key", m{"key": "Not A Key"}, 422, "cannot be a key"},
		{"POST", "/api/build/fields/lift/kind/choices/goods/key", m{"key": "passenger"}, 422, "already"},
		{"POST", "/api/build/fields/lift/kind/choices/boat/key", m{"key": "ship"}, 422, "no value"},
		{"POST", "/api/build/objects/lift/key", m{"key": "building"}, 422, "already"},
		{"POST", "/api/build/objects/boat/key", m{"key": "ship"}, 422, "no object"},
		{"GET", "/api/build/documents/object/boat/uses", nil, 404, "no such document"},
		{"DELETE", "/api/build/documents/object/boat", nil, 404, "not here"},
		{"DELETE", "/api/build/documents/object/building", nil, 422, "building"},
		{"DELETE", "/api/build/documents/app/liftcare", nil, 422, "cannot do without"},
		{"POST", "/api/build/documents/object/lift/restore", nil, 404, "not here"},
		{"POST", "/api/build/spaces/trial/mend", m{"object": "lift", "base": 1, "field": "stops", "rule": "required",
			"value": 3}, 422, "No records are in the way"},
		{"POST", "/api/build/spaces/trial/mend", m{"object": "lift", "base": 1, "field": "serial_number",
			"rule": "unique", "value": "x"}, 422, "one by one"},
		{"POST", objects + "customer/records", m{"values": m{"name": "N", "address": "1 Lane"}}, 422,
			"is not an address"},
		{"POST", objects + "customer/records", m{"values": m{"name": "N", "logo": m{"id": 999999}}}, 422,
			"send it again"},
		{"POST", objects + "customer/records", m{"values": m{"name": "N", "logo": "x.png"}}, 422,
			"does not name a record"},
		{"GET", "/api/build/spaces/trial/files/999999", nil, 404, "not here"},
		{"PUT", "/api/build/spaces/trial/files/999999/parts/0", []byte("x"), 404, "not here"},
		{"PUT", "/api/build/intakes/999999/sheets/0/object", m{"object": "lift"}, 404, "not here"},
		{"PUT", "/api/build/intakes/999999/sheets/x/object", m{"object": "lift"}, 404, "not here"},
		{"PUT", "/api/build/intakes/999999/sheets/0/columns/0", m{}, 422, "Say what field"},
		{"POST", "/api/build/people", m{"name": "", "email": "x", "builder": false, "active": true, "spaces": []any{}},
			422, "a name is required"},
		{"PUT", "/api/build/people/999999", m{"name": "N", "email": "n@quillmere.example", "builder": false,
			"active": true, "spaces": []any{}}, 404, "not here"},
		{"POST", "/api/build/people/999999/reset", m{}, 404, "not here"},
		{"POST", "/api/build/spaces/trial/why", m{"person": 999999, "object": "lift", "record": 1}, 404, "not here"},
		{"POST", "/api/build/spaces/trial/intakes", m{"files": []any{}}, 422, "Choose a file"},
		{"POST", "/api/build/spaces/trial/intakes", m{"files": []any{m{"name": "a.csv", "size": 0}}}, 422,
			"a.csv is empty"},
		{"POST", "/api/build/spaces/trial/intakes", m{"files": []any{m{"name": "a.csv", "size": int64(3) << 30}}}, 422,
			"larger than 2 GB"},
		{"GET", "/api/build/intakes/999999", nil, 404, "not here"},
		{"POST", "/api/build/intakes/999999/import", m{}, 404, "not here"},
		{"POST", "/api/build/documents", m{"kind": "object", "key": "Boat", "body": m{}}, 422, "cannot be a key"},
		{"POST", "/api/build/documents",
			m{"kind": "object", "key": "lift", "body": m{"key": "lift", "label": "L", "plural": "L", "label_field": "x",
				"fields": []any{}}}, 422, "already"},
		{"PATCH", "/api/build/documents/object/lift",
			m{"base": 1, "patch": []any{m{"op": "add", "path": "/rules",
				"value": []any{m{"expression": "stpos > 1", "message": "m"}}}}}, 422, `did you mean \"stops\"?`},
		{"PATCH", "/api/build/documents/object/lift",
			m{"base": 1, "patch": []any{m{"op": "add", "path": "/rules",
				"value": []any{m{"expression": "stops > 11", "message": "m"}}}}}, 422, "stand in the way"},
		{"PATCH", "/api/build/documents/object/building",
			m{"base": 1, "patch": []any{m{"op": "add", "path": "/fields/6/candidates",
				"value": m{"expression": `decimal(record.last_name) > 1.0`}}}}, 422,
			"cannot be carried out in the database"},
		{"PATCH", "/api/build/documents/object/quote",
			m{"base": 1, "patch": []any{m{"op": "replace", "path": "/fields/3/expression",
				"value": "sum(all_quote_line.map(l, l.what))"}}}, 422, "cannot be used with"},
	} {
		var body string
		status, err := bo.Do(c.method, c.path, c.body, "", &body)
		if err != nil || status != c.status || !strings.Contains(body, c.says) {
			t.Errorf("%s %s %v: %d %s %v; want %d %q", c.method, c.path, c.body, status, body, err, c.status, c.says)
		}
		if status >= 400 && !json.Valid([]byte(body)) {
			t.Errorf("%s %s: the problem is no JSON: %s", c.method, c.path, body)
		}
	}
	if after := digest(); after != before {
		t.Errorf("something changed: %s, before %s", after, before)
	}
}

// A file goes through the doors piece by piece and its refused rows come down again.
func TestAFileThroughTheDoors(t *testing.T) {
	_, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	content := "Name,Size\n" + strings.Repeat("A,1\n", 20) + "B,many\n"
	var in imports.Intake
	do(t, bo, "POST", "/api/build/spaces/trial/intakes",
		map[string]any{"files": []server.NewFile{{Name: "sizes.csv", Size: int64(len(content))}}}, 201, &in)
	send := func(c *testdb.Client, path string) (int, string) {
		t.Helper()
		var answer string
		status, err := c.Do("PUT", path, []byte(content), "", &answer)
		if err != nil {
			t.Fatal(err)
		}
		return status, answer
	}
	path := fmt.Sprintf("/api/build/intakes/%d", in.ID)
	if status, raw := send(dana, path+"/files/0/parts/0"); status != 403 {
		t.Errorf("somebody who does not build sends files: %d %s", status, raw)
	}
	if status, raw := send(bo, path+"/files/0/parts/x"); status != 404 {
		t.Errorf("%d %s", status, raw)
	}
	if status, raw := send(bo, path+"/files/0/parts/0"); status != 200 {
		t.Fatalf("%d %s", status, raw)
	}
	wait := func(state imports.IntakeState) {
		t.Helper()
		for end := time.Now().Add(2 * time.Minute); in.State != state; time.Sleep(20 * time.Millisecond) {
			do(t, bo, "GET", path, nil, 200, &in)
			if in.Failure != "" || time.Now().After(end) {
				t.Fatalf("%s: %s", in.State, in.Failure)
			}
		}
	}
	wait(imports.Ready)
	do(t, bo, "PUT", path+"/plan", in.Plan, 200, &in)
	do(t, bo, "POST", path+"/import", map[string]any{}, 422, nil) // not before it was tried
	do(t, bo, "POST", path+"/check", map[string]any{}, 200, &in)
	wait(imports.Checked)
	do(t, bo, "POST", path+"/import", map[string]any{}, 200, &in)
	wait(imports.Imported)
	var refused []imports.RefusedCell
	do(t, bo, "GET", path+"/refused/0", nil, 200, &refused)
	if len(refused) != 1 || refused[0].Line != 22 || refused[0].Value != "many" {
		t.Errorf("%+v", refused)
	}
	var file string
	do(t, bo, "GET", path+"/refused/0/file", nil, 200, &file)
	if !strings.HasPrefix(file, "Name,Size,Reason\r\nB,many,") {
		t.Errorf("%q", file)
	}
	var all []imports.Intake
	do(t, bo, "GET", "/api/build/intakes", nil, 200, &all)
	if len(all) != 1 || all[0].State != imports.Imported {
		t.Errorf("%+v", all)
	}
	do(t, bo, "DELETE", path, nil, 204, nil)
	do(t, bo, "GET", path, nil, 404, nil)
}

// many is a list of the same.
func many(n int, of any) []any {
	out := make([]any, n)
	for i := range out {
		out[i] = of
	}
	return out
}

// within is a condition in as many others.
func within(n int, of any) any {
	for range n {
		of = map[string]any{"all": []any{of}}
	}
	return of
}
