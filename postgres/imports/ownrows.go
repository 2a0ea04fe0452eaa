package imports

import (
	"context"
	"fmt"

	"plainpath/core/model"
	"plainpath/postgres"
	"plainpath/postgres/sqlgen"
)

// own are the columns of references to the object itself: a part's parent, a person's leader.
func (s *staging) own() []int {
	var out []int
	s.each(func(n int, f *model.Field) {
		if f.Target() == s.object.Key {
			out = append(out, n)
		}
	})
	return out
}

// resolveOwn finds what the cells of such columns name, among the stored records and among the
// rows themselves, which have their keys already. A row that is refused takes those with it that
// name it.
func (s *staging) resolveOwn(ctx context.Context) error {
	for refused := -1; refused != len(s.refused); {
		refused = len(s.refused)
		for _, n := range s.own() {
			match := s.plan.Columns[n].Match
			by := s.object.Field(match)
			if by == nil {
				return &postgres.RejectedError{Text: fmt.Sprintf("%s has no field %q to recognise records by.",
					s.object.Label, match)}
			}
			if err := s.exec(ctx, "preparing the import", fmt.Sprintf("DROP TABLE IF EXISTS %s_%d", s.name,
				n)); err != nil {
				return err
			}
			more := ""
			if _, brought := s.column(match); brought != nil && brought.Target() == "" {
				name := sqlgen.Quote(match) + "::text"
				more = fmt.Sprintf(" UNION ALL SELECT coalesce(old, id), %s FROM %s WHERE %s IS NOT NULL", name, s.name,
					name)
			}
			found, err := s.lookUp(ctx, n, s.object, by, more)
			if err != nil {
				return err
			}
			if err := s.dropNames(ctx, n, found, "f.n <> 1", s.object, by); err != nil {
				return err
			}
		}
	}
	return nil
}
