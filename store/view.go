package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/surface"
	"plainpath/core/value"
)

// RecordView is one record as a person may see it.
type RecordView struct {
	Object  string               `json:"object"`
	Kind    string               `json:"kind"`
	ID      int64                `json:"id"`
	Label   string               `json:"label"`
	Fields  []surface.DetailView `json:"fields"`
	History []HistoryView        `json:"history"`
}

// HistoryView is one thing that happened to a record.
type HistoryView struct {
	At      time.Time `db:"at" json:"at"`
	Person  string    `db:"person" json:"person"`
	Action  string    `db:"action" json:"action"`
	Through string    `db:"through" json:"through"`
}

// Record reads one record of production as a person may see it. Whether it is not
// there or not theirs is not told apart.
func (r *Runs) Record(ctx context.Context, app string, person int64, object string, id int64) (RecordView, error) {
	var out RecordView
	number, err := r.DB.InForce(ctx, app)
	if err != nil {
		return out, err
	}
	e, err := r.Editions.Release(ctx, app, number)
	if err != nil {
		return out, err
	}
	who, err := r.DB.Person(ctx, app, Production, person, e)
	if err != nil {
		return out, err
	}
	schema, err := r.DB.Schema(ctx, app, Production)
	if err != nil {
		return out, err
	}
	o := e.Model.Object(object)
	if o == nil || o.BuiltIn() {
		return out, fmt.Errorf("object %q: %w", object, ErrNotFound)
	}
	var paths []model.Path
	for i := range o.Fields {
		p, err := e.Model.Path(object, o.Fields[i].Key)
		if err != nil {
			return out, err
		}
		paths = append(paths, p)
	}
	d := newDesk(r.DB.DB, Where{Edition: e, Schema: schema, Person: who, Now: r.DB.Now()})
	found, err := surface.ByKey(ctx, d, object, []int64{id}, paths)
	var denied *access.DeniedError
	if errors.As(err, &denied) || err == nil && len(found) == 0 {
		return out, fmt.Errorf("%s %d: %w", object, id, ErrNotFound)
	}
	if err != nil {
		return out, err
	}
	out = RecordView{Object: object, Kind: o.Label, ID: id, Label: found[0].Label, History: []HistoryView{}}
	for _, p := range paths {
		out.Fields = append(out.Fields, surface.DetailView{Heading: surface.HeadingOf(p, p.Last().Label), Value: value.Wire(found[0].Get(p.Last().Key))})
	}
	err = r.DB.SelectContext(ctx, &out.History, fmt.Sprintf(`SELECT h.at, coalesce(p.name, '') AS person, h.action,
		coalesce(h.cause->>'walkthrough', '') AS through FROM %q.history h LEFT JOIN plainpath.person p ON p.id = h.person
		WHERE h.object = $1 AND h.record = $2 ORDER BY h.id DESC LIMIT 50`, schema), object, id)
	if err != nil {
		return out, fmt.Errorf("reading the history: %w", err)
	}
	for i := range out.History {
		if w := e.Walkthroughs[out.History[i].Through]; w != nil {
			out.History[i].Through = w.Def.Label
		}
	}
	return out, nil
}

// TrialOptions finds records of trial as the builder may see them, for values typed
// into conditions.
func (r *Runs) TrialOptions(ctx context.Context, app string, person int64, object, text string) ([]value.Ref, error) {
	e, err := r.Editions.Draft(ctx, app)
	if err != nil {
		return nil, err
	}
	if e.Model.Object(object) == nil {
		return nil, fmt.Errorf("object %q: %w", object, ErrNotFound)
	}
	who, err := r.DB.Person(ctx, app, Trial, person, e)
	if err != nil {
		return nil, err
	}
	schema, err := r.DB.Schema(ctx, app, Trial)
	if err != nil {
		return nil, err
	}
	d := newDesk(r.DB.DB, Where{Edition: e, Schema: schema, Person: who, Now: r.DB.Now()})
	return surface.Options(ctx, d, object, text)
}
