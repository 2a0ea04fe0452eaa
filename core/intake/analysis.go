package intake

import (
	"fmt"
	"io"
	"slices"

	"plainpath/core/model"
)

// Analysis is what was found in a sheet.
type Analysis struct {
	Columns []Column `json:"columns"`
	Rows    int64    `json:"rows"`
	// Line is where the headings stand.
	Line  int      `json:"line"`
	Notes []string `json:"notes"`
	// Ragged counts rows that are longer than the headings; what is in excess belongs to
	// no column.
	Ragged int64 `json:"ragged,omitempty"`
}

// Analyse looks at every cell of a sheet. Progress is told the rows done now and then; an
// error of it ends the work and is given back as it is.
func Analyse(f *File, sheet int, progress func(rows int64) error) (*Analysis, error) {
	body, err := f.Body(sheet)
	if err != nil {
		return nil, err
	}
	defer func() { _ = body.Close() }()
	out := &Analysis{Line: body.Line, Notes: append([]string{}, body.Notes...)}
	profilers := make([]*profiler, len(body.Headings))
	for i, h := range body.Headings {
		profilers[i] = newProfiler(h)
		profilers[i].excluded = f.excluded
	}
	for {
		line, cells, err := body.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return nil, fmt.Errorf("%s: %w", f.Name, err)
		}
		out.Rows++
		if len(cells) > len(profilers) && slices.ContainsFunc(cells[len(profilers):],
			func(c string) bool { return c != "" }) {
			out.Ragged++
		}
		for i, p := range profilers {
			cell := ""
			if i < len(cells) {
				cell = cells[i]
			}
			p.take(line, cell)
		}
		if out.Rows%5000 == 0 {
			if err := progress(out.Rows); err != nil {
				return nil, err
			}
		}
	}
	if err := progress(out.Rows); err != nil {
		return nil, err
	}
	for _, p := range profilers {
		out.Columns = append(out.Columns, p.finish())
	}
	if out.Ragged > 0 {
		out.Notes = append(out.Notes, fmt.Sprintf("%d rows are longer than the headings; they are refused.",
			out.Ragged))
	}
	return out, nil
}

// Target is a unique column or field that others may refer to.
type Target struct {
	// Sheet is the place of a sheet among those brought in, or Object an object there is.
	Sheet  int    `json:"sheet"`
	Object string `json:"object,omitempty"`
	// Column is the column of the sheet, or Field the field of the object.
	Column int    `json:"column"`
	Field  string `json:"field,omitempty"`
	Label  string `json:"label"`
}

// Match is how the cells of a column match a target.
type Match struct {
	Target  Target `json:"target"`
	Matches int64  `json:"matches"`
	Misses  int64  `json:"misses"`
	// Examples are values that match nothing.
	Examples []string `json:"examples,omitempty"`
}

// Holder tells which values a target holds, in their order.
type Holder func(values []string) ([]bool, error)

// likely is the share of cells that must match for a reference to be proposed, in per cent.
const likely = 80

// MayRefer says whether a column could refer to records: its values come from a set that
// could be held, and are short texts or whole numbers.
func (c *Column) MayRefer() bool {
	switch c.Guess.Type {
	case model.Text, model.Choice, model.Whole, model.Email:
		return c.values != nil && c.Filled > 0
	}
	return false
}

// Holds says which values a unique column has.
func (c *Column) Holds(values []string) ([]bool, error) {
	out := make([]bool, len(values))
	for i, v := range values {
		_, out[i] = c.values[v]
	}
	return out, nil
}

// Match compares a column with a target; nil when too few cells match.
func (c *Column) Match(t Target, holds Holder) (*Match, error) {
	values := make([]string, 0, len(c.values))
	for v := range c.values {
		values = append(values, v)
	}
	slices.Sort(values)
	held, err := holds(values)
	if err != nil {
		return nil, fmt.Errorf("comparing %s with %s: %w", c.Heading, t.Label, err)
	}
	m := &Match{Target: t}
	different := 0
	for i, v := range values {
		if held[i] {
			m.Matches += c.values[v]
			different++
			continue
		}
		m.Misses += c.values[v]
		if len(m.Examples) < shownExamples {
			m.Examples = append(m.Examples, v)
		}
	}
	if different < 2 || m.Matches*100 < c.Filled*likely {
		return nil, nil
	}
	return m, nil
}
