// Package search turns searches into SQL. Everything that comes from outside is a
// parameter; every name comes from the model and is quoted.
package search

import (
	"fmt"
	"strings"

	"plainpath/core/access"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/value"
)

// Space says where the records are and who asks for them.
type Space struct {
	Model *model.Model
	// Schema is the PostgreSQL schema of the space.
	Schema string
	// Grant works out what the person may do with an object.
	Grant func(object string) (access.Grant, error)
}

// writer gathers the arguments of one statement.
type writer struct {
	space   Space
	args    []any
	aliases int
}

func (w *writer) arg(v any, cast string) string {
	w.args = append(w.args, v)
	return fmt.Sprintf("$%d::%s", len(w.args), cast)
}

// constant writes a value as a parameter.
func (w *writer) constant(v value.Value) expr.Column {
	c := expr.Column{Kind: v.Kind()}
	switch x := v.(type) {
	case value.Money:
		c.SQL, c.Currency = w.arg(x.Amount.String(), "numeric"), w.arg(x.Currency, "text")
	default:
		c.SQL = w.arg(Argument(v), cast(v.Kind()))
	}
	return c
}

func cast(k value.Kind) string {
	switch k {
	case value.KindWhole, value.KindRecord:
		return "bigint"
	case value.KindDecimal, value.KindMoney:
		return "numeric"
	case value.KindYesNo:
		return "boolean"
	case value.KindDate:
		return "date"
	case value.KindInstant:
		return "timestamptz"
	}
	return "text"
}

// Argument is a value as the database takes it. Money has no single argument.
func Argument(v value.Value) any {
	switch x := v.(type) {
	case nil:
		return nil
	case value.Text:
		return string(x)
	case value.Whole:
		return int64(x)
	case value.YesNo:
		return bool(x)
	case value.Decimal:
		return x.String()
	case value.Date:
		return x.String()
	case value.Instant:
		return x.Time
	case *value.Record:
		return x.ID
	}
	panic(fmt.Sprintf("search: a %s is no argument", v.Kind()))
}

// Quote quotes a name.
func Quote(name string) string { return `"` + strings.ReplaceAll(name, `"`, `""`) + `"` }

// Table is the table of an object, quoted.
func (s Space) Table(object string) string {
	if object == model.PersonObject {
		return `plainpath.person`
	}
	return Quote(s.Schema) + "." + Quote(object)
}

// source is a table in a FROM clause with what is joined to it.
type source struct {
	w             *writer
	object, alias string
	joins         strings.Builder
	aliases       map[string]string
	// rule is the row rule that holds for every record of the source, nil when none does.
	rule predicate.Predicate
}

func (w *writer) source(object string) *source {
	s := &source{w: w, object: object, alias: w.alias(), aliases: map[string]string{}}
	return s
}

func (w *writer) alias() string {
	w.aliases++
	return fmt.Sprintf("t%d", w.aliases-1)
}

func (s *source) from() string {
	return s.w.space.Table(s.object) + " " + s.alias + s.joins.String()
}

// column writes a path. When seen, the path is followed under the person's grants:
// what a reference points at is empty when the person may not see it.
func (s *source) column(p model.Path, seen bool) (expr.Column, error) {
	alias, err := s.join(p, len(p.Fields)-1, seen)
	if err != nil {
		return expr.Column{}, err
	}
	return fieldColumn(alias, p.Last()), nil
}

func fieldColumn(alias string, f *model.Field) expr.Column {
	c := expr.Column{Kind: f.Kind(), SQL: alias + "." + Quote(f.Key)}
	if c.Kind == value.KindMoney {
		c.Currency = alias + "." + Quote(f.Key+"_currency")
	}
	return c
}

