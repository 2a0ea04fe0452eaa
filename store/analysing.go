package store

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"plainpath/core/edition"
	"plainpath/core/intake"
	"plainpath/core/model"
	"plainpath/core/search"
	"plainpath/core/value"
)

// analyse looks at every cell of the files and proposes a plan.
func (s *Intakes) analyse(ctx context.Context, r intakeRow) error {
	in, err := r.read()
	if err != nil {
		return err
	}
	var found []FoundSheet
	for i := range in.Files {
		f := &in.Files[i]
		file, err := intake.Open(f.Name, s.source(ctx, r.ID, i, f.Size))
		if err != nil {
			f.Problem = err.Error()
			continue
		}
		f.Recognised = file
		for n, sheet := range file.Sheets {
			one := FoundSheet{File: i, Sheet: n, Name: sheet.Name, Hidden: sheet.Hidden}
			var told error
			one.Analysis, err = intake.Analyse(ctx, file, n, func(rows int64) {
				if told == nil {
					told = s.progress(ctx, r.ID, "Looking at "+sheet.Name, rows, 0)
				}
			})
			if told != nil {
				return told
			}
			if err != nil {
				one.Problem = err.Error()
			}
			found = append(found, one)
		}
		if err := file.Close(); err != nil {
			return fmt.Errorf("closing %s: %w", f.Name, err)
		}
	}
	e, err := s.edition(ctx, r)
	if err != nil {
		return err
	}
	if err := s.match(ctx, r, e, found); err != nil {
		return err
	}
	plan := propose(found, e)
	return s.keepFindings(ctx, r.ID, in.Files, found, plan)
}

func propose(found []FoundSheet, e *edition.Edition) intake.Plan {
	sheets := make([]intake.Found, len(found))
	for i, f := range found {
		sheets[i] = intake.Found{File: f.File, Sheet: f.Sheet, Name: f.Name, Hidden: f.Hidden, Analysis: f.Analysis, Matches: f.Matches}
	}
	return intake.Propose(sheets, e.Model)
}

func (s *Intakes) keepFindings(ctx context.Context, id int64, files []UploadFile, found []FoundSheet, plan intake.Plan) error {
	var raw [3][]byte
	for i, x := range []any{files, found, plan} {
		var err error
		if raw[i], err = json.Marshal(x); err != nil {
			return fmt.Errorf("keeping what was found: %w", err)
		}
	}
	if _, err := s.DB.ExecContext(ctx, `UPDATE plainpath.intake SET files = $2, found = $3, plan = $4 WHERE id = $1`, id, raw[0], raw[1], raw[2]); err != nil {
		return fmt.Errorf("keeping what was found: %w", err)
	}
	return nil
}

// match finds the columns whose values are those of a unique column or field.
func (s *Intakes) match(ctx context.Context, r intakeRow, e *edition.Edition, found []FoundSheet) error {
	desk, err := (&Desks{s.DB, s.Editions}).where(ctx, r.place())
	if err != nil {
		return err
	}
	d := newDesk(s.DB.DB, desk)
	for i := range found {
		if found[i].Analysis == nil {
			continue
		}
		for c := range found[i].Analysis.Columns {
			column := &found[i].Analysis.Columns[c]
			if !column.MayRefer() {
				continue
			}
			best, err := s.bestMatch(ctx, d, e, found, i, column)
			if err != nil {
				return err
			}
			if best != nil {
				if found[i].Matches == nil {
					found[i].Matches = map[int]intake.Match{}
				}
				found[i].Matches[c] = *best
			}
		}
	}
	return nil
}

func (s *Intakes) bestMatch(ctx context.Context, d *desk, e *edition.Edition, found []FoundSheet, sheet int, column *intake.Column) (*intake.Match, error) {
	var best *intake.Match
	try := func(t intake.Target, named string, holds intake.Holder) error {
		if column.Guess.Type == model.Whole && !alikeWords(column.Heading, named) {
			return nil // small numbers match by chance
		}
		m, err := column.Match(t, holds)
		if m != nil && (best == nil || m.Matches > best.Matches) {
			best = m
		}
		return err
	}
	for i := range found {
		if i == sheet || found[i].Analysis == nil || found[i].Hidden {
			continue
		}
		for c := range found[i].Analysis.Columns {
			other := &found[i].Analysis.Columns[c]
			if other.Unique && other.MayRefer() {
				if err := try(intake.Target{Sheet: i, Column: c, Label: found[i].Name + " › " + other.Heading}, found[i].Name+" "+other.Heading, other.Holds); err != nil {
					return nil, err
				}
			}
		}
	}
	for _, key := range e.Model.Keys() {
		o := e.Model.Object(key)
		for i := range o.Fields {
			f := &o.Fields[i]
			if !f.Unique || f.Kind() != value.KindText && f.Kind() != value.KindWhole {
				continue
			}
			err := try(intake.Target{Object: key, Field: f.Key, Label: o.Label + " › " + f.Label}, o.Label+" "+f.Label, d.holds(ctx, o, f))
			if err != nil {
				return nil, err
			}
		}
	}
	return best, nil
}

// alikeWords says whether two names have a word in common, in the singular or plural.
func alikeWords(a, b string) bool {
	for _, x := range strings.Fields(strings.ToLower(a)) {
		for _, y := range strings.Fields(strings.ToLower(b)) {
			if len(x) > 3 && strings.TrimSuffix(x, "s") == strings.TrimSuffix(y, "s") {
				return true
			}
		}
	}
	return false
}

