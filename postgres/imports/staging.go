package imports

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5/stdlib"
	"github.com/jmoiron/sqlx"

	"plainpath/core/access"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/core/value"
	"plainpath/postgres"
	"plainpath/postgres/repository"
	"plainpath/postgres/sqlgen"
)

// sheet brings one sheet in: its rows are copied to a staging table as they are read,
// checked there together, and written with one statement each for new and for changed
// records.
func (m *importing) sheet(ctx context.Context, n int) error {
	p := &m.in.Plan.Sheets[n]
	o := m.repository.Edition.Model.Object(p.Object)
	if o == nil {
		return &postgres.RejectedError{Text: fmt.Sprintf("There is no object %q any more.", p.Object)}
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
	for _, step := range []func(context.Context) error{s.make, s.copy, s.resolve, s.recognise, s.needed, s.doubles,
		s.resolveOwn, s.sweep, s.writeKept} {
		if err := step(ctx); err != nil {
			return err
		}
	}
	return nil
}

func (m *importing) mayWrite(p *intake.SheetPlan, o *model.Object, fields []*model.Field) error {
	fields = slices.DeleteFunc(slices.Clone(fields),
		func(f *model.Field) bool { return f != nil && f.Type == model.Number })
	if p.Mode != intake.ModeUpdate {
		if err := m.repository.MayWrite(o, access.Adding, fields); err != nil {
			return err
		}
	}
	if p.Mode == intake.ModeAdd {
		return nil
	}
	return m.repository.MayWrite(o, access.Changing, fields)
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

func (s *staging) table() string { return s.repository.Space().Table(s.object.Key) }

// onlyStaged says whether a column goes no further than the staging table: a dry run does not
// give a table that is there new columns, which would keep others from it.
func (s *staging) onlyStaged(n int) bool {
	return s.importing.result.Dry && !s.plan.New && s.plan.Columns[n].New
}

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
	columns := []string{"line integer", fmt.Sprintf("id bigint DEFAULT nextval(pg_get_serial_sequence('%s', 'id'))",
		strings.ReplaceAll(s.table(), "'", "''")), "old bigint"}
	s.each(func(_ int, f *model.Field) {
		kind := sqlgen.ColumnType(f.Kind())
		if f.Target() != "" || f.Type == model.Number {
			kind = "text"
		}
		columns = append(columns, sqlgen.Quote(f.Key)+" "+kind)
		if f.Kind() == value.KindMoney {
			columns = append(columns, sqlgen.Quote(f.Key+"_currency")+" text")
		}
	})
	return s.exec(ctx, "preparing the import", "CREATE TEMP TABLE "+s.name+" ("+strings.Join(columns,
		", ")+") ON COMMIT DROP")
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
		return &postgres.RejectedError{Text: err.Error()}
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
		names = append(names, sqlgen.Quote(f.Key))
		if f.Kind() == value.KindMoney {
			names = append(names, sqlgen.Quote(f.Key+"_currency"))
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
			return &postgres.RejectedError{Text: err.Error()}
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
		if s.leaves(n) && strings.TrimSpace(cell) == "" { // whether it is needed depends on whether the record is there
			row[n] = nil
			continue
		}
		var err error
		if row[n], err = s.plan.Columns[n].Cell(f, cell, s.repository.Edition.Zone); err != nil {
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
			_, _ = escaping.WriteString(w, *repository.Text(row[n])) // the writer keeps its error for Flush
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

// escaping is the text format of COPY.
var escaping = strings.NewReplacer(`\`, `\\`, "\t", `\t`, "\n", `\n`, "\r", `\r`)

// drop takes rows out that a DELETE finds, which must return line, value and reason, and
// refuses them.
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

// lookUp finds the records that the cells of a column name, as the person may see them, and
// among more, which gives names and keys. Each name is looked up once; what is found is in a
// table of its own: the name, the key of a record, and n, how many records have the name.
func (s *staging) lookUp(ctx context.Context, n int, o *model.Object, by *model.Field, more string) (string, error) {
	doing := "looking up " + s.fields[n].Label
	if err := s.intakes.progress(ctx, s.row.ID, "Finding "+s.fields[n].Label, 0, 0); err != nil {
		return "", err
	}
	names, err := sqlgen.Names(s.repository.Space(), o, by, 1)
	if err != nil {
		return "", err
	}
	found := fmt.Sprintf("%s_%d", s.name, n)
	column := sqlgen.Quote(s.fields[n].Key) + "::text"
	return found, s.exec(ctx, doing,
		"CREATE TEMP TABLE "+found+" ON COMMIT DROP AS WITH names AS ("+names.SQL+more+"), asked AS (SELECT DISTINCT "+column+" AS name FROM "+s.name+" WHERE "+column+
			" IS NOT NULL) SELECT a.name, min(x.id) AS id, count(DISTINCT x.id) AS n FROM asked a LEFT JOIN names x ON x.name = a.name GROUP BY a.name", names.Args...)
}

// dropNames refuses rows whose cell names no record, or several.
func (s *staging) dropNames(ctx context.Context, n int, found, which string, o *model.Object, by *model.Field) error {
	column := "s." + sqlgen.Quote(s.fields[n].Key) + "::text"
	return s.drop(ctx, s.heading(n),
		"DELETE FROM "+s.name+" s USING "+found+" f WHERE f.name = "+column+" AND "+which+" RETURNING s.line, "+column+" AS value, CASE WHEN f.n = 0 THEN $1 ELSE $2 END AS reason",
		fmt.Sprintf("there is no %s with this %s", strings.ToLower(o.Label), by.Label),
		fmt.Sprintf("there are several %s with this %s", strings.ToLower(o.Plural), by.Label))
}

// resolve finds the records that the cells of references name.
func (s *staging) resolve(ctx context.Context) error {
	for n, f := range s.fields {
		if f == nil || f.Target() == "" || f.Target() == s.object.Key {
			continue
		}
		target := s.repository.Edition.Model.Object(f.Target())
		by := target.Field(s.plan.Columns[n].Match)
		if by == nil {
			return &postgres.RejectedError{Text: fmt.Sprintf("%s has no field %q to recognise records by.",
				target.Label, s.plan.Columns[n].Match)}
		}
		found, err := s.lookUp(ctx, n, target, by, "")
		if err != nil {
			return err
		}
		if err := s.dropNames(ctx, n, found, "f.n <> 1", target, by); err != nil {
			return err
		}
	}
	return nil
}

// target is a column of the object's table that is written.
type target struct {
	column string
	// value is what is written, filled what tells whether the cell had something in it; both in
	// SQL over the staging table and what it is joined with.
	value, filled string
	// leaves says that an empty cell leaves what a stored record has.
	leaves bool
}

// targets are the columns that are written, and the tables that say what names mean.
func (s *staging) targets() (joins string, all []target) {
	s.each(func(n int, f *model.Field) {
		if f.Type == model.Number || s.onlyStaged(n) { // a number says which record is meant, and stays
			return
		}
		name := sqlgen.Quote(f.Key)
		l := target{column: name, value: "s." + name, filled: "s." + name, leaves: s.leaves(n)}
		if f.Target() != "" {
			r := fmt.Sprintf("r%d", n)
			joins += " LEFT JOIN " + s.name + "_" + fmt.Sprint(n) + " " + r + " ON " + r + ".name = s." + name
			l.value = r + ".id"
		}
		all = append(all, l)
		if f.Kind() == value.KindMoney {
			l.column = sqlgen.Quote(f.Key + "_currency")
			l.value = "s." + l.column
			all = append(all, l)
		}
	})
	return joins, all
}

// leaves says whether an empty cell of a column leaves what the record it is about has.
func (s *staging) leaves(n int) bool {
	return s.plan.Mode != intake.ModeAdd && !s.plan.Columns[n].Empties
}

// selected are the rows with their values, each under the name of its column, and whether its
// cell had something in it.
func selected(joins string, all []target, name string) string {
	columns := []string{"s.old"}
	for i, l := range all {
		columns = append(columns, l.value+" AS "+l.column, fmt.Sprintf("NOT (%s IS NULL) AS filled%d", l.filled, i))
	}
	return "(SELECT " + strings.Join(columns, ", ") + " FROM " + name + " s" + joins + ") n"
}

// assigns is what a column of a stored record o gets from the row n.
func (l target) assigns(i int) string {
	if !l.leaves {
		return "n." + l.column
	}
	return fmt.Sprintf("CASE WHEN n.filled%d THEN n.%s ELSE o.%s END", i, l.column, l.column)
}

// differs says whether a stored record is changed by its row.
func differs(all []target) string {
	different := []string{"FALSE"}
	for i, l := range all {
		different = append(different, "o."+l.column+" IS DISTINCT FROM "+l.assigns(i))
	}
	return "(" + strings.Join(different, " OR ") + ")"
}

func (s *staging) column(key string) (int, *model.Field) {
	for n, f := range s.fields {
		if f != nil && f.Key == key {
			return n, f
		}
	}
	return -1, nil
}
