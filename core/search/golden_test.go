package search

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

var update = flag.Bool("update", false, "write the golden files anew")

// calls is a model with one of everything that statements differ by.
func calls() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "customer", Label: "Customer", Plural: "Customers", LabelField: "name", Fields: []model.Field{
			{Key: "name", Label: "Name", Type: model.Text}, {Key: "address", Label: "Address", Type: model.Address}}},
		&model.Object{Key: "lift", Label: "Lift", Plural: "Lifts", LabelField: "serial", Fields: []model.Field{
			{Key: "serial", Label: "Serial", Type: model.Text}, {Key: "customer", Label: "Customer", Type: model.Reference, Object: "customer"},
			{Key: "price", Label: "Price", Type: model.Money}, {Key: "stops", Label: "Stops", Type: model.Whole}, {Key: "checked", Label: "Checked", Type: model.Date},
			{Key: "sign", Label: "Sign", Type: model.WorkedOut, Result: model.Text, Expression: `serial + " (" + customer.name + ")"`},
			{Key: "calls", Label: "Calls", Type: model.WorkedOut, Result: model.Whole, Expression: `size(all_call.filter(c, c.state != "done"))`},
			{Key: "latest", Label: "Latest", Type: model.WorkedOut, Result: model.Date, Expression: "greatest(all_call.map(c, c.due))"},
			{Key: "due_before", Label: "Due before", Type: model.WorkedOut, Result: model.Whole, Expression: "size(all_call.filter(c, c.due < checked))"}}},
		&model.Object{Key: "call", Label: "Call", Plural: "Calls", LabelField: "what", Fields: []model.Field{
			{Key: "what", Label: "What", Type: model.Text}, {Key: "lift", Label: "Lift", Type: model.Reference, Object: "lift"},
			{Key: "opened", Label: "Opened", Type: model.DateTime}, {Key: "due", Label: "Due", Type: model.Date},
			{Key: "state", Label: "State", Type: model.Choice, Choices: []model.ChoiceValue{{Key: "new", Label: "New"}, {Key: "done", Label: "Done"}}}}})
}

// worked knows the worked-out fields of a model.
func worked(t *testing.T, m *model.Model) func(object, field string) (WorkedOut, bool) {
	return func(object, field string) (WorkedOut, bool) {
		scope := expr.OfRecord(m, object)
		for _, l := range expr.RelatedLists(m, object) {
			scope = scope.With(l.Name)
		}
		p, err := expr.Compile(scope, m.Object(object).Field(field).Expression)
		if err != nil {
			t.Fatal(err)
		}
		return WorkedOut{Program: p}, true
	}
}

