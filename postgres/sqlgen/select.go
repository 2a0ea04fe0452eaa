package sqlgen

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/shopspring/decimal"

	"plainpath/core/access"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Selection is a query as SQL.
type Selection struct {
	Statement
	// Reads are the objects whose records it looks at.
	Reads []string

	object string
	label  *model.Field
	out    []output
	order  []query.Order
	// keyAt is where the values begin that are read for a cursor alone.
	keyAt int
	// keys are what makes a cursor: where each value is among the outputs, and its kind.
	keys []keyOutput
}

// output is one value read, and where in the record it goes. A key comes with the extent of
// the record it begins.
type output struct {
	path   []*model.Field
	what   what
	field  *model.Field
	extent value.Extent
	// fails says that behind the value comes why it could not be computed.
	fails bool
}

type keyOutput struct {
	at   int
	kind value.Kind
}

type what int

const (
	aKey what = iota
	aLabel
	aField
	anOrder
)

// Select writes a query that reads records. It fails with an *access.DeniedError when the person may
// not see the object at all.
func Select(space Space, q query.Query) (*Selection, error) {
	w := &writer{space: space}
	s, where, err := w.query(q)
	if err != nil {
		return nil, err
	}
	o := space.Model.Object(q.Object)
	sel := &Selection{object: q.Object, order: q.Order, label: o.Field(o.LabelField)}
	var columns []string
	extents := map[string]value.Extent{}
	put := func(sql string, out output) {
		columns = append(columns, sql)
		switch n := len(out.path); {
		case out.what == aKey:
			out.extent = value.Extent{}
			extents[dotted(out.path)] = out.extent
			if n > 0 {
				extents[dotted(out.path[:n-1])][out.path[n-1].Key] = true
			}
		case out.what == aField:
			extents[dotted(out.path)][out.field.Key] = true
		}
		sel.out = append(sel.out, out)
	}
	keys, err := s.orderKeys(q)
	if err != nil {
		return nil, err
	}
	joins, deciding := s.joins.String(), len(s.aggregates)
	put(s.alias+".id", output{what: aKey})
	if !q.Bare {
		if err := sel.putField(put, s, nil, sel.label, aLabel); err != nil {
			return nil, err
		}
	}
	if err := sel.putColumns(put, s, q.Columns); err != nil {
		return nil, err
	}
	sel.keyAt = len(sel.out)
	for _, k := range keys[:len(keys)-1] {
		at := slices.Index(columns, k.sql) // what is shown need not be read twice
		if at < 0 {
			at = len(columns)
			put(k.sql, output{what: anOrder, field: k.field})
		}
		sel.keys = append(sel.keys, keyOutput{at, k.kind})
	}
	var sql string
	if q.Limit > 0 && deciding == 0 && len(s.aggregates) > 0 && q.Edited == nil {
		sql, err = s.onPage(columns, joins, where, keys, q)
	} else {
		sql, err = s.page("SELECT "+strings.Join(columns, ", ")+" FROM "+w.from(s)+" WHERE "+where, keys, q)
	}
	if err != nil {
		return nil, err
	}
	sel.Statement = w.finish(sql)
	for _, key := range space.Model.Keys() {
		if w.objects[key] {
			sel.Reads = append(sel.Reads, key)
		}
	}
	return sel, nil
}

// Count counts the records of a query, order and limit aside.
func Count(space Space, q query.Query) (Statement, error) {
	w := &writer{space: space}
	s, where, err := w.query(q)
	if err != nil {
		return Statement{}, err
	}
	return w.finish("SELECT count(*) FROM " + w.from(s) + " WHERE " + where), nil
}

// query is what a statement about the records of a query reads from, and which of them it is about.
func (w *writer) query(q query.Query) (*source, string, error) {
	if w.space.Model.Object(q.Object) == nil {
		return nil, "", fmt.Errorf("there is no object %q", q.Object)
	}
	g, err := w.space.Grant(q.Object)
	if err != nil {
		return nil, "", err
	}
	if !g.MaySee() {
		return nil, "", &access.DeniedError{Person: "This person", Doing: "see",
			Object: w.space.Model.Object(q.Object).Plural}
	}
	s := w.source(q.Object)
	s.rule = g.Rows()
	if q.Before != nil {
		s.table = w.before(*q.Before, q.Object)
	}
	if q.Edited != nil {
		w.edit(*q.Edited)
	}
	var parts []string
	if q.Changed != nil {
		parts = append(parts, s.changed(*q.Changed))
	}
	for _, c := range []struct {
		p       predicate.Predicate
		visible bool
	}{{q.Where, false}, {g.Rows(), false}, {q.Filter, true}} {
		if c.p == nil || isTrue(c.p) {
			continue
		}
		for _, one := range query.Split(c.p) {
			if keys, ok := one.(predicate.Keys); ok {
				s.among(w.arg([]int64(keys), "bigint[]"))
			}
		}
		sql, err := s.where(c.p, c.visible)
		if err != nil {
			return nil, "", err
		}
		parts = append(parts, sql)
	}
	if len(parts) == 0 {
		return s, "TRUE", nil
	}
	return s, strings.Join(parts, " AND "), nil
}

