package sqlgen

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

func (s Space) worked(object string, f *model.Field) (query.WorkedOut, bool) {
	if s.Worked == nil || f.Type != model.WorkedOut {
		return query.WorkedOut{}, false
	}
	return s.Worked(object, f.Key)
}

// compute writes a field that is worked out when it is read. Its expression is the
// builder's and may look at anything; across a reference it is empty where the record
// referred to is not to be seen, whose alias is empty then.
func (s *source) compute(p *expr.Program, through []*model.Field, alias string, f *model.Field) (scalar, error) {
	c, err := s.w.expression(p, recordColumns{s, through, alias, true})
	if err != nil || len(through) == 0 {
		return c, err
	}
	there := func(sql string) string {
		if sql == "" {
			return ""
		}
		return "CASE WHEN " + alias + ".id IS NOT NULL THEN " + sql + " END"
	}
	return scalar{Kind: f.Kind(), SQL: there(c.SQL), Currency: there(c.Currency), Why: there(c.Why)}, nil
}

// recordColumns gives an expression the fields of a record as names of their own, and
// the lists of records that point at it.
type recordColumns struct {
	s       *source
	through []*model.Field
	alias   string
	// literally says that constants are written into the statement: those of a field are a
	// builder's, and the same in the index of the field.
	literally bool
}

func (r recordColumns) name(path []string, _ value.Kind) (scalar, error) {
	p, err := r.s.w.space.Model.Path(r.s.reached(r.through), strings.Join(path, "."))
	if err != nil {
		return scalar{}, err
	}
	if len(p.Fields) == 1 { // of the record that is there already
		return r.s.own(r.through, r.alias, p.Fields[0])
	}
	fields := append(slices.Clone(r.through), p.Fields...)
	return r.s.field(fields[:len(fields)-1], fields[len(fields)-1], false)
}

func (r recordColumns) constant(v value.Value, kind value.Kind) scalar {
	if r.literally {
		return Literally(v, kind)
	}
	return r.s.w.known(v, kind)
}

// Related finds the records that point at this one.
func (r recordColumns) related(path []string) (related, error) {
	for _, l := range expr.RelatedLists(r.s.w.space.Model, r.s.reached(r.through)) {
		if len(path) != 1 || l.Name.Key != path[0] {
			continue
		}
		r.s.reads()
		w := r.s.w
		of := listOf{r.alias, l.Refer.Object.Key, l.Refer.Field.Key}
		mark, inner := len(w.read), r.s.listed(of)
		link := inner.alias + "." + Column(l.Refer.Field)
		return related{element: elementColumns{recordColumns{s: inner, alias: inner.alias, literally: r.literally}},
			link: link + " = " + r.alias + ".id", from: inner.from,
			once: func(where string, what []string) ([]string, bool) {
				if w.dependsOn(mark, inner.born) {
					return nil, false
				}
				r.s.readToItsEnd(of, inner)
				return r.s.aggregated(r.alias, link, inner, where, what), true
			}}, nil
	}
	return related{}, fmt.Errorf("there is no list %q", strings.Join(path, "."))
}

// elementColumns are those of one record of a list, which may stand for itself.
type elementColumns struct{ recordColumns }

func (e elementColumns) name(path []string, kind value.Kind) (scalar, error) {
	if len(path) == 0 {
		e.s.reads()
		return scalar{Kind: value.KindRecord, SQL: e.alias + ".id"}, nil
	}
	return e.recordColumns.name(path, kind)
}

// Value computes an expression over the fields of one record: the value, its currency, and why it
// cannot be computed.
func Value(space Space, object string, key int64, p *expr.Program, values expr.Values) (Statement, error) {
	w := &writer{space: space}
	s := w.source(object)
	c, err := w.expression(p, withKnown{recordColumns{s: s, alias: s.alias}, values})
	if err != nil {
		return Statement{}, err
	}
	for _, text := range []*string{&c.Currency, &c.Why} {
		if *text == "" {
			*text = "NULL"
		}
	}
	at := w.arg(key, "bigint")
	s.of(at)
	return w.finish("SELECT " + c.SQL + ", " + c.Currency + "::text, " + c.Why + "::text FROM " + s.from() + " WHERE " +
		s.alias + ".id = " + at), nil
}

// withKnown adds known values to the columns of a record.
type withKnown struct {
	recordColumns
	values expr.Values
}

func (k withKnown) name(path []string, kind value.Kind) (scalar, error) {
	if k.s.w.space.Model.Object(k.s.object).Field(path[0]) == nil {
		return k.constant(known(k.values, path), kind), nil
	}
	return k.recordColumns.name(path, kind)
}
