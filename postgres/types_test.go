package postgres_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
)

// garage is an object with a field of every type that is made of several things, and
// records in it.
func garage(t *testing.T) *office {
	t.Helper()
	o := newOffice(t)
	body := `{"key":"van","label":"Van","plural":"Vans","label_field":"plate","fields":[
		{"key":"plate","label":"Plate","type":"text","required":true,"unique":true},
		{"key":"fittings","label":"Fittings","type":"several_choices","default":["ladder"],"choices":[{"key":"ladder","label":"Ladder"},{"key":"winch","label":"Winch"},{"key":"oven","label":"Oven, small"}]},
		{"key":"stands_at","label":"Stands at","type":"address"},
		{"key":"called","label":"Called","type":"worked_out","result":"text","expression":"plate + \" in \" + either(stands_at.town, \"no town\")"},
		{"key":"equipped","label":"Equipped","type":"worked_out","result":"yes_no","expression":"\"winch\" in fittings && size(fittings) > 1"}]}`
	if err := drafts.AddDocument(t.Context(), o.db, demo.App, o.place.Person,
		definition.Document{Kind: definition.Object, Key: "van", Body: json.RawMessage(body)}); err != nil {
		t.Fatal(err)
	}
	for i, values := range []string{
		`"fittings":["winch","ladder"],"stands_at":{"lines":"4 Rope Walk\n(rear)","town":"Varrow","postcode":"6010"}`,
		`"fittings":["oven"],"stands_at":{"town":"Sandholt","country":"Quillmere Coast"}`,
		`"stands_at":{"lines":"Mill Bank, \"the\" yard"}`,
		`"fittings":null`,
		`"fittings":["winch"]`,
	} {
		if _, err := o.save("van", 0, fmt.Sprintf(`{"plate":"QV-%d",%s}`, i+1, values), ""); err != nil {
			t.Fatal(err)
		}
	}
	return o
}

// plates lists the vans for which a condition holds, in an order.
func (o *office) plates(condition, order string) string {
	o.Helper()
	desk, err := apps.RecordsOf(o.Context(), o.db, demo.App, postgres.Trial, o.place.Person)
	if err != nil {
		o.Fatal(err)
	}
	var c predicate.Condition
	if err := json.Unmarshal([]byte(condition), &c); err != nil {
		o.Fatal(err)
	}
	m := desk.Model()
	checked, problems := predicate.Check(expr.Scope{Model: m}, "van", c, "")
	if len(problems) > 0 {
		o.Fatalf("%s: %+v", condition, problems)
	}
	where, err := checked.Bind(nil)
	if err != nil {
		o.Fatal(err)
	}
	q := query.Query{Object: "van", Where: where}
	if order != "" {
		path, err := m.Path("van", order)
		if err != nil {
			o.Fatal(err)
		}
		q.Order = []query.Order{{Path: path}}
	}
	found, err := records.Select(o.Context(), desk, q)
	if err != nil {
		o.Fatal(err)
	}
	out := make([]string, len(found))
	for i, r := range found {
		out[i] = strings.TrimPrefix(r.Label, "QV-")
	}
	return strings.Join(out, " ")
}

func TestAskingAfterManifoldFields(t *testing.T) {
	o := garage(t)
	for _, c := range []struct{ condition, order, want string }{
		{`{"field":"fittings","op":"includes","value":{"literal":"winch"}}`, "", "1 5"},
		{`{"field":"fittings","op":"includes_not","value":{"literal":"winch"}}`, "", "2 3 4"},
		{`{"field":"fittings","op":"one_of","values":[{"literal":"oven"},{"literal":"ladder"}]}`, "", "1 2 3"},
		{`{"field":"fittings","op":"is_empty"}`, "", "4"},
		{`{"field":"stands_at","op":"is_not_empty"}`, "", "1 2 3"},
		{`{"field":"stands_at","op":"is_empty"}`, "", "4 5"},
		{`{"field":"stands_at.town","op":"is","value":{"literal":"Varrow"}}`, "", "1"},
		{`{"field":"stands_at.lines","op":"contains","value":{"literal":"\"THE\""}}`, "", "3"},
		{`{"field":"stands_at.country","op":"is_empty"}`, "", "1 3 4 5"},
		{`{"field":"called","op":"contains","value":{"literal":"no town"}}`, "", "3 4 5"},
		{`{"field":"equipped","op":"is","value":{"literal":true}}`, "", "1"},
		{`{"expression":"record.stands_at.town == \"Varrow\" || \"oven\" in record.fittings"}`, "", "1 2"},
		{`{"all":[]}`, "stands_at", "1 3 2 4 5"},
		{`{"field":"fittings","op":"is_not_empty"}`, "fittings", "3 2 5 1"},
	} {
		if got := o.plates(c.condition, c.order); got != c.want {
			t.Errorf("%s by %s: %s, want %s", c.condition, c.order, got, c.want)
		}
	}
	if indexes := count(t, o.db,
		`SELECT count(*) FROM pg_indexes WHERE schemaname = 'liftcare_trial' AND indexname = 'van.fittings.includes' AND indexdef LIKE '%gin%'`); indexes != 1 {
		t.Error("no index answers what a field includes")
	}
}

