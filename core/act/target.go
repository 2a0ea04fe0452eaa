package act

import (
	"context"
	"fmt"
	"strings"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/records"
	"plainpath/core/value"
)

// target is what is changed or removed: a record, a list, or the rows a button is about.
type target struct {
	object *model.Object
	// of gives the record or the list, nil for the rows.
	of *expr.Program
}

// target checks what an act is about; nil when it cannot be known.
func (c *check) target(of, at, consequence string) *target {
	m := c.Scope.Model
	if of == "" {
		if c.Rows == "" {
			c.Find(definition.Stop, at+"/of", "nothing says which records", consequence, nil)
			return nil
		}
		return &target{object: m.Object(c.Rows)}
	}
	p := c.RecordOrList(c.Scope, true, of, at+"/of", consequence)
	if p == nil {
		return nil
	}
	o := m.Object(p.Type.Object)
	if o == nil || o.BuiltIn() {
		c.Find(definition.Stop, at+"/of", fmt.Sprintf("%q gives records that the program keeps itself", of),
			consequence, nil)
		return nil
	}
	c.uses = append(c.uses, p.Uses...)
	return &target{o, p}
}

// one says whether the target is a single record.
func (t *target) one() bool { return t.of != nil && t.of.Type.Kind == value.KindRecord }

// query is the records, false when there are none to speak of: the record is empty.
func (t *target) query(ctx context.Context, u records.Writer, in In) (query.Query, bool, error) {
	if t.of == nil {
		return in.Rows, true, nil
	}
	v, err := found(t.of, in.Values)
	if err != nil || v == nil {
		return query.Query{}, false, err
	}
	switch x := v.(type) {
	case *value.Record:
		if x == nil {
			return query.Query{}, false, nil
		}
		return query.Query{Object: t.object.Key, Where: predicate.Keys{x.ID}}, true, nil
	case *value.List:
		q, err := records.QueryOf(x)
		q.Columns = nil
		if err != nil || q.Limit == 0 {
			return q, true, err
		}
		keys, err := records.Keys(ctx, u, q) // only so many, in their order
		return query.Query{Object: t.object.Key, Where: predicate.Keys(keys)}, true, err
	}
	return query.Query{}, false, fmt.Errorf("%s is no record", v.Kind())
}

// found is the records that an expression gives; which they are may not be computable.
func found(p *expr.Program, values expr.Values) (value.Value, error) {
	v, err := p.Eval(values)
	if why, failed := v.(value.Failure); failed {
		return nil, invalidError{fmt.Errorf("which are meant by %q is %s", p.Source, why.Why)}
	}
	return v, err
}

// goneError says that the record an act is about is not there.
type goneError struct{ object *model.Object }

func (e goneError) Error() string {
	return "the " + strings.ToLower(e.object.Label) + " cannot be found any more"
}
func (e goneError) Refused() string { return e.Error() }

// not says that something could not be done to what the act is about.
func (t *target) not(done string) string {
	what := t.object.Plural
	if t.one() {
		what = t.object.Label
	}
	return "The " + strings.ToLower(what) + " could not be " + done
}

func (t *target) many(n int64) string {
	if n == 1 {
		return "1 " + strings.ToLower(t.object.Label)
	}
	return fmt.Sprintf("%d %s", n, strings.ToLower(t.object.Plural))
}
