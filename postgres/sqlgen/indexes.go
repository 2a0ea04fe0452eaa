package sqlgen

import (
	"plainpath/core/model"
	"plainpath/core/value"
)

// IndexKind says what an index of a field is for.
type IndexKind string

// The kinds of indexes: for joins, spans and orders, for "contains" in a text, with accents and
// without, and for several choices that include one.
const (
	OrderIndex      IndexKind = "order"
	FoldedIndex     IndexKind = "folded"
	UnaccentedIndex IndexKind = "unaccented"
	IncludesIndex   IndexKind = "includes"
)

// IndexKinds are all kinds of indexes, "contains" among them, which none is any more.
var IndexKinds = []IndexKind{OrderIndex, FoldedIndex, UnaccentedIndex, IncludesIndex, "contains"}

// mostIndexed bounds the expressions that have indexes, in bytes of SQL: PostgreSQL keeps what an index
// is over in one row of its catalog, which holds no more than 8 kB of it, packed.
const mostIndexed = 1500

// Indexes are the indexes that queries count on for a field, each as what comes behind the name
// of the table. They are empty for a field that no index can have.
func (s Space) Indexes(o *model.Object, f *model.Field) (map[IndexKind]string, error) {
	out := map[IndexKind]string{}
	if f.Type == model.WorkedOut {
		if w, ok := s.worked(o.Key, f); !ok || !w.Own {
			return out, nil
		}
	}
	within := Column(f)
	if f.Type == model.WorkedOut {
		var err error
		if within, err = s.Written(o, f, Quote(o.Table())); err != nil {
			return nil, err
		}
		if len(within) > mostIndexed {
			return out, nil
		}
	}
	sql := within
	if f.Type == model.WorkedOut {
		sql = "(" + within + ")"
	}
	switch f.Kind() {
	case value.KindSeveral:
		out[IncludesIndex] = "USING gin (" + sql + ")"
	case value.KindText:
		if f.Type != model.Choice && f.Type != model.LongText {
			kind := FoldedIndex
			if f.IgnoreAccents {
				kind = UnaccentedIndex
			}
			out[kind] = "USING gin (" + found(f, within) + " gin_trgm_ops)"
		}
	}
	if s.keepsInOrder(o, f) {
		out[OrderIndex] = "(" + sql + collation(f) + ", id)"
	}
	return out, nil
}

// Written writes the value of a field of a record, which must keep to its own, under an alias
// of its table.
func (s Space) Written(o *model.Object, f *model.Field, alias string) (string, error) {
	table := (&writer{space: s}).source(o.Key)
	table.alias = alias
	c, err := table.field(nil, f, false)
	return c.SQL, err
}

// keepsInOrder says whether an index has the records in the order of a field: references for
// joins, dates for spans, and texts where they stand for the record.
func (s Space) keepsInOrder(o *model.Object, f *model.Field) bool {
	if f.Type == model.WorkedOut {
		if w, ok := s.worked(o.Key, f); !ok || !w.Own {
			return false
		}
	}
	switch f.Kind() {
	case value.KindRecord, value.KindDate, value.KindInstant:
		return true
	}
	return f.Kind() == value.KindText && f.Type != model.Choice && f.Type != model.LongText && f.Key == o.LabelField
}

func collation(f *model.Field) string {
	if f.Kind() == value.KindText {
		return byLanguage
	}
	return ""
}
