package store

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/core/search"
	"plainpath/core/value"
)

// sheet brings one sheet in: its rows are copied to a staging table as they are read,
// checked there together, and written with one statement each for new and for changed
// records.
func (m *importing) sheet(ctx context.Context, n int) error {
	p := &m.in.Plan.Sheets[n]
	o := m.desk.Edition.Model.Object(p.Object)
	if o == nil {
		return &RejectedError{fmt.Sprintf("There is no object %q any more.", p.Object)}
	}
	fields, err := fieldsOf(o, p)
	if err != nil {
		return err
	}
	if err := m.mayWrite(p, o, fields); err != nil {
		return err
	}
	s := &staging{importing: m, number: n, plan: p, object: o, fields: fields, name: fmt.Sprintf("intake_%d", n)}
	m.result.Sheets = append(m.result.Sheets, SheetResult{Sheet: n, Object: p.Object})
	s.result = &m.result.Sheets[len(m.result.Sheets)-1]
	for _, step := range []func(context.Context) error{s.make, s.copy, s.resolve, s.recognise, s.doubles, s.sweep, s.writeKept} {
		if err := step(ctx); err != nil {
			return err
		}
	}
	return nil
}

func (m *importing) mayWrite(p *intake.SheetPlan, o *model.Object, fields []*model.Field) error {
	g, err := m.desk.Space().Grant(o.Key)
	if err != nil {
		return err
	}
	who := m.desk.Person()
	if p.Mode != intake.ModeUpdate && !g.MayAdd() {
		return &access.DeniedError{Person: who.Name, Doing: "add", Object: strings.ToLower(o.Plural)}
	}
	if p.Mode != intake.ModeAdd && !g.MayChange() {
		return &access.DeniedError{Person: who.Name, Doing: "change", Object: strings.ToLower(o.Plural)}
	}
	for _, f := range fields {
		if f != nil && !g.WritesField(f.Key) {
			return wrong(f.Key, "%s may not set %s", who.Name, f.Label)
		}
	}
	return nil
}

// staging is the rows of one sheet on their way in.
type staging struct {
	*importing
	number int
	plan   *intake.SheetPlan
	object *model.Object
	// fields are those of the columns, nil for a column that is left out.
	fields []*model.Field
	name   string
	result *SheetResult
}

func (s *staging) exec(ctx context.Context, doing, sql string, args ...any) error {
	if _, err := s.tx.ExecContext(ctx, sql, args...); err != nil {
		return fmt.Errorf("%s: %w", doing, err)
	}
	return nil
}

func (s *staging) table() string { return s.desk.Space().Table(s.object.Key) }

// each calls for every column that is brought in.
func (s *staging) each(work func(n int, f *model.Field)) {
	for n, f := range s.fields {
		if f != nil {
			work(n, f)
		}
	}
}

// make makes the staging table. Every row gets a key of its own at once, so that what is
// found wrong with a record later leads back to its line.
func (s *staging) make(ctx context.Context) error {
	columns := []string{"line integer", fmt.Sprintf("id bigint DEFAULT nextval(pg_get_serial_sequence('%s', 'id'))", strings.ReplaceAll(s.table(), "'", "''")), "old bigint"}
	s.each(func(_ int, f *model.Field) {
		kind := columnTypes[f.Kind()]
		if f.Target() != "" {
			kind = "text"
		}
		columns = append(columns, search.Quote(f.Key)+" "+kind)
		if f.Kind() == value.KindMoney {
			columns = append(columns, search.Quote(f.Key+"_currency")+" text")
		}
	})
	return s.exec(ctx, "preparing the import", "CREATE TEMP TABLE "+s.name+" ("+strings.Join(columns, ", ")+") ON COMMIT DROP")
}

