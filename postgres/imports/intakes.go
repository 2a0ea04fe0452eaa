// Package imports brings files in: they are sent in pieces, looked at, planned, tried and written, in sets
// and by the rules that hold for everybody.
package imports

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/postgres"
	"plainpath/postgres/documents"
)

// IntakeState is how far an intake has come.
type IntakeState string

// The states of an intake. Analysing, checking and importing are worked on in the
// background.
const (
	Uploading IntakeState = "uploading"
	Analysing IntakeState = "analysing"
	Ready     IntakeState = "ready"
	Checking  IntakeState = "checking"
	Checked   IntakeState = "checked"
	Importing IntakeState = "importing"
	Imported  IntakeState = "imported"
	Failed    IntakeState = "failed"
)

// Intake is a set of files being brought in.
type Intake struct {
	ID    int64                `json:"id"`
	Space string               `json:"space"`
	State IntakeState          `json:"state"`
	Files []UploadFile         `json:"files"`
	Found []intake.FoundSheet  `json:"found"`
	Plan  *intake.Plan         `json:"plan,omitempty"`
	Wrong []intake.PlanProblem `json:"wrong"`
	// Result is that of the latest check or import.
	Result *IntakeResult `json:"result,omitempty"`
	// Failure says why the latest work did not come to its end.
	Failure string `json:"failure,omitempty"`
	// Doing, Done and Total are the progress of the work under way, in rows.
	Doing     string    `json:"doing,omitempty"`
	Done      int64     `json:"done"`
	Total     int64     `json:"total"`
	ChangedAt time.Time `json:"changed_at"`
}

// UploadFile is a file of an intake.
type UploadFile struct {
	Name string `json:"name"`
	Size int64  `json:"size"`
	// Parts is how many pieces of it have come.
	Parts int `json:"parts"`
	// Settings are what somebody said of how it is read.
	Settings intake.Settings `json:"settings"`
	// Recognised is set when it was looked at, as it is set now.
	Recognised *intake.File `json:"recognised,omitempty"`
	Problem    string       `json:"problem,omitempty"`
}

// IntakeResult is what an import did, or would do.
type IntakeResult struct {
	// Dry says that it was only tried.
	Dry    bool          `json:"dry"`
	Sheets []SheetResult `json:"sheets"`
	Micros int64         `json:"micros"`
}

// SheetResult counts the rows of one sheet.
type SheetResult struct {
	Sheet     int    `json:"sheet"`
	Object    string `json:"object"`
	Rows      int64  `json:"rows"`
	Added     int64  `json:"added"`
	Changed   int64  `json:"changed"`
	Unchanged int64  `json:"unchanged"`
	// Left counts the empty cells that left what a stored record has, Emptied those that took
	// it away.
	Left     int64         `json:"left,omitempty"`
	Emptied  int64         `json:"emptied,omitempty"`
	Refused  int64         `json:"refused"`
	Examples []RefusedCell `json:"examples"`
}

// RefusedCell is a cell, or a row as a whole, that could not be brought in.
type RefusedCell struct {
	Line    int    `db:"line" json:"line"`
	Heading string `db:"heading" json:"heading"`
	Value   string `db:"value" json:"value"`
	Reason  string `db:"reason" json:"reason"`
}

var errNoPlan = &postgres.RejectedError{Text: "There is no plan yet."}

// Intakes brings files in.
type Intakes struct {
	DB       *postgres.DB
	Editions *documents.Editions
}

type intakeRow struct {
	ID     int64       `db:"id"`
	App    string      `db:"app"`
	Space  string      `db:"space"`
	Person int64       `db:"person"`
	State  IntakeState `db:"state"`
	Files  []byte      `db:"files"`
	Found  []byte      `db:"found"`
	Plan   []byte      `db:"plan"`
	Result []byte      `db:"result"`
	// Made is what an import has made for its rows, nil before it did.
	Made      []byte    `db:"made"`
	Failure   string    `db:"failure"`
	Doing     string    `db:"doing"`
	Done      int64     `db:"done"`
	Total     int64     `db:"total"`
	ChangedAt time.Time `db:"changed_at"`
}

func (r intakeRow) place() postgres.Caller {
	return postgres.Caller{App: r.App, Space: r.Space, Person: r.Person}
}

func (r intakeRow) read() (Intake, error) {
	out := Intake{ID: r.ID, Space: r.Space, State: r.State, Failure: r.Failure, Doing: r.Doing, Done: r.Done,
		Total:     r.Total,
		ChangedAt: r.ChangedAt, Files: []UploadFile{}, Found: []intake.FoundSheet{}, Wrong: []intake.PlanProblem{}}
	for _, x := range []struct {
		raw  []byte
		into any
	}{{r.Files, &out.Files}, {r.Found, &out.Found}, {r.Plan, &out.Plan}, {r.Result, &out.Result}} {
		if len(x.raw) == 0 {
			continue
		}
		if err := json.Unmarshal(x.raw, x.into); err != nil {
			return out, fmt.Errorf("reading intake %d: %w", r.ID, err)
		}
	}
	return out, nil
}

