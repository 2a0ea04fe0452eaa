package server_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"plainpath/hostile"
	"plainpath/postgres/runs"
	"plainpath/testdb"
)

// Whatever stands in a request, the answer is what was asked for or says what is wrong
// with the request; it is never a failure of the program.
func TestHostileValuesAtEveryDoorOfATable(t *testing.T) {
	db, base := serve(t)
	knock(t, testdb.SignIn(t, base, "dana@quillmere.example"), soundAtTables())
	var views int
	if err := db.Get(&views, `SELECT count(*) FROM plainpath.view`); err != nil || views != 0 {
		t.Errorf("%d views were kept, %v", views, err)
	}
}

// soundAtTables are sound requests at every door of a table, by address.
func soundAtTables() map[string]string {
	const (
		use  = "/api/use/"
		at   = `"at":{"page":{"page":"calls","part":"calls","given":{"answers":{"since":"2026-01-01T00:00:00Z","calls":{"id":1}},"looks":{"calls":{"text":"door"}},"edited":{"calls":[1]}}}}`
		look = `"look":{"text":"door","filter":[{"field":"opened","op":"between","value":{"literal":"2025-01-01T00:00:00Z"},"to":{"literal":"2027-01-01T00:00:00Z"}},{"field":"state","op":"one_of","values":[{"literal":"done"}]}],"order":[{"path":"problem","desc":true}],"columns":[{"path":"number","label":"N","above":"A"}],"group":{"path":"opened","span":"month","hidden":["2026-01-01"]},"within":"2026-02-01","totals":[{"path":"number","of":"greatest","converted":false}],"rates_on":"2026-01-01","after":""}`
	)
	return map[string]string{
		use + "tables/rows":        `{` + at + `,` + look + `}`,
		use + "tables/groups":      `{` + at + `,` + look + `}`,
		use + "tables/proof":       `{` + at + `,` + look + `}`,
		use + "tables/proof/1/why": `{` + at + `,` + look + `}`,
		use + "tables/fields":      `{` + at + `,"through":"lift.building"}`,
		use + "tables/views":       `{` + at + `}`,
		use + "tables/records/options": `{` + at +
			`,"path":"lift","text":"QL","editing":{"id":1,"values":{"lift":{"id":1}}}}`,
		use + "tables/options": `{` + at +
			`,"path":"engineer","text":"a","editing":{"id":1,"values":{"lift":{"id":1}}}}`,
		use + "tables/read": `{` + at +
			`,"cells":[{"path":"due","text":"1 March 2026"},{"path":"lift","text":"QL-10000"}]}`,
		use + "tables/save": `{` + at +
			`,"rows":[{"id":1,"values":{"problem":"p","due":"2026-03-01"},"before":{"problem":"never so"}}]}`,
		use + "tables/out": `{` + at + `,` + look +
			`,"format":"csv","name":"n","chosen":{"keys":[1,2],"all":{"text":"a"},"except":[3]}}`,
		use + "press":       `{` + at + `,"button":"done","chosen":{"keys":[1]}}`,
		use + "press/rows":  `{` + at + `,"keys":[1,2]}`,
		use + "pages/calls": `{"given":{"answers":{"since":"2026-01-01T00:00:00Z","calls":{"id":1}},"looks":{"calls":{"text":"door","order":[{"path":"problem"}]}},"edited":{"calls":[1]}},"changed":["calls"]}`,
	}
}

// The same holds for what is filled in: records of every type of field, screens of
// walkthroughs, and what builders try out.
func TestHostileValuesAtOtherDoors(t *testing.T) {
	_, base := serve(t)
	bo := testdb.SignIn(t, base, "bo@quillmere.example")
	dana := testdb.SignIn(t, base, "dana@quillmere.example")
	knock(t, bo, soundInBuild())
	knock(t, dana, soundInRun(t, dana))
}

// soundInBuild are sound requests of a builder, by address.
func soundInBuild() map[string]string {
	const (
		customer = `{"name":"N","line_of_business":"housing","address":{"lines":"1 Lane","town":"T","postcode":"P","country":"C"},"phone":"+44 1632 960001","email":"a@b.example","web":"https://b.example","status":"active","credit_limit":{"amount":"5.00","currency":"EUR"},"account_manager":{"id":1},"notes":"n"}`
		records  = "/api/build/spaces/trial/objects/"
	)
	return map[string]string{
		records + "customer/records":                 `{"values":` + customer + `}`,
		records + "customer/fit":                     `{"id":1,"values":` + customer + `}`,
		records + "building/options/key_holder":      `{"editing":{"id":1,"values":{"customer":{"id":1}}},"text":"a"}`,
		records + "building/candidates":              `{"field":"key_holder","rule":{"all":[{"field":"customer","op":"is","value":{"expression":"edited.customer"}}]},"editing":{"id":1,"values":{"customer":{"id":1}}}}`,
		records + "building/evaluate":                `{"expression":"floors + 1","record":1}`,
		"/api/build/rehearsals/book_a_visit":         `{"as":2,"taken":{"x":1},"recorded":[{"screen":"which","answers":{"part":"mill"}}],"remembered":[{"screen":"which","answers":{"part":"mill"}}],"upto":"which","part":"part","text":"a"}`,
		"/api/build/spaces/trial/why":                `{"person":2,"object":"lift","record":1}`,
		"/api/build/spaces/trial/mend":               `{"object":"lift","base":1,"field":"stops","rule":"required","value":3}`,
		"/api/build/fields/lift/kind/key":            `{"key":"state"}`,
		"/api/build/spaces/trial/tables/rows":        `{"at":{"related":{"object":"lift","record":1,"from":"visit","field":"lift"}},"look":{}}`,
		"/api/build/spaces/trial/tables/proof/1/why": `{"at":{"rehearsal":{"walkthrough":"book_a_visit","as":2,"taken":{},"recorded":[{"screen":"which","answers":{"part":"mill"}}],"part":"building"}},"look":{}}`,
	}
}

// soundInRun are sound requests of somebody who is in a walkthrough, by address.
func soundInRun(t *testing.T, dana *testdb.Client) map[string]string {
	t.Helper()
	var run runs.Run
	if status, err := dana.Do("POST", "/api/use/runs", map[string]any{"walkthrough": "book_a_visit"}, "start",
		&run); err != nil || status != 201 {
		t.Fatal(status, err)
	}
	return map[string]string{
		"/api/use/runs": `{"walkthrough":"no such","taken":{"x":1}}`,
		"/api/use/runs/" + run.ID +
			"/answers": fmt.Sprintf(`{"revision":%d,"screen":"which","answers":{"part":"mill"}}`, run.Revision),
		"/api/use/runs/" + run.ID + "/back": fmt.Sprintf(`{"revision":%d,"screen":"which"}`, run.Revision),
	}
}

// knock sends every bent form of sound requests and wants words, not failures, in answer.
func knock(t *testing.T, c *testdb.Client, sound map[string]string) {
	t.Helper()
	requests := 0
	for path, one := range sound {
		for _, body := range hostile.Bent(one) {
			requests++
			var answer string
			status, err := c.Do("POST", path, []byte(body), fmt.Sprint(path, requests), &answer)
			if err != nil || status >= 500 || !json.Valid([]byte(answer)) {
				t.Errorf("%s %.700s: %d %.200s %v", path, body, status, answer, err)
			}
		}
	}
	if requests < 200 {
		t.Errorf("only %d requests", requests)
	}
}