// copy reads the rows, refuses those with a cell that does not fit, and copies the others.
func (s *staging) copy(ctx context.Context) error {
	file, err := s.intakes.open(ctx, s.row.ID, s.plan.File, s.in.Files[s.plan.File])
	if err != nil {
		return err
	}
	defer func() { _ = file.Close() }()
	body, err := file.Body(s.plan.Sheet)
	if err != nil {
		return &RejectedError{err.Error()}
	}
	defer func() { _ = body.Close() }()
	total := int64(0)
	for _, f := range s.in.Found {
		if f.File == s.plan.File && f.Sheet == s.plan.Sheet && f.Analysis != nil {
			total = f.Analysis.Rows
		}
	}
	names := []string{"line"}
	s.each(func(_ int, f *model.Field) {
		names = append(names, search.Quote(f.Key))
		if f.Kind() == value.KindMoney {
			names = append(names, search.Quote(f.Key+"_currency"))
		}
	})
	from, to := io.Pipe()
	fed := make(chan error, 1)
	go func() {
		w := bufio.NewWriterSize(to, 1<<16)
		err := s.feed(ctx, body, w, total)
		if err == nil {
			err = w.Flush()
		}
		to.CloseWithError(err)
		fed <- err
	}()
	err = s.conn.Raw(func(driver any) error {
		pg := driver.(*stdlib.Conn).Conn().PgConn()
		_, err := pg.CopyFrom(ctx, from, "COPY "+s.name+" ("+strings.Join(names, ", ")+") FROM STDIN")
		return err
	})
	_ = from.CloseWithError(err)
	if fedErr := <-fed; fedErr != nil && !errors.Is(fedErr, io.ErrClosedPipe) {
		return fedErr
	}
	if err != nil {
		return fmt.Errorf("copying the rows: %w", err)
	}
	return s.exec(ctx, "preparing the import", "ANALYZE "+s.name)
}

// feed writes rows in the text format of COPY.
func (s *staging) feed(ctx context.Context, body *intake.Body, w *bufio.Writer, total int64) error {
	doing := "Reading " + s.object.Plural
	row := make([]value.Value, len(s.fields))
	for {
		line, cells, err := body.Next()
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return &RejectedError{err.Error()}
		}
		s.result.Rows++
		if s.result.Rows%5000 == 0 {
			if err := s.intakes.progress(ctx, s.row.ID, doing, s.result.Rows, total); err != nil {
				return err
			}
		}
		if s.read(line, cells, body.Headings, row) {
			s.encode(w, line, row)
		}
	}
}

// read makes values of a row; it is false when the row was refused.
func (s *staging) read(line int, cells, headings []string, row []value.Value) bool {
	good := true
	for n := len(headings); n < len(cells); n++ {
		if cells[n] != "" {
			s.refuse(s.number, line, "", cells[n], "the row is longer than the headings")
			return false
		}
	}
	for n, f := range s.fields {
		if f == nil {
			continue
		}
		cell := ""
		if n < len(cells) {
			cell = cells[n]
		}
		var err error
		if row[n], err = s.plan.Columns[n].Cell(f, cell, s.desk.Edition.Zone); err != nil {
			s.refuse(s.number, line, headings[n], cell, err.Error())
			good = false
		}
	}
	return good
}

func (s *staging) encode(w *bufio.Writer, line int, row []value.Value) {
	fmt.Fprint(w, line)
	for n, f := range s.fields {
		if f == nil {
			continue
		}
		w.WriteByte('\t')
		money, isMoney := row[n].(value.Money)
		switch {
		case row[n] == nil:
			w.WriteString(`\N`)
		case isMoney:
			w.WriteString(money.Amount.String())
		default:
			escape(w, *text(row[n]))
		}
		if f.Kind() == value.KindMoney {
			w.WriteByte('\t')
			if isMoney {
				w.WriteString(money.Currency)
			} else {
				w.WriteString(`\N`)
			}
		}
	}
	w.WriteByte('\n')
}

func escape(w *bufio.Writer, s string) {
	for i := 0; i < len(s); i++ {
		switch s[i] {
		case '\\', '\t', '\n', '\r':
			w.WriteByte('\\')
			w.WriteByte(map[byte]byte{'\\': '\\', '\t': 't', '\n': 'n', '\r': 'r'}[s[i]])
		default:
			w.WriteByte(s[i])
		}
	}
}

// drop refuses rows that a query finds, by line, value and reason.
func (s *staging) drop(ctx context.Context, heading, sql string, args ...any) error {
	var found []struct {
		Line   int    `db:"line"`
		Value  string `db:"value"`
		Reason string `db:"reason"`
	}
	if err := sqlx.SelectContext(ctx, s.tx, &found, sql, args...); err != nil {
		return fmt.Errorf("checking the rows: %w", err)
	}
	for _, f := range found {
		s.refuse(s.number, f.Line, heading, f.Value, f.Reason)
	}
	return nil
}

