package screen

import (
	"context"
	"fmt"
	"slices"

	"plainpath/core/definition"
	"plainpath/core/expr"
	"plainpath/core/model"
	"plainpath/core/records"
	"plainpath/core/table"
	"plainpath/core/value"
)

// Lines shows the rows of a list that was put together, to be read over.
type Lines struct {
	// Source is an expression that gives such a list.
	Source  string       `json:"source"`
	Columns []LineColumn `json:"columns"`
	// Nothing is shown when there are no rows.
	Nothing string `json:"nothing,omitempty"`
}

// LineColumn is one column: a value of the rows by its key.
type LineColumn struct {
	Value string `json:"value"`
	Label string `json:"label,omitempty"`
	// Above is a common heading over this column and its neighbours with the same.
	Above string `json:"above,omitempty"`
	// Total says that the values are summed up below.
	Total bool `json:"total,omitempty"`
}

// LinesView is a list that was put together as a person sees it.
type LinesView struct {
	Headings []table.HeadingView `json:"headings"`
	Rows     [][]any             `json:"rows"`
	// Totals are the sums below the columns, one by currency, none where nothing is summed up.
	Totals  [][]any `json:"totals,omitempty"`
	Nothing string  `json:"nothing,omitempty"`
}

var linesKind = partKind{LinesPart, func(def *Part) bool { return def.Lines != nil }, checkLines}

type lines struct {
	*Lines
	source   *expr.Program
	columns  []LineColumn
	headings []table.HeadingView
}

func checkLines(c *compiler, p *part, at string) content {
	out := &lines{Lines: p.Lines}
	out.source = c.program(p.Lines.Source, expr.Type{Kind: value.KindRows}, at+"/source", "There would be nothing to show.")
	if out.source == nil {
		return nil
	}
	known := out.source.Type.Answers
	for i, column := range p.Lines.Columns {
		pointer := fmt.Sprintf("%s/columns/%d", at, i)
		n := slices.IndexFunc(known, func(n expr.Name) bool { return n.Key == column.Value })
		if n < 0 {
			c.Find(definition.Stop, pointer+"/value", fmt.Sprintf("the rows have no value %q", column.Value),
				"The column would be missing.",
				&definition.Mend{Label: "Remove it", Patch: []definition.Op{{Op: "remove", Path: pointer}}})
			continue
		}
		c.Mention(model.TextMention(pointer+"/value", column.Value, known[n].Of))
		if column.Total && !summed(known[n].Type.Kind) {
			c.Find(definition.Stop, pointer+"/total", fmt.Sprintf("%s cannot be summed up", known[n].Label),
				"There would be no total.",
				&definition.Mend{Label: "No total", Patch: []definition.Op{{Op: "remove", Path: pointer + "/total"}}})
			continue
		}
		out.columns = append(out.columns, column)
		out.headings = append(out.headings, heading(column, known[n]))
		c.out.Uses = append(c.out.Uses, valueUses(out.source.Uses, column.Value)...)
	}
	if len(p.Lines.Columns) == 0 {
		c.Find(definition.Stop, at+"/columns", "no columns are shown", "The person would see empty rows.", allColumns(known, at))
	}
	return out
}

// allColumns offers to show all there is, amounts with their totals.
func allColumns(known []expr.Name, at string) *definition.Mend {
	mend := &definition.Mend{Label: "Show all there is"}
	for _, n := range known {
		mend.Patch = append(mend.Patch, definition.Op{Op: "add", Path: at + "/columns/-",
			Value: fmt.Appendf(nil, `{"value":%q,"total":%t}`, n.Key, n.Type.Kind == value.KindMoney)})
	}
	return mend
}

func summed(k value.Kind) bool {
	return k == value.KindWhole || k == value.KindDecimal || k == value.KindMoney
}

func valueUses(uses [][]string, key string) [][]string {
	var out [][]string
	for _, u := range uses {
		out = append(out, append(slices.Clone(u), key))
	}
	return out
}

func heading(column LineColumn, n expr.Name) table.HeadingView {
	out := table.HeadingView{Path: column.Value, Label: n.Label, Above: column.Above, Object: n.Type.Object}
	if column.Label != "" {
		out.Label = column.Label
	}
	out.Type, out.Choices = n.Type.Field()
	return out
}

func (l *lines) show(_ context.Context, _ records.Reader, values expr.Values, _ Given, view *PartView) error {
	v, err := l.source.Eval(values)
	if err != nil {
		return err
	}
	rows, _ := v.(value.Rows)
	view.Lines = &LinesView{Headings: l.headings, Rows: make([][]any, len(rows)), Nothing: l.Nothing}
	sums := make([]value.Sums, len(l.columns))
	for i, row := range rows {
		view.Lines.Rows[i] = make([]any, len(l.columns))
		for n, column := range l.columns {
			v := row.Get(column.Value)
			view.Lines.Rows[i][n] = value.Wire(v)
			if column.Total {
				sums[n].Add(v)
			}
		}
	}
	for n, column := range l.columns {
		if column.Total && view.Lines.Totals == nil {
			view.Lines.Totals = slices.Repeat([][]any{{}}, len(l.columns))
		}
		if column.Total {
			for _, sum := range sums[n].Values() {
				view.Lines.Totals[n] = append(view.Lines.Totals[n], value.Wire(sum))
			}
		}
	}
	return nil
}
