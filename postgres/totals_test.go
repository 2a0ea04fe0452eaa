package postgres_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/apps"
)

// Expressions over the records that refer to a quote, and what each gives.
var overLines = []struct {
	expression string
	result     model.FieldType
}{
	{`sum(all_quote_line.map(l, l.amount))`, model.Money},
	{`sum(all_quote_line.filter(l, l.quantity > 3).map(l, l.quantity))`, model.Decimal},
	{`average(all_quote_line.map(l, l.unit_price))`, model.Money},
	{`least(all_quote_line.map(l, l.quantity))`, model.Decimal},
	{`greatest(all_quote_line.map(l, l.quantity * 2 + 1))`, model.Decimal},
	{`size(all_quote_line)`, model.Whole},
	{`size(all_quote_line.filter(l, l.what.contains("rope") || l.quantity >= 8))`, model.Whole},
	{`all_quote_line.exists(l, l.quantity > 10)`, model.YesNo},
	{`all_quote_line.all(l, l.quantity < 12 && !empty(l.what))`, model.YesNo},
	{`service_call.lift.serial_number + " " + service_call.problem`, model.Text},
	{`either(sum(all_quote_line.map(l, l.amount)), money("0", "EUR")) * 2`, model.Money},
}

// Whatever is added, changed and removed, a worked-out field reads as it is computed from
// nothing in Go; it can be asked for and ordered by.
func TestTotalsEqualRecomputation(t *testing.T) {
	o := newOffice(t)
	fields := []model.Field{}
	for i, x := range overLines {
		fields = append(fields, model.Field{Key: fmt.Sprintf("w%d", i), Label: fmt.Sprintf("W%d", i),
			Type: model.WorkedOut, Expression: x.expression, Result: x.result})
	}
	raw, err := json.Marshal(fields)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := o.db.Exec(`UPDATE plainpath.document SET body = jsonb_set(body, '{fields}', (body->'fields') || $1::jsonb), revision = revision + 1 WHERE kind = 'object' AND key = 'quote'`, raw); err != nil {
		t.Fatal(err)
	}
	e, err := o.records.Editions.Draft(t.Context(), demo.App)
	if err != nil || len(e.Of("object/quote")) > 0 {
		t.Fatal(e.Of("object/quote"), err)
	}
	r := rand.New(rand.NewPCG(5, 8))
	for round := range 12 {
		for range 6 {
			o.disturb(r)
		}
		o.recompute(e.Model, round == 0)
	}
	desk, err := apps.RecordsOf(t.Context(), o.db, demo.App, postgres.Trial, o.place.Person)
	if err != nil {
		t.Fatal(err)
	}
	path, err := e.Model.Path("quote", "w5")
	if err != nil {
		t.Fatal(err)
	}
	q := query.Query{Object: "quote", Where: predicate.Test{Path: path, Op: predicate.MoreOrEqual,
		Value: value.Whole(3)}, Order: []query.Order{{Path: path, Desc: true}}, Columns: []model.Path{path}}
	found, err := records.Select(t.Context(), desk, q)
	if want := count(t, o.db,
		`SELECT count(*) FROM (SELECT quote FROM liftcare_trial.quote_line GROUP BY 1 HAVING count(*) >= 3) many`); err != nil || len(found) != want {
		t.Errorf("%d quotes with three lines or more, want %d, %v", len(found), want, err)
	}
	for i := 1; i < len(found); i++ {
		if order, _ := value.Compare(found[i-1].Get("w5"), found[i].Get("w5")); order < 0 {
			t.Error("the quotes are not in the order of their number of lines")
		}
	}
}

// disturb adds, changes, moves or removes a line.
func (o *office) disturb(r *rand.Rand) {
	o.Helper()
	quote := 1 + r.IntN(70)
	line := int64(count(o.T, o.db, `SELECT id FROM liftcare_trial.quote_line ORDER BY md5(id::text || $1) LIMIT 1`,
		fmt.Sprint(r.IntN(1000))))
	var err error
	switch r.IntN(4) {
	case 0:
		_, err = o.save("quote_line", 0,
			fmt.Sprintf(`{"quote":{"id":%d},"what":"Ropes","quantity":"%d.5","unit_price":{"amount":"%d.25","currency":"EUR"}}`, quote, r.IntN(12), r.IntN(900)), "")
	case 1:
		_, err = o.save("quote_line", line, fmt.Sprintf(`{"quantity":"%d"}`, r.IntN(14)), "")
	case 2:
		_, err = o.save("quote_line", line, fmt.Sprintf(`{"quote":{"id":%d}}`, quote), "")
	case 3:
		err = o.records.Remove(o.Context(), o.place, "quote_line", line)
	}
	if err != nil {
		o.Fatal(err)
	}
}

func (o *office) recompute(m *model.Model, first bool) {
	o.Helper()
	desk, err := apps.RecordsOf(o.Context(), o.db, demo.App, postgres.Trial, o.place.Person)
	if err != nil {
		o.Fatal(err)
	}
	read := func(object string, names ...string) []*value.Record {
		q := query.Query{Object: object}
		for _, n := range names {
			p, err := m.Path(object, n)
			if err != nil {
				o.Fatal(err)
			}
			q.Columns = append(q.Columns, p)
		}
		out, err := records.Select(o.Context(), desk, q)
		if err != nil {
			o.Fatal(err)
		}
		return out
	}
	lines := map[int64]value.Records{}
	for _, l := range read("quote_line", "quote", "what", "quantity", "unit_price", "amount") {
		quote := l.Get("quote").(*value.Record).ID
		lines[quote] = append(lines[quote], l)
	}
	scope := expr.OfRecord(m, "quote")
	for _, l := range expr.RelatedLists(m, "quote") {
		scope = scope.With(l.Name)
	}
	different := map[string]bool{}
	for i := range overLines {
		f := m.Object("quote").Field(fmt.Sprintf("w%d", i))
		p, err := expr.Compile(scope, f.Expression)
		if err != nil {
			o.Fatal(err)
		}
		for _, q := range read("quote", f.Key, "service_call.lift.serial_number", "service_call.problem") {
			values := expr.Values{"all_quote_line": &value.List{Object: "quote_line", Source: lines[q.ID]},
				"service_call": q.Get("service_call")}
			want, err := p.Eval(values)
			if err != nil {
				o.Fatal(err)
			}
			if got := q.Get(f.Key); got != nil || want != nil {
				if !value.Equal(got, want) {
					o.Fatalf("%s of quote %d reads %v, computed it is %v", f.Expression, q.ID, got, want)
				}
			}
			different[f.Key+value.Display(want)] = true
		}
	}
	if first && len(different) < 60 {
		o.Errorf("only %d different values came up", len(different))
	}
}