// heading is what the file calls a column.
func (s *staging) heading(n int) string {
	for _, f := range s.in.Found {
		if f.File == s.plan.File && f.Sheet == s.plan.Sheet && f.Analysis != nil && n < len(f.Analysis.Columns) {
			return f.Analysis.Columns[n].Heading
		}
	}
	return s.plan.Columns[n].Label
}

// names is the records that a reference column may name, as the person may see them.
func (s *staging) names(f *model.Field, n, first int) (string, []any, error) {
	target := s.desk.Edition.Model.Object(f.Target())
	match := target.Field(s.plan.Columns[n].Match)
	if match == nil {
		return "", nil, &RejectedError{fmt.Sprintf("%s has no field %q to recognise records by.", target.Label, s.plan.Columns[n].Match)}
	}
	return search.CompileNames(s.desk.Space(), target, match, first)
}

// resolve puts the keys of records in the place of what the cells call them.
func (s *staging) resolve(ctx context.Context) error {
	for n, f := range s.fields {
		if f == nil || f.Target() == "" {
			continue
		}
		if err := s.intakes.progress(ctx, s.row.ID, "Finding "+f.Label, 0, 0); err != nil {
			return err
		}
		target := s.desk.Edition.Model.Object(f.Target())
		match := target.Field(s.plan.Columns[n].Match)
		names, args, err := s.names(f, n, 1)
		if err != nil {
			return err
		}
		column := search.Quote(f.Key)
		found := s.name + "_" + fmt.Sprint(n)
		// Only what the sheet names is looked up, once each.
		err = s.exec(ctx, "looking up "+f.Label, "CREATE TEMP TABLE "+found+" ON COMMIT DROP AS WITH names AS ("+names+"), asked AS (SELECT DISTINCT "+column+" AS name FROM "+s.name+" WHERE "+column+
			" IS NOT NULL) SELECT a.name, min(x.id) AS id, count(x.id) AS n FROM asked a LEFT JOIN names x ON x.name = a.name GROUP BY a.name", args...)
		if err != nil {
			return err
		}
		one := strings.ToLower(target.Label)
		err = s.drop(ctx, s.heading(n), "SELECT s.line, s."+column+" AS value, CASE WHEN f.n = 0 THEN $1 ELSE $2 END AS reason FROM "+s.name+" s JOIN "+found+" f ON f.name = s."+column+" WHERE f.n <> 1",
			fmt.Sprintf("there is no %s with this %s", one, match.Label), fmt.Sprintf("there are several %s with this %s", strings.ToLower(target.Plural), match.Label))
		if err != nil {
			return err
		}
		if err := s.exec(ctx, "looking up "+f.Label, "DELETE FROM "+s.name+" s USING "+found+" f WHERE f.name = s."+column+" AND f.n <> 1"); err != nil {
			return err
		}
	}
	return nil
}

// joins are the tables that say what names mean, and the values of the columns with them.
func (s *staging) joins() (joins string, columns, values []string) {
	s.each(func(n int, f *model.Field) {
		name := search.Quote(f.Key)
		columns = append(columns, name)
		if f.Target() == "" {
			values = append(values, "s."+name)
			if f.Kind() == value.KindMoney {
				columns, values = append(columns, search.Quote(f.Key+"_currency")), append(values, "s."+search.Quote(f.Key+"_currency"))
			}
			return
		}
		r := fmt.Sprintf("r%d", n)
		joins += " LEFT JOIN " + s.name + "_" + fmt.Sprint(n) + " " + r + " ON " + r + ".name = s." + name
		values = append(values, r+".id")
	})
	return joins, columns, values
}

