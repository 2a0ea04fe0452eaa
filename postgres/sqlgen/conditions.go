package sqlgen

import (
	"fmt"
	"slices"
	"strings"

	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
)

// where writes a predicate about the source's records.
func (s *source) where(p predicate.Predicate, visible bool) (string, error) {
	switch x := p.(type) {
	case nil:
		return "TRUE", nil
	case predicate.All:
		return s.group(x, " AND ", "TRUE", visible)
	case predicate.Any:
		if textInAny(x) {
			return s.words(x, visible)
		}
		return s.group(x, " OR ", "FALSE", visible)
	case predicate.Keys:
		return fmt.Sprintf("%s.id = ANY(%s)", s.alias, s.w.arg([]int64(x), "bigint[]")), nil
	case predicate.Test:
		sql, err := s.test(x, visible)
		return skippedOr(x, s, sql, err)
	case predicate.HasRelated:
		return s.related(x, visible)
	case predicate.Refers:
		return s.refers(x)
	case predicate.Same:
		c, err := s.column(x.Path, visible)
		if err != nil || x.Value == nil {
			return isEmpty(c), err
		}
		if why, failed := x.Value.(value.Failure); failed {
			return orFalse(c.Why) + " = " + s.w.arg(why.Why, "text"), nil
		}
		if c.Kind == value.KindSeveral {
			k := s.w.constant(x.Value)
			return "(" + c.SQL + " @> " + k.SQL + " AND " + c.SQL + " <@ " + k.SQL + ")", nil
		}
		return s.compare(c, "=", x.Value)
	case predicate.InCurrency:
		c, err := s.column(x.Path, visible)
		return c.Currency + " = " + s.w.arg(x.Currency, "text"), err
	case predicate.Not:
		sql, err := s.where(x.Of, visible)
		return "(" + sql + ") IS NOT TRUE", err
	case predicate.Formula:
		c, err := s.w.expression(x.Program, formula{s, x.Values, visible, x.Bare, x.Record})
		return c.SQL + " IS TRUE", err
	}
	return "", fmt.Errorf("search: no SQL for %T", p)
}

func (s *source) group(members []predicate.Predicate, between, none string, visible bool) (string, error) {
	if len(members) == 0 {
		return none, nil
	}
	parts := make([]string, len(members))
	var skips []string
	for i, m := range members {
		var err error
		if parts[i], err = s.where(m, visible); err != nil {
			return "", err
		}
		if between != " OR " {
			continue
		}
		skip, err := s.skipped(m)
		if err != nil {
			return "", err
		}
		if skip != "" { // a skipped way does not let everything through
			skips = append(skips, skip)
			parts[i] = "(NOT " + skip + " AND " + parts[i] + ")"
		}
	}
	if len(skips) == len(members) { // unless all of them are skipped
		parts = append(parts, "("+strings.Join(skips, " AND ")+")")
	}
	if len(parts) == 1 {
		return parts[0], nil
	}
	return "(" + strings.Join(parts, between) + ")", nil
}

// related looks for records that point here. What a person asks finds only those they may
// see, by a reference they may see.
func (s *source) related(p predicate.HasRelated, visible bool) (string, error) {
	inner := s.w.source(p.Object)
	where, err := inner.where(p.Where, visible)
	if err != nil {
		return "", err
	}
	if visible {
		hidden, err := s.w.hidden(p.Object, p.Via, true)
		if err != nil {
			return "", err
		}
		g, err := s.w.space.Grant(p.Object)
		if err != nil {
			return "", err
		}
		rows, err := inner.where(g.Rows(), false)
		if err != nil {
			return "", err
		}
		if where += " AND " + rows; hidden {
			where += " AND FALSE"
		}
	}
	not := ""
	if p.None {
		not = "NOT "
	}
	return fmt.Sprintf("%sEXISTS (SELECT 1 FROM %s WHERE %s.%s = %s.id AND %s)",
		not, inner.from(), inner.alias, Column(p.Via), s.alias, where), nil
}