// join makes sure the first n fields of a path, all references, are joined, and
// gives the alias of the table they lead to.
func (s *source) join(p model.Path, n int, seen bool) (string, error) {
	alias, walked := s.alias, ""
	for _, f := range p.Fields[:n] {
		walked += "." + f.Key
		target := f.Target()
		rule := predicate.Predicate(predicate.True)
		if seen {
			g, err := s.w.space.Grant(target)
			if err != nil {
				return "", err
			}
			if rule = g.Rows(); implied(s.rule, walked[1:], rule) {
				rule = predicate.True
			}
		}
		name := walked
		unlimited := isTrue(rule)
		if !unlimited {
			name = "seen" + walked
		}
		if have, ok := s.aliases[name]; ok {
			alias = have
			continue
		}
		next := s.w.alias()
		// The target with what its row rule joins is joined as one: where the rule does
		// not hold, all of it is empty.
		to := &source{w: s.w, object: target, alias: next, aliases: map[string]string{}}
		visible, err := to.where(rule, false)
		if err != nil {
			return "", err
		}
		joined := to.from()
		if to.joins.Len() > 0 {
			joined = "(" + joined + ")"
		}
		fmt.Fprintf(&s.joins, " LEFT JOIN %s ON %s.id = %s.%s", joined, next, alias, Quote(f.Key))
		if !unlimited {
			s.joins.WriteString(" AND " + visible)
		}
		s.aliases[name] = next
		alias = next
	}
	return alias, nil
}

// implied says whether the row rule of a source makes that of a record it refers to
// superfluous: "the customer of the building of my lift is mine" says of the lift that
// the customer of its building is mine.
func implied(rule predicate.Predicate, path string, target predicate.Predicate) bool {
	a, ok := single(rule)
	b, okTarget := single(target)
	return ok && okTarget && a.Op == predicate.Is && b.Op == predicate.Is &&
		a.Path.String() == path+"."+b.Path.String() && value.Equal(a.Value, b.Value)
}

// single unwraps groups of one member down to a test.
func single(p predicate.Predicate) (predicate.Test, bool) {
	switch x := p.(type) {
	case predicate.Test:
		return x, true
	case predicate.Any:
		if len(x) == 1 {
			return single(x[0])
		}
	case predicate.All:
		if len(x) == 1 {
			return single(x[0])
		}
	}
	return predicate.Test{}, false
}

func isTrue(p predicate.Predicate) bool {
	all, ok := p.(predicate.All)
	return ok && len(all) == 0
}

// where writes a predicate about the source's records.
func (s *source) where(p predicate.Predicate, seen bool) (string, error) {
	switch x := p.(type) {
	case nil:
		return "TRUE", nil
	case predicate.All:
		return s.group(x, " AND ", "TRUE", seen)
	case predicate.Any:
		return s.group(x, " OR ", "FALSE", seen)
	case predicate.Keys:
		return fmt.Sprintf("%s.id = ANY(%s)", s.alias, s.w.arg([]int64(x), "bigint[]")), nil
	case predicate.Test:
		return s.test(x, seen)
	case predicate.HasRelated:
		return s.related(x)
	case predicate.Formula:
		c, err := x.Program.SQL(formula{s, x.Values, seen})
		return c.SQL + " IS TRUE", err
	}
	return "", fmt.Errorf("search: no SQL for %T", p)
}

func (s *source) group(members []predicate.Predicate, between, none string, seen bool) (string, error) {
	if len(members) == 0 {
		return none, nil
	}
	parts := make([]string, len(members))
	for i, m := range members {
		var err error
		if parts[i], err = s.where(m, seen); err != nil {
			return "", err
		}
	}
	if len(parts) == 1 {
		return parts[0], nil
	}
	return "(" + strings.Join(parts, between) + ")", nil
}

func (s *source) related(p predicate.HasRelated) (string, error) {
	inner := s.w.source(p.Object)
	where, err := inner.where(p.Where, false)
	if err != nil {
		return "", err
	}
	not := ""
	if p.None {
		not = "NOT "
	}
	return fmt.Sprintf("%sEXISTS (SELECT 1 FROM %s WHERE %s.%s = %s.id AND %s)",
		not, inner.from(), inner.alias, Quote(p.Via.Key), s.alias, where), nil
}

