package imports

import (
	"context"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/core/predicate"
	"plainpath/core/query"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/repository"
	"plainpath/postgres/sqlgen"
)

// recognise finds the stored records that rows are about.
func (s *staging) recognise(ctx context.Context) error {
	if s.plan.Mode == intake.ModeAdd {
		return nil
	}
	n, key := s.column(s.plan.Key)
	if key == nil || key.Target() != "" {
		return &postgres.RejectedError{Text: fmt.Sprintf("%s cannot be recognised by %q.", s.object.Plural, s.plan.Key)}
	}
	column := sqlgen.Quote(key.Key)
	if err := s.drop(ctx, s.heading(n),
		"DELETE FROM "+s.name+" WHERE "+column+" IS NULL RETURNING line, '' AS value, $1 AS reason",
		key.Label+" is required to recognise the record"); err != nil {
		return err
	}
	found, err := s.lookUp(ctx, n, s.object, key, "")
	if err != nil {
		return err
	}
	unfit := "f.n > 1"
	if s.plan.Mode == intake.ModeUpdate {
		unfit = "f.n <> 1"
	}
	if err := s.dropNames(ctx, n, found, unfit, s.object, key); err != nil {
		return err
	}
	if err := s.exec(ctx, "recognising records",
		"UPDATE "+s.name+" s SET old = f.id FROM "+found+" f WHERE f.name = s."+
			column+"::text AND f.n = 1"); err != nil {
		return err
	}
	return s.theirs(ctx, access.Changing, "SELECT old FROM "+s.name+" WHERE old IS NOT NULL")
}

// theirs makes sure that records are among those the person may add or change with what the sheet
// brings.
func (s *staging) theirs(ctx context.Context, doing access.Doing, sql string) error {
	rows, err := s.repository.RowsTo(s.object, doing, s.fields)
	if err != nil || predicate.Always(rows) {
		return err
	}
	keys := []int64{}
	if err := sqlx.SelectContext(ctx, s.tx, &keys, sql); err != nil {
		return fmt.Errorf("finding whose records they are: %w", err)
	}
	return s.repository.MayDo(ctx, doing, query.ByKeys(s.object, keys), s.fields)
}

// doubles refuses rows whose value in a unique field another row or record has.
func (s *staging) doubles(ctx context.Context) error {
	for n, f := range s.fields {
		if f == nil || !f.Unique && f.Key != s.plan.Key {
			continue
		}
		column := sqlgen.Quote(f.Key)
		twice := "SELECT line, min(line) OVER (PARTITION BY " + column + ") AS first FROM " + s.name + " WHERE " +
			column + " IS NOT NULL"
		err := s.drop(ctx, s.heading(n),
			"DELETE FROM "+s.name+" s USING ("+twice+") t WHERE t.line = s.line AND t.line <> t.first RETURNING s.line, s."+column+"::text AS value, 'line ' || t.first || ' has the same '||$1 AS reason", f.Label)
		if err != nil {
			return err
		}
		if !f.Unique || s.onlyStaged(n) {
			continue
		}
		stored, same := s.table()+" o", "o."+column+" = s."+column
		if f.Target() != "" { // what the cell names was looked up
			stored, same = fmt.Sprintf("%s JOIN %s_%d r ON r.id = o.%s", stored, s.name, n, column),
				"r.name = s."+column
		}
		err = s.drop(ctx, s.heading(n),
			"DELETE FROM "+s.name+" s USING "+stored+" WHERE "+same+" AND o.id IS DISTINCT FROM s.old RETURNING s.line, s."+column+"::text AS value, $1 AS reason",
			fmt.Sprintf("there is %s with the same %s already", model.WithArticle(s.object.Label), f.Label))
		if err != nil {
			return err
		}
	}
	return nil
}

