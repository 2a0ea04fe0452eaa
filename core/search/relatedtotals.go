package search

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
)

// relatedTotals is what totals come to over the records that point at another: computed once for
// all of them, and joined.
type relatedTotals struct {
	alias string
	// of is the alias of the record they point at, by the column link.
	of, link string
	inner    *source
	where    string
	what     []string
}

// aggregated makes totals of the records of inner that point at those of an alias. Beyond what
// they point at they must not depend on the record.
func (s *source) aggregated(of, link string, inner *source, where string, what []string) []string {
	a := relatedTotals{alias: s.w.alias(), of: of, link: link, inner: inner, where: where, what: what}
	s.aggregates = append(s.aggregates, a)
	out := make([]string, len(what))
	for i := range what {
		out[i] = fmt.Sprintf("%s.v%d", a.alias, i)
	}
	return out
}

// join writes the aggregate. Among, unless it is empty, bounds the records it is made for.
func (a relatedTotals) join(among string) string {
	columns := make([]string, len(a.what))
	for i, sql := range a.what {
		columns[i] = fmt.Sprintf(", %s AS v%d", sql, i)
	}
	return fmt.Sprintf(" LEFT JOIN (SELECT %s AS k%s FROM %s WHERE %s%s%s GROUP BY %s) %s ON %s.k = %s.id",
		a.link, strings.Join(columns, ""), a.inner.from(), a.link, cmp.Or(among, " IS NOT NULL"), a.where, a.link, a.alias, a.alias, a.of)
}

// among says that the statement is about some records of the source only, so that totals are
// made for those alone.
func (s *source) among(keys string) { s.keys = " = ANY(" + keys + ")" }

// reads notes that something of a source is read.
func (s *source) reads() { s.w.read = append(s.w.read, s.born) }

// dependsOn says whether something that was there before an alias was read since a mark.
func (w *writer) dependsOn(mark, before int) bool {
	return slices.ContainsFunc(w.read[mark:], func(born int) bool { return born < before })
}

// onPage writes a list whose totals are shown but decide neither what is in it nor its order:
// the page is found first, and they are made for what is on it.
func (s *source) onPage(columns []string, joins, where string, keys []orderKey, q Query) (string, error) {
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
	return "WITH page AS MATERIALIZED (" + page + ") SELECT " + strings.Join(columns, ", ") + " FROM " + from + " ORDER BY " + orderBy(keys), nil
}