var comparisons = map[predicate.Operator]string{predicate.Is: "=", predicate.More: ">", predicate.MoreOrEqual: ">=",
	predicate.Less: "<", predicate.LessOrEqual: "<="}

func (s *source) test(t predicate.Test, seen bool) (string, error) {
	c, err := s.column(t.Path, seen)
	if err != nil {
		return "", err
	}
	switch t.Op {
	case predicate.IsEmpty:
		return c.SQL + " IS NULL", nil
	case predicate.IsNotEmpty:
		return c.SQL + " IS NOT NULL", nil
	case predicate.Contains:
		return c.SQL + " ILIKE " + s.w.arg("%"+escapeLike(t.Value)+"%", "text"), nil
	case predicate.StartsWith:
		return c.SQL + " ILIKE " + s.w.arg(escapeLike(t.Value)+"%", "text"), nil
	case predicate.IsNot:
		return "(" + s.compare(c, "=", t.Value) + ") IS NOT TRUE", nil
	case predicate.Between:
		return s.compare(c, ">=", t.Value) + " AND " + s.compare(c, "<=", t.To), nil
	case predicate.OneOf:
		return s.oneOf(c, t.Values), nil
	}
	symbol, ok := comparisons[t.Op]
	if !ok {
		return "", fmt.Errorf("search: no SQL for %q", t.Op)
	}
	return s.compare(c, symbol, t.Value), nil
}

func (s *source) compare(c expr.Column, symbol string, v value.Value) string {
	k := s.w.constant(v)
	out := c.SQL + " " + symbol + " " + k.SQL
	if c.Kind == value.KindMoney {
		out = "(" + out + " AND " + c.Currency + " = " + k.Currency + ")"
	}
	return out
}

func (s *source) oneOf(c expr.Column, values []value.Value) string {
	if c.Kind == value.KindMoney || len(values) == 0 {
		parts := []string{"FALSE"}
		for _, v := range values {
			parts = append(parts, s.compare(c, "=", v))
		}
		return "(" + strings.Join(parts, " OR ") + ")"
	}
	if c.Kind == value.KindRecord || c.Kind == value.KindWhole {
		keys := make([]int64, len(values))
		for i, v := range values {
			keys[i] = Argument(v).(int64)
		}
		return c.SQL + " = ANY(" + s.w.arg(keys, "bigint[]") + ")"
	}
	texts := make([]string, len(values))
	for i, v := range values {
		texts[i] = fmt.Sprint(value.Wire(v))
	}
	return c.SQL + " = ANY(" + s.w.arg(texts, "text[]::"+cast(c.Kind)+"[]") + ")"
}

func escapeLike(v value.Value) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(value.Display(v))
}

// formula gives an expression the columns of the record and the known values.
type formula struct {
	s      *source
	values expr.Values
	seen   bool
}

func (f formula) Column(path []string, kind value.Kind) (expr.Column, error) {
	if path[0] != "record" {
		return f.Constant(known(f.values, path), kind), nil
	}
	if len(path) == 1 {
		return expr.Column{Kind: value.KindRecord, SQL: f.s.alias + ".id"}, nil
	}
	p, err := f.s.w.space.Model.Path(f.s.object, strings.Join(path[1:], "."))
	if err != nil {
		return expr.Column{}, err
	}
	return f.s.column(p, f.seen)
}

func (f formula) Constant(v value.Value, kind value.Kind) expr.Column {
	if v == nil {
		return expr.Column{Kind: kind, SQL: "NULL::" + cast(kind), Currency: "NULL::text"}
	}
	return f.s.w.constant(v)
}

func known(values expr.Values, path []string) value.Value {
	v := values[path[0]]
	for _, part := range path[1:] {
		r, ok := v.(*value.Record)
		if !ok || r == nil {
			return nil
		}
		v = r.Get(part)
	}
	return v
}