func (s *Intakes) row(ctx context.Context, q sqlx.QueryerContext, id int64, lock string) (intakeRow, error) {
	var r intakeRow
	err := sqlx.GetContext(ctx, q, &r, `SELECT id, app, space, person, state, files, found, plan, result, made, failure, doing, done, total, changed_at
		FROM plainpath.intake WHERE id = $1 `+lock, id)
	if errors.Is(err, sql.ErrNoRows) {
		return r, fmt.Errorf("intake %d: %w", id, postgres.ErrNotFound)
	}
	if err != nil {
		return r, fmt.Errorf("reading intake %d: %w", id, err)
	}
	return r, nil
}

// own is an intake of the person's own.
func (s *Intakes) own(ctx context.Context, q sqlx.QueryerContext, p postgres.Caller, id int64,
	lock string) (intakeRow, error) {
	r, err := s.row(ctx, q, id, lock)
	if err == nil && (r.App != p.App || r.Person != p.Person) {
		return r, fmt.Errorf("intake %d: %w", id, postgres.ErrNotFound)
	}
	return r, err
}

// Begin begins an intake of files by name and size.
func (s *Intakes) Begin(ctx context.Context, p postgres.Caller, files []UploadFile) (Intake, error) {
	if len(files) == 0 {
		return Intake{}, &postgres.RejectedError{Text: "Choose a file to bring in."}
	}
	for i := range files {
		files[i].Parts, files[i].Recognised, files[i].Problem = 0, nil, ""
	}
	raw, err := json.Marshal(files)
	if err != nil {
		return Intake{}, fmt.Errorf("beginning an intake: %w", err)
	}
	var id int64
	err = s.DB.GetContext(ctx, &id,
		`INSERT INTO plainpath.intake (app, space, person, files) VALUES ($1, $2, $3, $4) RETURNING id`, p.App, p.Space,
		p.Person, raw)
	if err != nil {
		return Intake{}, fmt.Errorf("beginning an intake: %w", err)
	}
	return s.Show(ctx, p, id)
}

// Show gives an intake as it stands.
func (s *Intakes) Show(ctx context.Context, p postgres.Caller, id int64) (Intake, error) {
	r, err := s.own(ctx, s.DB, p, id, "")
	if err != nil {
		return Intake{}, err
	}
	out, err := r.read()
	if err != nil || out.Plan == nil {
		return out, err
	}
	e, err := s.edition(ctx, r)
	if err != nil {
		return out, err
	}
	plan := out.Plan
	if r.Made != nil {
		plan = asMade(*plan)
	}
	out.Wrong = plan.Check(e.Model, r.Space == postgres.Trial)
	return out, nil
}

// List gives a person's intakes that are not done with, the latest first.
func (s *Intakes) List(ctx context.Context, p postgres.Caller) ([]Intake, error) {
	rows := []intakeRow{}
	err := s.DB.SelectContext(ctx, &rows, `SELECT id, app, space, person, state, files, '[]'::jsonb AS found, NULL::jsonb AS plan, result, failure, doing, done, total, changed_at
		FROM plainpath.intake WHERE app = $1 AND person = $2 ORDER BY id DESC LIMIT 20`, p.App, p.Person)
	if err != nil {
		return nil, fmt.Errorf("listing intakes: %w", err)
	}
	out := make([]Intake, len(rows))
	for i, r := range rows {
		if out[i], err = r.read(); err != nil {
			return nil, err
		}
	}
	return out, nil
}