// needed refuses new rows without what every record needs, in columns whose empty cells leave
// what is there.
func (s *staging) needed(ctx context.Context) error {
	for n, f := range s.fields {
		if f == nil || !f.Required || !s.leaves(n) || f.Type == model.Number {
			continue
		}
		err := s.drop(ctx, s.heading(n),
			"DELETE FROM "+s.name+" WHERE old IS NULL AND "+sqlgen.Quote(f.Key)+" IS NULL RETURNING line, '' AS value, $1 AS reason", f.Label+" is required")
		if err != nil {
			return err
		}
	}
	return nil
}

// sweep counts what is left, and the empty cells over stored values.
func (s *staging) sweep(ctx context.Context) error {
	joins, all := s.targets()
	left, emptied := "0", "0"
	for i, l := range all {
		if "s."+l.column != l.filled { // the currency goes with its amount
			continue
		}
		one := fmt.Sprintf(" + (NOT n.filled%d AND NOT (o.%s IS NULL))::int", i, l.column)
		if l.leaves {
			left += one
		} else {
			emptied += one
		}
	}
	var rows int64
	err := s.tx.QueryRowxContext(ctx,
		"SELECT count(*) FILTER (WHERE n.old IS NULL), count(*) FILTER (WHERE n.old IS NOT NULL AND "+differs(all)+"), count(*), coalesce(sum("+left+"), 0), coalesce(sum("+emptied+"), 0) FROM "+
			selected(joins, all, s.name)+" LEFT JOIN "+s.table()+" o ON o.id = n.old").Scan(&s.result.Added,
		&s.result.Changed, &rows, &s.result.Left, &s.result.Emptied)
	if err != nil {
		return fmt.Errorf("counting the rows: %w", err)
	}
	s.result.Unchanged = rows - s.result.Added - s.result.Changed
	s.result.Refused = s.result.Rows - rows
	return nil
}

// mostRounds is how often rows that break a rule are taken out and the rest written again.
const mostRounds = 5

// writeKept writes the rows that are left. Those that break a rule of their object are
// refused and the others written without them.
func (s *staging) writeKept(ctx context.Context) error {
	for range mostRounds {
		if err := s.exec(ctx, "writing", "SAVEPOINT intake"); err != nil {
			return err
		}
		if err := s.write(ctx); err != nil {
			return err
		}
		broken, err := s.broken(ctx)
		if err != nil || len(broken) == 0 {
			return err
		}
		if err := s.exec(ctx, "taking back", "ROLLBACK TO SAVEPOINT intake"); err != nil {
			return err
		}
		if err := s.exec(ctx, "taking back", "DELETE FROM "+s.name+" WHERE coalesce(old, id) = ANY($1)",
			broken); err != nil {
			return err
		}
		if err := s.resolveOwn(ctx); err != nil {
			return err
		}
		if err := s.sweep(ctx); err != nil {
			return err
		}
	}
	return &postgres.RejectedError{Text: "Rows that were taken out made others break a rule, again and again. Nothing was written."}
}

func (s *staging) write(ctx context.Context) error {
	if err := s.repository.Sign(ctx, ""); err != nil {
		return err
	}
	joins, all := s.targets()
	person := fmt.Sprint(s.repository.Person().ID)
	if s.result.Changed > 0 {
		set := []string{"revision = o.revision + 1", "changed_at = now()", "changed_by = " + person}
		for i, l := range all {
			set = append(set, l.column+" = "+l.assigns(i))
		}
		sql := "UPDATE " + s.table() + " o SET " + strings.Join(set, ", ") + " FROM " + selected(joins, all, s.name) +
			" WHERE o.id = n.old AND " + differs(all)
		if _, err := s.tx.ExecContext(ctx, sql); err != nil {
			return repository.Refused(s.object, "changing", err)
		}
	}
	if s.result.Added == 0 {
		return nil
	}
	columns, values := []string{"id", "created_by", "changed_by"}, []string{"s.id", person, person}
	for _, l := range all {
		columns, values = append(columns, l.column), append(values, l.value)
	}
	if err := s.fillIn(&columns, &values); err != nil {
		return err
	}
	// Piece by piece, so that progress can be told and the import stopped.
	sql := "INSERT INTO " + s.table() + " (" + strings.Join(columns, ", ") + ") SELECT " + strings.Join(values, ", ") +
		" FROM " + s.name + " s" + joins +
		" WHERE s.old IS NULL AND s.line >= $1 AND s.line < $2 ORDER BY s.line"
	var last int
	if err := s.tx.GetContext(ctx, &last, "SELECT coalesce(max(line), 0) FROM "+s.name); err != nil {
		return fmt.Errorf("counting the rows: %w", err)
	}
	piece := writtenAtOnce
	if len(s.own()) > 0 { // a row may name one that stands anywhere
		piece = last + 1
	}
	for from := 0; from <= last; from += piece {
		if err := s.intakes.progress(ctx, s.row.ID, "Writing "+s.object.Plural, int64(from), int64(last)); err != nil {
			return err
		}
		if _, err := s.tx.ExecContext(ctx, sql, from, from+piece); err != nil {
			return repository.Refused(s.object, "adding", err)
		}
	}
	return nil
}

