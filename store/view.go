package store

import (
	"context"
	"fmt"
	"time"

	"plainpath/core/search"
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

// Record reads one record as a person may see it. Whether it is not there or not theirs
// is not told apart.
func (s *Desks) Record(ctx context.Context, p Place, object string, id int64) (RecordView, error) {
	var out RecordView
	d, o, err := s.desk(ctx, p, object)
	if err != nil {
		return out, err
	}
	paths, err := fieldPaths(d.Edition.Model, o)
	if err != nil {
		return out, err
	}
	record, err := d.recordWith(ctx, o, id, paths)
	if err != nil {
		return out, err
	}
	out = RecordView{Object: object, Kind: o.Label, ID: id, Label: record.Label, History: []HistoryView{}}
	for _, p := range paths {
		out.Fields = append(out.Fields, surface.DetailView{Heading: surface.HeadingOf(p, p.Last().Label), Value: value.Wire(record.Get(p.Last().Key))})
	}
	err = s.DB.SelectContext(ctx, &out.History, fmt.Sprintf(`SELECT h.at, coalesce(who.name || ', as ', '') || coalesce(p.name, '') AS person, h.action,
		coalesce(h.cause->>'walkthrough', '') AS through FROM %s.history h LEFT JOIN plainpath.person p ON p.id = h.person
		LEFT JOIN plainpath.person who ON who.id = nullif(h.cause->>'by', '0')::bigint
		WHERE h.object = $1 AND h.record = $2 ORDER BY h.id DESC LIMIT 50`, search.Quote(d.Schema)), object, id)
	if err != nil {
		return out, fmt.Errorf("reading the history: %w", err)
	}
	for i := range out.History {
		if w := d.Edition.Walkthroughs[out.History[i].Through]; w != nil {
			out.History[i].Through = w.Def.Label
		}
	}
	return out, nil
}

// Find finds records of an object by text, as a person may see them.
func (s *Desks) Find(ctx context.Context, p Place, object, text string) ([]value.Ref, error) {
	w, err := s.where(ctx, p)
	if err != nil {
		return nil, err
	}
	if w.Edition.Model.Object(object) == nil {
		return nil, fmt.Errorf("object %q: %w", object, ErrNotFound)
	}
	return surface.Options(ctx, newDesk(s.DB.DB, w), object, text)
}