// refers looks for the record that a reference points at among those the person may see.
func (s *source) refers(p predicate.Refers) (string, error) {
	inner, where, err := s.w.query(query.Query{Object: p.Via.Target(), Where: p.Where, Filter: p.Filter})
	if err != nil {
		return "", err
	}
	return fmt.Sprintf("%s.%s IN (SELECT %s.id FROM %s WHERE %s)", s.alias, Column(p.Via), inner.alias, inner.from(),
		where), nil
}

var comparisons = map[predicate.Operator]string{predicate.Is: "=", predicate.More: ">", predicate.MoreOrEqual: ">=",
	predicate.Less: "<", predicate.LessOrEqual: "<="}

func (s *source) test(t predicate.Test, visible bool) (string, error) {
	c, err := s.column(t.Path, visible)
	if err != nil {
		return "", err
	}
	switch t.Op {
	case predicate.IsEmpty:
		return isEmpty(c), nil
	case predicate.IsNotEmpty:
		if value.Parts(c.Kind) != nil || c.Why != "" { // to PostgreSQL one in part is neither NULL nor NOT NULL
			return "NOT (" + isEmpty(c) + ")", nil
		}
		return c.SQL + " IS NOT NULL", nil
	case predicate.Contains, predicate.StartsWith:
		return s.like(c, t)
	case predicate.Includes:
		return s.same(c, t.Value)
	case predicate.OneOf:
		return s.oneOf(c, t.Values)
	case predicate.IsNot, predicate.IncludesNot:
		same, err := s.same(c, t.Value)
		if d, ok := t.Value.(predicate.Deferred); ok && err == nil {
			k, err := s.operand(d)
			return "((" + same + ") IS NOT TRUE AND " + k.SQL + " IS NOT NULL)", err
		}
		return "(" + same + ") IS NOT TRUE", err
	case predicate.Between:
		from, err := s.compare(c, ">=", t.Value)
		if err != nil {
			return "", err
		}
		to, err := s.compare(c, "<=", t.To)
		return from + " AND " + to, err
	}
	symbol, ok := comparisons[t.Op]
	if !ok {
		return "", fmt.Errorf("search: no SQL for %q", t.Op)
	}
	return s.compare(c, symbol, t.Value)
}

// isEmpty asks whether a value is empty. One that failed is not.
func isEmpty(c scalar) string {
	if c.Why == "" {
		return c.SQL + " IS NULL"
	}
	return "(" + c.SQL + " IS NULL AND " + c.Why + " IS NULL)"
}

func orFalse(why string) string {
	if why == "" {
		return "NULL::text"
	}
	return why
}

// operand writes what a column is compared with.
func (s *source) operand(v value.Value) (scalar, error) {
	if d, ok := v.(predicate.Deferred); ok {
		return s.w.expression(d.Program, formula{s: s, values: d.Values})
	}
	return s.w.constant(v), nil
}

func (s *source) compare(c scalar, symbol string, v value.Value) (string, error) {
	k, err := s.operand(v)
	if err != nil {
		return "", err
	}
	out := c.SQL + " " + symbol + " " + k.SQL
	if c.Kind == value.KindMoney {
		out = "(" + out + " AND " + c.Currency + " = " + k.Currency + ")"
	}
	return out, nil
}

// same asks whether a column has a value, as one of several if it holds several.
func (s *source) same(c scalar, v value.Value) (string, error) {
	if c.Kind != value.KindSeveral {
		return s.compare(c, "=", v)
	}
	k, err := s.operand(v)
	return c.SQL + " @> ARRAY[" + k.SQL + "]", err
}

func (s *source) like(c scalar, t predicate.Test) (string, error) {
	f := t.Path.Last()
	if _, deferred := t.Value.(predicate.Deferred); deferred {
		k, err := s.operand(t.Value)
		if t.Op == predicate.StartsWith {
			return "starts_with(" + found(f, c.SQL) + ", " + found(f, k.SQL) + ")", err
		}
		return "position(" + found(f, k.SQL) + " IN " + found(f, c.SQL) + ") > 0", err
	}
	pattern := escapeLike(f.Found(value.Display(t.Value))) + "%"
	if t.Op == predicate.Contains {
		pattern = "%" + pattern
	}
	return found(f, c.SQL) + " LIKE " + s.w.arg(pattern, "text"), nil
}

