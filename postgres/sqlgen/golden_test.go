package sqlgen

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
	"plainpath/core/query"
	"plainpath/core/value"
)

var update = flag.Bool("update", false, "write the golden files anew")

// calls is a model with one of everything that statements differ by.
func calls() *model.Model {
	return model.New("EUR",
		&model.Object{Key: "customer", Label: "Customer", Plural: "Customers", LabelField: "name",
			Fields: []model.Field{
				{Key: "name", Label: "Name", Type: model.Text},
				{Key: "address", Label: "Address", Type: model.Address}}},
		&model.Object{Key: "lift", Label: "Lift", Plural: "Lifts", LabelField: "serial", Fields: []model.Field{
			{Key: "serial", Label: "Serial", Type: model.Text},
			{Key: "customer", Label: "Customer", Type: model.Reference, Object: "customer"},
			{Key: "price", Label: "Price", Type: model.Money}, {Key: "stops", Label: "Stops", Type: model.Whole},
			{Key: "checked", Label: "Checked", Type: model.Date},
			{Key: "sign", Label: "Sign", Type: model.WorkedOut, Result: model.Text,
				Expression: `serial + " (" + customer.name + ")"`},
			{Key: "calls", Label: "Calls", Type: model.WorkedOut, Result: model.Whole,
				Expression: `size(all_call.filter(c, c.state != "done"))`},
			{Key: "latest", Label: "Latest", Type: model.WorkedOut, Result: model.Date,
				Expression: "greatest(all_call.map(c, c.due))"},
			{Key: "due_before", Label: "Due before", Type: model.WorkedOut, Result: model.Whole,
				Expression: "size(all_call.filter(c, c.due < checked))"}}},
		&model.Object{Key: "call", Label: "Call", Plural: "Calls", LabelField: "what", Fields: []model.Field{
			{Key: "what", Label: "What", Type: model.Text}, {Key: "lift", Label: "Lift", Type: model.Reference,
				Object: "lift"},
			{Key: "opened", Label: "Opened", Type: model.DateTime}, {Key: "due", Label: "Due", Type: model.Date},
			{Key: "state", Label: "State", Type: model.Choice, Choices: []model.ChoiceValue{{Key: "new", Label: "New"},
				{Key: "done", Label: "Done"}}}}})
}

// worked knows the worked-out fields of a model.
func worked(t *testing.T, m *model.Model) func(object, field string) (query.WorkedOut, bool) {
	return func(object, field string) (query.WorkedOut, bool) {
		scope := expr.OfRecord(m, object)
		for _, l := range expr.RelatedLists(m, object) {
			scope = scope.With(l.Name)
		}
		p, err := expr.Compile(scope, m.Object(object).Field(field).Expression)
		if err != nil {
			t.Fatal(err)
		}
		return query.WorkedOut{Program: p}, true
	}
}

