package sqlgen

import (
	"fmt"
	"strings"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// Out is a query whose columns the database writes as text, for files: made for very many
// records, which are passed on as they come.
type Out struct {
	Statement
	// Kinds are those of the columns.
	Kinds []value.Kind
}

// Texts writes a query so that each column is a text as files have it: labels for references and
// choices, ISO 8601 for dates, amounts with their currency behind them. Points in time are as the
// database writes them, in the zone of the session. Empty is NULL.
func Texts(space Space, q query.Query) (*Out, error) {
	w := &writer{space: space}
	s, where, err := w.query(q)
	if err != nil {
		return nil, err
	}
	out := &Out{}
	columns := make([]string, len(q.Columns))
	for i, p := range q.Columns {
		if columns[i], err = s.text(p); err != nil {
			return nil, err
		}
		kind := p.Last().Kind()
		if p.Last().Prefix != "" { // "+1" is a text, whatever a spreadsheet makes of it
			kind = value.KindText
		}
		out.Kinds = append(out.Kinds, kind)
	}
	keys, err := s.orderKeys(q)
	if err != nil {
		return nil, err
	}
	sql := "SELECT " + strings.Join(columns, ", ") + " FROM " + w.from(s) + " WHERE " + where + " ORDER BY " +
		orderBy(keys)
	if q.Limit > 0 {
		sql += fmt.Sprintf(" LIMIT %d", q.Limit)
	}
	out.Statement = w.finish(sql)
	return out, nil
}

// text is a field as a text, as the person may see it.
func (s *source) text(p model.Path) (string, error) {
	f := p.Last()
	if target := f.Target(); target != "" {
		o := s.w.space.Model.Object(target)
		to, err := s.join(p, len(p.Fields), true)
		if err != nil {
			return "", err
		}
		label := o.Field(o.LabelField)
		c, err := s.field(p.Fields, label, true)
		if err != nil {
			return "", err
		}
		none := s.w.arg("(no "+strings.ToLower(label.Label)+")", "text")
		return "CASE WHEN " + to + ".id IS NOT NULL THEN coalesce(" + s.w.written(label, c.SQL, c.Currency) + ", " +
			none + ") END", nil
	}
	c, err := s.column(p, true)
	out := c.SQL + "::text"
	if f.Kind() != value.KindInstant {
		out = s.w.written(f, c.SQL, c.Currency)
	}
	if c.Why != "" {
		out = "coalesce(" + out + ", " + c.Why + ")"
	}
	return out, err
}

// written writes a value of a field as text.
func (w *writer) written(f *model.Field, sql, currency string) string {
	switch {
	case f.Type == model.Choice:
		return w.choice(f, sql)
	case f.Type == model.Number && f.Prefix != "":
		return w.arg(f.Prefix, "text") + " || " + sql + "::text"
	}
	if value.Parts(f.Kind()) != nil {
		return compositeOut(f.Kind(), sql)
	}
	switch f.Kind() {
	case value.KindMoney:
		return sql + "::text || ' ' || " + currency
	case value.KindYesNo:
		return "CASE " + sql + " WHEN TRUE THEN 'yes' WHEN FALSE THEN 'no' END"
	case value.KindInstant:
		return instantText(sql)
	case value.KindSeveral:
		return "(SELECT string_agg(" + w.choiceAmong(f, "k") + ", ', ') FROM unnest(" + sql + ") k)"
	case value.KindText:
		return sql
	}
	return sql + "::text"
}

// instantText writes a point in time as RFC 3339 does, in the zone of the session, or in UTC
// where that was apart from it by odd seconds.
func instantText(sql string) string {
	written := func(sql, zone string) string {
		return "to_char(" + sql + ", CASE WHEN date_trunc('second', " + sql + ") = " + sql +
			` THEN 'YYYY-MM-DD"T"HH24:MI:SS` + zone + `' ELSE 'YYYY-MM-DD"T"HH24:MI:SS.US` + zone + "' END)"
	}
	return "CASE WHEN extract(timezone FROM " + sql + ")::int % 60 <> 0 THEN " + written("("+sql+" AT TIME ZONE 'UTC')",
		`"Z"`) + " ELSE " + written(sql, "TZH:TZM") + " END"
}

// choice writes the label of a choice.
func (w *writer) choice(f *model.Field, sql string) string {
	return w.labelled(f, sql, func(label string) string { return label })
}

// choiceAmong writes the label of one of several choices, with quotes around it where it would
// fall apart. Intake reads it so.
func (w *writer) choiceAmong(f *model.Field, sql string) string {
	return w.labelled(f, sql, func(label string) string {
		if strings.ContainsAny(label, ",;|\n\"") || strings.TrimSpace(label) != label {
			return `"` + strings.ReplaceAll(label, `"`, `""`) + `"`
		}
		return label
	})
}

func (w *writer) labelled(f *model.Field, sql string, written func(label string) string) string {
	if len(f.Choices) == 0 {
		return sql
	}
	labels := make([]string, len(f.Choices))
	for i, c := range f.Choices {
		labels[i] = written(c.Label)
	}
	return fmt.Sprintf("(%s)[%s]", w.arg(labels, "text[]"), w.rank(f, sql))
}

// rank is the place of a value among the choices of its field.
func (w *writer) rank(f *model.Field, sql string) string {
	keys := make([]string, len(f.Choices))
	for i, c := range f.Choices {
		keys[i] = c.Key
	}
	return fmt.Sprintf("array_position(%s, %s)", w.arg(keys, "text[]"), sql)
}