// The SQL of the queries that everything else is made of, held against files: whoever changes
// what is written sees what becomes of each. go test ./core/search -run Golden -update
func TestGoldenSQL(t *testing.T) {
	m := calls()
	everything := map[string]access.Right{"customer": {See: true}, "lift": {See: true}, "call": {See: true}}
	ruled := map[string]access.Right{"call": {See: true}, "lift": {See: true, Rows: &predicate.Condition{Field: "serial", Op: predicate.StartsWith, Value: &predicate.Operand{Literal: []byte(`"QL-1"`)}}},
		"customer": {See: true, Fields: map[string]access.FieldRight{"name": {Hidden: true}}}}
	p := func(object, text string) model.Path { return path(t, m, object, text) }
	columns := func(object string, paths ...string) (out []model.Path) {
		for _, text := range paths {
			out = append(out, p(object, text))
		}
		return out
	}
	contains := func(object, field, words string) predicate.Predicate {
		return predicate.Test{Path: p(object, field), Op: predicate.Contains, Value: value.Text(words)}
	}
	list := Query{Object: "call", Columns: columns("call", "what", "lift", "lift.customer", "lift.customer.address.town", "lift.price"), Limit: 50}
	with := func(q Query, change func(*Query)) Query { change(&q); return q }
	zone, err := time.LoadLocation("America/Havana")
	if err != nil {
		t.Fatal(err)
	}
	months := &Grouping{Path: p("call", "opened"), Span: Month, Zone: time.UTC}
	midnight := &Grouping{Path: p("call", "opened"), Span: Month, Zone: zone}
	totals := []Total{{Path: p("call", "lift.price"), Of: Sum}, {Path: p("call", "lift.stops"), Of: Average}, {Path: p("call", "due"), Of: Greatest}}
	rows := func(q Query, rights map[string]access.Right) (string, []any, error) {
		sel, err := q.Compile(space(t, m, rights))
		if err != nil {
			return "", nil, err
		}
		return sel.SQL, sel.Args, nil
	}
	groups := func(q Query, g *Grouping, totals []Total) (string, []any, error) {
		out, err := q.CompileGroups(space(t, m, everything), g, totals)
		if err != nil {
			return "", nil, err
		}
		return out.SQL, out.Args, nil
	}
	// Lifts with how many calls they have, and the price of those that are open.
	lifts := Query{Object: "lift", Columns: columns("lift", "calls"), Limit: 40, Order: []Order{{Path: p("lift", "stops")}}}
	computed := func(q Query, rights ...map[string]access.Right) (string, []any, error) {
		sp := space(t, m, append(rights, everything)[0])
		sp.Worked = worked(t, m)
		sel, err := q.Compile(sp)
		if err != nil {
			return "", nil, err
		}
		return sel.SQL, sel.Args, nil
	}
	manyCalls := predicate.Test{Path: p("lift", "calls"), Op: predicate.More, Value: value.Whole(3)}
	for name, compile := range map[string]func() (string, []any, error){
		"list":                  func() (string, []any, error) { return rows(list, everything) },
		"list_under_a_row_rule": func() (string, []any, error) { return rows(list, ruled) },
		"count_under_a_row_rule": func() (string, []any, error) {
			return with(list, func(q *Query) { q.Filter = contains("call", "lift.serial", "9%") }).CompileCount(space(t, m, ruled))
		},
		"next_page_by_amount": func() (string, []any, error) {
			return rows(with(list, func(q *Query) {
				q.Order = []Order{{Path: p("call", "lift.price"), Desc: true}, {Path: p("call", "state")}}
				q.After = Cursor{[]byte(`"EUR"`), []byte(`"12.50"`), []byte(`1`), []byte(`77`)}
			}), everything)
		},
		"latest_first": func() (string, []any, error) {
			return rows(with(list, func(q *Query) { q.Latest, q.Order = true, []Order{{Path: p("call", "due"), Desc: true}} }), everything)
		},
		"conditions": func() (string, []any, error) {
			return rows(with(list, func(q *Query) {
				q.Where = predicate.All{
					predicate.Any{contains("call", "what", "50%_"), predicate.Not{Of: predicate.Test{Path: p("call", "state"), Op: predicate.Is, Value: value.Text("done")}}},
					predicate.Test{Path: p("call", "due"), Op: predicate.LessOrEqual, Value: value.Date{Year: 2026, Month: 3, Day: 1}},
					predicate.Test{Path: p("call", "lift.customer.address"), Op: predicate.IsNotEmpty},
				}
			}), everything)
		},
		"has_related": func() (string, []any, error) {
			return rows(Query{Object: "lift", Columns: columns("lift", "serial"), Where: predicate.HasRelated{Object: "call", Via: m.Object("call").Field("lift"), Where: contains("call", "what", "door")}}, everything)
		},
		// What belongs to the record that is seen is read of it, and not of the same joined again.
		"worked_out_under_a_row_rule": func() (string, []any, error) {
			return computed(with(list, func(q *Query) { q.Columns = columns("call", "lift.sign") }), ruled)
		},
		"totals_shown": func() (string, []any, error) { return computed(lifts) },
		"several_totals": func() (string, []any, error) {
			return computed(with(lifts, func(q *Query) { q.Columns = columns("lift", "calls", "latest") }))
		},
		"totals_shown_across_a_reference": func() (string, []any, error) {
			return computed(with(list, func(q *Query) { q.Columns = columns("call", "lift.calls") }))
		},
		"totals_ordered_by": func() (string, []any, error) {
			return computed(with(lifts, func(q *Query) { q.Order = []Order{{Path: p("lift", "calls"), Desc: true}} }))
		},
		"totals_asked_for": func() (string, []any, error) { return computed(with(lifts, func(q *Query) { q.Where = manyCalls })) },
		"totals_of_some": func() (string, []any, error) {
			return computed(with(lifts, func(q *Query) { q.Limit, q.Where = 0, predicate.All{predicate.Keys{3, 4}, manyCalls} }))
		},
		"totals_of_what_some_refer_to": func() (string, []any, error) {
			return computed(Query{Object: "call", Columns: columns("call", "lift.calls"), Where: predicate.Keys{5}})
		},
		"totals_that_depend_on_the_record": func() (string, []any, error) {
			return computed(with(lifts, func(q *Query) { q.Columns = columns("lift", "due_before") }))
		},
		"months":                     func() (string, []any, error) { return groups(list, months, totals) },
		"months_changed_at_midnight": func() (string, []any, error) { return groups(list, midnight, nil) },
		"totals_of_all":              func() (string, []any, error) { return groups(list, nil, totals) },
	} {
		t.Run(name, func(t *testing.T) {
			sql, args, err := compile()
			if err != nil {
				t.Fatal(err)
			}
			got := readable(sql)
			for i, arg := range args {
				got += fmt.Sprintf("-- $%d: %v\n", i+1, arg)
			}
			file := filepath.Join("testdata", "sql", name+".sql")
			if *update {
				if err := os.MkdirAll(filepath.Dir(file), 0o755); err != nil {
					t.Fatal(err)
				}
				if err := os.WriteFile(file, []byte(got), 0o644); err != nil {
					t.Fatal(err)
				}
				return
			}
			want, err := os.ReadFile(file)
			if err != nil {
				t.Fatal(err)
			}
			if got != string(want) {
				t.Errorf("%s is written otherwise now:\n%s", name, got)
			}
		})
	}
}

// readable puts the clauses of a statement on lines of their own.
func readable(sql string) string {
	for _, clause := range []string{" FROM ", " LEFT JOIN ", " JOIN ", " WHERE ", " AND ", " OR ", " GROUP BY ", " ORDER BY ", " LIMIT "} {
		sql = strings.ReplaceAll(sql, clause, "\n "+clause[1:])
	}
	return strings.ReplaceAll(sql, "\n LEFT\n JOIN", "\n LEFT JOIN") + "\n"
}
