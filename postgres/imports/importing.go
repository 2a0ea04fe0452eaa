package imports

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/definition"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/postgres"
	"plainpath/postgres/documents"
	"plainpath/postgres/repository"
	"plainpath/postgres/schema"
)

// run carries out the plan of an intake in one transaction, which is taken back when it
// was only to be tried. What came of an import is kept in the same transaction, so that an
// import that was carried out can never be taken up again.
func (s *Intakes) run(ctx context.Context, r intakeRow) error {
	in, err := r.read()
	if err != nil {
		return err
	}
	if in.Plan == nil {
		return errNoPlan
	}
	order, err := in.Plan.Sequence()
	if err != nil {
		return &postgres.RejectedError{Text: err.Error()}
	}
	dry := r.State == Checking
	m := &importing{intakes: s, row: r, in: in, began: time.Now(),
		result: IntakeResult{Dry: dry, Sheets: []SheetResult{}}}
	if !dry && r.Space == postgres.Trial {
		if r.Made == nil {
			if err := m.make(ctx); err != nil {
				return err
			}
		}
		m.in.Plan = asMade(*in.Plan)
	}
	if m.conn, err = s.DB.Connx(ctx); err != nil {
		return fmt.Errorf("beginning the import: %w", err)
	}
	defer func() { _ = m.conn.Close() }()
	if m.tx, err = m.conn.BeginTxx(ctx, nil); err != nil {
		return fmt.Errorf("beginning the import: %w", err)
	}
	defer func() { _ = m.tx.Rollback() }() // does nothing after a commit
	if err := m.prepare(ctx); err != nil {
		return err
	}
	for _, i := range order {
		if err := m.sheet(ctx, i); err != nil {
			return err
		}
	}
	if dry {
		if err := m.tx.Rollback(); err != nil {
			return fmt.Errorf("taking the dry run back: %w", err)
		}
		return s.DB.In(ctx, func(tx *sqlx.Tx) error { return m.keepResult(ctx, tx, Checked) })
	}
	if err := s.progress(ctx, r.ID, "Writing", 0, 0); err != nil { // the last moment to stop it
		return err
	}
	if err := m.keepResult(ctx, m.tx, Imported); err != nil {
		return err
	}
	if err := m.tx.Commit(); err != nil {
		return fmt.Errorf("committing the import: %w", err)
	}
	return nil
}

// importing is one import under way.
type importing struct {
	intakes    *Intakes
	row        intakeRow
	in         Intake
	began      time.Time
	result     IntakeResult
	conn       *sqlx.Conn
	tx         *sqlx.Tx
	repository *repository.Repository
	refused    []refusedCell
}

type refusedCell struct {
	sheet int
	RefusedCell
}

// prepare makes the objects and fields the plan asks for, and a repository over the draft with them.
// A dry run makes new tables in its own transaction only, and holds nothing that others use.
func (m *importing) prepare(ctx context.Context) error {
	docs, err := m.documents(ctx)
	if err != nil {
		return err
	}
	e, err := m.intakes.DB.Made.Compile(ctx, docs)
	if err != nil {
		return err
	}
	if problems := m.in.Plan.Check(e.Model, m.row.Space == postgres.Trial); len(problems) > 0 {
		return &postgres.RejectedError{Text: problems[0].Text}
	}
	if m.result.Dry && m.row.Space == postgres.Trial {
		if docs, err = m.planned(ctx); err != nil {
			return err
		}
		if e, err = m.intakes.DB.Made.Compile(ctx, docs); err != nil {
			return err
		}
	}
	w, err := repository.WhereOf(ctx, m.intakes.DB, m.row.place(), e)
	if err != nil {
		return err
	}
	m.repository = repository.New(m.tx, w)
	m.repository.Cause["intake"] = fmt.Sprint(m.row.ID)
	var fresh []string
	for _, p := range m.in.Plan.Sheets {
		if p.New && !p.Skip {
			fresh = append(fresh, p.Object)
		}
	}
	return schema.FreshTables(ctx, m.intakes.DB, m.tx, w.Schema, e, fresh)
}

func (m *importing) documents(ctx context.Context) ([]definition.Document, error) {
	if m.row.Space == postgres.Trial {
		return documents.All(ctx, m.tx, m.row.App)
	}
	number, err := documents.InForce(ctx, m.intakes.DB, m.row.App)
	if err != nil {
		return nil, err
	}
	return documents.Released(ctx, m.tx, m.row.App, number)
}

func (m *importing) refuse(sheet, line int, heading, value, reason string) {
	if len(value) > 500 {
		value = strings.ToValidUTF8(value[:500], "") + "…"
	}
	m.refused = append(m.refused, refusedCell{sheet, RefusedCell{line, heading, strings.ReplaceAll(value, "\x00", ""),
		reason}})
}

// keepResult stores what came of it, and that the work on the intake is done.
func (m *importing) keepResult(ctx context.Context, tx *sqlx.Tx, state IntakeState) error {
	slices.SortStableFunc(m.refused, func(a, b refusedCell) int { return a.Line - b.Line })
	for i := range m.result.Sheets {
		r := &m.result.Sheets[i]
		r.Examples = []RefusedCell{}
		for _, c := range m.refused {
			if c.sheet == r.Sheet && len(r.Examples) < 20 {
				r.Examples = append(r.Examples, c.RefusedCell)
			}
		}
	}
	m.result.Micros = time.Since(m.began).Microseconds()
	raw, err := json.Marshal(m.result)
	if err != nil {
		return fmt.Errorf("keeping the result: %w", err)
	}
	id := m.row.ID
	if _, err := tx.ExecContext(ctx,
		`UPDATE plainpath.intake SET result = $2, state = $3, failure = '', doing = '', changed_at = now() WHERE id = $1`, id, raw, state); err != nil {
		return fmt.Errorf("keeping the result: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM plainpath.intake_refused WHERE intake = $1`, id); err != nil {
		return fmt.Errorf("keeping what was refused: %w", err)
	}
	for part := range slices.Chunk(m.refused, 10_000) {
		var sheets, lines []int
		var headings, values, reasons []string
		for _, c := range part {
			sheets, lines = append(sheets, c.sheet), append(lines, c.Line)
			headings, values, reasons = append(headings, c.Heading), append(values, c.Value), append(reasons, c.Reason)
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO plainpath.intake_refused (intake, sheet, line, heading, value, reason)
			SELECT $1, * FROM unnest($2::int[], $3::int[], $4::text[], $5::text[], $6::text[])`, id, sheets, lines, headings, values, reasons)
		if err != nil {
			return fmt.Errorf("keeping what was refused: %w", err)
		}
	}
	return nil
}

// fieldsOf are the fields that the columns of a sheet go into.
func fieldsOf(o *model.Object, p *intake.SheetPlan) ([]*model.Field, error) {
	out := make([]*model.Field, len(p.Columns))
	for i, c := range p.Columns {
		if c.Skip {
			continue
		}
		if out[i] = o.Field(c.Field); out[i] == nil {
			return nil, fmt.Errorf("%s has no field %q", o.Label, c.Field)
		}
	}
	return out, nil
}