// found is a text as it is searched, see model.Field.Found.
func found(f *model.Field, sql string) string {
	sql = "plainpath.folded(" + sql + ")"
	if f.IgnoreAccents {
		return "plainpath.unaccented(" + sql + ")"
	}
	return sql
}

func (s *source) oneOf(c scalar, values []value.Value) (string, error) {
	if c.Kind == value.KindMoney || len(values) == 0 || slices.ContainsFunc(values, isDeferred) {
		parts := []string{"FALSE"}
		for _, v := range values {
			same, err := s.same(c, v)
			if err != nil {
				return "", err
			}
			parts = append(parts, same)
		}
		return "(" + strings.Join(parts, " OR ") + ")", nil
	}
	if c.Kind == value.KindRecord || c.Kind == value.KindWhole {
		keys := make([]int64, len(values))
		for i, v := range values {
			keys[i] = Argument(v).(int64)
		}
		return c.SQL + " = ANY(" + s.w.arg(keys, "bigint[]") + ")", nil
	}
	texts := make([]string, len(values))
	for i, v := range values {
		texts[i] = fmt.Sprint(value.Wire(v))
	}
	if c.Kind == value.KindSeveral {
		return c.SQL + " && " + s.w.arg(texts, "text[]"), nil
	}
	return c.SQL + " = ANY(" + s.w.arg(texts, "text[]::"+ColumnType(c.Kind)+"[]") + ")", nil
}

func isDeferred(v value.Value) bool {
	_, ok := v.(predicate.Deferred)
	return ok
}

// skipped is the SQL that says when a test takes no part, "" when it always does: it
// skips empty values and one of its values is only known to the database.
func (s *source) skipped(p predicate.Predicate) (string, error) {
	switch x := p.(type) {
	case predicate.All:
		return s.allSkipped(x)
	case predicate.Any:
		return s.allSkipped(x)
	}
	t, ok := p.(predicate.Test)
	if !ok || !t.Skip {
		return "", nil
	}
	between := " OR " // one empty bound skips a span, a list is skipped when all of it is empty
	values := []value.Value{t.Value, t.To}
	if t.Op == predicate.OneOf {
		values, between = t.Values, " AND "
		if !allDeferred(values) {
			return "", nil
		}
	}
	var parts []string
	for _, v := range values {
		if !isDeferred(v) {
			continue
		}
		k, err := s.operand(v)
		if err != nil {
			return "", err
		}
		parts = append(parts, k.SQL+" IS NULL")
	}
	if len(parts) == 0 {
		return "", nil
	}
	return "(" + strings.Join(parts, between) + ")", nil
}

// allSkipped says when a group takes no part: when none of its members does.
func (s *source) allSkipped(members []predicate.Predicate) (string, error) {
	var parts []string
	for _, m := range members {
		skip, err := s.skipped(m)
		if skip == "" || err != nil {
			return "", err
		}
		parts = append(parts, skip)
	}
	if len(parts) == 0 {
		return "", nil
	}
	return "(" + strings.Join(parts, " AND ") + ")", nil
}

func allDeferred(values []value.Value) bool {
	return !slices.ContainsFunc(values, func(v value.Value) bool { return !isDeferred(v) })
}

// skippedOr lets a skipped test hold, as it does where all members of a group must.
func skippedOr(t predicate.Test, s *source, sql string, err error) (string, error) {
	if err != nil {
		return "", err
	}
	skip, err := s.skipped(t)
	if skip == "" {
		return sql, err
	}
	return "(" + skip + " OR " + sql + ")", err
}

func escapeLike(s string) string {
	return strings.NewReplacer(`\`, `\\`, `%`, `\%`, `_`, `\_`).Replace(s)
}