// Part takes a piece of a file. The same piece sent again counts once. With the last
// piece of the last file the analysis begins.
func (s *Intakes) Part(ctx context.Context, p postgres.Caller, id int64, file, part int, data []byte) (Intake, error) {
	complete := false
	err := s.DB.In(ctx, func(tx *sqlx.Tx) error {
		r, err := s.own(ctx, tx, p, id, "FOR UPDATE")
		if err != nil {
			return err
		}
		in, err := r.read()
		if err != nil {
			return err
		}
		if in.State != Uploading {
			return nil // a piece that came twice, after everything had come
		}
		if file < 0 || file >= len(in.Files) || part < 0 || int64(part)*postgres.PartSize > in.Files[file].Size {
			return &postgres.RejectedError{Text: "There is no such piece of a file in this intake. Begin again."}
		}
		if want := min(postgres.PartSize, in.Files[file].Size-int64(part)*postgres.PartSize); int64(len(data)) != want {
			return &postgres.RejectedError{Text: fmt.Sprintf("This piece of %s has %d bytes, but %d were announced. Was the file changed meanwhile? Begin again.", in.Files[file].Name, len(data), want)}
		}
		if _, err := tx.ExecContext(ctx,
			`INSERT INTO plainpath.intake_part (intake, file, part, data) VALUES ($1, $2, $3, $4) ON CONFLICT (intake, file, part) DO UPDATE SET data = excluded.data`, id, file, part, data); err != nil {
			return fmt.Errorf("keeping a piece of %s: %w", in.Files[file].Name, err)
		}
		complete = true
		for i := range in.Files {
			if err := tx.GetContext(ctx, &in.Files[i].Parts,
				`SELECT count(*) FROM plainpath.intake_part WHERE intake = $1 AND file = $2`, id, i); err != nil {
				return fmt.Errorf("counting pieces: %w", err)
			}
			complete = complete && int64(in.Files[i].Parts)*postgres.PartSize >= in.Files[i].Size &&
				in.Files[i].Parts > 0
		}
		raw, err := json.Marshal(in.Files)
		if err != nil {
			return fmt.Errorf("keeping a piece: %w", err)
		}
		state := Uploading
		if complete {
			state = Analysing
		}
		_, err = tx.ExecContext(ctx,
			`UPDATE plainpath.intake SET files = $2, state = $3, changed_at = now() WHERE id = $1`, id, raw, state)
		if err != nil {
			return fmt.Errorf("keeping a piece: %w", err)
		}
		if complete {
			return s.DB.Outbox.Put(ctx, tx, IntakeArgs{id})
		}
		return nil
	})
	if err != nil {
		return Intake{}, err
	}
	return s.Show(ctx, p, id)
}

// SetPlan changes what is to become of the sheets.
func (s *Intakes) SetPlan(ctx context.Context, p postgres.Caller, id int64, plan intake.Plan) (Intake, error) {
	return s.replan(ctx, p, id, func(in *Intake, _ *model.Model) error {
		in.Plan = &plan
		return nil
	})
}

// IntoObject plans a sheet anew for an object, a new one when the key is empty.
func (s *Intakes) IntoObject(ctx context.Context, p postgres.Caller, id int64, sheet int,
	object string) (Intake, error) {
	return s.replan(ctx, p, id, func(in *Intake, m *model.Model) error {
		return in.Plan.IntoObject(in.Found, sheet, m,
			object)
	})
}

// IntoField plans a column anew for a field, a new one when the key is empty.
func (s *Intakes) IntoField(ctx context.Context, p postgres.Caller, id int64, sheet, column int,
	field string) (Intake, error) {
	return s.replan(ctx, p, id, func(in *Intake, m *model.Model) error {
		return in.Plan.IntoField(in.Found, sheet,
			column, m, field)
	})
}

// ReadAs gives the cells of a column another reading.
func (s *Intakes) ReadAs(ctx context.Context, p postgres.Caller, id int64, sheet, column int,
	r intake.Reading) (Intake, error) {
	return s.replan(ctx, p, id, func(in *Intake, _ *model.Model) error {
		return in.Plan.ReadAs(in.Found, sheet, column,
			r)
	})
}