// recognise finds the stored records that rows are about.
func (s *staging) recognise(ctx context.Context) error {
	if s.plan.Mode == intake.ModeAdd {
		return nil
	}
	n, key := s.column(s.plan.Key)
	names, args, err := search.CompileNames(s.desk.Space(), s.object, key, 1)
	if err != nil {
		return err
	}
	column := search.Quote(key.Key)
	if err := s.drop(ctx, s.heading(n), "SELECT line, '' AS value, $1 AS reason FROM "+s.name+" WHERE "+column+" IS NULL", key.Label+" is needed to recognise the record"); err != nil {
		return err
	}
	if err := s.exec(ctx, "recognising records", "DELETE FROM "+s.name+" WHERE "+column+" IS NULL"); err != nil {
		return err
	}
	if err := s.exec(ctx, "recognising records", "WITH names AS ("+names+") UPDATE "+s.name+" s SET old = x.id FROM names x WHERE x.name = s."+column+"::text", args...); err != nil {
		return err
	}
	if s.plan.Mode != intake.ModeUpdate {
		return nil
	}
	reason := fmt.Sprintf("there is no %s with this %s to update", strings.ToLower(s.object.Label), key.Label)
	if err := s.drop(ctx, s.heading(n), "SELECT line, "+column+"::text AS value, $1 AS reason FROM "+s.name+" WHERE old IS NULL", reason); err != nil {
		return err
	}
	return s.exec(ctx, "recognising records", "DELETE FROM "+s.name+" WHERE old IS NULL")
}

func (s *staging) column(key string) (int, *model.Field) {
	for n, f := range s.fields {
		if f != nil && f.Key == key {
			return n, f
		}
	}
	return -1, nil
}

// doubles refuses rows whose value in a unique field another row or record has.
func (s *staging) doubles(ctx context.Context) error {
	for n, f := range s.fields {
		if f == nil || !f.Unique && f.Key != s.plan.Key || f.Target() != "" {
			continue
		}
		column := search.Quote(f.Key)
		twice := "SELECT line, first, v FROM (SELECT line, min(line) OVER (PARTITION BY " + column + ") AS first, " + column + "::text AS v FROM " + s.name + " WHERE " + column + " IS NOT NULL) d WHERE line <> first"
		if err := s.drop(ctx, s.heading(n), "SELECT line, v AS value, 'line ' || first || ' has the same '||$1 AS reason FROM ("+twice+") t", f.Label); err != nil {
			return err
		}
		if err := s.exec(ctx, "looking for doubles", "DELETE FROM "+s.name+" s USING ("+twice+") t WHERE t.line = s.line"); err != nil {
			return err
		}
		if !f.Unique {
			continue
		}
		stored := " FROM " + s.name + " s JOIN " + s.table() + " o ON o." + column + " = s." + column + " AND o.id IS DISTINCT FROM s.old"
		reason := fmt.Sprintf("there is a %s with the same %s already", strings.ToLower(s.object.Label), f.Label)
		if err := s.drop(ctx, s.heading(n), "SELECT s.line, s."+column+"::text AS value, $1 AS reason"+stored, reason); err != nil {
			return err
		}
		if err := s.exec(ctx, "looking for doubles", "DELETE FROM "+s.name+" WHERE line IN (SELECT s.line"+stored+")"); err != nil {
			return err
		}
	}
	return nil
}

// sweep counts what is left.
func (s *staging) sweep(ctx context.Context) error {
	joins, columns, values := s.joins()
	different := make([]string, len(columns))
	for i := range columns {
		different[i] = "o." + columns[i] + " IS DISTINCT FROM " + values[i]
	}
	err := s.tx.QueryRowxContext(ctx, "SELECT count(*) FILTER (WHERE s.old IS NULL), count(*) FILTER (WHERE s.old IS NOT NULL AND ("+strings.Join(different, " OR ")+")), count(*) FROM "+
		s.name+" s LEFT JOIN "+s.table()+" o ON o.id = s.old"+joins).Scan(&s.result.Added, &s.result.Changed, &s.result.Unchanged)
	if err != nil {
		return fmt.Errorf("counting the rows: %w", err)
	}
	s.result.Unchanged -= s.result.Added + s.result.Changed
	s.result.Refused = s.result.Rows - s.result.Added - s.result.Changed - s.result.Unchanged
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
		if err := s.exec(ctx, "taking back", "DELETE FROM "+s.name+" WHERE coalesce(old, id) = ANY($1)", broken); err != nil {
			return err
		}
		if err := s.sweep(ctx); err != nil {
			return err
		}
	}
	return &RejectedError{"Rows that were taken out made others break a rule, again and again. Nothing was written."}
}