// holds asks which values a field of stored records has.
func (d *desk) holds(ctx context.Context, o *model.Object, f *model.Field) intake.Holder {
	return func(values []string) ([]bool, error) {
		keys, args, err := search.CompileNames(d.Space(), o, f, 2)
		if err != nil {
			return nil, err
		}
		out := []bool{}
		err = sqlx.SelectContext(ctx, d.db, &out, `WITH names AS (`+keys+`) SELECT EXISTS (SELECT 1 FROM names WHERE names.name = v.v) FROM unnest($1::text[]) WITH ORDINALITY v (v, n) ORDER BY v.n`, append([]any{values}, args...)...)
		if err != nil {
			return nil, fmt.Errorf("comparing with %s: %w", f.Label, err)
		}
		return out, nil
	}
}

// PlanProblem is something that keeps a plan from being carried out.
type PlanProblem struct {
	Sheet int `json:"sheet"`
	// Column is the column meant, or less than nought for the sheet as a whole.
	Column int    `json:"column"`
	Text   string `json:"text"`
}

// checkPlan finds everything that keeps a plan from being carried out. New objects and
// fields can be made where the draft is followed.
func checkPlan(m *model.Model, p intake.Plan, follows bool) []PlanProblem {
	k := &planChecker{model: m, plan: p, follows: follows, made: map[string]*model.Object{}, out: []PlanProblem{}}
	for i := range p.Sheets {
		if s := &p.Sheets[i]; !s.Skip && s.New {
			k.made[s.Object] = s.NewObject()
		}
	}
	used := false
	for i := range p.Sheets {
		if !p.Sheets[i].Skip {
			used = true
			k.sheet(i)
		}
	}
	if !used {
		k.find(0, -1, "Every sheet is left out. Take at least one.")
	}
	if _, err := p.Sequence(); err != nil {
		k.find(0, -1, "%s", err)
	}
	return k.out
}

type planChecker struct {
	model   *model.Model
	plan    intake.Plan
	follows bool
	made    map[string]*model.Object
	out     []PlanProblem
}

func (k *planChecker) find(sheet, column int, format string, args ...any) {
	k.out = append(k.out, PlanProblem{sheet, column, fmt.Sprintf(format, args...)})
}

// object is the object of a sheet as it will be.
func (k *planChecker) object(key string) *model.Object {
	if o := k.made[key]; o != nil {
		return o
	}
	return k.model.Object(key)
}

func (k *planChecker) sheet(i int) {
	s := &k.plan.Sheets[i]
	o := k.model.Object(s.Object)
	switch {
	case s.New && !k.follows:
		k.find(i, -1, "A new object can only be made in trial; production gets it with a release.")
		return
	case s.New && o != nil:
		k.find(i, -1, "There is an object with the key %q already. Bring the sheet into that, or choose another name.", s.Object)
		return
	case !s.New && (o == nil || o.BuiltIn()):
		k.find(i, -1, "Choose the object that the sheet is brought into.")
		return
	}
	set := map[string]bool{}
	for c := range s.Columns {
		k.column(i, c, set)
	}
	if len(set) == 0 {
		k.find(i, -1, "Every column is left out. Take at least one.")
		return
	}
	whole := k.object(s.Object)
	if s.New {
		objects := []*model.Object{whole}
		for _, key := range k.model.Keys() {
			objects = append(objects, k.model.Object(key))
		}
		for key, other := range k.made {
			if key != whole.Key {
				objects = append(objects, other)
			}
		}
		for _, p := range model.New(k.model.Currency, objects...).Check(whole) {
			k.find(i, -1, "%s", p.Text)
		}
	}
	if s.Mode != intake.ModeAdd && !set[s.Key] {
		k.find(i, -1, "To update records, choose a column that they are recognised by.")
	}
	if s.Mode == intake.ModeUpdate {
		return
	}
	for n := range whole.Fields {
		if f := &whole.Fields[n]; f.Required && f.Stored() && !f.HasDefault() && !set[f.Key] {
			k.find(i, -1, "%s is needed for every %s, but no column brings it.", f.Label, strings.ToLower(whole.Label))
		}
	}
}

func (k *planChecker) column(sheet, column int, set map[string]bool) {
	s := &k.plan.Sheets[sheet]
	c := &s.Columns[column]
	if c.Skip {
		return
	}
	if set[c.Field] {
		k.find(sheet, column, "Two columns go into the field %q. Leave one out.", c.Field)
	}
	set[c.Field] = true
	if c.New && !k.follows {
		k.find(sheet, column, "A new field can only be made in trial; production gets it with a release.")
	}
	o := k.object(s.Object)
	if c.New && !s.New {
		if o.Field(c.Field) != nil {
			k.find(sheet, column, "There is a field with the key %q already. Bring the column into that, or choose another name.", c.Field)
		}
		if c.Required && s.Mode != intake.ModeAdd {
			k.find(sheet, column, "A new field cannot be required while records are there without it.")
		}
	}
	f := o.Field(c.Field)
	if !c.New && (f == nil || !f.Stored()) {
		k.find(sheet, column, "Choose the field that %q goes into, or leave it out.", c.Label)
		return
	}
	target := c.Refers
	if !c.New {
		target = f.Target()
	}
	if target == "" {
		return
	}
	to := k.object(target)
	if to == nil {
		k.find(sheet, column, "There is no object %q to refer to.", target)
		return
	}
	if m := to.Field(c.Match); m == nil || m.Kind() != value.KindText && m.Kind() != value.KindWhole {
		k.find(sheet, column, "Choose by which field of %s the cells name a record.", to.Label)
	}
}