func (s *Intakes) replan(ctx context.Context, p postgres.Caller, id int64,
	work func(*Intake, *model.Model) error) (Intake, error) {
	r, err := s.own(ctx, s.DB, p, id, "")
	if err != nil {
		return Intake{}, err
	}
	e, err := s.edition(ctx, r)
	if err != nil {
		return Intake{}, err
	}
	err = s.step(ctx, p, id, []IntakeState{Ready, Checked, Failed}, Ready, func(tx *sqlx.Tx, r intakeRow) error {
		in, err := r.read()
		if err != nil {
			return err
		}
		if in.Plan == nil {
			return errNoPlan
		}
		if err := work(&in, e.Model); err != nil {
			if errors.Is(err, intake.ErrNoSuchColumn) {
				return fmt.Errorf("intake %d: %w", id, postgres.ErrNotFound)
			}
			return &postgres.RejectedError{Text: fmt.Sprintf("This cannot be planned: %s.", err)}
		}
		raw, err := json.Marshal(in.Plan)
		if err != nil {
			return fmt.Errorf("keeping the plan: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.intake SET plan = $2, result = NULL WHERE id = $1`, id,
			raw); err != nil {
			return fmt.Errorf("keeping the plan: %w", err)
		}
		return nil
	})
	if err != nil {
		return Intake{}, err
	}
	return s.Show(ctx, p, id)
}

// Try begins a dry run, or the import itself.
func (s *Intakes) Try(ctx context.Context, p postgres.Caller, id int64, dry bool) (Intake, error) {
	in, err := s.Show(ctx, p, id)
	if err != nil {
		return in, err
	}
	if len(in.Wrong) > 0 {
		return in, &postgres.RejectedError{Text: in.Wrong[0].Text}
	}
	from, to := []IntakeState{Ready, Checked, Failed}, Checking
	if !dry {
		from, to = []IntakeState{Checked}, Importing
	}
	err = s.step(ctx, p, id, from, to,
		func(tx *sqlx.Tx, _ intakeRow) error { return s.DB.Outbox.Put(ctx, tx, IntakeArgs{id}) })
	if err != nil {
		return in, err
	}
	return s.Show(ctx, p, id)
}

// Reread reads a file anew as somebody says that it is to be read. What was chosen for the sheets
// of other files stays.
func (s *Intakes) Reread(ctx context.Context, p postgres.Caller, id int64, file int,
	set intake.Settings) (Intake, error) {
	if err := set.Check(); err != nil {
		return Intake{}, &postgres.RejectedError{Text: err.Error()}
	}
	err := s.step(ctx, p, id, []IntakeState{Ready, Checked, Failed}, Analysing, func(tx *sqlx.Tx, r intakeRow) error {
		in, err := r.read()
		if err != nil {
			return err
		}
		if file < 0 || file >= len(in.Files) {
			return fmt.Errorf("file %d: %w", file, postgres.ErrNotFound)
		}
		in.Files[file].Settings, in.Files[file].Recognised, in.Files[file].Problem = set, nil, ""
		raw, err := json.Marshal(in.Files)
		if err != nil {
			return fmt.Errorf("keeping the settings: %w", err)
		}
		if _, err := tx.ExecContext(ctx, `UPDATE plainpath.intake SET files = $2, result = NULL WHERE id = $1`, id,
			raw); err != nil {
			return fmt.Errorf("keeping the settings: %w", err)
		}
		return s.DB.Outbox.Put(ctx, tx, IntakeArgs{id})
	})
	if err != nil {
		return Intake{}, err
	}
	return s.Show(ctx, p, id)
}

// step moves an intake from one state to another.
func (s *Intakes) step(ctx context.Context, p postgres.Caller, id int64, from []IntakeState, to IntakeState,
	work func(tx *sqlx.Tx, r intakeRow) error) error {
	return s.DB.In(ctx, func(tx *sqlx.Tx) error {
		r, err := s.own(ctx, tx, p, id, "FOR UPDATE")
		if err != nil {
			return err
		}
		if !slices.Contains(from, r.State) {
			return &postgres.RejectedError{Text: fmt.Sprintf("This intake is %s; that cannot be done now.", r.State)}
		}
		if _, err := tx.ExecContext(ctx,
			`UPDATE plainpath.intake SET state = $2, failure = '', doing = '', done = 0, total = 0, stop = false, changed_at = now() WHERE id = $1`, id, to); err != nil {
			return fmt.Errorf("moving an intake on: %w", err)
		}
		if work == nil {
			return nil
		}
		return work(tx, r)
	})
}

// Stop asks the work under way to stop. Nothing of it is kept.
func (s *Intakes) Stop(ctx context.Context, p postgres.Caller, id int64) error {
	if _, err := s.own(ctx, s.DB, p, id, ""); err != nil {
		return err
	}
	if _, err := s.DB.ExecContext(ctx, `UPDATE plainpath.intake SET stop = true WHERE id = $1`, id); err != nil {
		return fmt.Errorf("stopping an intake: %w", err)
	}
	return nil
}

// Discard throws an intake and its files away. What it imported stays.
func (s *Intakes) Discard(ctx context.Context, p postgres.Caller, id int64) error {
	r, err := s.own(ctx, s.DB, p, id, "")
	if err != nil {
		return err
	}
	if r.State == Importing {
		return &postgres.RejectedError{Text: "The import is under way. Stop it first."}
	}
	if _, err := s.DB.ExecContext(ctx, `DELETE FROM plainpath.intake WHERE id = $1`, id); err != nil {
		return fmt.Errorf("throwing an intake away: %w", err)
	}
	return nil
}

// Refused lists cells that were refused, a page at a time.
func (s *Intakes) Refused(ctx context.Context, p postgres.Caller, id int64, sheet int) ([]RefusedCell, error) {
	if _, err := s.own(ctx, s.DB, p, id, ""); err != nil {
		return nil, err
	}
	out := []RefusedCell{}
	err := s.DB.SelectContext(ctx, &out,
		`SELECT line, heading, value, reason FROM plainpath.intake_refused WHERE intake = $1 AND sheet = $2 ORDER BY line LIMIT 500`, id, sheet)
	if err != nil {
		return nil, fmt.Errorf("listing refused rows: %w", err)
	}
	return out, nil
}
