package main

import (
	"fmt"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// chart draws a million calls by state and priority.
func (b *bench) chart() ([]result, error) {
	l := table.NewListing(b.m.Object("service_call"), nil, b.paths("service_call", "number"))
	look := table.Look{Group: &table.LookGroup{Path: "state", Then: &table.LookGroup{Path: "priority"}}}
	ours := func() error {
		drawn, err := l.Charted(b.ctx, b.reader, look)
		if err == nil && len(drawn.Groups) < 20 {
			err = fmt.Errorf("%d groups of %d", len(drawn.Groups), drawn.Total)
		}
		return err
	}
	a, hand, err := pair(7, ours, b.byHand(20,
		`SELECT state, priority, count(*) FROM liftcare_production.service_call GROUP BY state, priority ORDER BY state, priority`))
	return []result{{"A chart of calls by state and priority", a, hand, "by hand", "≤ 1.3 ×",
		fmt.Sprintf("%d records", calls)}}, err
}

// cards reads the first of three lists in one order, against the union of three reads that a program written for the
// purpose sends.
func (b *bench) cards() ([]result, error) {
	const columns = `c.id, c.number, c.problem, c.state, c.priority, l.serial_number, c.opened`
	var def table.Cards
	var names []expr.Name
	values := expr.Values{}
	def.Desc = true
	union := ""
	for i, state := range []string{"reported", "planned", "done"} {
		key := "calls_" + state
		q := query.Query{Object: "service_call", Where: b.where("service_call",
			fmt.Sprintf(`{"field":"state","op":"is","value":{"literal":%q}}`, state))}
		values[key] = &value.List{Object: "service_call",
			Source: &records.Listed{Context: b.ctx, Reader: b.reader, Query: q}}
		names = append(names, expr.Name{Key: key, Label: key,
			Type: expr.Type{Kind: value.KindList, Object: "service_call"}})
		def.Sources = append(def.Sources, table.CardSource{Key: state, Label: state, Source: key, By: "opened",
			Faces: []table.Face{{Heading: "number", Lines: []table.Column{{Path: "problem"}, {Path: "lift"}},
				Marks: []string{"state", "priority"}}}})
		if i > 0 {
			union += " UNION ALL "
		}
		union += fmt.Sprintf(`(SELECT %s FROM liftcare_production.service_call c JOIN liftcare_production.lift l ON l.id = c.lift
			WHERE c.state = '%s' ORDER BY c.opened DESC, c.id LIMIT 50)`, columns, state)
	}
	check := definition.NewCheck("bench")
	program := table.CompileCards(check, expr.Scope{Model: b.m, Names: names}, table.Owner{}, &def, "")
	if found := check.Findings(); program == nil || len(found) > 0 {
		return nil, fmt.Errorf("the cards have findings: %v", found)
	}
	ours := func() error {
		page, err := program.Page(b.ctx, b.reader, values, table.CardsAsk{})
		if err == nil && (len(page.Cards) != table.PageSize || page.Next == "") {
			err = fmt.Errorf("%d cards", len(page.Cards))
		}
		return err
	}
	a, hand, err := pair(21, ours, b.byHand(50, `SELECT * FROM (`+union+`) q ORDER BY opened DESC LIMIT 50`))
	return []result{{"The first 50 cards of three lists in one order", a, hand, "by hand, as one union", "≤ 1.15 ×",
		fmt.Sprintf("of %d records", calls)}}, err
}
