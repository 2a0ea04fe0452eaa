package imports

import (
	"context"
	"fmt"
	"path/filepath"
	"regexp"
	"slices"

	"plainpath/core/intake"
	"plainpath/core/model"
)

// refusedName is how files of refused rows are called, once browsers have told doubles apart.
var refusedName = regexp.MustCompile(`^(.+) refused(?: ?\(\d+\))?$`)

// asBefore lets the sheets of mended rows go where the file went in which they were refused, with
// all that was chosen for it then: the file is known by its name, the sheet by its headings.
func (s *Intakes) asBefore(ctx context.Context, r intakeRow, files []UploadFile, found []intake.FoundSheet,
	plan *intake.Plan, m *model.Model) error {
	for i := range found {
		name := files[found[i].File].Name
		ext := filepath.Ext(name)
		parts := refusedName.FindStringSubmatch(name[:len(name)-len(ext)])
		if parts == nil || found[i].Analysis == nil {
			continue
		}
		var earlier []intakeRow
		err := s.DB.SelectContext(ctx, &earlier, `SELECT id, state, files, found, plan, result, made FROM plainpath.intake
			WHERE app = $1 AND space = $2 AND person = $3 AND id < $4 AND plan IS NOT NULL ORDER BY id DESC LIMIT 50`, r.App, r.Space, r.Person, r.ID)
		if err != nil {
			return fmt.Errorf("looking for the first intake: %w", err)
		}
		for _, e := range earlier {
			in, err := e.read()
			if err != nil {
				return err
			}
			if sheet := sheetLike(in, []string{parts[1] + ext, name}, &found[i]); sheet != nil {
				plan.Sheets[i] = mended(sheet, &found[i], m)
				break
			}
		}
	}
	return nil
}

// sheetLike is the plan of a sheet in one of the files named that has the same headings, nil for
// none. A column of reasons may have been added.
func sheetLike(in Intake, names []string, f *intake.FoundSheet) *intake.SheetPlan {
	headings := headingsOf(f)
	for n := range in.Found {
		was := &in.Found[n]
		file := in.Files[was.File]
		if was.Analysis == nil || n >= len(in.Plan.Sheets) || in.Plan.Sheets[n].Skip || !slices.Contains(names,
			file.Name) {
			continue
		}
		// The one sheet of a CSV is called after its file.
		same := was.Name == f.Name || file.Recognised == nil || file.Recognised.Kind != intake.XLSX
		if same && slices.Equal(headingsOf(was), headings) {
			return &in.Plan.Sheets[n]
		}
	}
	return nil
}

func headingsOf(f *intake.FoundSheet) []string {
	var out []string
	for _, c := range f.Analysis.Columns {
		if c.Heading != reasonHeading {
			out = append(out, c.Heading)
		}
	}
	return out
}

// mended is what was chosen for a sheet, for its mended rows. What it made is there by now.
func mended(was *intake.SheetPlan, f *intake.FoundSheet, m *model.Model) intake.SheetPlan {
	out := *was
	out.File, out.Sheet, out.Columns = f.File, f.Sheet, nil
	o := m.Object(was.Object)
	out.New = was.New && o == nil
	next := 0
	for _, c := range f.Analysis.Columns {
		if c.Heading == reasonHeading {
			out.Columns = append(out.Columns, intake.ColumnPlan{Skip: true, Reading: c.Guess, Label: c.Heading})
			continue
		}
		column := was.Columns[next]
		column.New = column.New && (o == nil || o.Field(column.Field) == nil)
		out.Columns = append(out.Columns, column)
		next++
	}
	return out
}