// writtenAtOnce is how many lines one statement writes.
const writtenAtOnce = 50_000

// fillIn gives new records the defaults of fields that no column brings.
func (s *staging) fillIn(columns, values *[]string) error {
	blank, err := s.repository.Blank(s.object)
	if err != nil {
		return err
	}
	for i, f := range blank.Fields {
		if n, _ := s.column(f.Key); n >= 0 || blank.Rows[0][i] == nil {
			continue
		}
		k := sqlgen.Literally(blank.Rows[0][i], f.Kind())
		if r, ok := blank.Rows[0][i].(*value.Record); ok {
			k.SQL = fmt.Sprint(r.ID)
		}
		*columns, *values = append(*columns, sqlgen.Quote(f.Key)), append(*values, k.SQL)
		if f.Kind() == value.KindMoney {
			*columns, *values = append(*columns, sqlgen.Quote(f.Key+"_currency")), append(*values, k.Currency)
		}
	}
	return nil
}

// broken gives the records written that break a rule, or would not be the person's.
func (s *staging) broken(ctx context.Context) ([]int64, error) {
	if err := s.theirs(ctx, access.Adding, "SELECT id FROM "+s.name+" WHERE old IS NULL"); err != nil {
		return nil, err
	}
	grant, err := s.repository.Space().Grant(s.object.Key)
	if err != nil {
		return nil, err
	}
	rules := s.repository.Edition.Rules.Of(s.object.Key)
	if grant.Unlimited() && len(rules.Rules)+len(rules.Candidates) == 0 {
		return nil, nil
	}
	keys := []int64{}
	if err := sqlx.SelectContext(ctx, s.tx, &keys, "SELECT coalesce(old, id) FROM "+s.name); err != nil {
		return nil, fmt.Errorf("checking the rules: %w", err)
	}
	if err := s.repository.Visible(ctx, s.object, keys); err != nil {
		return nil, err
	}
	var changed []string
	if s.plan.Mode == intake.ModeUpdate {
		s.each(func(_ int, f *model.Field) { changed = append(changed, f.Key) })
	}
	found, err := s.repository.Breaches(ctx, s.object, keys, changed, 0)
	if err != nil {
		return nil, err
	}
	lines := map[int64]int{}
	if len(found) > 0 {
		rows, err := s.tx.QueryxContext(ctx, "SELECT coalesce(old, id), line FROM "+s.name)
		if err != nil {
			return nil, fmt.Errorf("checking the rules: %w", err)
		}
		defer func() { _ = rows.Close() }()
		for rows.Next() {
			var id int64
			var line int
			if err := rows.Scan(&id, &line); err != nil {
				return nil, fmt.Errorf("checking the rules: %w", err)
			}
			lines[id] = line
		}
	}
	var out []int64
	for _, b := range found {
		out = append(out, b.ID)
		for _, p := range b.Problems {
			heading := ""
			if n, _ := s.column(strings.TrimPrefix(p.Pointer, "/")); n >= 0 {
				heading = s.heading(n)
			}
			s.refuse(s.number, lines[b.ID], heading, "", p.Text)
		}
	}
	return out, nil
}