func TestWhatIsStoredInManifoldFields(t *testing.T) {
	o := garage(t)
	p, err := o.records.Profile(t.Context(), o.place, "van", false)
	if err != nil {
		t.Fatal(err)
	}
	fittings, address := p.Fields[1], p.Fields[2]
	if fittings.Filled != 4 || fittings.Distinct != 4 || address.Filled != 3 || address.Distinct != 3 ||
		!strings.Contains(strings.Join(address.Samples, "|"), "4 Rope Walk, (rear), 6010 Varrow") {
		t.Errorf("%+v\n%+v", fittings, address)
	}
	form, err := o.records.Form(t.Context(), o.place, "van", 1)
	if err != nil || fmt.Sprint(form.Values["fittings"]) != "[winch ladder]" ||
		fmt.Sprint(form.Values["called"]) != "QV-1 in Varrow" {
		t.Errorf("%+v, %v", form.Values, err)
	}
	// Two people at the same address: each part is part of one value.
	seen := `{"stands_at":{"lines":"4 Rope Walk\n(rear)","town":"Varrow","postcode":"6010"}}`
	if _, err := o.save("van", 1, `{"stands_at":{"town":"Ester Bay"}}`, seen); err != nil {
		t.Error(err)
	}
	if _, err := o.save("van", 1, `{"stands_at":{"town":"Quillmere"}}`, seen); err == nil {
		t.Error("somebody's change was written over")
	}
	for values, says := range map[string]string{
		`{"fittings":["sofa"]}`: "choose one of the values", `{"fittings":"winch"}`: "not a list of choices",
		`{"stands_at":"Varrow"}`: "not an address",
	} {
		field := "/fittings"
		if strings.Contains(values, "stands_at") {
			field = "/stands_at"
		}
		_, err := o.save("van", 2, values, "")
		o.refused(err, field, says)
	}
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.history WHERE object = 'van' AND after->'stands_at'->>'town' = 'Ester Bay'`); n != 1 {
		t.Errorf("the history has the address %d times", n)
	}
}

// Choices become several and back, addresses text and back, as far as nothing is lost.
func TestManifoldFieldsConvert(t *testing.T) {
	o := garage(t)
	bo := editor{t, o.db, "object", "van", o.place.Person}
	revision := func() int {
		t.Helper()
		d, err := documents.Document(t.Context(), o.db, demo.App, "object", "van")
		if err != nil {
			t.Fatal(err)
		}
		return d.Revision
	}
	_, err := bo.edit(revision(), "", op("replace", "/fields/1/type", `"choice"`),
		op("remove", "/fields/1/default", ""), op("remove", "/fields/4", ""))
	if found := obstacles(t, err); len(found) != 1 || found[0].Count != 1 ||
		!strings.Contains(found[0].Records[0].Reason, "several values") {
		t.Errorf("%+v", found)
	}
	if _, err := o.save("van", 1, `{"fittings":["winch"]}`, ""); err != nil {
		t.Fatal(err)
	}
	bo.must(revision(), op("replace", "/fields/1/type", `"choice"`), op("remove", "/fields/1/default", ""),
		op("remove", "/fields/4", ""))
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.van WHERE fittings = 'winch'`); n != 2 {
		t.Errorf("%d vans have a winch", n)
	}
	bo.must(revision(), op("replace", "/fields/1/type", `"several_choices"`))
	if n := count(t, o.db, `SELECT count(*) FROM liftcare_trial.van WHERE fittings @> ARRAY['winch']`); n != 2 {
		t.Errorf("%d vans have a winch again", n)
	}
	_, err = bo.edit(revision(), "", op("replace", "/fields/2/type", `"long_text"`), op("remove", "/fields/3", ""))
	if found := obstacles(t, err); len(found) != 1 || found[0].Count != 2 {
		t.Errorf("%+v", found)
	}
	// A value that records hold cannot be taken out; one that none holds can.
	_, err = bo.edit(revision(), "", op("remove", "/fields/1/choices/1", ""))
	if found := obstacles(t, err); len(found) != 1 || found[0].Count != 2 {
		t.Errorf("%+v", found)
	}
	if _, err := o.save("van", 3, `{"fittings":["oven"]}`, ""); err != nil {
		t.Fatal(err)
	}
	bo.must(revision(), op("remove", "/fields/1/choices/0", ""))
}

// A row rule and a candidate rule look into addresses and several choices.
func TestRulesOverManifoldFields(t *testing.T) {
	o := garage(t)
	visits := editor{t, o.db, "object", "visit", o.place.Person}
	visits.must(1, op("add", "/fields/-",
		`{"key":"van","label":"Van","type":"reference","object":"van","candidates":{"field":"fittings","op":"includes","value":{"expression":"edited.minutes > 60 ? \"winch\" : \"ladder\""}}}`))
	visit := func(minutes int, van int64) error {
		_, err := o.save("visit", 0,
			fmt.Sprintf(`{"lift":{"id":1},"engineer":{"id":1},"starts":"2026-12-01T09:00:00Z","minutes":%d,"van":{"id":%d}}`, minutes, van), "")
		return err
	}
	o.refused(visit(90, 3), "/van",
		"QV-3 cannot be chosen as Van: “Fittings includes winch” does not hold; Fittings is Ladder")
	for minutes, van := range map[int]int64{90: 5, 30: 3} {
		if err := visit(minutes, van); err != nil {
			t.Errorf("%d minutes with van %d: %v", minutes, van, err)
		}
	}
	if _, err := o.db.Exec(`UPDATE plainpath.document SET body = jsonb_set(body, '{objects,van}', '{"see":true,"rows":{"field":"stands_at.town","op":"is","value":{"literal":"Varrow"}}}'), revision = revision + 1 WHERE kind = 'role' AND key = 'dispatcher'`); err != nil {
		t.Fatal(err)
	}
	o.place.Person = personID(t, o.db, "dana")
	list, err := o.list("van", table.Look{})
	if err != nil || list.Total != 1 || list.Rows[0].Label != "QV-1" {
		t.Errorf("%+v, %v", list.Rows, err)
	}
}
