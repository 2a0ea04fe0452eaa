package sqlgen

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"plainpath/core/query"
)

// relatedTotals is what totals come to over the records that point at another: computed once for
// all of them, and joined.
type relatedTotals struct {
	alias string
	// of is the alias of the record they point at, by the column link.
	of, link string
	inner    *source
	what     []total
}

// total is an aggregate over those for which a condition holds, "" for all.
type total struct{ sql, where string }

// aggregated makes totals of the records of inner that point at those of an alias. Beyond what
// they point at they must not depend on the record.
func (s *source) aggregated(of, link string, inner *source, where string, what []string) []string {
	at := slices.IndexFunc(s.aggregates, func(a *relatedTotals) bool { return a.inner == inner })
	if at < 0 {
		at = len(s.aggregates)
		s.aggregates = append(s.aggregates, &relatedTotals{alias: s.w.alias(), of: of, link: link, inner: inner})
	}
	a := s.aggregates[at]
	out := make([]string, len(what))
	for i, sql := range what {
		out[i] = fmt.Sprintf("%s.v%d", a.alias, len(a.what))
		a.what = append(a.what, total{sql, where})
	}
	return out
}

// join writes the aggregate. Among, unless it is empty, bounds the records it is made for.
func (a *relatedTotals) join(among string) string {
	// A condition that all share narrows what is read.
	where := a.what[0].where
	if slices.ContainsFunc(a.what, func(t total) bool { return t.where != where }) {
		where = ""
	}
	columns := make([]string, len(a.what))
	for i, t := range a.what {
		filter := ""
		if t.where != where {
			filter = " FILTER (WHERE " + strings.TrimPrefix(t.where, " AND ") + ")"
		}
		columns[i] = fmt.Sprintf(", %s%s AS v%d", t.sql, filter, i)
	}
	return fmt.Sprintf(" LEFT JOIN (SELECT %s AS k%s FROM %s WHERE %s%s%s GROUP BY %s) %s ON %s.k = %s.id",
		a.link, strings.Join(columns, ""), a.inner.from(), a.link, cmp.Or(among, " IS NOT NULL"), where, a.link,
		a.alias, a.alias, a.of)
}

// listOf names the records that point at those of an alias by a reference.
type listOf struct{ alias, object, field string }

// listed is a source for them: one that was read to its end before, so that totals of several
// fields are made in one go, or a new one. What is read takes it out until then.
func (s *source) listed(of listOf) *source {
	if inner := s.lists[of]; inner != nil {
		delete(s.lists, of)
		return inner
	}
	return s.w.source(of.object)
}

func (s *source) readToItsEnd(of listOf, inner *source) {
	if s.lists == nil {
		s.lists = map[listOf]*source{}
	}
	s.lists[of] = inner
}

// among says that the statement is about some records of the source only, so that totals are
// made for those alone, and for what they refer to.
func (s *source) among(keys string) { s.keys = " = ANY(" + keys + ")" }

// of says that the statement is about one record of the source.
func (s *source) of(key string) { s.keys = " = " + key }

// bound is the condition on the records that totals are made for, "" when that is all.
func (s *source) bound(a *relatedTotals) string {
	if s.keys == "" || a.of == s.alias {
		return s.keys
	}
	return " IN (SELECT " + a.of + ".id FROM " + s.tableName() + " " + s.alias + s.joins.String() + " WHERE " +
		s.alias + ".id" + s.keys + ")"
}

// reads notes that something of a source is read.
func (s *source) reads() { s.w.read = append(s.w.read, s.born) }

// dependsOn says whether something that was there before an alias was read since a mark.
func (w *writer) dependsOn(mark, before int) bool {
	return slices.ContainsFunc(w.read[mark:], func(born int) bool { return born < before })
}

// onPage writes a list whose totals are shown but decide neither what is in it nor its order:
// the page is found first, and they are made for what is on it.
func (s *source) onPage(columns []string, joins, where string, keys []orderKey, q query.Query) (string, error) {
	table := s.tableName() + " " + s.alias
	page, err := s.page("SELECT "+s.alias+".id FROM "+table+joins+" WHERE "+where, keys, q)
	if err != nil {
		return "", err
	}
	own := " JOIN " + table + " ON " + s.alias + ".id = page.id" + s.joins.String()
	from := "page" + own
	for _, a := range s.aggregates {
		of := "SELECT id FROM page"
		if a.of != s.alias {
			of = "SELECT " + a.of + ".id FROM page" + own
		}
		from += a.join(" IN (" + of + ")")
	}
	return "WITH page AS MATERIALIZED (" + page + ") SELECT " + strings.Join(columns, ", ") + " FROM " + from +
		" ORDER BY " + orderBy(keys), nil
}
