package act

import (
	"context"
	"fmt"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
)

// Their turns the records that an act is about into those that refer to them, such as engineers into their
// badges.
type Their struct {
	// Object and Field name the reference that points at them.
	Object string `json:"object"`
	Field  string `json:"field"`
	// None says what becomes of a record that none refers to, NonePassed when empty.
	None NoneMeans `json:"none,omitempty"`
}

// NoneMeans says what becomes of a record that none refers to.
type NoneMeans string

// A record that none refers to is passed over, or keeps the act from being done at all.
const (
	NonePassed NoneMeans = "pass"
	NoneStops  NoneMeans = "stop"
)

// owned are the records that refer to others.
type owned struct {
	object *model.Object // of those that are referred to
	via    *model.Field
	stops  bool
}

// their checks a path back over a reference to records of an object. It gives the object of those that refer
// to them, nil where it is no such path.
func (c *check) their(def *Their, to *model.Object, at, consequence string) (*model.Object, *owned) {
	m := c.Scope.Model
	from := c.Object(m, def.Object, at+"/object", consequence)
	if from == nil {
		return nil, nil
	}
	f := c.Field(from, def.Field, at+"/field", consequence)
	if f == nil {
		return nil, nil
	}
	if f.Target() != to.Key || !f.Stored() {
		c.Find(definition.Stop, at+"/field", fmt.Sprintf("%s of %s does not refer to %s", f.Label,
			strings.ToLower(from.Plural), strings.ToLower(to.Plural)), consequence, nil)
		return nil, nil
	}
	switch def.None {
	case "", NonePassed, NoneStops:
	default:
		c.Find(definition.Stop, at+"/none", fmt.Sprintf("%q is nothing that can become of those with none", def.None),
			consequence, definition.Replace("Pass over them", at+"/none", string(NonePassed)))
	}
	return from, &owned{to, f, def.None == NoneStops}
}

// of is the query of the records that refer to those of another.
func (o *owned) of(object string, q query.Query) query.Query {
	return query.Query{Object: object, Where: predicate.Refers{Via: o.via, Where: q.Where, Filter: q.Filter}}
}

// without counts the records of a query that none refers to, as far as the person sees those that do.
func (o *owned) without(ctx context.Context, u records.Reader, object *model.Object, q query.Query) (int64, error) {
	none := predicate.HasRelated{Object: object.Key, Label: object.Label, Via: o.via, None: true, Where: predicate.True}
	filter := predicate.All{none}
	if q.Filter != nil {
		filter = append(filter, q.Filter)
	}
	return records.Count(ctx, u, query.Query{Object: q.Object, Where: q.Where, Filter: filter})
}

// lackError says that records have none that refers to them.
type lackError struct {
	of, what *model.Object
	n        int64
}

func (e lackError) Error() string {
	return fmt.Sprintf("%s %s no %s", count(e.n, e.of), has(e.n), strings.ToLower(e.what.Label))
}
func (e lackError) Refused() string { return e.Error() }

func has(n int64) string {
	if n == 1 {
		return "has"
	}
	return "have"
}

// count is a number of records in words.
func count(n int64, o *model.Object) string {
	if n == 1 {
		return "1 " + strings.ToLower(o.Label)
	}
	return fmt.Sprintf("%d %s", n, strings.ToLower(o.Plural))
}
