package sqlgen

import (
	"encoding/json"
	"fmt"
	"strings"
	"unicode/utf8"

	"plainpath/core/model"
	"plainpath/core/query"
	"plainpath/core/value"
)

// orderKey is one of the things a list is ordered by, the record's key last.
type orderKey struct {
	sql      string
	field    *model.Field
	kind     value.Kind
	desc     bool
	nullable bool
	collate  string
	// indexed says that the database keeps the records in this order.
	indexed bool
}

func (s *source) orderKeys(q query.Query) ([]orderKey, error) {
	var keys []orderKey
	for _, o := range q.Order {
		p, f := o.Path, o.Path.Last()
		through := p.Fields[:len(p.Fields)-1]
		nullable := len(p.Fields) > 1 || !f.Required
		if target := f.Target(); target != "" { // ordered by the label
			through = p.Fields
			f = s.w.space.Model.Object(target).Field(s.w.space.Model.Object(target).LabelField)
			nullable = true
		}
		hidden, err := s.w.hidden(s.reached(through), f, true)
		if err != nil {
			return nil, err
		}
		c, err := s.field(through, f, true)
		if err != nil {
			return nil, err
		}
		k := orderKey{sql: c.SQL, field: f, kind: f.Kind(), desc: o.Desc, nullable: nullable || hidden}
		k.indexed = len(p.Fields) == 1 && s.w.space.keepsInOrder(s.w.space.Model.Object(s.object), f)
		switch {
		case f.Type == model.Choice: // in the order the builder gave the choices
			k.sql = s.w.rank(f, k.sql) + "::bigint"
			k.kind = value.KindWhole
		case k.kind == value.KindMoney: // amounts of one currency are compared with each other only
			keys = append(keys, orderKey{sql: c.Currency, field: f, kind: value.KindText, desc: o.Desc,
				nullable: k.nullable})
			k.kind = value.KindDecimal
		case k.kind == value.KindSeveral:
			k.sql, k.kind, k.collate = "array_to_string("+k.sql+", ', ')", value.KindText, byLanguage
		case value.Parts(k.kind) != nil:
			k.sql, k.kind, k.collate = compositeText(k.kind, k.sql), value.KindText, byLanguage
		case k.kind == value.KindText:
			k.collate = byLanguage
		}
		keys = append(keys, k)
	}
	return append(keys, orderKey{sql: s.alias + ".id", kind: value.KindWhole, desc: q.Latest}), nil
}

func orderBy(keys []orderKey) string {
	parts := make([]string, len(keys))
	for i, k := range keys {
		parts[i] = k.sql + k.collate
		if k.desc {
			parts[i] += " DESC"
		}
		if k.desc && k.nullable {
			parts[i] += " NULLS LAST"
		}
	}
	return strings.Join(parts, ", ")
}

// placeOf reads a cursor, a value for each key.
func placeOf(c query.Cursor, keys []orderKey) ([]value.Value, error) {
	if len(c) != len(keys) {
		return nil, &query.LookError{Text: "The list is ordered differently now. Begin at the first page again."}
	}
	values := make([]value.Value, len(keys))
	for i, k := range keys {
		var err error
		if values[i], err = value.Parse(k.kind, c[i]); err != nil || unstorable(values[i]) {
			return nil, query.ErrBadCursor
		}
	}
	return values, nil
}

// unstorable says that a value is a text that nothing in the database can be compared with.
func unstorable(v value.Value) bool {
	text, ok := v.(value.Text)
	return ok && (strings.ContainsRune(string(text), 0) || !utf8.ValidString(string(text)))
}

// after adds the condition that a record comes behind the values of a cursor, if there are
// any. Empty comes last. The first order is also bounded on its own, so that an
// index on it leads straight to the place.
func (s *source) after(keys []orderKey, values []value.Value) string {
	if len(values) == 0 {
		return ""
	}
	behind := ""
	for i := len(keys) - 1; i >= 0; i-- {
		beyond, same := s.beyond(keys[i], values[i])
		switch {
		case behind == "":
			behind = beyond
		case beyond == "FALSE":
			behind = same + " AND " + behind
		default:
			behind = fmt.Sprintf("(%s OR %s AND %s)", beyond, same, behind)
		}
	}
	if first := keys[0]; values[0] != nil && !first.nullable {
		symbol := " >= "
		if first.desc {
			symbol = " <= "
		}
		behind = fmt.Sprintf("%s%s%s AND %s", first.sql, first.collate, symbol+s.w.constant(values[0]).SQL, behind)
	}
	return " AND " + behind
}

func (s *source) beyond(k orderKey, v value.Value) (beyond, same string) {
	if v == nil {
		return "FALSE", k.sql + " IS NULL"
	}
	arg, symbol := s.w.constant(v).SQL, " > "
	if k.desc {
		symbol = " < "
	}
	same = k.sql + " = " + arg
	beyond = k.sql + k.collate + symbol + arg
	if k.nullable {
		beyond = "(" + beyond + " OR " + k.sql + " IS NULL)"
	}
	return beyond, same
}

// Position is the place behind a record of a list. A cursor is made of the few that somebody
// goes on from.
type Position struct {
	sel *Selection
	row []any
	id  int64
}

// Cursor is the place so that it can travel.
func (p Position) Cursor() (query.Cursor, error) {
	c := make(query.Cursor, 0, len(p.sel.keys)+1)
	for _, k := range p.sel.keys {
		x, err := Decode(k.kind, p.row[k.at])
		if err != nil {
			return nil, err
		}
		raw, err := json.Marshal(value.Wire(x))
		if err != nil {
			return nil, err
		}
		c = append(c, raw)
	}
	raw, err := json.Marshal(p.id)
	return append(c, raw), err
}