func (s *staging) write(ctx context.Context) error {
	if err := s.desk.sign(ctx, ""); err != nil {
		return err
	}
	joins, columns, values := s.joins()
	person := fmt.Sprint(s.desk.Person().ID)
	if s.result.Changed > 0 {
		set := []string{"revision = o.revision + 1", "changed_at = now()", "changed_by = " + person}
		different := make([]string, len(columns))
		for i := range columns {
			set = append(set, columns[i]+" = n."+columns[i])
			values[i] += " AS " + columns[i]
			different[i] = "o." + columns[i] + " IS DISTINCT FROM n." + columns[i]
		}
		sql := "UPDATE " + s.table() + " o SET " + strings.Join(set, ", ") + " FROM (SELECT s.old, " + strings.Join(values, ", ") + " FROM " + s.name + " s" + joins + ") n WHERE o.id = n.old AND (" + strings.Join(different, " OR ") + ")"
		if _, err := s.tx.ExecContext(ctx, sql); err != nil {
			return refused(s.object, "changing", err)
		}
	}
	if s.result.Added == 0 {
		return nil
	}
	joins, columns, values = s.joins()
	columns, values = append(columns, "id", "created_by", "changed_by"), append(values, "s.id", person, person)
	if err := s.fillIn(&columns, &values); err != nil {
		return err
	}
	// Piece by piece, so that progress can be told and the import stopped.
	sql := "INSERT INTO " + s.table() + " (" + strings.Join(columns, ", ") + ") SELECT " + strings.Join(values, ", ") + " FROM " + s.name + " s" + joins +
		" WHERE s.old IS NULL AND s.line >= $1 AND s.line < $2 ORDER BY s.line"
	var last int
	if err := s.tx.GetContext(ctx, &last, "SELECT coalesce(max(line), 0) FROM "+s.name); err != nil {
		return fmt.Errorf("counting the rows: %w", err)
	}
	for from := 0; from <= last; from += writtenAtOnce {
		if err := s.intakes.progress(ctx, s.row.ID, "Writing "+s.object.Plural, int64(from), int64(last)); err != nil {
			return err
		}
		if _, err := s.tx.ExecContext(ctx, sql, from, from+writtenAtOnce); err != nil {
			return refused(s.object, "adding", err)
		}
	}
	return nil
}

// writtenAtOnce is how many lines one statement writes.
const writtenAtOnce = 50_000

// fillIn gives new records the defaults of fields that no column brings.
func (s *staging) fillIn(columns, values *[]string) error {
	blank, err := s.desk.blank(s.object)
	if err != nil {
		return err
	}
	for i, f := range blank.Fields {
		if n, _ := s.column(f.Key); n >= 0 || blank.Rows[0][i] == nil {
			continue
		}
		k := ownColumns{}.Constant(blank.Rows[0][i], f.Kind())
		if r, ok := blank.Rows[0][i].(*value.Record); ok {
			k.SQL = fmt.Sprint(r.ID)
		}
		*columns, *values = append(*columns, search.Quote(f.Key)), append(*values, k.SQL)
		if f.Kind() == value.KindMoney {
			*columns, *values = append(*columns, search.Quote(f.Key+"_currency")), append(*values, k.Currency)
		}
	}
	return nil
}

// broken gives the records written that break a rule, or would not be the person's.
func (s *staging) broken(ctx context.Context) ([]int64, error) {
	grant, err := s.desk.Space().Grant(s.object.Key)
	if err != nil {
		return nil, err
	}
	rules := s.desk.Edition.Rules.Of(s.object.Key)
	if grant.Unlimited() && len(rules.Rules)+len(rules.Candidates) == 0 {
		return nil, nil
	}
	keys := []int64{}
	if err := sqlx.SelectContext(ctx, s.tx, &keys, "SELECT coalesce(old, id) FROM "+s.name); err != nil {
		return nil, fmt.Errorf("checking the rules: %w", err)
	}
	if err := s.desk.visible(ctx, s.object, keys); err != nil {
		return nil, err
	}
	var changed []string
	if s.plan.Mode == intake.ModeUpdate {
		s.each(func(_ int, f *model.Field) { changed = append(changed, f.Key) })
	}
	found, err := s.desk.breaches(ctx, s.object, keys, changed, 0)
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
		out = append(out, b.id)
		for _, p := range b.problems {
			heading := ""
			if n, _ := s.column(strings.TrimPrefix(p.Pointer, "/")); n >= 0 {
				heading = s.heading(n)
			}
			s.refuse(s.number, lines[b.id], heading, "", p.Text)
		}
	}
	return out, nil
}
