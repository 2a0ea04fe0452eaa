package postgres_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"plainpath/core/definition"
	"plainpath/core/table"
	"plainpath/demo"
	"plainpath/postgres/drafts"
	"plainpath/postgres/tables"
)

// Lists come from the other side of references by themselves, of records the person may
// see; a linking object leads to its other end.
func TestListsFromTheOtherSide(t *testing.T) {
	o := newOffice(t)
	link := `{"key":"duty","label":"Duty","plural":"Duties","label_field":"called","fields":[
		{"key":"engineer","label":"Engineer","type":"reference","object":"engineer","required":true},{"key":"building","label":"Building","type":"reference","object":"building","required":true},
		{"key":"called","label":"Called","type":"worked_out","result":"text","expression":"\"duty\""}]}`
	if err := drafts.AddDocument(t.Context(), o.db, demo.App, o.place.Person,
		definition.Document{Kind: definition.Object, Key: "duty", Body: json.RawMessage(link)}); err != nil {
		t.Fatal(err)
	}
	for _, building := range []int{1, 2} {
		if _, err := o.save("duty", 0, fmt.Sprintf(`{"engineer":{"id":1},"building":{"id":%d}}`, building),
			""); err != nil {
			t.Fatal(err)
		}
	}
	lists, err := o.records.Related(t.Context(), o.place, "engineer", 1)
	if err != nil {
		t.Fatal(err)
	}
	by := map[string]int{}
	for i, l := range lists {
		by[l.From] = i
		if want := count(t, o.db, fmt.Sprintf(`SELECT count(*) FROM liftcare_trial.%s WHERE %s = 1`, l.From,
			l.Field)); int(l.Rows.Total) != min(want, table.PageSize) ||
			l.Rows.Counted != (want <= table.PageSize) || want == 0 {
			t.Errorf("%s: %d records, want %d", l.Label, l.Rows.Total, want)
		}
		for _, c := range l.Rows.Columns {
			if c.Path == l.Field {
				t.Errorf("%s repeats the record itself", l.Label)
			}
		}
	}
	duties := lists[by["duty"]]
	if duties.Label != "Buildings" || len(duties.Rows.Columns) != 1 || duties.Rows.Columns[0].Path != "building" ||
		!strings.Contains(fmt.Sprint(duties.Rows.Rows[0].Cells), " ") {
		t.Errorf("%+v", duties)
	}
	if _, also := by["certificate"]; !also {
		t.Error("an engineer's certificates are missing")
	}

	// The rest of a list is read like any table: searched, ordered, page by page.
	building := int64(count(t, o.db,
		`SELECT building FROM liftcare_trial.lift GROUP BY 1 ORDER BY count(*) DESC LIMIT 1`))
	look := table.Look{Order: []table.LookOrder{{Path: "serial_number", Desc: true}}}
	at := func(from, field string) tables.TableAt {
		return tables.TableAt{Related: &tables.RelatedTable{Object: "building", Record: building, From: from,
			Field: field}}
	}
	rows, err := o.tables().Rows(t.Context(), o.place, at("lift", "building"), look, nil)
	if err != nil || rows.Total < 2 || rows.Rows[0].Label < rows.Rows[1].Label {
		t.Errorf("%+v, %v", rows, err)
	}
	for _, bad := range [][2]string{{"lift", "kind"}, {"boat", "building"}, {"visit", "engineer"}} {
		if _, err := o.tables().Rows(t.Context(), o.place, at(bad[0], bad[1]), table.Look{}, nil); err == nil {
			t.Errorf("%v is a list of a building", bad)
		}
	}

	// The owner's desk sees lists of her own records, and none of a stranger's.
	o.place.Person = personID(t, o.db, "orla")
	if lists, err = o.records.Related(t.Context(), o.place, "customer", 5); err != nil || len(lists) == 0 {
		t.Fatal(lists, err)
	}
	for _, l := range lists {
		if l.From == "contract" {
			t.Error("she sees contracts")
		}
	}
	if _, err := o.records.Related(t.Context(), o.place, "customer", 6); err == nil {
		t.Error("she sees a stranger's lists")
	}
}