// The SQL of the queries that everything else is made of, held against files: whoever changes
// what is written sees what becomes of each. go test ./postgres/sqlgen -run Golden -update
func TestGoldenSQL(t *testing.T) {
	m := calls()
	everything := map[string]access.Right{"customer": {See: true}, "lift": {See: true}, "call": {See: true}}
	ruled := map[string]access.Right{"call": {See: true},
		"lift": {See: true, Rows: &predicate.Condition{Field: "serial", Op: predicate.StartsWith,
			Value: &predicate.Operand{Literal: []byte(`"QL-1"`)}}},
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
	list := query.Query{Object: "call", Columns: columns("call", "what", "lift", "lift.customer",
		"lift.customer.address.town", "lift.price"), Limit: 50}
	with := func(q query.Query, change func(*query.Query)) query.Query { change(&q); return q }
	zone, err := time.LoadLocation("America/Havana")
	if err != nil {
		t.Fatal(err)
	}
	months := []query.Grouping{{Path: p("call", "opened"), Span: query.Month, Zone: time.UTC}}
	midnight := []query.Grouping{{Path: p("call", "opened"), Span: query.Month, Zone: zone}}
	totals := []query.Total{{Path: p("call", "lift.price"), Of: query.Sum},
		{Path: p("call", "lift.stops"), Of: query.Average}, {Path: p("call", "due"), Of: query.Greatest}}
	rows := func(q query.Query, rights map[string]access.Right) (Statement, error) {
		sel, err := Select(space(t, m, rights), q)
		if err != nil {
			return Statement{}, err
		}
		return sel.Statement, nil
	}
	groups := func(q query.Query, g []query.Grouping, totals []query.Total) (Statement, error) {
		out, err := Grouped(space(t, m, everything), q, g, totals)
		if err != nil {
			return Statement{}, err
		}
		return out.Statement, nil
	}
	// Lifts with how many calls they have, and the price of those that are open.
	lifts := query.Query{Object: "lift", Columns: columns("lift", "calls"), Limit: 40,
		Order: []query.Order{{Path: p("lift", "stops")}}}
	computed := func(q query.Query, rights ...map[string]access.Right) (Statement, error) {
		sp := space(t, m, append(rights, everything)[0])
		sp.Worked = worked(t, m)
		sel, err := Select(sp, q)
		if err != nil {
			return Statement{}, err
		}
		return sel.Statement, nil
	}
	manyCalls := predicate.Test{Path: p("lift", "calls"), Op: predicate.More, Value: value.Whole(3)}
	for name, compile := range map[string]func() (Statement, error){
		"list":                  func() (Statement, error) { return rows(list, everything) },
		"list_under_a_row_rule": func() (Statement, error) { return rows(list, ruled) },
		"count_under_a_row_rule": func() (Statement, error) {
			return Count(space(t, m, ruled),
				with(list, func(q *query.Query) { q.Filter = contains("call", "lift.serial", "9%") }))
		},
		"next_page_by_amount": func() (Statement, error) {
			return rows(with(list, func(q *query.Query) {
				q.Order = []query.Order{{Path: p("call", "lift.price"), Desc: true}, {Path: p("call", "state")}}
				q.After = query.Cursor{[]byte(`"EUR"`), []byte(`"12.50"`), []byte(`1`), []byte(`77`)}
			}), everything)
		},
		"latest_first": func() (Statement, error) {
			return rows(with(list, func(q *query.Query) {
				q.Latest, q.Order = true,
					[]query.Order{{Path: p("call", "due"), Desc: true}}
			}), everything)
		},
		"conditions": func() (Statement, error) {
			return rows(with(list, func(q *query.Query) {
				q.Where = predicate.All{
					predicate.Any{contains("call", "what", "50%_"),
						predicate.Not{Of: predicate.Test{Path: p("call", "state"), Op: predicate.Is,
							Value: value.Text("done")}}},
					predicate.Test{Path: p("call", "due"), Op: predicate.LessOrEqual,
						Value: value.Date{Year: 2026, Month: 3, Day: 1}},
					predicate.Test{Path: p("call", "lift.customer.address"), Op: predicate.IsNotEmpty},
				}
			}), everything)
		},
		"has_related": func() (Statement, error) {
			return rows(query.Query{Object: "lift", Columns: columns("lift", "serial"),
				Where: predicate.HasRelated{Object: "call", Via: m.Object("call").Field("lift"),
					Where: contains("call", "what", "door")}}, everything)
		},
		// What belongs to the record that is seen is read of it, and not of the same joined again.
		"worked_out_under_a_row_rule": func() (Statement, error) {
			return computed(with(list, func(q *query.Query) { q.Columns = columns("call", "lift.sign") }), ruled)
		},
		"totals_shown": func() (Statement, error) { return computed(lifts) },
		"several_totals": func() (Statement, error) {
			return computed(with(lifts, func(q *query.Query) { q.Columns = columns("lift", "calls", "latest") }))
		},
		"totals_shown_across_a_reference": func() (Statement, error) {
			return computed(with(list, func(q *query.Query) { q.Columns = columns("call", "lift.calls") }))
		},
		"totals_ordered_by": func() (Statement, error) {
			return computed(with(lifts,
				func(q *query.Query) { q.Order = []query.Order{{Path: p("lift", "calls"), Desc: true}} }))
		},
		"totals_asked_for": func() (Statement,
			error) {
			return computed(with(lifts, func(q *query.Query) { q.Where = manyCalls }))
		},
		"totals_of_some": func() (Statement, error) {
			return computed(with(lifts, func(q *query.Query) {
				q.Limit, q.Where = 0,
					predicate.All{predicate.Keys{3, 4}, manyCalls}
			}))
		},
		"totals_of_what_some_refer_to": func() (Statement, error) {
			return computed(query.Query{Object: "call", Columns: columns("call", "lift.calls"),
				Where: predicate.Keys{5}})
		},
		"totals_that_depend_on_the_record": func() (Statement, error) {
			return computed(with(lifts, func(q *query.Query) { q.Columns = columns("lift", "due_before") }))
		},
		"months":                     func() (Statement, error) { return groups(list, months, totals) },
		"months_changed_at_midnight": func() (Statement, error) { return groups(list, midnight, nil) },
		"totals_of_all":              func() (Statement, error) { return groups(list, nil, totals) },
		"lifts_in_quarters": func() (Statement, error) {
			return groups(list, []query.Grouping{{Path: p("call", "opened"), Span: query.Quarter, Zone: zone},
				{Path: p("call", "lift"), Desc: true}}, totals)
		},
	} {
		t.Run(name, func(t *testing.T) {
			statement, err := compile()
			if err != nil {
				t.Fatal(err)
			}
			got := readable(statement.SQL)
			for i, arg := range statement.Args {
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
	for _, clause := range []string{" FROM ", " LEFT JOIN ", " JOIN ", " WHERE ", " AND ", " OR ", " GROUP BY ",
		" ORDER BY ", " LIMIT "} {
		sql = strings.ReplaceAll(sql, clause, "\n "+clause[1:])
	}
	return strings.ReplaceAll(sql, "\n LEFT\n JOIN", "\n LEFT JOIN") + "\n"
}
