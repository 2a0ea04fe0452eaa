package postgres_test

import (
	"strings"
	"testing"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/demo"
	"plainpath/postgres/documents"
	"plainpath/postgres/schema"
	"plainpath/postgres/sqlgen"
)

// Over many records indexes are made in the background, and queries use them, those over
// expressions as well.
func TestIndexesOverManyRecordsAreMadeInTheBackground(t *testing.T) {
	o := newOffice(t)
	o.db.MustExec(`INSERT INTO liftcare_trial.engineer (first_name, last_name, depot, active) SELECT 'Ann' || n, 'Ödmark' || n, 'varrow', true FROM generate_series(1, 20100) n`)
	bo := editor{t, o.db, "object", "engineer", personID(t, o.db, "bo")}
	bo.must(1, op("replace", "/fields/3/expression", `"last_name + \", \" + first_name"`),
		op("add", "/fields/2/ignore_accents", "true"))
	made := func() int {
		return count(t, o.db, `SELECT count(*) FROM pg_indexes WHERE (indexname LIKE 'engineer.name.%' AND indexdef LIKE '%last_name%, %first_name%' OR indexname = 'engineer.last_name.unaccented')`)
	}
	waiting := func() int {
		return count(t, o.db, `SELECT count(*) FROM plainpath.space WHERE unindexed AND schema = 'liftcare_trial'`)
	}
	if made() != 0 || waiting() != 1 {
		t.Fatalf("%d indexes were made while others waited, %d spaces wait", made(), waiting())
	}
	// one that was begun once
	o.db.MustExec(`CREATE INDEX "engineer.last_name.unaccented" ON liftcare_trial.engineer (last_name)`)
	o.db.MustExec(`UPDATE pg_index SET indisvalid = false WHERE indexrelid = 'liftcare_trial."engineer.last_name.unaccented"'::regclass`)
	if err := schema.MakeIndexes(t.Context(), documents.NewEditions(o.db)); err != nil {
		t.Fatal(err)
	}
	if made() != 3 || waiting() != 0 ||
		count(t, o.db, `SELECT count(*) FROM pg_indexes WHERE indexname = 'engineer.last_name.folded' AND schemaname = 'liftcare_trial'`) != 0 {
		t.Errorf("%d of 3 indexes were made, %d spaces wait", made(), waiting())
	}

	o.db.MustExec(`ANALYZE liftcare_trial.engineer`)
	e, err := o.records.Editions.Draft(t.Context(), demo.App)
	if err != nil {
		t.Fatal(err)
	}
	path := func(text string) model.Path {
		p, err := e.Model.Path("engineer", text)
		if err != nil {
			t.Fatal(err)
		}
		return p
	}
	contains := func(field, text string) predicate.Predicate {
		return predicate.Test{Path: path(field), Op: predicate.Contains, Value: value.Text(text)}
	}
	policy, _ := access.Compile(e.Model, "",
		[]access.Role{{Key: "role", Objects: map[string]access.Right{"engineer": {See: true}}}})
	space := sqlgen.Space{Model: e.Model, Schema: "liftcare_trial", Worked: e.WorkedOut,
		Grant: func(object string) (access.Grant, error) {
			return policy.Grant(e.Model, access.Person{Roles: []string{"role"}}, object, expr.Values{})
		}}
	for index, q := range map[string]query.Query{
		"engineer.name.order":           {Order: []query.Order{{Path: path("name")}}, Limit: 50},
		"engineer.name.folded":          {Where: contains("name", "ÖDMARK77, ann7")},
		"engineer.last_name.unaccented": {Where: contains("last_name", "odmark777")},
	} {
		q.Object = "engineer"
		sel, err := sqlgen.Select(space, q)
		if err != nil {
			t.Fatal(err)
		}
		var plan []string
		if err := o.db.Select(&plan, "EXPLAIN "+sel.SQL, sel.Args...); err != nil ||
			!strings.Contains(strings.Join(plan, "\n"), `"`+index+`"`) {
			t.Errorf("%s does not serve %s: %v\n%s", index, sel.SQL, err, strings.Join(plan, "\n"))
		}
	}
	rows, err := o.list("engineer", table.Look{Text: "odmark777"})
	if err != nil || len(rows.Rows) == 0 {
		t.Errorf("%d rows, %v", len(rows.Rows), err)
	}
}
