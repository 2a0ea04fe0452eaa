package server

import (
	"bytes"

	"github.com/gofiber/fiber/v3"

	"plainpath/core/intake"
	"plainpath/postgres"
	"plainpath/postgres/imports"
)

type beginIntakeRequest struct {
	Files []NewFile `json:"files"`
}

// NewFile is a file about to be sent.
type NewFile struct {
	Name string `json:"name"`
	Size int64  `json:"size"`
}

// mostFile bounds a file that is brought in, in bytes.
const mostFile = 2 << 30

func (s *server) beginIntake(c fiber.Ctx, in beginIntakeRequest) (imports.Intake, error) {
	files := make([]imports.UploadFile, len(in.Files))
	for i, f := range in.Files {
		if f.Size <= 0 {
			return imports.Intake{}, &postgres.RejectedError{Text: f.Name + " is empty."}
		}
		if f.Size > mostFile {
			return imports.Intake{}, &postgres.RejectedError{Text: f.Name +
				" is larger than 2 GB. Divide it and bring the pieces in one after another."}
		}
		files[i] = imports.UploadFile{Name: f.Name, Size: f.Size}
	}
	out, err := s.intakes.Begin(c.Context(), s.at(c), files)
	if err != nil {
		return imports.Intake{}, err
	}
	c.Status(fiber.StatusCreated)
	return out, nil
}

func (s *server) listIntakes(c fiber.Ctx) ([]imports.Intake, error) {
	return s.intakes.List(c.Context(), s.at(c))
}

// intake answers with an intake after work on it.
func (s *server) intake(c fiber.Ctx, work func(postgres.Caller, int64) (imports.Intake, error)) (imports.Intake,
	error) {
	id, err := recordID(c)
	if err != nil {
		return imports.Intake{}, err
	}
	return work(s.at(c), id)
}

func (s *server) showIntake(c fiber.Ctx) (imports.Intake, error) {
	return s.intake(c, func(p postgres.Caller, id int64) (imports.Intake, error) {
		return s.intakes.Show(c.Context(), p,
			id)
	})
}

func (s *server) intakePart(c fiber.Ctx) (imports.Intake, error) {
	file, err := number(c, "file")
	if err != nil {
		return imports.Intake{}, err
	}
	part, err := number(c, "part")
	if err != nil {
		return imports.Intake{}, err
	}
	return s.intake(c, func(p postgres.Caller, id int64) (imports.Intake, error) {
		return s.intakes.Part(c.Context(), p, id, file, part, c.Body())
	})
}

func (s *server) rereadFile(c fiber.Ctx, set intake.Settings) (imports.Intake, error) {
	file, err := number(c, "file")
	if err != nil {
		return imports.Intake{}, err
	}
	return s.intake(c, func(p postgres.Caller, id int64) (imports.Intake, error) {
		return s.intakes.Reread(c.Context(), p, id, file, set)
	})
}

func (s *server) planIntake(c fiber.Ctx, plan intake.Plan) (imports.Intake, error) {
	return s.intake(c, func(p postgres.Caller, id int64) (imports.Intake, error) {
		return s.intakes.SetPlan(c.Context(), p, id, plan)
	})
}

// intoObjectRequest says what object a sheet goes into, a new one when it is empty.
type intoObjectRequest struct {
	Object string `json:"object"`
}

func (s *server) sheetIntoObject(c fiber.Ctx, in intoObjectRequest) (imports.Intake, error) {
	sheet, err := number(c, "sheet")
	if err != nil {
		return imports.Intake{}, err
	}
	return s.intake(c, func(p postgres.Caller, id int64) (imports.Intake, error) {
		return s.intakes.IntoObject(c.Context(), p, id, sheet, in.Object)
	})
}

// ColumnWish says what field a column goes into, a new one when it is empty, or
// how its cells are read.
type ColumnWish struct {
	Field   *string         `json:"field,omitempty"`
	Reading *intake.Reading `json:"reading,omitempty"`
}

func (s *server) planColumn(c fiber.Ctx, in ColumnWish) (imports.Intake, error) {
	sheet, err := number(c, "sheet")
	if err != nil {
		return imports.Intake{}, err
	}
	column, err := number(c, "column")
	if err != nil {
		return imports.Intake{}, err
	}
	return s.intake(c, func(p postgres.Caller, id int64) (imports.Intake, error) {
		switch {
		case in.Field != nil:
			return s.intakes.IntoField(c.Context(), p, id, sheet, column, *in.Field)
		case in.Reading != nil:
			return s.intakes.ReadAs(c.Context(), p, id, sheet, column, *in.Reading)
		}
		return imports.Intake{},
			&postgres.RejectedError{Text: "Say what field the column goes into, or how its cells are read."}
	})
}

func (s *server) checkIntake(c fiber.Ctx) (imports.Intake, error) {
	return s.intake(c, func(p postgres.Caller, id int64) (imports.Intake, error) {
		return s.intakes.Try(c.Context(), p, id, true)
	})
}

func (s *server) importIntake(c fiber.Ctx) (imports.Intake, error) {
	return s.intake(c, func(p postgres.Caller, id int64) (imports.Intake, error) {
		return s.intakes.Try(c.Context(), p, id, false)
	})
}

func (s *server) stopIntake(c fiber.Ctx) (imports.Intake, error) {
	return s.intake(c, func(p postgres.Caller, id int64) (imports.Intake, error) {
		if err := s.intakes.Stop(c.Context(), p, id); err != nil {
			return imports.Intake{}, err
		}
		return s.intakes.Show(c.Context(), p, id)
	})
}

func (s *server) discardIntake(c fiber.Ctx) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	if err := s.intakes.Discard(c.Context(), s.at(c), id); err != nil {
		return err
	}
	return nil
}

// refused works on the refused rows of one sheet.
func (s *server) refused(c fiber.Ctx, work func(p postgres.Caller, id int64, sheet int) error) error {
	id, err := recordID(c)
	if err != nil {
		return err
	}
	sheet, err := number(c, "sheet")
	if err != nil {
		return err
	}
	return work(s.at(c), id, sheet)
}

func (s *server) refusedRows(c fiber.Ctx) (out []imports.RefusedCell, err error) {
	err = s.refused(c, func(p postgres.Caller, id int64, sheet int) error {
		out, err = s.intakes.Refused(c.Context(), p, id, sheet)
		return err
	})
	return out, err
}

func (s *server) refusedFile(c fiber.Ctx) error {
	return s.refused(c, func(p postgres.Caller, id int64, sheet int) error {
		var out bytes.Buffer
		name, err := s.intakes.RefusedFile(c.Context(), p, id, sheet, &out)
		if err != nil {
			return err
		}
		c.Attachment(name)
		return c.Send(out.Bytes())
	})
}
