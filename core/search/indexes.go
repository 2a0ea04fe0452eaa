package search

import (
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/value"
)

// IndexKind says what an index of a column is for.
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

// Indexes are the indexes that queries count on for the column of a field, each as what comes
// behind the name of the table.
func Indexes(o *model.Object, f *model.Field) map[IndexKind]string {
	name, out := Column(f), map[IndexKind]string{}
	switch f.Kind() {
	case value.KindSeveral:
		out[IncludesIndex] = "USING gin (" + name + ")"
	case value.KindText:
		if f.Type != model.Choice && f.Type != model.LongText {
			kind := FoldedIndex
			if f.IgnoreAccents {
				kind = UnaccentedIndex
			}
			out[kind] = "USING gin (" + found(f, name) + " gin_trgm_ops)"
		}
	}
	if keptInOrder(o, f) {
		out[OrderIndex] = "(" + name + collation(f) + ", id)"
	}
	return out
}

// keptInOrder says whether an index has the records in the order of a field: references for
// joins, dates for spans, and texts where they stand for the record.
func keptInOrder(o *model.Object, f *model.Field) bool {
	switch f.Kind() {
	case value.KindRecord, value.KindDate, value.KindInstant:
		return true
	}
	return f.Kind() == value.KindText && f.Type != model.Choice && f.Type != model.LongText && f.Key == o.LabelField
}

func collation(f *model.Field) string {
	if f.Kind() == value.KindText {
		return expr.ByLanguage
	}
	return ""
}
