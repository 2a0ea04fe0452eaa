package search

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

func (s Space) worked(object string, f *model.Field) (WorkedOut, bool) {
	if s.Worked == nil || f.Type != model.WorkedOut {
		return WorkedOut{}, false
	}
	return s.Worked(object, f.Key)
}

// compute writes a field that is worked out when it is read. Its expression is the
// builder's and may look at anything; across a reference it is empty where the record
// referred to is not to be seen, whose alias is empty then.
func (s *source) compute(p *expr.Program, through []*model.Field, alias string, f *model.Field) (expr.Column, error) {
	c, err := p.SQL(recordColumns{s, through, alias, true})
	if err != nil || len(through) == 0 {
		return c, err
	}
	there := func(sql string) string {
		if sql == "" {
			return ""
		}
		return "CASE WHEN " + alias + ".id IS NOT NULL THEN " + sql + " END"
	}
	return expr.Column{Kind: f.Kind(), SQL: there(c.SQL), Currency: there(c.Currency), Why: there(c.Why)}, nil
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

func (r recordColumns) Column(path []string, _ value.Kind) (expr.Column, error) {
	p, err := r.s.w.space.Model.Path(r.s.reached(r.through), strings.Join(path, "."))
	if err != nil {
		return expr.Column{}, err
	}
	if len(p.Fields) == 1 { // of the record that is there already
		return r.s.own(r.through, r.alias, p.Fields[0])
	}
	fields := append(slices.Clone(r.through), p.Fields...)
	return r.s.field(fields[:len(fields)-1], fields[len(fields)-1], false)
}

func (r recordColumns) Constant(v value.Value, kind value.Kind) expr.Column {
	if r.literally {
		return Literally(v, kind)
	}
	return r.s.w.known(v, kind)
}

// Related finds the records that point at this one.
func (r recordColumns) Related(path []string) (expr.Related, error) {
	for _, l := range expr.RelatedLists(r.s.w.space.Model, r.s.reached(r.through)) {
		if len(path) != 1 || l.Name.Key != path[0] {
			continue
		}
		r.s.reads()
		w := r.s.w
		of := listOf{r.alias, l.Refer.Object.Key, l.Refer.Field.Key}
		mark, inner := len(w.read), r.s.listed(of)
		link := inner.alias + "." + Column(l.Refer.Field)
		return expr.Related{Element: elementColumns{recordColumns{s: inner, alias: inner.alias, literally: r.literally}},
			Link: link + " = " + r.alias + ".id", From: inner.from,
			Once: func(where string, what []string) ([]string, bool) {
				if w.dependsOn(mark, inner.born) {
					return nil, false
				}
				r.s.readToItsEnd(of, inner)
				return r.s.aggregated(r.alias, link, inner, where, what), true
			}}, nil
	}
	return expr.Related{}, fmt.Errorf("there is no list %q", strings.Join(path, "."))
}

// elementColumns are those of one record of a list, which may stand for itself.
type elementColumns struct{ recordColumns }

func (e elementColumns) Column(path []string, kind value.Kind) (expr.Column, error) {
	if len(path) == 0 {
		e.s.reads()
		return expr.Column{Kind: value.KindRecord, SQL: e.alias + ".id"}, nil
	}
	return e.recordColumns.Column(path, kind)
}

// CompileValue writes SQL that computes an expression over the fields of one record: the
// value, its currency, and why it cannot be computed.
func CompileValue(space Space, object string, key int64, p *expr.Program, values expr.Values) (string, []any, error) {
	w := &writer{space: space}
	s := w.source(object)
	c, err := p.SQL(withKnown{recordColumns{s: s, alias: s.alias}, values})
	if err != nil {
		return "", nil, err
	}
	for _, text := range []*string{&c.Currency, &c.Why} {
		if *text == "" {
			*text = "NULL"
		}
	}
	at := w.arg(key, "bigint")
	s.of(at)
	sql, args := w.finish("SELECT " + c.SQL + ", " + c.Currency + "::text, " + c.Why + "::text FROM " + s.from() + " WHERE " + s.alias + ".id = " + at)
	return sql, args, nil
}

// withKnown adds known values to the columns of a record.
type withKnown struct {
	recordColumns
	values expr.Values
}

func (k withKnown) Column(path []string, kind value.Kind) (expr.Column, error) {
	if k.s.w.space.Model.Object(k.s.object).Field(path[0]) == nil {
		return k.Constant(known(k.values, path), kind), nil
	}
	return k.recordColumns.Column(path, kind)
}
