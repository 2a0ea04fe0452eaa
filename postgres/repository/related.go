package repository

import (
	"context"
	"slices"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/table"
	"plainpath/core/value"
	"plainpath/postgres"
)

// RelatedList is the records of one object that refer to a record by one of their fields,
// as far as a person may see them.
type RelatedList struct {
	// From and Field name the reference, Label says in words what the list holds.
	From  string         `json:"from"`
	Field string         `json:"field"`
	Label string         `json:"label"`
	Rows  table.RowsView `json:"rows"`
}

// mostRelatedColumns is how many columns a list of related records has.
const mostRelatedColumns = 5

// Related reads the lists that come from the other side of references: the first page of
// each that has records in it.
func (s *Repositories) Related(ctx context.Context, p postgres.Caller, object string, id int64) ([]RelatedList, error) {
	d, o, err := s.RelatedTo(ctx, p, object, id)
	if err != nil {
		return nil, err
	}
	out := []RelatedList{}
	referrers := d.Edition.Model.ReferrersTo(o.Key)
	for _, r := range referrers {
		l, label, err := d.RelatedListing(o, id, r)
		if err != nil {
			return nil, err
		}
		if l == nil {
			continue
		}
		list := RelatedList{From: r.Object.Key, Field: r.Field.Key, Label: label}
		if list.Rows, err = l.Rows(ctx, d, table.Look{}); err != nil {
			return nil, err
		}
		if list.Rows.Total == 0 {
			continue
		}
		if twice(referrers, r) {
			list.Label += ", by " + r.Field.Label
		}
		out = append(out, list)
	}
	return out, nil
}

// twice says whether an object refers by several fields.
func twice(all []model.Referrer, r model.Referrer) bool {
	return slices.ContainsFunc(all, func(o model.Referrer) bool { return o.Object == r.Object && o.Field != r.Field })
}

// RelatedTo is the repository of a person who may see the record.
func (s *Repositories) RelatedTo(ctx context.Context, p postgres.Caller, object string,
	id int64) (*Repository, *model.Object, error) {
	d, o, err := s.Of(ctx, p, object)
	if err == nil {
		_, err = d.Record(ctx, o, id, nil)
	}
	return d, o, err
}

// RelatedListing is the list of what refers to a record by one of their fields, nil when
// the person may not see it, and what it holds in words.
func (d *Repository) RelatedListing(to *model.Object, id int64, r model.Referrer) (*table.Listing, string, error) {
	grant, err := d.Grant(r.Object.Key)
	if err != nil || !grant.MaySee() || !grant.SeesField(r.Field.Key) {
		return nil, "", err
	}
	at, err := d.Edition.Model.Path(r.Object.Key, r.Field.Key)
	if err != nil {
		return nil, "", err
	}
	var paths []model.Path
	for _, f := range relatedFields(r, grant) {
		path, err := d.Edition.Model.Path(r.Object.Key, f.Key)
		if err != nil {
			return nil, "", err
		}
		paths = append(paths, path)
	}
	label := r.Object.Plural
	if far := farEnd(r); far != nil { // a linking object is only the way to its other end
		label = d.Edition.Model.Object(far.Target()).Plural
	}
	where := predicate.Test{Path: at, Op: predicate.Is, Value: &value.Record{Object: to.Key, ID: id}}
	return table.NewListing(r.Object, where, paths), label, nil
}

// farEnd is the other reference of an object that holds nothing but two references, nil
// for every other object.
func farEnd(r model.Referrer) *model.Field {
	var far *model.Field
	for i := range r.Object.Fields {
		switch f := &r.Object.Fields[i]; {
		case !f.Stored() || f.Key == r.Field.Key:
		case far != nil || f.Type != model.Reference:
			return nil
		default:
			far = f
		}
	}
	return far
}

// relatedFields are the first fields of a referrer that the person sees, what stands for
// the record first, without the reference itself.
func relatedFields(r model.Referrer, grant access.Grant) []*model.Field {
	var out []*model.Field
	take := func(f *model.Field) {
		if f != nil && f.Key != r.Field.Key && grant.SeesField(f.Key) && f.Type != model.LongText &&
			len(out) < mostRelatedColumns && !slices.Contains(out, f) {
			out = append(out, f)
		}
	}
	if far := farEnd(r); far != nil {
		take(far)
		return out
	}
	take(r.Object.Field(r.Object.LabelField))
	for i := range r.Object.Fields {
		take(&r.Object.Fields[i])
	}
	return out
}
