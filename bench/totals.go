package main

import (
	"context"
	"encoding/json"

	"plainpath/core/definition"
	"plainpath/core/edit"
	"plainpath/core/query"
	"plainpath/demo"
	"plainpath/postgres"
	"plainpath/postgres/apps"
	"plainpath/postgres/documents"
	"plainpath/postgres/drafts"
)

// totals lists forty engineers with what their calls come to, a million in all, against the
// aggregate and join that somebody would write.
func totals(ctx context.Context, db *postgres.DB, person int64) ([]result, error) {
	e := documents.Edit{App: demo.App, Kind: definition.Object, Key: "engineer", Person: person,
		Change: edit.Change{Base: 1}}
	patch := []byte(`[{"op":"add","path":"/fields/-","value":{"key":"calls","label":"Calls","type":"worked_out","result":"whole_number","expression":"size(all_service_call.filter(c, c.state != \"cancelled\"))"}},
		{"op":"add","path":"/fields/-","value":{"key":"latest","label":"Latest","type":"worked_out","result":"date_time","expression":"greatest(all_service_call.map(c, c.opened))"}}]`)
	if err := json.Unmarshal(patch, &e.Patch); err != nil {
		return nil, err
	}
	if _, err := drafts.Apply(ctx, db, e); err != nil {
		return nil, err
	}
	p, err := drafts.PreviewRelease(ctx, db, demo.App, 0)
	if err != nil {
		return nil, err
	}
	if _, err := drafts.Release(ctx, db, demo.App, person,
		drafts.Releasing{Previewed: p.Version, Note: "Totals"}); err != nil {
		return nil, err
	}
	reader, err := apps.RecordsOf(ctx, db, demo.App, postgres.Production, person)
	if err != nil {
		return nil, err
	}
	b := &bench{ctx, db, reader, reader.Model()}
	q := query.Query{Object: "engineer", Limit: 40, Columns: b.paths("engineer", "name", "depot", "calls", "latest"),
		Order: []query.Order{{Path: b.paths("engineer", "name")[0]}}}
	ours, hand, err := pair(7, b.ours(q, 40), b.byHand(40, `SELECT e.id, e.first_name || ' ' || e.last_name AS name, e.depot, coalesce(a.calls, 0), a.latest FROM liftcare_production.engineer e
		LEFT JOIN (SELECT engineer, count(*) FILTER (WHERE state <> 'cancelled') AS calls,
			max(opened) AS latest FROM liftcare_production.service_call GROUP BY engineer) a ON a.engineer = e.id
		ORDER BY (e.first_name || ' ' || e.last_name) COLLATE "und-x-icu", e.id LIMIT 40`))
	if err != nil {
		return nil, err
	}
	asked := q
	asked.Where = b.where("engineer", `{"field":"calls","op":"more","value":{"literal":100}}`)
	asked.Order = []query.Order{{Path: b.paths("engineer", "calls")[0], Desc: true}}
	many, byHand, err := pair(7, b.ours(asked, 40), b.byHand(40, `SELECT e.id, e.first_name || ' ' || e.last_name AS name, e.depot, a.calls, a.latest FROM liftcare_production.engineer e
		JOIN (SELECT engineer, count(*) FILTER (WHERE state <> 'cancelled') AS calls,
			max(opened) AS latest FROM liftcare_production.service_call GROUP BY engineer) a ON a.engineer = e.id
		WHERE a.calls > 100 ORDER BY a.calls DESC, e.id LIMIT 40`))
	return []result{{"40 engineers with two totals over their calls, 1,000,000 in all", ours, hand,
			"an aggregate and join by hand", "≤ 1.15 ×", "two fields, each with its own condition"},
			{"The same, asked for and ordered by a total", many, byHand, "an aggregate and join by hand", "≤ 1.15 ×",
				""}},
		err
}
