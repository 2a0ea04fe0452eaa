package intake

import (
	"errors"
	"fmt"

	"plainpath/core/model"
)

// ErrNoSuchColumn says that a plan has no such sheet, or its sheet no such column.
var ErrNoSuchColumn = errors.New("there is no such column")

// IntoObject plans a sheet anew for an object there is, or for one of its own when the key
// is empty.
func (p *Plan) IntoObject(found []FoundSheet, sheet int, m *model.Model, object string) error {
	if _, _, err := p.column(found, sheet, 0); err != nil {
		return err
	}
	f := &found[sheet]
	again := SheetPlan{File: f.File, Sheet: f.Sheet, Mode: ModeAdd}
	if object == "" {
		p.Sheets[sheet].Object = "" // its present key is free again
		again.anew(f, p.taken(m))
	} else {
		o := m.Object(object)
		if o == nil || o.BuiltIn() {
			return fmt.Errorf("there is no object %q", object)
		}
		again.into(f, o)
	}
	p.Sheets[sheet] = again
	p.referAll(found, sheet)
	return nil
}

// IntoField plans one column for a field of the sheet's object, or for one of its own when
// the key is empty.
func (p *Plan) IntoField(found []FoundSheet, sheet, column int, m *model.Model, field string) error {
	to, c, err := p.column(found, sheet, column)
	if err != nil {
		return err
	}
	s := &p.Sheets[sheet]
	o := m.Object(s.Object)
	if field == "" {
		*to = c.anew(func(k string) bool {
			for i := range s.Columns {
				if i != column && s.Columns[i].Field == k {
					return true
				}
			}
			return !s.New && o != nil && o.Field(k) != nil
		})
	} else {
		if o == nil || o.Field(field) == nil {
			return fmt.Errorf("there is no field %q", field)
		}
		*to = c.into(o.Field(field))
	}
	to.Skip = false
	if match, ok := found[sheet].Matches[column]; ok {
		p.refer(sheet, column, match)
	}
	return nil
}

// ReadAs gives the cells of a new field's column another reading.
func (p *Plan) ReadAs(found []FoundSheet, sheet, column int, r Reading) error {
	to, c, err := p.column(found, sheet, column)
	if err != nil {
		return err
	}
	if !to.New {
		to.Reading, to.Undecided = r, false // the field says the rest
		return nil
	}
	to.read(c, r)
	if match, ok := found[sheet].Matches[column]; ok && r.Type == model.Reference {
		p.refer(sheet, column, match)
	}
	return nil
}

// column is a column's plan and what was found in it.
func (p *Plan) column(found []FoundSheet, sheet, column int) (*ColumnPlan, *Column, error) {
	if sheet < 0 || sheet >= len(p.Sheets) || sheet >= len(found) || found[sheet].Analysis == nil {
		return nil, nil, ErrNoSuchColumn
	}
	s, a := &p.Sheets[sheet], found[sheet].Analysis
	if column < 0 || column >= len(s.Columns) || column >= len(a.Columns) {
		return nil, nil, ErrNoSuchColumn
	}
	return &s.Columns[column], &a.Columns[column], nil
}
