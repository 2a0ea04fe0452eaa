package repository

import (
	"context"
	"fmt"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/postgres"
)

// ReferrerCount says how many records refer to those of an object by one field, and how many have one that does.
type ReferrerCount struct {
	Object string `json:"object"`
	Field  string `json:"field"`
	// Records refer; Of records have one that does, Without have none.
	Records int64 `json:"records"`
	Of      int64 `json:"of"`
	Without int64 `json:"without"`
}

// Referring counts what refers to the records of an object, by each field of the app's objects that can.
func (s *Repositories) Referring(ctx context.Context, p postgres.Caller, object string) ([]ReferrerCount, error) {
	d, o, err := s.Of(ctx, p, object)
	if err != nil {
		return nil, err
	}
	all, err := records.Count(ctx, d, query.Query{Object: object})
	if err != nil {
		return nil, err
	}
	out := []ReferrerCount{}
	for _, r := range d.Model().ReferrersTo(object) {
		one, err := d.referring(ctx, o, r, all)
		if err != nil {
			return nil, fmt.Errorf("counting %s that refer to %s: %w", r.Object.Plural, o.Plural, err)
		}
		out = append(out, one)
	}
	return out, nil
}

func (d *Repository) referring(ctx context.Context, o *model.Object, r model.Referrer,
	all int64) (ReferrerCount, error) {
	out := ReferrerCount{Object: r.Object.Key, Field: r.Field.Key}
	path, err := d.Model().Path(r.Object.Key, r.Field.Key)
	if err != nil {
		return out, err
	}
	if out.Records, err = records.Count(ctx, d, query.Query{Object: r.Object.Key,
		Where: predicate.Test{Path: path, Op: predicate.IsNotEmpty}}); err != nil {
		return out, err
	}
	has := predicate.HasRelated{Object: r.Object.Key, Label: r.Object.Label, Via: r.Field, Where: predicate.True}
	out.Of, err = records.Count(ctx, d, query.Query{Object: o.Key, Where: has})
	out.Without = all - out.Of
	return out, err
}
