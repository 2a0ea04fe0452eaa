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

// target is what is changed or removed: a record, a list, or the rows a button is about, or what refers to them.
type target struct {
	object *model.Object
	// of gives the record or the list, nil for the rows.
	of *expr.Program
	// their is how the records are found that refer to those, nil for those themselves.
	their *owned
}

// target checks what an act is about; nil when it cannot be known.
func (c *check) target(of string, their *Their, at, consequence string) *target {
	m := c.Scope.Model
	t := &target{object: m.Object(c.Rows)}
	if of == "" && c.Rows == "" {
		c.Find(definition.Stop, at+"/of", "nothing says which records", consequence, nil)
		return nil
	}
	if of != "" {
		if t.of = c.RecordOrList(c.Scope, true, of, at+"/of", consequence); t.of == nil {
			return nil
		}
		t.object = m.Object(t.of.Type.Object)
		c.uses = append(c.uses, t.of.Uses...)
	}
	if their != nil && t.object != nil {
		if t.object, t.their = c.their(their, t.object, at+"/their", consequence); t.object == nil {
			return nil
		}
	}
	if t.object == nil || t.object.BuiltIn() {
		c.Find(definition.Stop, at+"/of", fmt.Sprintf("%q gives records that the program keeps itself", of),
			consequence, nil)
		return nil
	}
	return t
}

// one says whether the target is a single record.
func (t *target) one() bool {
	return t.their == nil && t.of != nil && t.of.Type.Kind == value.KindRecord
}

// meant are the records that an act is about, and a note of who has how many of them.
type meant struct {
	query.Query
	// total counts those that they refer to, without how many of those have none.
	total, without int64
}

// query is the records, false when there are none to speak of: the record is empty.
func (t *target) query(ctx context.Context, u records.Writer, in In) (meant, bool, error) {
	q, any, err := t.given(ctx, u, in)
	if err != nil || !any || t.their == nil {
		return meant{Query: q}, any, err
	}
	out := meant{Query: t.their.of(t.object.Key, q)}
	if !in.Figures && !t.their.stops {
		return out, true, nil
	}
	if out.without, err = t.their.without(ctx, u, t.object, q); err != nil {
		return out, true, err
	}
	if t.their.stops && out.without > 0 {
		return out, true, lackError{t.their.object, t.object, out.without}
	}
	out.total, err = records.Count(ctx, u, q)
	return out, true, err
}

// given is the records that the target names.
func (t *target) given(ctx context.Context, u records.Writer, in In) (query.Query, bool, error) {
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
		return query.Query{Object: t.of.Type.Object, Where: predicate.Keys{x.ID}}, true, nil
	case *value.List:
		q, err := records.QueryOf(x)
		q.Columns = nil
		if err != nil || q.Limit == 0 {
			return q, true, err
		}
		keys, err := records.Keys(ctx, u, q) // only so many, in their order
		return query.Query{Object: t.of.Type.Object, Where: predicate.Keys(keys)}, true, err
	}
	return query.Query{}, false, fmt.Errorf("%s is no record", v.Kind())
}

// note says who has how many of the records that were written, "" where they are nobody's.
func (t *target) note(m meant, written int64) string {
	if t.their == nil || m.total == 0 {
		return ""
	}
	out := fmt.Sprintf("%s %s %s", count(m.total-m.without, t.their.object), has(m.total-m.without),
		count(written, t.object))
	if m.without > 0 {
		out += fmt.Sprintf("; %d %s none", m.without, has(m.without))
	}
	return out
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