func (sel *Selection) putField(put func(string, output), s *source, path []*model.Field, f *model.Field, w what) error {
	c, err := s.field(path, f, true)
	if c.Kind == value.KindSeveral || value.Parts(c.Kind) != nil { // read as JSON
		c.SQL = "to_jsonb(" + c.SQL + ")::text"
	}
	put(c.SQL, output{path: path, what: w, field: f, fails: c.Why != ""})
	if c.Kind == value.KindMoney {
		put(c.Currency, output{path: path, what: w, field: f})
	}
	if c.Why != "" {
		put(c.Why, output{path: path, what: w, field: f})
	}
	return err
}

func (sel *Selection) putColumns(put func(string, output), s *source, columns []model.Path) error {
	done := map[string]bool{}
	for _, p := range columns {
		last := len(p.Fields) - 1
		if p.Last().Target() != "" {
			last++ // a reference is shown by what it points at
		}
		for n := 1; n <= last; n++ {
			key := dotted(p.Fields[:n])
			alias, err := s.join(p, n, true)
			if err != nil {
				return err
			}
			if !done[key] {
				done[key] = true
				put(alias+".id", output{path: p.Fields[:n], what: aKey})
			}
			if n == len(p.Fields) && !done[key+" label"] {
				done[key+" label"] = true
				target := s.w.space.Model.Object(p.Last().Target())
				if err := sel.putField(put, s, p.Fields, target.Field(target.LabelField), aLabel); err != nil {
					return err
				}
			}
		}
		whole, through := p.Last().Whole(), p.Fields[:len(p.Fields)-1]
		key := dotted(append(slices.Clone(through), whole))
		if whole.Target() != "" || done[key] {
			continue
		}
		done[key] = true
		if err := sel.putField(put, s, through, whole, aField); err != nil {
			return err
		}
	}
	return nil
}

func dotted(fields []*model.Field) string {
	keys := make([]string, len(fields))
	for i, f := range fields {
		keys[i] = f.Key
	}
	return strings.Join(keys, ".")
}

// Decode makes a record of a row as the database gave it, and the place behind it. The row
// belongs to the place afterwards.
func (sel *Selection) Decode(row []any) (*value.Record, Position, error) {
	if len(row) != len(sel.out) {
		return nil, Position{}, errors.New("the database gave another number of columns than asked for")
	}
	root := &value.Record{Object: sel.object, Fields: make(map[string]value.Value, sel.keyAt),
		Extent: sel.out[0].extent}
	for i := 0; i < sel.keyAt; i++ {
		out := sel.out[i]
		at := reach(root, out.path)
		if at == nil && out.what == aKey && row[i] != nil {
			at = attach(root, out.path, out.extent)
		}
		if at == nil || row[i] == nil && out.what == aKey {
			continue
		}
		if out.what == aKey {
			at.ID = row[i].(int64)
			continue
		}
		var v value.Value
		var err error
		if out.field.Kind() == value.KindMoney {
			v, err = money(row[i], row[i+1])
			i++
		} else {
			v, err = Decode(out.field.Kind(), row[i])
		}
		if out.fails {
			i++
			if why, failed := row[i].(string); failed {
				v = value.Failure{Why: why}
			}
		}
		if err != nil {
			return nil, Position{}, fmt.Errorf("reading %s: %w", out.field.Label, err)
		}
		switch {
		case out.what == aLabel:
			at.Label = Label(out.field, v)
		case v != nil:
			at.Fields[out.field.Key] = v
		}
	}
	return root, Position{sel, row, root.ID}, nil
}

// Label writes the value of a label field as the label of its record.
func Label(f *model.Field, v value.Value) string {
	switch x := v.(type) {
	case nil:
		return "(no " + strings.ToLower(f.Label) + ")"
	case value.Failure:
		return "(" + f.Label + " " + x.Why + ")"
	}
	return f.Shown(v)
}

// DecodeValue makes a value of what a value and its currency, if it has one, come to.
func DecodeValue(kind value.Kind, v, currency any) (value.Value, error) {
	if kind == value.KindMoney {
		return money(v, currency)
	}
	return Decode(kind, v)
}

// Decode makes a value of a column as the database gives it.
func Decode(kind value.Kind, v any) (value.Value, error) {
	switch x := v.(type) {
	case nil:
		return nil, nil
	case string:
		switch {
		case kind == value.KindDecimal:
			return value.NewDecimal(x)
		case kind == value.KindSeveral || value.Parts(kind) != nil:
			return value.Parse(kind, json.RawMessage(x))
		}
		return value.Text(x), nil
	case int64:
		if kind == value.KindRecord {
			return &value.Record{ID: x}, nil
		}
		return value.Whole(x), nil
	case bool:
		return value.YesNo(x), nil
	case time.Time:
		if kind == value.KindDate {
			return value.DateOf(x), nil
		}
		return value.NewInstant(x), nil
	}
	return nil, fmt.Errorf("a %T cannot be a %s", v, kind)
}

func money(amount, currency any) (value.Value, error) {
	if amount == nil {
		return nil, nil
	}
	a, okA := amount.(string)
	c, okC := currency.(string)
	if !okA || !okC {
		return nil, fmt.Errorf("%T and %T are not money", amount, currency)
	}
	d, err := decimal.NewFromString(a)
	return value.Money{Amount: d, Currency: c}, err
}
